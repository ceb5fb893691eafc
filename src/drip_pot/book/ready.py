"""A page ready to be painted: planes, passes and tables of one moment. Knows the compositor; no window, no file.

Screen, files and plates are painted from this, so that they agree.
"""

from dataclasses import dataclass, replace

import numpy as np

from drip_pot.book.derive import Shown
from drip_pot.book.store import TilePlane
from drip_pot.book.tables import Tables
from drip_pot.core.arrays import U8, U16
from drip_pot.core.press import separate, tone_of
from drip_pot.core.render import Colors, Layer, Piece, compose

_EVERY = slice(None)


@dataclass(frozen=True)
class Ready:
    """What a page is painted from, at one scale.

    Attributes
    ----------
    shown : Shown
        Its planes.
    covers : tuple of TilePlane
        Coverage of the passes, in the order of `tables.stack`.
    step : int
        Page pixels for each pixel of the planes.
    """

    shown: Shown
    covers: tuple[TilePlane, ...]
    tables: Tables
    step: int = 1

    def piece(self, rows: slice = _EVERY, cols: slice = _EVERY) -> Piece:
        """Return the planes of a piece."""
        height, width = self.shown.labels.shape
        top, bottom, _ = rows.indices(height)
        left, right, _ = cols.indices(width)
        cut, step = (slice(top, bottom), slice(left, right)), self.step
        rect = (top * step, left * step, bottom * step, right * step)
        covers = [fitted(c.read(rect, step), (bottom - top, right - left)) if c.any() else None for c in self.covers]
        return Piece(self.shown.labels[cut], self.shown.line[cut], self.shown.ink[cut], covers)

    def screen(
        self, rows: slice = _EVERY, cols: slice = _EVERY, *, lines: bool = True, tone: bool = True, held: bool = True
    ) -> U8:
        """Draw a piece as it is seen, (M, N, 4) uint8: with the line, the passes, lines in the colours of holds."""
        colors, stack = self.tables.screen, list(self.tables.stack) if tone else self.bare_stack
        return compose(self.piece(rows, cols), stack, colors if held else plain_lines(colors), lines=lines)

    @property
    def bare_stack(self) -> list[Layer]:
        """The passes, none of them showing."""
        return [replace(layer, strength=0.0) for layer in self.tables.stack]

    def plates(self, rows: slice = _EVERY, cols: slice = _EVERY, trap: U16 | None = None) -> U8:
        """Separate a piece, (M, N, 4) uint8; `trap` (M, N) uint16 is of the same piece."""
        t = self.tables
        return separate(self.piece(rows, cols), list(t.stack), t.screen, t.plates, t.inks, trap)

    def tone(self) -> U8 | None:
        """Return where the page has the plain shadow colours of its atoms, (M, N) uint8 of 0 and 1; None is nowhere."""
        return tone_of(self.piece(), list(self.tables.stack))[0]


def plain_lines(colors: Colors) -> Colors:
    """Return colours with every line black."""
    return Colors(colors.flat, np.full_like(colors.line, np.array([0, 0, 0, 255], np.uint8).view(np.uint32)[0]))


def fitted(plane: U8, shape: tuple[int, int]) -> U8:
    """Return a plane cut or filled up with zeros to a shape, by a row or column at most."""
    if plane.shape == shape:
        return plane
    out = np.zeros(shape, np.uint8)
    out[: plane.shape[0], : plane.shape[1]] = plane[: shape[0], : shape[1]]
    return out
