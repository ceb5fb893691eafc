# SPDX-License-Identifier: GPL-3.0-or-later
"""Shapes cut into shadow and light: drawn by hand, or corner by corner. Knows the page at hand."""

import numpy as np
from PyQt6.QtCore import QPointF, QRectF
from PyQt6.QtGui import QColor, QPainter, QPolygonF

from drip_pot.core.errors import BadInput
from drip_pot.core.shade import Knot, outline
from drip_pot.desk.session.easel import Easel
from drip_pot.desk.stages.shade.shaping import Shaping, knots_of
from drip_pot.desk.view.senses import BRUSH, Senses
from drip_pot.desk.view.tool import Mods, StrokeTool, draw_with, length, tool

_CLICK, _CLOSE = 4, 10


@tool("Shade")
class CutShade(StrokeTool):
    """Loop an area into shadow."""

    name = "Cut shade"
    place = 10
    key = "S"
    group = "cut"
    light = False
    says = "Loop round an area to put it in shadow, or click its corners (drag for a curve; Enter ends)."
    senses = Senses(BRUSH.shift, BRUSH.ctrl, "give light")

    def __init__(self, easel: Easel) -> None:
        super().__init__(easel)
        self._knots: list[Knot] = []
        self._mods = Mods.NoModifier

    def press(self, row: float, col: float, mods: Mods) -> None:
        super().press(row, col, mods)
        if not self._knots:
            self._mods = mods

    def drag(self, row: float, col: float, mods: Mods) -> None:
        if self._framed() and self._points:
            self._points = [self._points[0], (row, col)]
        else:
            super().drag(row, col, mods)

    def _framed(self) -> bool:
        """Whether a box or an oval is drawn, from corner to corner."""
        return self.easel.own(Shaping).shape != "Freehand" and not self._knots

    def done(self, points: list[tuple[float, float]], mods: Mods) -> None:
        zoom = max(self.easel.zoom, 0.01)
        if self._framed() and length(points) * zoom > _CLICK:
            knots = knots_of(self.easel.own(Shaping).shape, points[0], points[-1])
            self._lay([(r, c) for r, c, _ in knots], knots, self._mods)
            return
        if not self._knots and length(points) * zoom > _CLICK:
            if len(points) >= 3:
                self._lay(points, (), self._mods)
            return
        at = points[-1]
        for known in (self._knots[0], self._knots[-1]) if len(self._knots) >= 3 else ():
            if np.hypot(at[0] - known[0], at[1] - known[1]) * zoom <= _CLOSE:
                self.finish()
                return
        self._knots.append((*at, length(points) * zoom > _CLICK))

    def finish(self) -> bool:
        knots, self._knots = self._knots, []
        if len(knots) >= 3:
            self._lay([(r, c) for r, c, _ in knots], tuple(knots), self._mods)
        elif knots:
            self.easel.said.emit("A shape needs at least three corners; nothing was cut.", False)
        return bool(knots)

    def _lay(self, points: list[tuple[float, float]], knots: tuple[Knot, ...], mods: Mods) -> None:
        light = self.light != bool(mods & Mods.AltModifier)
        self.easel.own(Shaping).cut(points, mods, light=light, knots=knots)

    def delete(self) -> bool:
        return bool(self._knots and self._knots.pop())

    def cancel(self) -> None:
        super().cancel()
        self._knots = []

    def marks(self, painter: QPainter, zoom: float) -> None:
        if self._framed() and len(self._points) > 1:
            knots = knots_of(self.easel.own(Shaping).shape, self._points[0], self._points[-1])
            draw_shape(painter, list(knots), zoom, handles=False)
            return
        if not self._knots:
            super().marks(painter, zoom)
            return
        coming = [*self._knots, *((r, c, False) for r, c in self._points[-1:])]
        draw_shape(painter, coming, zoom, closed=len(coming) >= 3)


@tool("Shade")
class CutLight(CutShade):
    """Loop an area into light."""

    name = "Cut light"
    place = 20
    key = "L"
    group = "cut"
    light = True
    says = "Loop round an area to give it back to the light, or click its corners (drag for a curve; Enter ends)."
    senses = Senses(BRUSH.shift, BRUSH.ctrl, "put in shadow")


def draw_shape(
    painter: QPainter, knots: list[Knot], zoom: float, *, closed: bool = True, handles: bool = True
) -> None:  # fmt: skip
    """Draw the outline of a shape, with its knots to be grabbed: square at corners, round where it runs smoothly."""
    try:
        line = QPolygonF([QPointF(c, r) for r, c in outline(knots).tolist()])
    except BadInput:
        line = QPolygonF([QPointF(c, r) for r, c, _ in knots])
    for shade, width in (("#ffffff", 3.2), ("#161616", 1.4)):
        draw_with(painter, shade, width)
        if closed:
            painter.drawPolygon(line)
        else:
            painter.drawPolyline(line)
    if handles:
        painter.setBrush(QColor("#ffffff"))
        half = 3.5 / zoom
        for r, c, smooth in knots:
            box = QRectF(c - half, r - half, 2 * half, 2 * half)
            if smooth:
                painter.drawEllipse(box)
            else:
                painter.drawRect(box)
