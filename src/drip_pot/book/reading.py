# SPDX-License-Identifier: GPL-3.0-or-later
"""What is read of a book whatever its page: names, parts, pots, the list of pages. Knows the model; changes nothing."""

from collections.abc import Callable, Iterator
from functools import lru_cache
from typing import Any, TypeVar

import msgspec
import numpy as np

from drip_pot.book.store import PageValues
from drip_pot.book.values import (
    BOOK_KINDS,
    DEPTHS,
    INFO,
    INK_SETS,
    LOAN,
    PAGES,
    PARTS,
    POTS,
    PROFILES,
    REFERENCES,
    SCHEME_NOW,
    SCHEMES,
    SEQUENCES,
    SHARED_HOLDS,
    TONE_RULE,
    BookInfo,
    BookKind,
    Depth,
    Hold,
    InkSet,
    Loan,
    Page,
    Part,
    Pot,
    Reference,
    Scheme,
    Sequence,
)
from drip_pot.core.color import ToneRule, from_hex, shadow_of, shadows_together, to_hex
from drip_pot.core.errors import BadInput
from drip_pot.core.press import Condition, learn

T = TypeVar("T")
_DIGITS = 15


class Reading:
    """The reading half of a book.

    Parameters
    ----------
    shared : dict
        JSON text by key of what lies below no page, and of the pages.
    """

    def __init__(self, shared: dict[str, str]) -> None:
        self._shared = shared
        self._memo: dict[str, Any] = {}
        for key in (k for k in shared if k.startswith(PROFILES.below)):
            know_condition(key, shared[key])

    def _page(self, number: int) -> PageValues:
        """Return the values below a page."""
        raise NotImplementedError

    def get(self, key: str) -> str | None:
        """Return the JSON text at a key."""
        page, rest = split_key(key)
        return self._shared.get(key) if page is None else self._page(page).get(rest)

    def read(self, key: str, kind: type[T], default: T | None = None) -> T:
        """Return the value at `key`, or the default where there is none or it is damaged; else raises `BadInput`."""
        text = self.get(key)
        found = None if text is None else _decoded(text, kind)
        if found is not None:
            return found
        if default is None:
            raise BadInput("This book has no {0}." if text is None else "The value {0} of this book is damaged.", key)
        return default

    def below(self, prefix: str) -> Iterator[tuple[str, str]]:
        """Yield (rest of key, JSON text) of all values whose key starts with `prefix`, below one page or below none."""
        page, rest = split_key(prefix)
        texts = self._shared if page is None else self._page(page).texts()
        start = prefix if page is None else rest
        for key, text in texts.items():
            if key.startswith(start):
                yield key[len(start) :], text

    @property
    def info(self) -> BookInfo:
        """The book's name."""
        return self.read(INFO.key, BookInfo, BookInfo())

    @property
    def floor(self) -> int:
        """What is new in the book is numbered above this: it is 0 but in one that went out, see `Loan`."""
        return 0 if self.get(LOAN.key) is None else self.read(LOAN.key, Loan).floor

    @property
    def tone(self) -> ToneRule:
        """How shadows are worked out."""
        return self._once("tone", lambda: self.read(TONE_RULE.key, ToneRule, ToneRule()))

    def _once(self, name: str, work: Callable[[], T]) -> T:
        """Work something out once until the next change of what it depends on."""
        if name not in self._memo:
            self._memo[name] = work()
        kept: T = self._memo[name]
        return kept

    def _all(self, kind: BookKind[int, T]) -> dict[int, T]:
        """Return all values of a kind that can be read, by number."""
        found = {}
        for key, text in self.below(kind.below):
            value = _decoded(text, kind.type)
            if value is not None and key.isdecimal() and len(key) <= _DIGITS:
                found[int(key)] = value
        return found

    def unread_shared(self) -> list[str]:
        """Return the keys of values that belong to no page and are damaged and left out."""
        known = [(key, key.partition("/")[0], text) for key, text in self._shared.items()]
        strange = {key for key, kind, text in known if kind == PROFILES.name and not know_condition(key, text)}
        types = {name: kind.type for name, kind in BOOK_KINDS.items()}
        return sorted(
            strange | {key for key, kind, text in known if kind in types and _decoded(text, types[kind]) is None}
        )

    def parts(self) -> dict[int, Part]:
        """Return the parts in shelf order."""
        return self._once("parts", lambda: dict(sorted(self._all(PARTS).items(), key=lambda i: (i[1].order, i[0]))))

    def pots(self) -> dict[int, Pot]:
        """Return the pots in shelf order: by part, then by their own order."""
        return self._once("pots", self._pots)

    def _pots(self) -> dict[int, Pot]:
        rank = {part: place for place, part in enumerate(self.parts())}
        found = self._all(POTS)
        return dict(sorted(found.items(), key=lambda i: (rank.get(i[1].part, 1 << 30), i[1].order, i[0])))

    def holds(self) -> dict[int, Hold]:
        """Return the holds of the whole book by number."""
        return self._once("hold", lambda: self._all(SHARED_HOLDS))

    def depths(self) -> dict[int, Depth]:
        """Return what was said to lie in front of what, by number."""
        return self._once("depth", lambda: dict(sorted(self._all(DEPTHS).items())))

    def schemes(self) -> dict[int, Scheme]:
        """Return the schemes of the book by number; none where it has but one set of colours."""
        return self._once("scheme", lambda: dict(sorted(self._all(SCHEMES).items())))

    def references(self) -> dict[int, Reference]:
        """Return the pinned pictures by number."""
        return self._once("reference", lambda: dict(sorted(self._all(REFERENCES).items())))

    def sequences(self) -> dict[int, Sequence]:
        """Return the sequences by number, without pages that are no more; those of one page left are none."""
        return self._once("sequence", self._sequences)

    def _sequences(self) -> dict[int, Sequence]:
        found, pages = self._all(SEQUENCES), self.pages()
        there = {n: tuple(p for p in s.pages if p in pages) for n, s in sorted(found.items())}
        return {n: msgspec.structs.replace(found[n], pages=left) for n, left in there.items() if len(left) > 1}

    def sequence_of(self, page: int) -> tuple[int, Sequence] | None:
        """Return the sequence that a page is a frame of, with its number; None where it is none."""
        return next(((n, s) for n, s in self.sequences().items() if page in s.pages), None)

    @property
    def scheme(self) -> int:
        """The number of the scheme in hand; 0 where there are none."""
        known = self.schemes()
        return self.read(SCHEME_NOW.key, int, min(known)) if known else 0

    def ink_sets(self) -> dict[int, InkSet]:
        """Return the sets of real inks a person owns, by number."""
        return dict(sorted(self._all(INK_SETS).items()))

    def pages(self) -> dict[int, Page]:
        """Return the pages in order."""
        return self._once("pages", lambda: dict(sorted(self._all(PAGES).items(), key=lambda i: (i[1].order, i[0]))))

    def tone_pair(self, pot: Pot) -> tuple[str, str]:
        """Return local and shadow colour of a pot, '#rrggbb'."""
        if pot.shadow:
            return pot.local, pot.shadow
        rule = self.tone_of(pot.part)
        known = self._once("pairs", self._pairs).get((pot.local, rule)) if rule.apart_de else None
        return pot.local, known or _shadow(pot.local, rule)

    def tone_of(self, part: int) -> ToneRule:
        """Return how shadows of a part are worked out: by its own rule, or by the book's."""
        known = self.parts().get(part)
        return self.tone if known is None or known.tone is None else known.tone

    def _pairs(self) -> dict[tuple[str, ToneRule], str]:
        """Return the shadows that are worked out together, by local colour and rule."""
        wanted = list(dict.fromkeys((pot.local, self.tone_of(pot.part)) for pot in self.pots().values()))
        return dict(zip(wanted, _shadows(tuple(wanted)), strict=True))


