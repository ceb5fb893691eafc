# SPDX-License-Identifier: GPL-3.0-or-later
"""Pages, parts and schemes of another book, put into this one under its own numbers. Knows books; no file.

A pot of a name that is here already is that pot, in its colours here, unless it is to come as one of its own.
"""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field
from typing import Any

import msgspec

from drip_pot.book import verbs
from drip_pot.book.book import Book
from drip_pot.book.loans import with_originals
from drip_pot.book.naming import apart
from drip_pot.book.numbers import renumbered, speaks, spoken
from drip_pot.book.store import Change, Edit, TileChange
from drip_pot.book.values import (
    DEPTHS,
    HOLDS,
    MARKS,
    PAGE_KINDS,
    PAGES,
    PARTS,
    POTS,
    PROFILES,
    SCHEME_NOW,
    SCHEMES,
    SEQUENCES,
    Depth,
    Page,
    PageKind,
    Pot,
    PotColors,
    Scheme,
)
from drip_pot.book.verbs.schemes import FIRST_COLORS, colors_of
from drip_pot.book.verbs.setting import next_number
from drip_pot.core.errors import BadInput
from drip_pot.words import say, tr

_NOTHING = 1_000_000
"""Numbers above it are of nothing, here as in the book they were read in."""


@dataclass(frozen=True)
class ToBring:
    """What of another book is wanted, by its numbers there.

    Attributes
    ----------
    pages, parts, schemes : tuple of int
        With a page comes all that is on it; with a part its pots; with a scheme the colours of pots that come or that
        are here by name.
    own : frozenset of int
        Pots that come as pots of their own, though one here has their name.
    """

    pages: tuple[int, ...] = ()
    parts: tuple[int, ...] = ()
    schemes: tuple[int, ...] = ()
    own: frozenset[int] = frozenset()


@dataclass
class _Numbers:
    """What things of the other book are numbered here, by kind and their numbers there."""

    told: dict[str, dict[int, int]] = field(default_factory=dict)

    def of(self, kind: str) -> dict[int, int]:
        return self.told.setdefault(kind, {})

    def tell(self, kind: str, number: int) -> int:
        """Return the number here; that of nothing for what is gone there, the same for what belongs to a page."""
        known = self.told.get(kind)
        return number if known is None else known.get(number, _NOTHING + number)


def same_named(mine: Book, theirs: Book, choice: ToBring) -> dict[int, int]:
    """Return the pots that would come but are here by name in other colours: their numbers there and here.

    Raises `BadInput` where the book has no such page, part or scheme.
    """
    here, there = mine.pots(), theirs.pots()
    named = {pot.name.casefold(): number for number, pot in here.items()}
    found = {}
    for number in _wanted_pots(theirs, choice):
        twin = named.get(there[number].name.casefold())
        if twin is not None and _look(mine, here[twin]) != _look(theirs, there[number]):
            found[number] = twin
    return found


def _look(book: Book, pot: Pot) -> tuple[object, ...]:
    return (*book.tone_pair(pot), pot.inks, pot.shadow_inks, pot.spot)


def edits_brought(mine: Book, theirs: Book, choice: ToBring, originals: Mapping[int, int]) -> Iterator[Edit]:
    """Yield the steps to do here so that what is wanted of another book is here; each before the next is asked for.

    Parameters
    ----------
    mine, theirs : Book
        This book and the other one.
    choice : ToBring
        What is wanted.
    originals : mapping
        The numbers here of the files that its pages were read from.

    Raises
    ------
    BadInput
        If nothing is chosen, or the other book has no such page, part or scheme.
    """
    if not (choice.pages or choice.parts or choice.schemes):
        raise BadInput("Choose pages, parts or schemes of the other book.")
    wanted = _wanted_pots(theirs, choice)
    theirs = _dressed(mine, theirs.still())
    numbers = _numbered(mine, theirs, choice, wanted)
    says = say("Bring in from {0}", theirs.info.title)
    shades = {n: theirs.tone_pair(theirs.pots()[n])[1] for n in wanted}
    yield Edit("bring-in", says, tuple(_pots_brought(mine, theirs, choice, numbers)))
    yield Edit("bring-in", says, tuple(_shadows_kept(mine, numbers, shades)))
    changes = [change for place, page in enumerate(choice.pages)
               for change in _page_brought(mine, theirs, page, numbers, originals, place)]  # fmt: skip
    tiles = [tile for page in choice.pages for tile in _tiles(theirs, page, numbers)]
    yield Edit("bring-in", says, (*changes, *_beside(mine, theirs, choice, numbers)), tuple(tiles))
    yield Edit("bring-in", says, tuple(_schemes_brought(mine, theirs, choice, numbers)))


