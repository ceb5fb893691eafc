# SPDX-License-Identifier: GPL-3.0-or-later
"""Verbs that mend the line on the repair sheet. Knows the line as it is now; no window, no file."""

import numpy as np

from drip_pot.book.asking import order
from drip_pot.book.book import Book
from drip_pot.book.store import Edit
from drip_pot.book.values import REPAIR
from drip_pot.core.arrays import U8, Rect
from drip_pot.core.errors import NothingDone
from drip_pot.core.inks import (
    covered,
    lay_ink,
    matched_to,
    mirrored,
    scrape,
    smoothed,
    stroke_ink,
    stroke_mask,
    tapered,
)
from drip_pot.core.shade import loop_mask


def mend_line(book: Book, page: int, rect: Rect, repair: U8, title: str) -> None:
    """Change the repair sheet within a rectangle."""
    name = REPAIR.key(page)
    tiles = book.plane(name).replaced(name, rect, repair)
    if tiles:
        book.apply(Edit("mend", title, (), tiles))


@order
def draw_ink(
    book: Book, page: int, points: list[tuple[float, float, float]], width_px: float, *, ink: U8,
    steady: float = 0.0, taper: float = 0.0, matches: bool = False, away: bool = False,
) -> None:  # fmt: skip
    """Lay a stroke of ink (row, col, pressure 0..1) on the repair sheet, or scrape ink away; `ink` is the contour.

    It tapers on a share of its way, and is as wide as the line it begins and ends on where it `matches` that.
    """
    points = smoothed(points, steady)
    points = tapered(matched_to(points, ink, width_px) if matches and points else points, taper)
    wide = max([width_px, *(width_px * pressure for *_, pressure in points if matches)])
    points = [(row, col, pressure * width_px / wide) for row, col, pressure in points]
    rect, stroke = stroke_ink(points, wide, (ink.shape[0], ink.shape[1]))
    before = book.plane(REPAIR.key(page)).read(rect)
    repair = (scrape if away else lay_ink)(before, ink[rect[0] : rect[2], rect[1] : rect[3]], stroke)
    mend_line(book, page, rect, repair, "Scrape ink away" if away else "Draw with the pen")


@order
def mirror_ink(book: Book, page: int, points: list[tuple[float, float]], axis_col: float, *, ink: U8) -> None:
    """Lift what a loop encloses and lay its mirror image on the repair sheet, about an upright axis."""
    (top, left, bottom, right), mask = loop_mask(points, (ink.shape[0], ink.shape[1]))
    shift, flipped, where = mirrored(ink[top:bottom, left:right], mask.astype(np.uint8), axis_col - left)
    start = left + shift
    low, high = max(start, 0), min(start + flipped.shape[1], ink.shape[1])
    if high <= low:
        raise NothingDone("The mirror image would lie beside the page.")
    rect, own = (top, low, bottom, high), slice(low - start, high - start)
    before = book.plane(REPAIR.key(page)).read(rect)
    mend_line(book, page, rect, covered(before, flipped[:, own], where[:, own]), "Mirror a loop")


@order
def draw_line(
    book: Book, page: int, start: tuple[float, float], end: tuple[float, float], width_px: float,
    title: str = "Draw a straight line",
) -> None:  # fmt: skip
    """Draw a straight line of full ink on the repair sheet, from (row, col) to (row, col)."""
    known = book.sources(page).page
    rect, stroke = stroke_mask([start, end], width_px, (known.rows, known.cols))
    piece = book.plane(REPAIR.key(page)).read(rect)
    mend_line(book, page, rect, lay_ink(piece, np.zeros_like(piece), stroke * np.uint8(255)), title)
