# SPDX-License-Identifier: GPL-3.0-or-later
"""The works of the demo book, rendered with the truth about them. Knows the pen, the pages and the scanner."""

import math
from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import lru_cache

import cv2
import numpy as np

from drip_pot.core.arrays import I32, U8
from drip_pot.core.errors import BadInput
from drip_pot.demo.cover import draw_cover
from drip_pot.demo.page_four import draw_page_four
from drip_pot.demo.page_one import draw_page_one
from drip_pot.demo.page_three import draw_page_three
from drip_pot.demo.page_two import construction, draw_page_two
from drip_pot.demo.pen import HIGH, WIDE, Gap, Pen, Stroke
from drip_pot.demo.sequence import FRAMES, SIDE, draw_frame
from drip_pot.devices import Dust, flawed_scan, in_color

SKEW_DEG = 0.45


@dataclass(frozen=True)
class DemoWork:
    """A work of the demo book: short name, title, what draws it, size in units, whether it is scanned, seed."""

    name: str
    title: str
    draw: Callable[[Pen], None]
    size: tuple[float, float] = (WIDE, HIGH)
    scanned: bool = False
    seed: int = 7


WORKS = (
    DemoWork("page-1", "Torn in the wind", draw_page_one),
    DemoWork("page-2", "The patient", draw_page_two, scanned=True),
    DemoWork("page-3", "Market day", draw_page_three),
    DemoWork("page-4", "The storm", draw_page_four),
    DemoWork("cover", "Cover", draw_cover, seed=10),
    *(DemoWork(f"sequence-{k + 1}", f"Turning, frame {k + 1}", draw_frame(k), (SIDE, SIDE)) for k in range(FRAMES)),
)


@dataclass(frozen=True)
class DemoDrawing:
    """A rendered work and the truth about it.

    Attributes
    ----------
    ink : (M, N) ndarray of uint8
        Coverage of the line without lettering and without planted gaps.
    broken : (M, N) ndarray of uint8
        The same with its gaps open.
    scan : (M, N, 3) ndarray of uint8, or None
        What the flatbed made of it, for scanned works; sRGB.
    lettering, balloons : (M, N) ndarrays of uint8
        The lettering sheet: ink, and where it covers with white.
    things : (M, N) ndarray of int32
        True regions: number of the thing on top, 0 for bare paper.
    pot, pots, shade
        Index of the pot that belongs at each pixel, its names, and 1 where shadow belongs.
    gaps, dust, strokes
        Breaks, planted specks, and all centre-lines with their sheets.
    """

    work: DemoWork
    dpi: float
    ink: U8
    broken: U8
    scan: U8 | None
    lettering: U8
    balloons: U8
    things: I32
    pot: U8
    pots: tuple[str, ...]
    shade: U8
    gaps: tuple[Gap, ...]
    dust: tuple[Dust, ...]
    strokes: tuple[Stroke, ...]


def work_named(name: str) -> DemoWork:
    """Return a work by its short name; raises `BadInput` if there is none."""
    for work in WORKS:
        if work.name == name:
            return work
    raise BadInput("The demo book has no work called '{0}'. It has {1}.", name, ", ".join(w.name for w in WORKS))


@lru_cache(maxsize=2)
def draw(name: str, dpi: float) -> DemoDrawing:
    """Render a work at a resolution (30..1200 dpi); the newest two are kept."""
    work = work_named(name)
    pen = Pen(dpi, work.seed, work.size)
    work.draw(pen)
    ink = pen.ink
    pen.finish()
    drawing = DemoDrawing(
        work, dpi, ink, pen.ink, None, pen.sheets["lettering"], pen.balloons, pen.things, pen.pot_plane,
        tuple(pen.pots), pen.shade_plane, tuple(pen.gaps), (), tuple(pen.strokes),
    )  # fmt: skip
    return _scanned(drawing) if work.scanned else drawing


def pencil_of(drawing: DemoDrawing) -> U8 | None:
    """Return the coverage of the blue pencil under a work, (M, N) uint8; None where there is none."""
    if drawing.work.name != "page-2":
        return None
    pen = Pen(30)
    px = pen.px * drawing.dpi / pen.dpi
    pencil = np.zeros_like(drawing.ink)
    for points, closed in construction(pen):
        line = np.rint(np.array(points) * px * 16).astype(np.int32)
        cv2.polylines(pencil, [line], closed, 150, max(1, round(1.6 * px)), cv2.LINE_AA, 4)
    return pencil


def _scanned(drawing: DemoDrawing) -> DemoDrawing:
    """Lay a drawing slightly askew on the flatbed, with its blue pencil lines, and scan it in colour."""
    rows, cols = drawing.ink.shape
    turn = cv2.getRotationMatrix2D((cols / 2, rows / 2), SKEW_DEG, 1.0)

    def turned(plane: U8, *, hard: bool = False) -> U8:
        way = cv2.INTER_NEAREST if hard else cv2.INTER_LINEAR
        return np.asarray(cv2.warpAffine(plane, turn, (cols, rows), flags=way), np.uint8)

    things = cv2.warpAffine(drawing.things.astype(np.float32), turn, (cols, rows), flags=cv2.INTER_NEAREST)
    broken, pencil = turned(drawing.broken), pencil_of(drawing)
    grey, dust = flawed_scan(broken, drawing.dpi)
    gaps = []
    for gap in drawing.gaps:
        col, row = turn @ np.array([gap.col, gap.row, 1.0])
        gaps.append(replace(gap, row=float(row), col=float(col)))
    return replace(
        drawing, ink=turned(drawing.ink), broken=broken, scan=in_color(grey, None if pencil is None else turned(pencil)),
        things=things.astype(np.int32), pot=turned(drawing.pot, hard=True), shade=turned(drawing.shade, hard=True),
        gaps=tuple(gaps), dust=tuple(dust),
    )  # fmt: skip


def colored(drawing: DemoDrawing, pairs: dict[str, tuple[str, str]], most_px: int = 1400) -> U8:
    """Return a work in two tones without its line, (M, N, 3) uint8, at most `most_px` wide."""
    step = max(1, math.ceil(drawing.pot.shape[1] / most_px))
    white = ("#ffffff", "#ffffff")
    table = np.array([[tuple(bytes.fromhex(c[1:])) for c in pairs.get(pot, white)] for pot in drawing.pots], np.uint8)
    found: U8 = table[drawing.pot[::step, ::step], drawing.shade[::step, ::step]]
    return found
