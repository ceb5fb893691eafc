# SPDX-License-Identifier: GPL-3.0-or-later
"""What of a page is written: all of it, or what lies within bleed or trim. Knows the size of a page only."""

from typing import Literal

from drip_pot.book.values import Page
from drip_pot.core.arrays import Rect
from drip_pot.core.errors import BadInput

CutTo = Literal["page", "bleed", "trim"]
CUTS: tuple[CutTo, ...] = ("page", "bleed", "trim")
_MM = 25.4


def cut_of(word: str) -> CutTo:
    """Return what files are cut to, by its word; raises `BadInput` for another."""
    for cut in CUTS:
        if word == cut:
            return cut
    raise BadInput("Files are cut to none of '{0}'. Choose from {1}.", word, ", ".join(CUTS))


def rect_of(page: Page, cut: CutTo) -> Rect:
    """Return the pixels that are written, (top, left, bottom, right), to whole pixels.

    The trim lies in the middle of the page; the bleed is as much larger as the page has art for. A page without trim is
    written whole. Raises `BadInput` for an unknown cut.
    """
    if cut_of(cut) == "page" or page.trim_mm is None:
        return 0, 0, page.rows, page.cols
    grow = page.bleed_mm if cut == "bleed" else 0.0
    wide, high = ((mm + 2 * grow) / _MM * page.dpi for mm in page.trim_mm)
    rows, cols = min(page.rows, max(1, round(high))), min(page.cols, max(1, round(wide)))
    top, left = (page.rows - rows) // 2, (page.cols - cols) // 2
    return top, left, top + rows, left + cols
