# SPDX-License-Identifier: GPL-3.0-or-later
"""Pages that went out of a book and come back: what was changed there, here, and on both sides. Knows books; no file.

Whoever sends pages out remembers how every value and painted tile of them was, as a mark. What differs from its mark
was changed; only what was changed on both sides, and not alike, is a clash. What is new out there has numbers of its
own, so that nothing new here is meant by them.
"""

import hashlib
import re
import zlib
from collections import Counter
from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass, field

import msgspec

from drip_pot.book.book import Book
from drip_pot.book.reading import split_key
from drip_pot.book.store import Change, Edit, TileChange
from drip_pot.book.values import (
    BOOK_KINDS,
    CUT,
    CUT_BY,
    ENGINE_OF,
    LOAN,
    LOANS,
    PAGE_KINDS,
    PAGES,
    POURS,
    REPAIR,
    Loan,
    Sent,
    word_of,
)
from drip_pot.core.errors import BadInput
from drip_pot.words import say, tr, tr_many

Marks = dict[str, str]
_BLOCK, _MOST_MARKS = 1000, 200 << 20
_DIVIDES = {name for name, kind in PAGE_KINDS.items() if kind.feeds & {"drawing", "cuts", "engine"}}
_DIVIDES |= {CUT.name, CUT_BY.name, ENGINE_OF.name, REPAIR.name}
_BY_ATOM = {POURS.name, "sown"}


@dataclass(frozen=True)
class Clash:
    """What was changed on both sides, and not alike.

    Attributes
    ----------
    page : int or None
        The page it is on; None is the whole book.
    what : str
        What it is, for people.
    keys : frozenset of str
        Its marks.
    """

    page: int | None
    what: str
    keys: frozenset[str]


@dataclass(frozen=True)
class Return:
    """What comes back.

    Attributes
    ----------
    fresh : frozenset of str
        The marks of all that was changed out there and is not here as it is there.
    clashes : list of Clash
        Those of them that were changed here as well.
    gone_here, gone_there : list of str
        Names of pages that were removed here and changed there, and removed there: both stay as they are.
    marks : dict
        How all is out there now, by mark.
    pages : dict
        How many of the fresh lie on each page; None is the whole book.
    """

    fresh: frozenset[str]
    clashes: list[Clash] = field(default_factory=list)
    gone_here: list[str] = field(default_factory=list)
    gone_there: list[str] = field(default_factory=list)
    marks: Marks = field(default_factory=dict)
    pages: dict[int | None, int] = field(default_factory=dict)


