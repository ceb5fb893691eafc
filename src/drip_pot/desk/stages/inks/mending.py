# SPDX-License-Identifier: GPL-3.0-or-later
"""The pen, the scraper and the mirror. Knows the line in hand."""

from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QColor, QPainter, QPen, QPolygonF

from drip_pot.desk.session.easel import Easel
from drip_pot.desk.stages.inks.inking import Inking
from drip_pot.desk.view.senses import Senses
from drip_pot.desk.view.tool import Mods, PressedStroke, StrokeTool, draw_with, length, tool


@tool("Inks")
class PenTool(PressedStroke):
    """Draw ink on the repair sheet."""

    name = "Pen"
    place = 40
    key = "P"
    closed = False
    away = False
    says = "Draw ink on the repair sheet; the scan is never changed. [ and ]: width."
    senses = Senses(shift="keep it straight", alt="scrape")

    def drag(self, row: float, col: float, mods: Mods) -> None:
        if mods & Mods.ShiftModifier and self._points:
            self._points, self._pressures = [self._points[0], (row, col)], [self._pressures[0]] * 2
        else:
            super().drag(row, col, mods)

    def drawn(self, stroke: list[tuple[float, float, float]], mods: Mods) -> None:
        self.easel.own(Inking).stroke(stroke, away=self.away != bool(mods & Mods.AltModifier))

    def widen(self, factor: float) -> bool:
        self.easel.own(Inking).widen(factor)
        return True

    def marks(self, painter: QPainter, zoom: float) -> None:
        if not self._points:
            return
        for k, (r, c) in enumerate(self._points):
            wide = max(self.easel.own(Inking).pen_px * self._pressures[k], 0.6)
            pen = QPen(QColor("#ffffff" if self.away else "#161616"), wide)
            pen.setCapStyle(Qt.PenCapStyle.RoundCap)
            painter.setPen(pen)
            start = self._points[max(k - 1, 0)]
            painter.drawLine(QPointF(start[1], start[0]), QPointF(c, r))


@tool("Inks")
class Scraper(PenTool):
    """Scrape ink away on the repair sheet."""

    name = "Scraper"
    place = 50
    key = "S"
    away = True
    says = "Scrape ink away; the scan is never changed. [ and ]: width."
    senses = Senses(shift="keep it straight", alt="draw")


@tool("Inks")
class Mirror(StrokeTool):
    """Lift a loop and lay its mirror image on the page."""

    name = "Mirror"
    place = 60
    key = "M"
    says = "Loop round a part, then click where its mirror axis stands. Escape gives it up."

    def __init__(self, easel: Easel) -> None:
        super().__init__(easel)
        self._lifted: list[tuple[float, float]] = []

    def press(self, row: float, col: float, mods: Mods) -> None:
        if self._lifted:
            loop, self._lifted = self._lifted, []
            self.easel.own(Inking).mirror(loop, col)
        else:
            super().press(row, col, mods)

    def done(self, points: list[tuple[float, float]], mods: Mods) -> None:
        if len(points) >= 3 and length(points) >= 12:
            self._lifted = points
            self.easel.said.emit("Now click where the mirror axis stands.", False)

    def cancel(self) -> None:
        super().cancel()
        self._lifted = []

    def marks(self, painter: QPainter, zoom: float) -> None:
        super().marks(painter, zoom)
        if self._lifted:
            for shade, width in (("#ffffff", 3.2), ("#161616", 1.4)):
                draw_with(painter, shade, width)
                painter.drawPolygon(QPolygonF([QPointF(c, r) for r, c in self._lifted]))