def _wanted_pots(theirs: Book, choice: ToBring) -> list[int]:
    """Return the pots that pages and parts need, in shelf order."""
    for kind, chosen, known in (("page", choice.pages, theirs.pages()), ("part", choice.parts, theirs.parts()),
                                ("scheme", choice.schemes, theirs.schemes())):  # fmt: skip
        lost = [number for number in chosen if number not in known]
        if lost:
            raise BadInput("{0} has no {1} {2}.", theirs.info.title, tr(kind), lost[0])
    pots, used = theirs.pots(), set[int]()
    for page in choice.pages:
        for _, kind, text in _values(theirs, page):
            value = _read(text, kind.type)
            used |= {number for what, number in spoken(value, kind.type) if what.kind == "pot"}
    return [number for number, pot in pots.items() if number in used or pot.part in choice.parts]


def _values(book: Book, page: int) -> Iterator[tuple[str, Any, str]]:
    """Yield the rest of the key, the kind and the JSON text of every value of a page that can be read."""
    for key, text in book.below(f"{PAGES.key(page)}/"):
        kind = PAGE_KINDS.get(key.split("/", 1)[0])
        if kind is not None and _read(text, kind.type) is not None:
            yield key, kind, text


def _read(text: str, kind: Any) -> Any:
    try:
        return msgspec.json.decode(text, type=kind)
    except msgspec.MsgspecError:  # damaged: it is told where that book is opened
        return None


def _dressed(mine: Book, theirs: Book) -> Book:
    """Take the scheme of the other book in hand that has the name of the one in hand here."""
    here = mine.schemes().get(mine.scheme)
    for number, scheme in theirs.schemes().items():
        if here is not None and scheme.name.casefold() == here.name.casefold() and number != theirs.scheme:
            verbs.use_scheme(theirs, number)
    return theirs


def _numbered(mine: Book, theirs: Book, choice: ToBring, wanted: list[int]) -> _Numbers:
    numbers = _Numbers()
    pots, parts = numbers.of("pot"), numbers.of("part")
    here = {pot.name.casefold(): number for number, pot in mine.pots().items()}
    fresh = next_number(mine, POTS)
    for number, pot in theirs.pots().items():
        twin = None if number in choice.own else here.get(pot.name.casefold())
        if twin is not None:
            pots[number] = twin
        elif number in wanted:
            pots[number], fresh = fresh, fresh + 1
    numbers.of("new pot").update({here: there for there, here in pots.items() if here not in mine.pots()})
    groups = {part.name.casefold(): number for number, part in mine.parts().items()}
    needed = {theirs.pots()[number].part for number in wanted if pots[number] not in mine.pots()} | set(choice.parts)
    fresh = next_number(mine, PARTS)
    for number, part in theirs.parts().items():
        if part.name.casefold() in groups:
            parts[number] = groups[part.name.casefold()]
        elif number in needed:
            parts[number], fresh = fresh, fresh + 1
    first = next_number(mine, PAGES)
    numbers.of("page").update({page: first + place for place, page in enumerate(choice.pages)})
    holds = {n for page in choice.pages for n in theirs.sources(page)[HOLDS]}
    above = max([mine.floor, *mine.holds(), *holds], default=0)
    numbers.of("hold").update({n: n if n not in mine.holds() else above + 1 + k for k, n in enumerate(sorted(holds))})
    return numbers


