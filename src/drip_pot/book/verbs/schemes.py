# SPDX-License-Identifier: GPL-3.0-or-later
"""Verbs on schemes: sets of colours for the same flats, made from each other, used, mixed by part. Knows no window.

The colours in hand are those of the pots, lines, passes and holds themselves; a scheme that is not in hand keeps its
own aside. To use another one is one edit: what is in hand goes aside, and the other comes in its place.
"""

from collections import Counter
from collections.abc import Iterable, Iterator
from typing import Any

import msgspec

from drip_pot.book.asking import order
from drip_pot.book.book import Book
from drip_pot.book.numbers import PartNumber, PotNumber, SchemeNumber
from drip_pot.book.store import Change, Edit
from drip_pot.book.values import (
    HOLDS,
    PAGE_KINDS,
    PARTS,
    POTS,
    SCHEME_NOW,
    SCHEMES,
    SHARED_HOLDS,
    TONE_RULE,
    Colored,
    PageKind,
    PageValue,
    PotColors,
    Scheme,
)
from drip_pot.book.values.shade import worn
from drip_pot.book.verbs.setting import named
from drip_pot.core.errors import BadInput, NothingDone
from drip_pot.words import say

FIRST_COLORS = "First colours"
_MOST = 40


@order
def add_scheme(book: Book, name: str) -> int:
    """Make a scheme from the colours in hand, and take it in hand; return its number."""
    known = book.schemes()
    if len(known) >= _MOST:
        raise BadInput("A book has at most {0} schemes. Remove one first.", _MOST)
    if name.strip().lower() in {scheme.name.lower() for scheme in known.values()}:
        raise BadInput("There is a scheme called {0} already. Choose another name.", name.strip())
    now, aside = book.scheme, dict(known)
    if not known:
        now, aside[1] = 1, colors_of(book, FIRST_COLORS)
    else:
        aside[now] = colors_of(book, known[now].name)
    number = max(book.floor, *aside) + 1
    aside[number] = colors_of(book, named(name, "scheme"))
    changes = [book.change(SCHEMES.key(n), scheme) for n, scheme in aside.items()]
    book.apply(
        Edit(
            "add-scheme", say("Add the scheme {0}", aside[number].name), (*changes, book.change(SCHEME_NOW.key, number))
        )
    )
    return number


@order
def use_scheme(book: Book, number: SchemeNumber, parts: tuple[PartNumber, ...] = ()) -> None:
    """Take a scheme in hand; with some `parts`, take only the colours of their pots into the one in hand."""
    scheme, now = known_scheme(book, number), book.scheme
    if number == now:
        raise NothingDone("The scheme {0} is in hand already.", scheme.name)
    if parts:
        changes = _pots_changed(book, scheme, set(parts))
        book.apply(Edit("use-scheme", say("Mix parts of {0} in", scheme.name), tuple(changes)))
        return
    old = colors_of(book, book.schemes()[now].name)
    changes = [book.change(SCHEMES.key(now), old), book.change(SCHEME_NOW.key, number), *_all_changed(book, scheme)]
    book.apply(Edit("use-scheme", say("Use the scheme {0}", scheme.name), tuple(changes)))


@order
def rename_scheme(book: Book, number: SchemeNumber, name: str) -> None:
    """Give a scheme another name."""
    scheme = known_scheme(book, number)
    changed = msgspec.structs.replace(scheme, name=named(name, "scheme"))
    book.apply(Edit("rename-scheme", say("Rename {0} to {1}", scheme.name, changed.name),
                    (book.change(SCHEMES.key(number), changed),)))  # fmt: skip


@order
def remove_scheme(book: Book, number: SchemeNumber) -> None:
    """Remove a scheme that is not in hand; with the last other one, the book has no schemes any more."""
    scheme = known_scheme(book, number)
    if number == book.scheme:
        raise BadInput("The scheme {0} is in hand. Use another one first, then remove it.", scheme.name)
    gone = [number] if len(book.schemes()) > 2 else list(book.schemes())
    changes = [book.change(SCHEMES.key(n), None) for n in gone]
    changes += [book.change(SCHEME_NOW.key, None)] if len(gone) > 1 else []
    book.apply(Edit("remove-scheme", say("Remove the scheme {0}", scheme.name), tuple(changes)))


