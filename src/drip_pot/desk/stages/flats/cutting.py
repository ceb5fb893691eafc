# SPDX-License-Identifier: GPL-3.0-or-later
"""Shapes cut out of what is there. Knows the page at hand."""

import numpy as np
from PyQt6.QtCore import QPointF, QRectF
from PyQt6.QtGui import QColor, QPainter

from drip_pot.desk.stages.flats.flatting import Flatting
from drip_pot.desk.view.senses import Senses
from drip_pot.desk.view.tool import Mods, StrokeTool, draw_brush, draw_with, tool


@tool("Flats")
class CutOut(StrokeTool):
    """Cut a hard-edged shape out of what is there, whatever the line says."""

    name = "Cut-out"
    place = 60
    key = "X"
    group = "colour"
    says = "Cut a shape out of what is there, whatever the line says."
    senses = Senses(shift="keep the colour it lies on", alt="give back what was cut out")

    def hint(self) -> str:
        return {
            "Straight": "Click corner after corner; the first again, or twice in one place, closes the shape.",
            "Pencil": "Draw hard pixels in the pot in hand. [ and ]: width.",
            "Eraser": "Rub over what was cut out: it goes back to the regions it was taken from. [ and ]: width.",
        }.get(self.easel.own(Flatting).shape, "Draw a shape: it becomes a region in the pot in hand.")

    def press(self, row: float, col: float, mods: Mods) -> None:
        if self.easel.own(Flatting).shape != "Straight":
            self.closed = self.easel.own(Flatting).shape == "Freehand"
            super().press(row, col, mods)
            return
        near = 10 / max(self.easel.zoom, 0.01)
        corners = self._points
        again = bool(corners) and np.hypot(row - corners[-1][0], col - corners[-1][1]) <= near / 3
        home = len(corners) > 2 and np.hypot(row - corners[0][0], col - corners[0][1]) <= near
        if len(corners) > 2 and (home or again):
            self._points = []
            self.done(corners, mods)
        elif not again:
            self.closed = False
            self._points = [*corners, (row, col)]

    def drag(self, row: float, col: float, mods: Mods) -> None:
        if self.easel.own(Flatting).shape == "Straight":
            return
        if self.easel.own(Flatting).shape in ("Box", "Oval") and self._points:
            self._points = [self._points[0], (row, col)]
        else:
            super().drag(row, col, mods)

    def release(self, row: float, col: float, mods: Mods) -> None:
        if self.easel.own(Flatting).shape != "Straight":
            super().release(row, col, mods)

    def done(self, points: list[tuple[float, float]], mods: Mods) -> None:
        self.easel.own(Flatting).cut_out(
            points, back=bool(mods & Mods.AltModifier), keep=bool(mods & Mods.ShiftModifier)
        )

    def widen(self, factor: float) -> bool:
        if self.easel.own(Flatting).shape not in ("Pencil", "Eraser"):
            return False
        self.easel.own(Flatting).widen("Cut-out", factor)
        return True

    def marks(self, painter: QPainter, zoom: float) -> None:
        shape = self.easel.own(Flatting).shape
        if shape in ("Pencil", "Eraser"):
            draw_brush(painter, self._points, self.easel.own(Flatting).widths["Cut-out"])
        elif shape in ("Box", "Oval") and len(self._points) > 1:
            (r0, c0), (r1, c1) = self._points[0], self._points[-1]
            for shade, width in (("#ffffff", 3.2), ("#161616", 1.4)):
                draw_with(painter, shade, width)
                box = QRectF(QPointF(c0, r0), QPointF(c1, r1)).normalized()
                (painter.drawRect if shape == "Box" else painter.drawEllipse)(box)
        else:
            super().marks(painter, zoom)
            if shape == "Straight":
                draw_with(painter, "#161616", 1.4)
                painter.setBrush(QColor("#ffffff"))
                for r, c in self._points:
                    painter.drawEllipse(QPointF(c, r), 3.5 / zoom, 3.5 / zoom)