def _pots_brought(mine: Book, theirs: Book, choice: ToBring, numbers: _Numbers) -> Iterator[Change]:
    names = {pot.name for pot in mine.pots().values()}
    last = max((part.order for part in mine.parts().values()), default=-1)
    for place, (there, here) in enumerate(numbers.of("part").items(), 1):
        if here not in mine.parts():
            part = theirs.parts()[there]
            yield mine.change(PARTS.key(here), msgspec.structs.replace(part, order=last + place))
    last = max((pot.order for pot in mine.pots().values()), default=-1)
    for place, (there, here) in enumerate(numbers.of("pot").items(), 1):
        if here not in mine.pots():
            pot = theirs.pots()[there]
            name = apart(pot.name, names)
            names.add(name)
            group = numbers.tell("part", pot.part)
            yield mine.change(POTS.key(here), msgspec.structs.replace(pot, name=name, part=group, order=last + place))


def _shadows_kept(mine: Book, numbers: _Numbers, shades: Mapping[int, str]) -> Iterator[Change]:
    """Keep shadows by hand that the rule of this book would work out otherwise, for pots that are new here."""
    for here, there in numbers.of("new pot").items():
        pot = mine.pots()[here]
        if mine.tone_pair(pot)[1] != shades[there]:
            yield mine.change(POTS.key(here), msgspec.structs.replace(pot, shadow=shades[there]))


def _page_brought(
    mine: Book, theirs: Book, page: int, numbers: _Numbers, originals: Mapping[int, int], place: int
) -> Iterator[Change]:  # fmt: skip
    here = numbers.tell("page", page)
    after = max((one.order for one in mine.pages().values()), default=-1) + 1 + place
    info = msgspec.structs.replace(theirs.read(PAGES.key(page), Page), order=after)
    yield Change(PAGES.key(here), None, with_originals(msgspec.json.encode(info).decode(), originals))
    for key, kind, text in _values(theirs, page):
        told = text
        if speaks(kind.type):
            told = msgspec.json.encode(renumbered(msgspec.json.decode(text), kind.type, numbers.tell)).decode()
        away = any(what.kind == "page" and n > _NOTHING for what, n in spoken(_read(told, kind.type), kind.type))
        top, _, rest = key.partition("/")
        by = HOLDS.name if kind is HOLDS else kind.number_of if isinstance(kind, PageKind) else ""
        if by and rest.isdecimal():
            key = f"{top}/{numbers.tell(by, int(rest))}"
        if not away:
            yield Change(f"{PAGES.key(here)}/{key}", None, with_originals(told, originals))
    for number, hold in theirs.holds().items():  # of that whole book: of these pages alone here
        if theirs.get(HOLDS.key(page, number)) is None:
            told = renumbered(msgspec.to_builtins(hold), HOLDS.type, numbers.tell)
            key = HOLDS.key(here, numbers.tell("hold", number))
            yield Change(key, None, msgspec.json.encode(told).decode())


def _tiles(theirs: Book, page: int, numbers: _Numbers) -> Iterator[TileChange]:
    top, its = f"{PAGES.key(page)}/", f"{PAGES.key(numbers.tell('page', page))}/"
    for name in theirs.planes(page):
        rest, plane = name.removeprefix(top), theirs.plane(name)
        kind, _, number = rest.partition("/")
        if kind == MARKS.name and number.isdecimal():
            rest = f"{kind}/{numbers.tell('hold', int(number))}"
        for at in plane:
            yield TileChange(its + rest, *at, None, plane.packed(*at))


