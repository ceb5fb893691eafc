# SPDX-License-Identifier: GPL-3.0-or-later
"""Edges trapped by hand. Knows the easel; nothing of how traps are found."""

import numpy as np
from PyQt6.QtCore import QPointF
from PyQt6.QtGui import QPainter, QPolygonF

from drip_pot.book import verbs
from drip_pot.book.values import TRAPS, EdgeTrap, TrapWay
from drip_pot.desk.session.easel import Easel
from drip_pot.desk.view.senses import Senses
from drip_pot.desk.view.tool import Mods, Tool, draw_with, tool

_NEAR, _HEAD, _CLICK = 9.0, 7.0, 4.0


class Trapping:
    """How wide traps by hand are: 0 is as everywhere on the page."""

    def __init__(self, easel: Easel) -> None:
        self.width_mm = 0.0


@tool("Press")
class Trap(Tool):
    """Say which side of an edge spreads into the other."""

    name = "Trap"
    place = 15
    key = "P"
    says = "Drag from the region that spreads into another."
    senses = Senses(ctrl="both spread, by half", alt="none, or take an arrow away")

    def __init__(self, easel: Easel) -> None:
        super().__init__(easel)
        self._from: tuple[float, float] | None = None
        self._to = (0.0, 0.0)

    def press(self, row: float, col: float, mods: Mods) -> None:
        self._from = self._to = (row, col)

    def drag(self, row: float, col: float, mods: Mods) -> None:
        self._to = row, col

    def release(self, row: float, col: float, mods: Mods) -> None:
        one, self._from = self._from, None
        if one is None:
            return
        clicked = np.hypot(row - one[0], col - one[1]) * self.easel.zoom <= _CLICK
        number = self._near(row, col) if mods & Mods.AltModifier and clicked else None
        if number is not None:
            self.easel.do(lambda book, page: verbs.remove_trap(book, page, number))
            return
        way: TrapWay = "none" if mods & Mods.AltModifier else "both" if mods & Mods.ControlModifier else "into"
        wide = self.easel.own(Trapping).width_mm
        self.easel.hands.start(lambda hand: verbs.set_trap(hand, one, (row, col), way, wide), [one, (row, col)])

    def cancel(self) -> None:
        self._from = None

    def _near(self, row: float, col: float) -> int | None:
        """Return the trap whose arrow lies next to a place, if one does."""
        sources, reach = self.easel.sources(), _NEAR / max(self.easel.zoom, 0.01)
        found = {} if sources is None else {n: _away(trap, row, col) for n, trap in sources[TRAPS].items()}
        nearest = min(found, key=lambda n: found[n], default=None)
        return nearest if nearest is not None and found[nearest] <= reach else None

    def marks(self, painter: QPainter, zoom: float) -> None:
        sources = self.easel.sources()
        for trap in () if sources is None else sources[TRAPS].values():
            _arrow(painter, trap, zoom)
        if self._from is not None:
            _arrow(painter, EdgeTrap(self._from, self._to), zoom)


def _away(trap: EdgeTrap, row: float, col: float) -> float:
    """Return how far a place lies from the arrow of a trap."""
    start, end, at = np.array(trap.one), np.array(trap.two), np.array([row, col])
    way = end - start
    share = np.clip(np.dot(at - start, way) / max(np.dot(way, way), 1e-9), 0, 1)
    return float(np.hypot(*(start + share * way - at)))


def _arrow(painter: QPainter, trap: EdgeTrap, zoom: float) -> None:
    """Draw which way an edge is trapped: a head at the side that is spread into, a bar across where none is."""
    one, two = QPointF(trap.one[1], trap.one[0]), QPointF(trap.two[1], trap.two[0])
    way = two - one
    long = max((way.x() ** 2 + way.y() ** 2) ** 0.5, 1e-6)
    along, size = way / long, _HEAD / zoom
    across = QPointF(-along.y(), along.x())
    middle = (one + two) / 2
    for shade, width in (("#ffffff", 4.4), ("#161616", 1.8)):
        draw_with(painter, shade, width)
        painter.drawLine(one, two)
        for end, sign, on in ((two, 1, trap.way in ("into", "both")), (one, -1, trap.way in ("back", "both"))):
            if on:
                back = end - along * (sign * size)
                painter.drawPolyline(QPolygonF([back + across * (size * 0.6), end, back - across * (size * 0.6)]))
        if trap.way == "none":
            painter.drawLine(middle + across * size, middle - across * size)