@order
def set_scheme_colors(book: Book, number: SchemeNumber, colors: dict[PotNumber, tuple[str, str | None]]) -> None:
    """Set local and shadow colours of pots, by number, in a scheme that is not in hand; a shadow of None follows."""
    scheme = known_scheme(book, number)
    if number == book.scheme:
        raise BadInput("The scheme {0} is in hand. Change its pots themselves.", scheme.name)
    pots = dict(scheme.pots)
    for pot, (local, shadow) in colors.items():
        pots[pot] = msgspec.structs.replace(pots.get(pot, PotColors(local)), local=local, shadow=shadow)
    changed = msgspec.structs.replace(scheme, pots=pots)
    book.apply(
        Edit("set-scheme-colors", say("Set colours of {0}", scheme.name), (book.change(SCHEMES.key(number), changed),))
    )


def known_scheme(book: Book, number: int) -> Scheme:
    """Return a scheme; raises `BadInput` where there is none of that number."""
    known = book.schemes()
    if number not in known:
        has = ", ".join(f"{n} ({s.name})" for n, s in known.items()) or "none; add one first"
        raise BadInput("This book has no scheme {0}. It has {1}.", number, has)
    return known[number]


def colors_of(book: Book, name: str) -> Scheme:
    """Return the colours in hand as a scheme."""
    pots = {n: PotColors(p.local, p.shadow, p.inks, p.shadow_inks, p.spot, p.name) for n, p in book.pots().items()}
    parts = {n: part.tone for n, part in book.parts().items() if part.tone is not None}
    shared = {n: (h.color, h.ramp) for n, h in book.holds().items()}
    of_pages: dict[str, dict[int, Any]] = {}
    for page in book.pages():
        for kind, held in _colored():
            told = _told(book, page, kind, held)
            if told:
                of_pages.setdefault(held.field, {})[page] = told
    return Scheme(name, pots, book.tone, parts, shared_holds=shared, **of_pages)


def _colored() -> Iterator[tuple[PageKind[Any, Any] | PageValue[Any], Colored[Any]]]:
    """Yield every kind of value of a page that a scheme holds colours of."""
    for kind in PAGE_KINDS.values():
        if kind.colored is not None:
            yield kind, kind.colored


def _told(book: Book, page: int, kind: PageKind[Any, Any] | PageValue[Any], held: Colored[Any]) -> Any:
    """Return the colours that a page has of a kind; the holds of the whole book are not the page's."""
    values = book.sources(page)[kind]
    if isinstance(kind, PageValue):
        return held.told(values)
    shared = book.holds() if kind is HOLDS else {}
    every = {by: held.told(value) for by, value in values.items() if by not in shared}
    return {by: told for by, told in every.items() if told is not None}


def _pots_changed(book: Book, scheme: Scheme, parts: Iterable[int] | None = None) -> list[Change]:
    known, found = book.pots(), {}
    for number, pot in known.items():
        colors = scheme.pots.get(number)
        if colors is not None and (parts is None or pot.part in parts):
            found[number] = msgspec.structs.replace(pot, **msgspec.structs.asdict(colors))
    alike = set(found)
    while alike:  # those that would have the name of another keep their own
        names = Counter(pot.name for pot in (known | found).values())
        alike = {n for n, pot in found.items() if pot.name != known[n].name and (not pot.name or names[pot.name] > 1)}
        found |= {n: msgspec.structs.replace(found[n], name=known[n].name) for n in alike}
    return [book.change(POTS.key(number), pot) for number, pot in found.items()]


def _all_changed(book: Book, scheme: Scheme) -> list[Change]:
    changes = _pots_changed(book, scheme)
    changes.append(book.change(TONE_RULE.key, scheme.tone))
    for number, part in book.parts().items():
        changes.append(book.change(PARTS.key(number), msgspec.structs.replace(part, tone=scheme.parts.get(number))))
    for number, hold in book.holds().items():
        if number in scheme.shared_holds:
            changes.append(book.change(SHARED_HOLDS.key(number), worn(hold, scheme.shared_holds[number])))
    for page in book.pages():
        for kind, held in _colored():
            changes += _page_changed(book, page, kind, held, getattr(scheme, held.field).get(page))
    return changes


def _page_changed(
    book: Book, page: int, kind: PageKind[Any, Any] | PageValue[Any], held: Colored[Any], colors: Any
) -> list[Change]:  # fmt: skip
    """Return what gives the values of a kind on a page the colours of a scheme."""
    values = book.sources(page)[kind]
    if isinstance(kind, PageValue):
        now = held.worn(values, colors)
        return [book.change(kind.key(page), None if now == kind.default else now)]
    found = {by: held.worn(values[by], told) for by, told in (colors or {}).items() if by in values}
    return [book.change(kind.key(page, by), value) for by, value in found.items() if value != values[by]]
