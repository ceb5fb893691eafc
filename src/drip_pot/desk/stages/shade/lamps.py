# SPDX-License-Identifier: GPL-3.0-or-later
"""The lamp: placed, dragged, asked for cuts. Knows the lamps in use."""

import numpy as np
from PyQt6.QtCore import QPointF
from PyQt6.QtGui import QColor, QPainter, QPolygonF

from drip_pot.book.values import Lamp
from drip_pot.desk.stages.shade.lighting import Lighting
from drip_pot.desk.view.senses import Senses
from drip_pot.desk.view.tool import Mods, Tool, draw_with, tool

_REACH, _RAYS = 16, 7


@tool("Shade")
class LampTool(Tool):
    """Place a lamp and drag it."""

    name = "Lamp"
    place = 26
    key = "G"
    group = "light"
    says = "Click to place a lamp, drag it to move the light. Enter: what it does. Delete: the lamp."
    senses = Senses("keep to the panel: a lamp of its own", "also a bounce of the pot in hand")

    _dragged = False

    @property
    def _lighting(self) -> Lighting:
        return self.easel.own(Lighting)

    def press(self, row: float, col: float, mods: Mods) -> None:
        lighting, reach = self._lighting, _REACH / max(self.easel.zoom, 0.01)
        known = lighting.lamps()
        near = [n for n, lamp in known.items() if np.hypot(lamp.row - row, lamp.col - col) <= reach]
        if near:
            lighting.choose(near[-1])
            self._dragged = True
        elif mods & Mods.ShiftModifier:
            panel = lighting.panel_at(row, col)
            own = next((n for n, lamp in known.items() if lamp.panel == panel and not lamp.color), None)
            self._take(own, row, col, panel)
        elif mods & Mods.ControlModifier:
            lighting.place(row, col, lighting.panel_at(row, col), bounce=True)
            self._dragged = True
        else:
            every = next((n for n, lamp in known.items() if lamp.panel == 0 and not lamp.color), None)
            self._take(every, row, col, 0)

    def _take(self, number: int | None, row: float, col: float, panel: int) -> None:
        if number is None:
            self._lighting.place(row, col, panel)
        else:
            self._lighting.choose(number)
            self._lighting.drag_to(row, col)
        self._dragged = True

    def drag(self, row: float, col: float, mods: Mods) -> None:
        if self._dragged:
            self._lighting.drag_to(row, col)

    def release(self, row: float, col: float, mods: Mods) -> None:
        self._dragged = False
        self._lighting.drop()
        self.easel.chosen.emit()

    def confirm(self) -> bool:
        if self._lighting.in_hand() is None:
            return False
        self._lighting.suggest()
        return True

    def delete(self) -> bool:
        return self._lighting.remove()

    def cancel(self) -> None:
        self._dragged = False
        self._lighting.moved, self._lighting.preview = None, []

    def marks(self, painter: QPainter, zoom: float) -> None:
        lighting = self._lighting
        for loop, light in lighting.preview:
            painter.setPen(QColor("#00000000"))
            painter.setBrush(QColor("#50ffffff" if light else "#60201030"))
            painter.drawPolygon(QPolygonF([QPointF(c, r) for r, c in loop[::2].tolist()]))
        for number, lamp in lighting.lamps().items():
            _draw(painter, lamp, zoom, held=number == lighting.number)


def _draw(painter: QPainter, lamp: Lamp, zoom: float, *, held: bool) -> None:
    """Draw a lamp: a disc with short rays, hollow where it stands behind the figures, in its colour if it bounces."""
    middle = QPointF(lamp.col, lamp.row)
    size = (9 if held else 7) / zoom
    turns = np.linspace(0, 2 * np.pi, _RAYS, endpoint=False) - np.pi / 2
    for shade, width in (("#161616", 4.2), ("#ffd84a", 2.0)):
        draw_with(painter, shade, width)
        if not lamp.back:
            painter.setBrush(QColor(lamp.color or "#ffd84a"))
        painter.drawEllipse(middle, size, size)
        for turn in turns.tolist():
            ray = QPointF(np.cos(turn), np.sin(turn))
            painter.drawLine(middle + ray * size * 1.5, middle + ray * size * 2.1)
