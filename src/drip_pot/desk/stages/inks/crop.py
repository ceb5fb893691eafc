# SPDX-License-Identifier: GPL-3.0-or-later
"""The page cropped or grown. Knows the page."""

from PyQt6.QtCore import QRectF
from PyQt6.QtGui import QPainter

from drip_pot.book import verbs
from drip_pot.core.arrays import Rect
from drip_pot.desk.session.easel import Easel
from drip_pot.desk.view.senses import Senses
from drip_pot.desk.view.tool import Mods, Tool, draw_with, tool


@tool("Inks")
class Crop(Tool):
    """Drag out what the page shall be."""

    name = "Crop"
    place = 80
    key = "C"
    says = "Drag out the new page; beyond the edge it grows. Exact sizes stand under Page."
    senses = Senses(shift="keep the page's shape")

    def __init__(self, easel: Easel) -> None:
        super().__init__(easel)
        self._from: tuple[float, float] | None = None
        self._to = (0.0, 0.0)

    def press(self, row: float, col: float, mods: Mods) -> None:
        self._from = self._to = (row, col)

    def drag(self, row: float, col: float, mods: Mods) -> None:
        if self._from is None or self.easel.view is None:
            return
        if mods & Mods.ShiftModifier:
            rows, cols = self.easel.view.shape
            down = abs(col - self._from[1]) * rows / cols
            row = self._from[0] + (down if row >= self._from[0] else -down)
        self._to = (row, col)

    def release(self, row: float, col: float, mods: Mods) -> None:
        start, self._from = self._from, None
        if start is None:
            return
        rect = _box(start, self._to)
        if rect[2] - rect[0] >= 16 and rect[3] - rect[1] >= 16:
            self.easel.do(lambda book, page: verbs.crop_page(book, page, rect))

    def cancel(self) -> None:
        self._from = None

    def marks(self, painter: QPainter, zoom: float) -> None:
        if self._from is None:
            return
        top, left, bottom, right = _box(self._from, self._to)
        for shade, width in (("#ffffff", 3.2), ("#161616", 1.4)):
            draw_with(painter, shade, width)
            painter.drawRect(QRectF(left, top, right - left, bottom - top))


def _box(a: tuple[float, float], b: tuple[float, float]) -> Rect:
    return round(min(a[0], b[0])), round(min(a[1], b[1])), round(max(a[0], b[0])), round(max(a[1], b[1]))