@lru_cache(maxsize=16)
def _shadows(wanted: tuple[tuple[str, ToneRule], ...]) -> tuple[str, ...]:
    """Work out shadows together, '#rrggbb', of local colours by their rules."""
    if not wanted:
        return ()
    local = np.array([from_hex(color) for color, _ in wanted], np.uint8)
    return tuple(map(to_hex, shadows_together(local, [rule for _, rule in wanted])))


def know_condition(key: str, text: str) -> bool:
    """Let press settings name the condition at a key; return whether they can: it is whole, and nothing else's name."""
    found = _decoded(text, Condition)
    return found is not None and learn(key.removeprefix(PROFILES.below), found)


def _decoded(text: str, kind: type[T]) -> T | None:
    """Return a value from JSON text; None where it is damaged."""
    try:
        return msgspec.json.decode(text, type=kind)
    except (ValueError, msgspec.MsgspecError, RecursionError):  # JSON may be anything, deeply nested too
        return None


def split_key(key: str) -> tuple[int | None, str]:
    """Return the page a key lies below, and the rest of the key; None for what lies below no page."""
    if not key.startswith("page/"):
        return None, key
    number, slash, rest = key[5:].partition("/")
    return (int(number), rest) if slash and number.isdecimal() and len(number) <= _DIGITS else (None, key)


@lru_cache(maxsize=4096)
def _shadow(local: str, tone: ToneRule) -> str:
    return to_hex(shadow_of(from_hex(local), tone))