def _beside(mine: Book, theirs: Book, choice: ToBring, numbers: _Numbers) -> Iterator[Change]:
    """Yield what belongs to the whole book and goes with pages: conditions, depth, sequences that come whole."""
    if choice.pages:
        for key, text in theirs.below(PROFILES.below):
            if mine.get(PROFILES.key(key)) is None:
                yield Change(PROFILES.key(key), None, text)
    said = {(frozenset((one.front, one.behind)), one.parts) for one in mine.depths().values()}
    fresh = next_number(mine, DEPTHS)
    for depth in theirs.depths().values() if choice.pages else ():
        kind = "part" if depth.parts else "pot"
        told = Depth(numbers.tell(kind, depth.front), numbers.tell(kind, depth.behind), depth.parts)
        both = frozenset((told.front, told.behind)), told.parts
        if max(told.front, told.behind) < _NOTHING and len(both[0]) == 2 and both not in said:
            yield mine.change(DEPTHS.key(fresh), told)
            said.add(both)
            fresh += 1
    names, fresh = {one.name for one in mine.sequences().values()}, next_number(mine, SEQUENCES)
    for sequence in theirs.sequences().values():
        if set(sequence.pages) <= set(choice.pages):
            told = renumbered(msgspec.to_builtins(sequence, str_keys=True), SEQUENCES.type, numbers.tell)
            name = apart(sequence.name, names)
            yield mine.change(SEQUENCES.key(fresh), {**told, "name": name})
            names.add(name)
            fresh += 1


def _schemes_brought(mine: Book, theirs: Book, choice: ToBring, numbers: _Numbers) -> Iterator[Change]:
    """Yield schemes that come, and what schemes of the same name here have to know of what came."""
    known, there = mine.schemes(), theirs.schemes()
    named = {scheme.name.casefold(): number for number, scheme in known.items()}
    now, found = mine.scheme, dict[int, Scheme]()
    fresh = next_number(mine, SCHEMES)
    for number, scheme in there.items():
        twin = named.get(scheme.name.casefold())
        if twin == now and twin is not None:
            continue  # what came wears it
        if twin is None and number not in choice.schemes:
            continue
        colors = colors_of(theirs, scheme.name) if number == theirs.scheme else scheme
        if twin is None:
            if not known and not found:
                now = fresh
                found[now], fresh = colors_of(mine, FIRST_COLORS), fresh + 1
                yield mine.change(SCHEME_NOW.key, now)
            base = msgspec.structs.replace(colors_of(mine, scheme.name), tone=colors.tone)
            found[fresh], fresh = _laid_over(base, colors, numbers, numbers.of("pot").keys()), fresh + 1
        else:
            new = {n for n, here in numbers.of("pot").items() if here in numbers.of("new pot")}
            found[twin] = _laid_over(known[twin], colors, numbers, new)
    for number, made in found.items():
        yield mine.change(SCHEMES.key(number), made)


def _laid_over(base: Scheme, colors: Scheme, numbers: _Numbers, pots: Any) -> Scheme:
    """Return a scheme of this book with what another one says of pots, and of pages that came."""
    here, pages = numbers.of("pot"), numbers.of("page")
    laid = dict(base.pots)
    for number, told in colors.pots.items():
        if number in here and number in pots:
            laid[here[number]] = PotColors(told.local, told.shadow, told.inks, told.shadow_inks, told.spot)
    parts = {numbers.of("part")[n]: rule for n, rule in colors.parts.items() if n in numbers.of("part")}
    of_pages: dict[str, dict[int, Any]] = {}
    for name in ("lines", "passes", "holds", "effects", "sheets"):
        held = dict(getattr(base, name))
        for page, told in getattr(colors, name).items():
            if page in pages:
                held[pages[page]] = {numbers.tell("hold", n): v for n, v in told.items()} if name == "holds" else told
        of_pages[name] = held
    if colors.shared_holds:
        for page in pages.values():
            shared = {numbers.tell("hold", n): told for n, told in colors.shared_holds.items()}
            of_pages["holds"][page] = shared | of_pages["holds"].get(page, {})
    return msgspec.structs.replace(base, pots=laid, parts={**base.parts, **parts}, **of_pages)
