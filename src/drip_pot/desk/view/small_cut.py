# SPDX-License-Identifier: GPL-3.0-or-later
"""A small picture of a place of the page, for lists. Knows how pages are drawn; nothing of lists."""

from PyQt6.QtGui import QImage

from drip_pot.core.arrays import Rect
from drip_pot.desk.session.page_view import PageView
from drip_pot.desk.view.render import Look, render_tile

_TILE, _SMALL = 256, 90


def cut_of_page(rect: Rect, view: PageView) -> QImage | None:
    """Return what lies in a rectangle (top, left, bottom, right) as a small square picture; None beyond the page."""
    top, left, bottom, right = rect
    side = max(bottom - top, right - left, 1)
    level = min(max(0, (side // _SMALL).bit_length()), view.levels - 1)
    size = _TILE << level
    row, col = max(0, (top + bottom) // 2) // size, max(0, (left + right) // 2) // size
    rows, cols = view.shape
    if row * size >= rows or col * size >= cols:
        return None
    tile = render_tile(view, Look(kind="flats" if view.flat is not None else "line"), level, row, col)
    x, y = (left - col * size) >> level, (top - row * size) >> level
    return tile.copy(x, y, max(side >> level, 1), max(side >> level, 1))
