# SPDX-License-Identifier: GPL-3.0-or-later
"""Verbs on regions and what is poured into them. Knows no window, no file."""

from collections.abc import Iterable
from typing import Literal

import msgspec

from drip_pot.book.asking import order
from drip_pot.book.book import Book
from drip_pot.book.numbers import AtomNumber, DoorNumber, PouredNumber
from drip_pot.book.values import BALLOON, BRIDGES, DOORS, FLATS, JOINS, LEFT, POTS, POURS, PageKind, Pot
from drip_pot.book.verbs.setting import put, thinned
from drip_pot.core.errors import BadInput
from drip_pot.core.regions import Path
from drip_pot.words import say, say_many

GAP_MOST = 60.0
LEAST_MOST = 100_000
Way = Literal["join", "door"]
_WAYS: dict[Way, PageKind[int, Path]] = {"join": JOINS, "door": DOORS}


@order
def part_again(book: Book, page: int, ways: Iterable[tuple[Way, int]]) -> None:
    """Take joins and doors away: pairs of 'join' or 'door' and their number."""
    put(book, "part", "Part what was joined", *((_WAYS[kind].key(page, number), None) for kind, number in ways))


@order
def absorb(book: Book, page: int, atoms: Iterable[AtomNumber], pot: PouredNumber | None, spots: Path) -> None:
    """Join a region to its neighbour (a pixel of each in `spots`) and give it the neighbour's pot."""
    number = max(book.sources(page)[JOINS], default=0) + 1
    _needs_two(spots)
    pours = [(POURS.key(page, atom), pot) for atom in atoms]
    put(book, "absorb", "Absorb a sliver", (JOINS.key(page, number), spots), *pours)


@order
def set_gap(book: Book, page: int, gap_px: float | None) -> None:
    """Close gaps up to a width in pixels (0..60), or up to one worked out from the page (None).

    Raises
    ------
    BadInput
        If the width is out of range.
    """
    if gap_px is not None and not 0 <= gap_px <= GAP_MOST:
        raise BadInput("Gaps are bridged from 0 up to {0:g} px wide, not {1:g} px.", GAP_MOST, gap_px)
    title = "Bridge gaps by the page" if gap_px is None else say("Bridge gaps up to {0:g} px", gap_px)
    flats = msgspec.structs.replace(book.sources(page)[FLATS], gap_px=gap_px)
    put(book, "set-gap", title, (FLATS.key(page), flats))


@order
def set_least(book: Book, page: int, least_px: int | None) -> None:
    """Join regions of fewer pixels to the neighbour they are least parted from (0..100 000); None is by the page."""
    if least_px is not None and not 0 <= least_px <= LEAST_MOST:
        raise BadInput("The smallest region is 0 to {0} px, not {1}.", LEAST_MOST, least_px)
    flats = msgspec.structs.replace(book.sources(page)[FLATS], least_px=least_px)
    title = "Smallest region by the page" if least_px is None else say("Smallest region {0} px", least_px)
    put(book, "set-least", title, (FLATS.key(page), flats))


@order
def set_door(book: Book, page: int, path: Path | None, number: DoorNumber | None = None) -> None:
    """Draw a door, move one of a number, or take it away (path None)."""
    title = "Remove a door" if path is None else "Move a door" if number is not None else "Draw a door"
    number = max(book.sources(page)[DOORS], default=0) + 1 if number is None else number
    path = None if path is None else thinned(path)
    put(book, "set-door", title, (DOORS.key(page, number), path))


def _needs_two(spots: Path) -> None:
    if len(spots) < 2:
        raise BadInput("Regions are joined by a pixel of each, two at least.")


@order
def join(book: Book, page: int, spots: Path, title: str) -> None:
    """Join the regions that pixels (row, col) lie in, for good."""
    number = max(book.sources(page)[JOINS], default=0) + 1
    _needs_two(spots)
    put(book, "join", title, (JOINS.key(page, number), spots))


@order
def choose_bridge(book: Book, page: int, row: float, col: float, keep: bool | None) -> None:
    """Keep or refuse the bridge with its middle at (row, col); None leaves it to the gap width again."""
    verb = {True: "Keep a bridge", False: "Refuse a bridge", None: "Leave a bridge to the gap width"}[keep]
    put(book, "choose-bridge", verb, (BRIDGES.key(page, (row, col)), keep))


@order
def pour(book: Book, page: int, atoms: Iterable[AtomNumber], pot: PouredNumber | None, regions: int = 1) -> None:
    """Give atoms a pot, or paper (None). `regions` is said in the title."""
    name = book.read(POTS.key(pot), Pot).name if pot is not None else say("paper")
    title = say_many("Pour {0} into a region", "Pour {0} into {1} regions", regions, name, regions)
    pairs = [(POURS.key(page, atom), pot) for atom in sorted(atoms)]
    put(book, "pour", title, *pairs)


@order
def keep_balloon(book: Book, page: int, atoms: Iterable[AtomNumber]) -> None:
    """Keep regions as paper for lettering."""
    put(book, "balloon", "Keep a balloon as paper", *((POURS.key(page, a), BALLOON) for a in sorted(atoms)))


@order
def leave(book: Book, page: int, finding: str) -> None:
    """Take a finding off the list without mending it."""
    put(book, "leave", "Leave a finding", (LEFT.key(page, finding), True))
