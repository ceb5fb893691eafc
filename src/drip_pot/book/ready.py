# SPDX-License-Identifier: GPL-3.0-or-later
"""A page ready to be painted: planes, passes and tables of one moment. Knows the compositor; no window, no file.

Screen, files and plates are painted from this, so that they agree.
"""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import partial

import cv2
import numpy as np

from drip_pot.book.book import Book
from drip_pot.book.derive import Shown
from drip_pot.book.derive.press import Composing
from drip_pot.book.rubbed import NOTHING_RUBBED, RubbedOut
from drip_pot.book.store import TilePlane
from drip_pot.book.tables import Tables
from drip_pot.book.values import HOLDS, MARKS
from drip_pot.core.arrays import U8, U32, Rect, cut_to
from drip_pot.core.color import from_hex
from drip_pot.core.press import (
    Composed,
    OnTop,
    Stock,
    Traps,
    Wear,
    bare_plates,
    black_line,
    composed,
    finished_plates,
    halo_px,
    on_top,
    worn,
)
from drip_pot.core.render import Colors, LineWash, Piece, compose, line_alone, reach_of

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
    rubbed : RubbedOut
        What was rubbed out of plates and of wear.
    """

    shown: Shown
    covers: tuple[TilePlane, ...]
    tables: Tables
    step: int = 1
    marks: Mapping[int, TilePlane] = field(default_factory=dict)
    rubbed: RubbedOut = NOTHING_RUBBED

    def piece(self, rows: slice = _EVERY, cols: slice = _EVERY, *, passes: bool = True) -> Piece:
        """Return the planes of a piece; the coverage of passes is read only where it is wanted."""
        height, width = self.shown.labels.shape
        top, bottom, _ = rows.indices(height)
        left, right, _ = cols.indices(width)
        cut, step = (slice(top, bottom), slice(left, right)), self.step
        rect = (top * step, left * step, bottom * step, right * step)
        wanted, size = self.covers if passes else (), (bottom - top, right - left)
        covers = [cut_to(c.read(rect, step), size) if c.any() else None for c in wanted]
        shares = [self._share(wash, rect, size) for wash in self.tables.washes]
        s = self.shown
        labels, line, ink = s.labels[cut], s.line[cut], s.ink[cut]
        owners = self.tables.owners if passes else None
        return Piece(labels, line, ink, covers, shares, rect[0], rect[1], step, owners)

    def _share(self, wash: LineWash, rect: Rect, size: tuple[int, int]) -> U8 | None:
        """Return how far a wash lies on a piece by its marks and where it fades in; None is wholly."""
        marks, fading = self.marks.get(wash.number), self.shown.feathers.get(wash.number)
        share = None
        if wash.adds:
            share = np.zeros(size, np.uint8) if marks is None else cut_to(marks.read(rect, self.step), size)
        elif marks is not None and marks.any():
            share = 255 - cut_to(marks.read(rect, self.step), size)
        if fading is not None and fading.any():
            gone = 255 - cut_to(fading.read(rect, self.step), size)
            share = gone if share is None else np.minimum(share, gone)
        return share

    def screen(
        self, rows: slice = _EVERY, cols: slice = _EVERY, *, lines: bool = True, tone: bool = True, held: bool = True
    ) -> U8:
        """Draw a piece as it is seen, (M, N, 4) uint8: with the line, the passes, lines in the colours of holds."""
        wide, cut = self._around(rows, cols) if tone else ((rows, cols), None)
        colors, piece = self.tables.screen, self.piece(*wide, passes=tone)
        washes = self.tables.washes if held else ()
        out = compose(piece, list(self.tables.stack), colors if held else plain_lines(colors), washes, lines=lines)
        return out if cut is None else np.ascontiguousarray(out[cut])

    def line(self, rows: slice = _EVERY, cols: slice = _EVERY) -> U8:
        """Draw the line of a piece as it lies over the flats, (M, N, 4) uint8: its colours, and how much it covers."""
        wide, cut = self._around(rows, cols)
        out = line_alone(self.piece(*wide), list(self.tables.stack), self.tables.screen, self.tables.washes)
        return out if cut is None else np.ascontiguousarray(out[cut])

    def _around(self, rows: slice, cols: slice) -> tuple[tuple[slice, slice], tuple[slice, slice] | None]:
        """Return a piece with what passes look at beyond it, and where it lies in there; None where it is all."""
        owners = self.tables.owners
        reach = reach_of(list(self.tables.stack), self.step) + (0 if owners is None else owners.reach(self.step))
        if not reach:
            return (rows, cols), None
        height, width = self.shown.labels.shape
        (top, bottom, _), (left, right, _) = rows.indices(height), cols.indices(width)
        above, before = max(0, top - reach), max(0, left - reach)
        wide = slice(above, min(height, bottom + reach)), slice(before, min(width, right + reach))
        return wide, (slice(top - above, bottom - above), slice(left - before, right - before))

    def plates(
        self, rows: slice = _EVERY, cols: slice = _EVERY, trap: U32 | None = None, *, line_apart: bool = False
    ) -> U8:  # fmt: skip
        """Separate a piece, (M, N, P) uint8; `trap` (M, N) uint32 is of the same piece, `line_apart` as `separate`."""
        return self.plates_each((trap,), rows, cols, line_apart=line_apart)[0]

    def plates_each(
        self, traps: Sequence[U32 | None], rows: slice = _EVERY, cols: slice = _EVERY, *, line_apart: bool = False
    ) -> list[U8]:  # fmt: skip
        """Separate a piece as `plates` does, once with each of some traps."""
        plates, (inks, black) = self.tables.plates, self.bare(rows, cols)
        last = len(traps) - 1
        found = [finished_plates(inks if place == last else inks.copy(), black, trap, plates, line_apart=line_apart)
                 for place, trap in enumerate(traps)]  # fmt: skip
        return [self.rubbed_out(out, rows, cols) for out in found]

    def composed(self, rows: slice = _EVERY, cols: slice = _EVERY) -> Composed:
        """Lay the passes over a piece."""
        wide, inside = self._around(rows, cols)
        return composed(self.piece(*wide), self.tables.printing(), inside)

    def bare(self, rows: slice = _EVERY, cols: slice = _EVERY) -> tuple[U8, U8]:
        """Return the inks of a piece, (M, N, P) uint8, and overprinting black, (M, N) uint8, as `bare_plates`."""
        return bare_plates(self.composed(rows, cols), self.tables.printing())

    def rubbed_out(self, inks: U8, rows: slice = _EVERY, cols: slice = _EVERY) -> U8:
        """Take what was rubbed out of plates away from a piece of them, which is changed."""
        return self.rubbed.taken(inks, self._rect(rows, cols), self.step)

    def _rect(self, rows: slice, cols: slice) -> Rect:
        """Return where a piece lies on the page."""
        height, width = self.shown.labels.shape
        (top, bottom, _), (left, right, _) = rows.indices(height), cols.indices(width)
        return top * self.step, left * self.step, bottom * self.step, right * self.step

    def old_stock(
        self, rows: slice, cols: slice, trap: U32 | None, page: tuple[int, int], dpi: float, wear: Wear | None = None
    ) -> U8:  # fmt: skip
        """Draw a piece as a worn sheet, (M, N, 3) uint8 sRGB; `trap` is of the whole page at this scale, or None.

        It is worn as the page says, unless `wear` is given.
        """
        tables, press = self.tables, self.tables.press
        around = -(-halo_px(wear or tables.wear, dpi) // self.step)
        high, wide = self.shown.labels.shape
        down = slice(max(0, rows.start - around), min(high, rows.stop + around))
        across = slice(max(0, cols.start - around), min(wide, cols.stop + around))
        inks = self.plates(down, across, None if trap is None else trap[down, across], line_apart=True)
        top, left = down.start, across.start
        rect, spots = self._rect(down, across), tuple(spot.name for spot in tables.spots)
        stock = Stock(
            press.condition, dpi, page, top * self.step, left * self.step, self.step, press.screens_of(spots),
            tuple(from_hex(spot.color) for spot in tables.spots),
            self.rubbed.of_wear(rect, self.step, (inks.shape[0], inks.shape[1])) if wear is None else {},
        )  # fmt: skip
        pictures = tables.textures if wear is None else ()
        seen = worn(inks, wear or tables.wear, stock, self.black_line(down, across), pictures)
        return seen[rows.start - top : rows.stop - top, cols.start - left : cols.stop - left]

    def black_line(self, rows: slice = _EVERY, cols: slice = _EVERY) -> U8:
        """Return the coverage of black that overprints, (M, N) uint8."""
        black = black_line(self.piece(rows, cols, passes=False), self.tables.printing())
        gone = self.rubbed.out_of(_BLACK, self._rect(rows, cols), self.step, (black.shape[0], black.shape[1]))
        return black if gone is None else np.asarray(cv2.multiply(black, 255 - gone, scale=1 / 255), np.uint8)

    def thinned(self, step: int) -> "Ready":
        """Return the page with every `step`-th pixel alone."""
        cut = slice(None, None, step), slice(None, None, step)
        s = self.shown
        shown = Shown(s.labels[cut].copy(), s.ink[cut].copy(), s.line[cut].copy(), feathers=s.feathers)
        return Ready(shown, self.covers, self.tables, self.step * step, self.marks, self.rubbed)

    def on_top(self, laid: Callable[[slice, Composed], None] | None = None) -> OnTop:
        """Tell what is on top at every pixel, as the page is composed; `laid` is given the rows as they are laid."""
        height, width = self.shown.labels.shape

        def rows(cut: slice) -> Composed:
            made = self.composed(cut, slice(0, width))
            if laid is not None:
                laid(cut, made)
            return made

        return on_top(rows, height, self.tables.printing())

    def composing(self, laid: Callable[[slice, Composed], None] | None = None) -> Composing:
        """Return what the traps of the page are worked out from; `laid` as for `on_top`."""
        top = partial(self.on_top, laid)
        return Composing(top, self.piece(passes=False), self.tables.plates, self.tables.washes)

    def trapped_by(self, traps: Traps) -> "Ready":
        """Return the page with tables that know the inks of some traps, which are of the same page."""
        plates = replace(self.tables.plates, inks=traps.inks)
        return replace(self, tables=self.tables.with_plates(plates))


def plain_lines(colors: Colors) -> Colors:
    """Return colours with every line black."""
    return Colors(colors.flat, np.zeros_like(colors.line) + np.array([0, 0, 0, 255], np.uint8))


def marks_of(book: Book, page: int) -> dict[int, TilePlane]:
    """Return what is marked in the holds of a page as it is now, by number."""
    return {n: book.plane(MARKS.key(page, n)).copy() for n in book.sources(page)[HOLDS]}
