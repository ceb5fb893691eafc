# SPDX-License-Identifier: GPL-3.0-or-later
"""What was rubbed out of plates and of wear, of one moment. Knows planes of a book; nothing of how plates are made."""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field

import cv2
import numpy as np

from drip_pot.book.book import Book
from drip_pot.book.own_inks import spots_on
from drip_pot.book.store import TilePlane
from drip_pot.book.values import FIRST_SPOT, KEPT_NEW, RUBBED, RUBBED_SPOTS, WEAR
from drip_pot.core.arrays import U8, Rect, cut_to
from drip_pot.core.press import WHOLE_SHEET

FOUR = 4


@dataclass(frozen=True)
class RubbedOut:
    """What was rubbed out of a page.

    Attributes
    ----------
    plates : tuple of TilePlane or None
        Of cyan, magenta, yellow, black and the page's inks beside them: 0..255, 255 where no ink is left.
    wear : mapping of int to TilePlane
        Where steps of wear are not done, by number, and where none is, by `WHOLE_SHEET`.
    """

    plates: tuple[TilePlane | None, ...] = ()
    wear: Mapping[int, TilePlane] = field(default_factory=dict)

    def planes(self) -> Iterator[TilePlane]:
        """Go through all planes."""
        yield from (plane for plane in self.plates if plane is not None)
        yield from self.wear.values()

    def out_of(self, plate: int, rect: Rect, step: int, shape: tuple[int, int]) -> U8 | None:
        """Return what was rubbed out of a plate in a piece of some shape, (M, N) uint8; None where nothing was."""
        return _read(self.plates[plate] if plate < len(self.plates) else None, rect, step, shape)

    def of_wear(self, rect: Rect, step: int, shape: tuple[int, int]) -> dict[int, U8]:
        """Return what was rubbed out of steps of wear in a piece, (M, N) uint8 each, by their number."""
        read = ((number, _read(plane, rect, step, shape)) for number, plane in self.wear.items())
        return {number: found for number, found in read if found is not None}

    def taken(self, inks: U8, rect: Rect, step: int) -> U8:
        """Take what was rubbed out away from plates, (M, N, P) uint8, which are changed."""
        for plate in range(min(len(self.plates), inks.shape[2])):
            gone = self.out_of(plate, rect, step, (inks.shape[0], inks.shape[1]))
            if gone is not None:
                inks[..., plate] = cv2.multiply(np.ascontiguousarray(inks[..., plate]), 255 - gone, scale=1 / 255)
        return inks


NOTHING_RUBBED = RubbedOut()


def _read(plane: TilePlane | None, rect: Rect, step: int, shape: tuple[int, int]) -> U8 | None:
    if plane is None or not plane.any():
        return None
    gone = cut_to(plane.read(rect, step), shape)
    return gone if gone.any() else None


def rubbed_of(book: Book, page: int) -> RubbedOut:
    """Return what is rubbed out of a page as it is now."""
    sources = book.sources(page)
    kept = sources[RUBBED_SPOTS]
    places = {name: FIRST_SPOT + k for k, name in enumerate(kept)}
    spots = [places.get(spot.name) for spot in spots_on(book, sources)]
    plates = [book.plane(RUBBED.key(page, n)).copy() if n is not None else None for n in (*range(FOUR), *spots)]
    numbers = (WHOLE_SHEET, *(step.number for step in sources[WEAR].steps if step.number))
    return RubbedOut(tuple(plates), {n: book.plane(KEPT_NEW.key(page, n)).copy() for n in numbers})