def new_loan(book: Book, pages: Iterable[int], name: str, key: str) -> Loan:
    """Return what a book that goes out says of itself; `key` is told apart from all others.

    Raises
    ------
    BadInput
        If there is no such page, or none.
    """
    pages = tuple(pages)
    if not pages:
        raise BadInput("Choose the pages that go out.")
    for page in pages:
        book.sources(page)
    highest = max((int(n) for kind in BOOK_KINDS.values() for n in _numbers_of(book, kind.name)), default=0)
    floor = _BLOCK * (1 + max(highest // _BLOCK, len(loans_of(book))))
    return Loan(key, name, floor, _packed(marks_of(book, pages)))


def loans_of(book: Book) -> dict[str, Sent]:
    """Return what is out, by the keys of loans; what cannot be read is left out."""
    found = {}
    for key, text in book.below(LOANS.below):
        try:
            found[key] = msgspec.json.decode(text, type=Sent)
        except msgspec.MsgspecError:
            continue
    return found


def marks_of(book: Book, pages: Iterable[int]) -> Marks:
    """Return a mark of every value of the whole book and of some pages, and of every painted tile of those."""
    wanted, found = set(pages), Marks()
    for key, text in book.below(""):
        page, _ = split_key(f"{key}/")
        if key != LOAN.key and not key.startswith(LOANS.below) and (page is None or page in wanted):
            found[key] = _mark(text.encode())
    for page in sorted(wanted & book.pages().keys()):
        top = f"{PAGES.key(page)}/"
        found |= {top + key: _mark(text.encode()) for key, text in book.below(top)}
        for name in book.planes(page):
            plane = book.plane(name)
            for row, col in plane:
                data = plane.packed(row, col)
                if data is not None:
                    found[f"{name}|{row}|{col}"] = _mark(data)
    return found


def compare(mine: Book, theirs: Book) -> Return:
    """Tell what of a book that went out was changed there, and what of that was changed here as well.

    Raises
    ------
    BadInput
        If that book did not go out from this one.
    """
    loan = loan_of(theirs)
    sent = loans_of(mine).get(loan.key)
    if sent is None:
        raise BadInput("{0} did not go out from this book.", loan.name)
    base = _unpacked(loan.base) | _unpacked(sent.taken)
    there = marks_of(theirs, theirs.pages())
    pages = {page for page in sent.pages if page in mine.pages()} | (theirs.pages().keys() & mine.pages().keys())
    here = marks_of(mine, pages)
    gone_there = [page for page in sent.pages if page not in theirs.pages() and page in mine.pages()]
    gone_here = [page for page in sent.pages if page in theirs.pages() and page not in mine.pages()]
    left = {*gone_there, *gone_here}
    changed = {key for key in base.keys() | there.keys() if base.get(key) != there.get(key)}
    fresh = {key for key in changed if here.get(key) != there.get(key) and _page_of(key) not in left}
    both = {key for key in fresh if here.get(key) != base.get(key)}
    divided = _divided_both(fresh, base, here, there)
    fresh, both = fresh | divided, both | divided
    names = theirs.pages()
    lost = [names[page].name for page in gone_here if any(_page_of(key) == page for key in changed)]
    return Return(
        frozenset(fresh), _clashes(mine, theirs, both), lost, [mine.pages()[page].name for page in gone_there], there,
        dict(Counter(map(_page_of, fresh))),
    )  # fmt: skip


def _divided_both(fresh: set[str], base: Marks, here: Marks, there: Marks) -> set[str]:
    """Return what cannot be told apart by region, since both sides worked on pages that one of them divided anew."""
    found = set()
    told: dict[int | None, set[str]] = {}
    for key in base.keys() | here.keys() | there.keys():
        if _kind_of(key) in _DIVIDES | _BY_ATOM:
            told.setdefault(_page_of(key), set()).add(key)
    for page in {_page_of(key) for key in fresh} - {None}:
        own = told.get(page, set())
        mine, theirs = ({key for key in own if base.get(key) != side.get(key)} for side in (here, there))
        if mine and theirs and any(_kind_of(key) in _DIVIDES for key in mine | theirs):
            found |= {key for key in own if here.get(key) != there.get(key)}
    return found


def _clashes(mine: Book, theirs: Book, keys: set[str]) -> list[Clash]:
    """Put together what belongs together, in the words of people."""
    groups: dict[tuple[int | None, str], set[str]] = {}
    divided = {_page_of(key) for key in keys if _kind_of(key) in _DIVIDES}
    for key in keys:
        kind, page = _kind_of(key), _page_of(key)
        if kind in _BY_ATOM and page not in divided:
            what = tr("{0} here, {1} there", _pot_at(mine, key), _pot_at(theirs, key))
        elif page is not None and kind in _DIVIDES | _BY_ATOM:
            what = tr("line, cuts and what is poured")
        elif "|" in key:
            what = tr("what is painted")
        else:
            what = _named(theirs, key) or word_of(kind)
        groups.setdefault((page, what), set()).add(key)
    told = []
    for (page, what), group in sorted(groups.items(), key=lambda item: (item[0][0] or 0, item[0][1])):
        regions = len(group) if all(_kind_of(key) in _BY_ATOM for key in group) else 0
        text = tr_many("{1}: one region", "{1}: {0} regions", regions, regions, what) if regions else what
        told.append(Clash(page, text, frozenset(group)))
    return told


def _pot_at(book: Book, key: str) -> str:
    text = book.get(key)
    pot = book.pots().get(int(text)) if text is not None and text.isdecimal() else None
    return pot.name if pot is not None else tr("paper")


def _named(book: Book, key: str) -> str:
    """Return the name of a part, pot or scheme; empty where it has none."""
    text = book.get(key) if _page_of(key) is None else None
    try:
        found = msgspec.json.decode(text or "null")
    except msgspec.MsgspecError:
        return ""
    return str(found.get("name", "")) if isinstance(found, dict) else ""


def edits_back(
    mine: Book, theirs: Book, back: Return, left: Iterable[Clash], originals: Mapping[int, int]
) -> Iterator[Edit]:
    """Yield the steps to do here for all that comes back, but for clashes that are `left` as they are here.

    They are the steps of the history out there, each with what of it is wanted, and one more for what the history does
    not tell. `originals` are the numbers here of files that have others there. Each is to be done before the next is
    asked for.
    """
    wanted = back.fresh - frozenset(key for clash in left for key in clash.keys)
    steps = [position - 1 for position in reversed(theirs.past.line(theirs.past.now)) if position]
    for number in steps:
        done = theirs.edit_at(number)
        yield from _restricted(mine, theirs, done, wanted, originals)
    rest = Edit("take-back", say("Take back the rest"), _values_left(mine, theirs, wanted, originals),
                tuple(_tiles_left(mine, theirs, wanted)))  # fmt: skip
    if rest.changes or rest.tiles:
        yield rest


def _restricted(
    mine: Book, theirs: Book, done: Edit, wanted: frozenset[str], originals: Mapping[int, int]
) -> Iterator[Edit]:  # fmt: skip
    """Yield what of a step is wanted; a page is from its first step on as it is in the end, so that it can be read."""
    changes = tuple(
        Change(c.key, mine.get(c.key) if _has_page(mine, c.key) else None,
               with_originals(theirs.get(c.key) if _kind_of(c.key) == PAGES.name else c.after, originals))
        for c in done.changes if c.key in wanted
    )  # fmt: skip
    fresh_pages = {_page_of(c.key) for c in changes if c.after is not None and c.key == PAGES.key(_page_of(c.key) or 0)}
    tiles = tuple(
        TileChange(t.plane, t.row, t.col, _tile(mine, t.plane, t.row, t.col), t.after)
        for t in done.tiles
        if f"{t.plane}|{t.row}|{t.col}" in wanted and (_has_page(mine, t.plane) or _page_of(t.plane) in fresh_pages)
    )
    if any(c.before != c.after for c in changes) or tiles:
        yield msgspec.structs.replace(done, changes=changes, tiles=tiles, joined=False, asked=None, back=0)


def _values_left(mine: Book, theirs: Book, wanted: frozenset[str], originals: Mapping[int, int]) -> tuple[Change, ...]:
    changes = []
    for key in sorted(key for key in wanted if "|" not in key):
        before = mine.get(key) if _has_page(mine, key) else None
        after = with_originals(theirs.get(key) if _has_page(theirs, key) else None, originals)
        if before != after:
            changes.append(Change(key, before, after))
    return tuple(changes)


def _tiles_left(mine: Book, theirs: Book, wanted: frozenset[str]) -> Iterator[TileChange]:
    for key in sorted(key for key in wanted if "|" in key):
        plane, row, col = key.rsplit("|", 2)
        at = int(row), int(col)
        before, after = _tile(mine, plane, *at), _tile(theirs, plane, *at)
        if before != after:
            yield TileChange(plane, *at, before, after)


def _tile(book: Book, plane: str, row: int, col: int) -> bytes | None:
    return book.plane(plane).packed(row, col) if _has_page(book, plane) else None


def _has_page(book: Book, key: str) -> bool:
    page = _page_of(key)
    return page is None or page in book.pages()


def with_originals(text: str | None, originals: Mapping[int, int]) -> str | None:
    """Return a value as JSON text with the numbers of files that they have here."""
    if text is None or not originals or '"original"' not in text:
        return text
    return re.sub(r'("original":\s*)(\d{1,15})\b', lambda m: f"{m[1]}{originals.get(int(m[2]), int(m[2]))}", text)


def originals_in(book: Book, top: str = "") -> set[int]:
    """Return the numbers of the files that the values of a book speak of, or those at a key and below it."""
    texts = (text for key, text in book.values().items() if not top or f"{key}/".startswith(f"{top}/"))
    return {int(n) for text in texts for n in re.findall(r'"original":\s*(\d{1,15})\b', text)} - {0}


def taken(sent: Sent, loan: Loan, back: Return) -> Sent:
    """Return what is remembered of a loan once it was taken back: how all was out there then."""
    base = _unpacked(loan.base)
    return msgspec.structs.replace(
        sent, taken=_packed({key: back.marks.get(key, "") for key in base.keys() | back.marks.keys()
                             if base.get(key) != back.marks.get(key)})
    )  # fmt: skip


def told_back(back: Return, pages: Mapping[int, str]) -> list[str]:
    """Say what comes back, page by page; `pages` are their names."""
    told = [
        tr_many("{1}: one change", "{1}: {0} changes", count, count,
                tr("The whole book") if page is None else pages.get(page, tr("a new page")))
        for page, count in sorted(back.pages.items(), key=lambda item: item[0] or 0)
    ]  # fmt: skip
    told += [tr("{0} was removed here; what was done on it there is not taken back.", name) for name in back.gone_here]
    told += [tr("{0} was removed there; it stays here.", name) for name in back.gone_there]
    return told


def loan_of(book: Book) -> Loan:
    """Return what a book that went out says of itself; raises `BadInput` where it did not."""
    if book.get(LOAN.key) is None:
        raise BadInput("This book did not go out from another one. Choose one that was sent out.")
    return book.read(LOAN.key, Loan)


def _numbers_of(book: Book, kind: str) -> list[str]:
    return [rest for rest, _ in book.below(f"{kind}/") if rest.isdecimal()]


def _page_of(key: str) -> int | None:
    parts = key.split("|", 1)[0].split("/")
    return int(parts[1]) if parts[0] == PAGES.name and len(parts) > 1 and parts[1].isdecimal() else None


def _kind_of(key: str) -> str:
    parts = key.split("|", 1)[0].split("/")
    return parts[2] if parts[0] == PAGES.name and len(parts) > 2 else parts[0]


def _mark(data: bytes) -> str:
    return hashlib.blake2b(data, digest_size=9).hexdigest()


def _packed(marks: Marks) -> bytes:
    return zlib.compress(msgspec.json.encode(marks), 9)


def _unpacked(data: bytes) -> Marks:
    """Undo `_packed`; raises `BadInput` where it is damaged."""
    if not data:
        return {}
    try:
        return msgspec.json.decode(zlib.decompressobj().decompress(data, _MOST_MARKS), type=Marks)
    except (zlib.error, msgspec.MsgspecError) as error:
        raise BadInput("What this book remembers of how it went out is damaged; it cannot be taken back.") from error
