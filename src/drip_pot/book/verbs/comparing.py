# SPDX-License-Identifier: GPL-3.0-or-later
"""Pages as they are compared with each other: which one is taken after, and how both are seen. Knows pages at hand."""

from dataclasses import dataclass
from functools import cached_property

import msgspec
import numpy as np

from drip_pot.book.book import Book
from drip_pot.book.derive.regions import partition_of
from drip_pot.book.hand import Hand
from drip_pot.book.values import BRIDGES, DOORS, JOINS, POURS, LineState
from drip_pot.core.arrays import F64, I32, I64, Rect
from drip_pot.core.carry import Scene, see, small_shape
from drip_pot.core.errors import BadInput

NO_POT = -1
_ASPECT = 0.02


def source_of(book: Book, page: int, place: int | None) -> int:
    """Return the page that a frame takes after: one by its place from 1, or the frame before.

    Raises
    ------
    BadInput
        If there is no such page, it is the page itself, or no frame comes before.
    """
    pages = list(book.pages())
    if place is None:
        known = book.sequence_of(page)
        found = known[1].beside(page, -1) if known is not None else None
        if found is None:
            raise BadInput("No frame comes before this page. Say which page it takes after (`source`, from 1).")
        return found
    if not 1 <= place <= len(pages):
        raise BadInput("There is no page {0}; this book has {1} pages.", place, len(pages))
    if pages[place - 1] == page:
        raise BadInput("That is this page itself. Name another one to take after.")
    return pages[place - 1]


def check_shapes(hand: Hand, other: Hand) -> None:
    """Refuse pages that are not of one shape; raises `BadInput`."""
    (rows, cols), (high, wide) = hand.shape, other.shape
    if abs(np.log((rows / cols) / (high / wide))) > _ASPECT:
        raise BadInput(
            "{0} is {1} × {2} px and this page {3} × {4} px. Colours are carried between frames of one shape; grow or "
            "crop one of them first (Size and edges of the page).",
            other.sources.page.name,
            wide,
            high,
            cols,
            rows,
        )


def places_of(hand: Hand) -> I32:
    """Return for every atom the place of its region, from 1, (A + 1,)."""
    return _places(hand.partition.region, hand.areas)


def _places(region: I64 | I32, areas: I64) -> I32:
    found = np.zeros(len(region), np.int32)
    live = areas > 0
    live[0] = False
    found[live] = np.unique(region[live], return_inverse=True)[1].reshape(-1) + 1
    return found


def seen_of(hand: Hand, shape: tuple[int, ...] | None) -> tuple[Scene, I64]:
    """Return a page as it is compared, and the pot of every region by its place; -1 is none."""
    sources = hand.sources
    if sources[POURS] and not _up_to_date(sources.cut, sources.line):
        name = hand.book.pages()[hand.page].name
        raise BadInput("The regions of {0} are out of date. Open that page once, then try again.", name)
    region = places_of(hand)
    line_px = hand.divided.atoms.line_px
    high, wide = small_shape(hand.shape, line_px) if shape is None else shape
    scene = see(region[hand.labels], hand.ink, line_px, (high, wide))
    kinds = np.full(scene.count + 1, NO_POT, np.int64)
    most = np.zeros(scene.count + 1, np.int64)
    for atom, pot in sources[POURS].items():
        if atom < len(region) and hand.areas[atom] > most[region[atom]]:
            most[region[atom]], kinds[region[atom]] = hand.areas[atom], pot
    kinds[0] = NO_POT
    return scene, kinds


def _up_to_date(cut: LineState, line: LineState) -> bool:
    return msgspec.structs.replace(cut, engine=line.engine) == line


@dataclass(frozen=True)
class Drawn:
    """A page as its line alone divides it, without what a hand cut, joined or decided.

    Attributes
    ----------
    hand : Hand
        At work on it.
    shape : tuple of int
        Rows and columns of its scene.
    """

    hand: Hand
    shape: tuple[int, int]

    @cached_property
    def _region(self) -> I32:
        found, sources = self.hand.divided.found, self.hand.sources
        bare: dict[str, object] = {kind.name: {} for kind in (DOORS, JOINS, BRIDGES)}
        sources = msgspec.structs.replace(sources, held={**sources.held, **bare})
        return _places(partition_of(found, sources).region, found.areas)

    @cached_property
    def scene(self) -> Scene:
        """The page made small."""
        found = self.hand.divided.found
        return see(self._region[found.labels], self.hand.ink, found.line_px, self.shape)

    @property
    def scale(self) -> F64:
        """Page pixels for each small pixel, across and down, (2,)."""
        return np.array([self.hand.shape[1] / self.shape[1], self.hand.shape[0] / self.shape[0]])

    def regions_in(self, rect: Rect) -> I32:
        """Return the regions in a rectangle of the page, numbered from 1."""
        labels = self.hand.divided.found.labels[rect[0] : rect[2], rect[1] : rect[3]]
        return np.asarray(self._region[labels], np.int32)


def drawn_alike(hand: Hand, other: Hand) -> tuple[Drawn, Drawn]:
    """Return another page and this one as they are compared by their line, both of one size; raises `BadInput`."""
    check_shapes(hand, other)
    shape = small_shape(other.shape, other.divided.atoms.line_px)
    return Drawn(other, shape), Drawn(hand, shape)
