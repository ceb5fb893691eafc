"""A page ready to be painted: planes, passes and tables of one moment. Knows the compositor; no window, no file.

Screen, files and plates are painted from this, so that they agree.
"""

from collections.abc import Mapping
from dataclasses import dataclass, field

import cv2
import numpy as np

from drip_pot.book.book import Book
from drip_pot.book.derive import Shown
from drip_pot.book.store import TilePlane
from drip_pot.book.tables import Tables, inks_for
from drip_pot.core.arrays import U8, U16, Rect
from drip_pot.core.color import from_hex
from drip_pot.core.press import Wear, black_line, halo_px, separate, tone_of, worn
from drip_pot.core.render import Colors, LineWash, Piece, compose

_EVERY, _BLACK = slice(None), 3


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
    marks : dict
        What was brushed into holds, or taken out of them, by number.
    rubbed : tuple of TilePlane
        What was rubbed out of cyan, magenta, yellow and black.
    """

    shown: Shown
    covers: tuple[TilePlane, ...]
    tables: Tables
    step: int = 1
    marks: Mapping[int, TilePlane] = field(default_factory=dict)
    rubbed: tuple[TilePlane, ...] = ()

    def piece(self, rows: slice = _EVERY, cols: slice = _EVERY, *, passes: bool = True) -> Piece:
        """Return the planes of a piece; the coverage of passes is read only where it is wanted."""
        height, width = self.shown.labels.shape
        top, bottom, _ = rows.indices(height)
        left, right, _ = cols.indices(width)
        cut, step = (slice(top, bottom), slice(left, right)), self.step
        rect = (top * step, left * step, bottom * step, right * step)
        wanted, size = self.covers if passes else (), (bottom - top, right - left)
        covers = [fitted(c.read(rect, step), size) if c.any() else None for c in wanted]
        shares = [self._share(wash, rect, size) for wash in self.tables.washes]
        s = self.shown
        return Piece(s.labels[cut], s.line[cut], s.ink[cut], covers, shares, rect[0], rect[1], step)

    def _share(self, wash: LineWash, rect: Rect, size: tuple[int, int]) -> U8 | None:
        """Return how far a wash lies on a piece by its marks and where it fades in; None is wholly."""
        marks, fading = self.marks.get(wash.number), self.shown.feathers.get(wash.number)
        share = None
        if wash.adds:
            share = np.zeros(size, np.uint8) if marks is None else fitted(marks.read(rect, self.step), size)
        elif marks is not None and marks.any():
            share = 255 - fitted(marks.read(rect, self.step), size)
        if fading is not None and fading.any():
            gone = 255 - fitted(fading.read(rect, self.step), size)
            share = gone if share is None else np.minimum(share, gone)
        return share

    def screen(
        self, rows: slice = _EVERY, cols: slice = _EVERY, *, lines: bool = True, tone: bool = True, held: bool = True
    ) -> U8:
        """Draw a piece as it is seen, (M, N, 4) uint8: with the line, the passes, lines in the colours of holds."""
        colors, piece = self.tables.screen, self.piece(rows, cols, passes=tone)
        if not held:
            return compose(piece, list(self.tables.stack), plain_lines(colors), lines=lines)
        return compose(piece, list(self.tables.stack), colors, self.tables.washes, lines=lines)

    def plates(
        self, rows: slice = _EVERY, cols: slice = _EVERY, trap: U16 | None = None, *, line_apart: bool = False
    ) -> U8:  # fmt: skip
        """Separate a piece, (M, N, P) uint8; `trap` (M, N) uint16 is of the same piece, `line_apart` as `separate`."""
        t, piece = self.tables, self.piece(rows, cols)
        out = separate(piece, list(t.stack), t.screen, t.plates, t.inks, trap, washes=t.washes, line_apart=line_apart)
        for plate in range(len(self.rubbed)):
            gone = self._gone(plate, piece)
            if gone is not None:
                out[..., plate] = cv2.multiply(np.ascontiguousarray(out[..., plate]), 255 - gone, scale=1 / 255)
        return out

    def _gone(self, plate: int, piece: Piece) -> U8 | None:
        """Return what was rubbed out of a plate in a piece; None where nothing was."""
        plane, (rows, cols) = self.rubbed[plate], piece.ink.shape
        if not plane.any():
            return None
        rect = piece.top, piece.left, piece.top + rows * piece.step, piece.left + cols * piece.step
        gone = fitted(plane.read(rect, piece.step), (rows, cols))
        return gone if gone.any() else None

    def old_stock(
        self, rows: slice, cols: slice, trap: U16 | None, page: tuple[int, int], dpi: float, wear: Wear | None = None
    ) -> U8:  # fmt: skip
        """Draw a piece as a worn sheet, (M, N, 3) uint8 sRGB; `trap` is of the whole page at this scale, or None.

        It is worn as the page says, unless `wear` is given.
        """
        wear, press = wear or self.tables.wear, self.tables.press
        around = -(-halo_px(wear, dpi) // self.step)
        high, wide = self.shown.labels.shape
        down = slice(max(0, rows.start - around), min(high, rows.stop + around))
        across = slice(max(0, cols.start - around), min(wide, cols.stop + around))
        every = self.plates(down, across, None if trap is None else trap[down, across])
        inks = every[..., :4]
        for place, spot in enumerate(self.tables.spots, 4):  # old stock knows four inks
            four = np.array(inks_for(_rgb(spot.color), press)[0], np.float32)
            inks = np.maximum(inks, (every[..., place, None] * (four / 255)).astype(np.uint8))
        top, left = down.start, across.start
        seen = worn(np.ascontiguousarray(inks), wear, dpi, press.condition, top * self.step, left * self.step, page,
                    self.step)  # fmt: skip
        return seen[rows.start - top : rows.stop - top, cols.start - left : cols.stop - left]

    def black_line(self, rows: slice = _EVERY) -> U8:
        """Return the coverage of black that overprints, (M, N) uint8."""
        piece = self.piece(rows, passes=False)
        black = black_line(piece, self.tables.plates, self.tables.washes)
        gone = self._gone(_BLACK, piece) if self.rubbed else None
        return black if gone is None else np.asarray(cv2.multiply(black, 255 - gone, scale=1 / 255), np.uint8)

    def thinned(self, step: int) -> "Ready":
        """Return the page with every `step`-th pixel alone."""
        cut = slice(None, None, step), slice(None, None, step)
        s = self.shown
        shown = Shown(s.labels[cut].copy(), s.ink[cut].copy(), s.line[cut].copy(), feathers=s.feathers)
        return Ready(shown, self.covers, self.tables, self.step * step, self.marks, self.rubbed)

    def tone(self) -> U8 | None:
        """Return where the page has the plain shadow colours of its atoms, (M, N) uint8 of 0 and 1; None is nowhere."""
        return tone_of(self.piece(), list(self.tables.stack))[0]


def _rgb(color: str) -> tuple[int, int, int]:
    r, g, b = from_hex(color).tolist()
    return r, g, b


def plain_lines(colors: Colors) -> Colors:
    """Return colours with every line black."""
    return Colors(colors.flat, np.zeros_like(colors.line) + np.array([0, 0, 0, 255], np.uint8))


def marks_of(book: Book, page: int) -> dict[int, TilePlane]:
    """Return what is marked in the holds of a page as it is now, by number."""
    return {n: book.plane(f"page/{page}/hold/{n}").copy() for n in book.sources(page).holds}


def rubbed_of(book: Book, page: int) -> tuple[TilePlane, ...]:
    """Return what is rubbed out of the plates of a page as it is now."""
    return tuple(book.plane(f"page/{page}/plate/{plate}").copy() for plate in range(4))


def fitted(plane: U8, shape: tuple[int, int]) -> U8:
    """Return a plane cut or filled up with zeros to a shape, by a row or column at most."""
    if plane.shape == shape:
        return plane
    out = np.zeros(shape, np.uint8)
    out[: plane.shape[0], : plane.shape[1]] = plane[: shape[0], : shape[1]]
    return out
