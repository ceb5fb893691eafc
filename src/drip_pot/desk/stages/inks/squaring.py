# SPDX-License-Identifier: GPL-3.0-or-later
"""A photographed drawing laid square by its four corners. Knows the page."""

import numpy as np
from PyQt6.QtCore import QPointF
from PyQt6.QtGui import QColor, QPainter, QPolygonF

from drip_pot.book import verbs
from drip_pot.desk.session.easel import Easel
from drip_pot.desk.view.tool import Mods, Tool, draw_with, tool

Spots = list[tuple[float, float]]


@tool("Inks")
class SquareTool(Tool):
    """Pull four corners onto those of the paper; Enter lays it square."""

    name = "Square"
    place = 82
    key = "L"
    says = "A photograph at a slant: drag the four corners onto those of the paper, then Enter lays it square."

    def __init__(self, easel: Easel) -> None:
        super().__init__(easel)
        self._corners: Spots = []
        self._held: int | None = None

    def _shown(self) -> Spots:
        if self._corners or self.easel.view is None:
            return self._corners
        rows, cols = self.easel.view.shape
        return [(0.0, 0.0), (0.0, float(cols)), (float(rows), float(cols)), (float(rows), 0.0)]

    def press(self, row: float, col: float, mods: Mods) -> None:
        self._corners = self._shown()
        away = [float(np.hypot(row - r, col - c)) for r, c in self._corners]
        self._held = int(np.argmin(away)) if away else None
        self.drag(row, col, mods)

    def drag(self, row: float, col: float, mods: Mods) -> None:
        if self._held is not None:
            self._corners[self._held] = (round(row, 1), round(col, 1))

    def release(self, row: float, col: float, mods: Mods) -> None:
        self._held = None
        self.easel.said.emit("Enter lays the paper square, Escape gives up.", False)

    def finish(self) -> bool:
        """Lay the paper square; return whether its corners were pulled."""
        corners, number = self._corners, self.easel.sheet
        if not corners:
            return False
        if self.easel.do(lambda book, page: verbs.square_sheet(book, page, corners, number)):
            self.cancel()
        return True

    @property
    def is_midway(self) -> bool:
        return bool(self._corners)

    def cancel(self) -> None:
        self._corners, self._held = [], None

    def dropped(self) -> None:
        self.cancel()

    def marks(self, painter: QPainter, zoom: float) -> None:
        shown = self._shown()
        for shade, width in (("#ffffff", 3.2), ("#161616", 1.4)):
            draw_with(painter, shade, width)
            painter.drawPolygon(QPolygonF([QPointF(c, r) for r, c in shown]))
        draw_with(painter, "#ffffff", 2)
        painter.setBrush(QColor("#161616"))
        for row, col in shown:
            painter.drawEllipse(QPointF(col, row), 7 / zoom, 7 / zoom)
