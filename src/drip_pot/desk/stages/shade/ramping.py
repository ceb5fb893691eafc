"""Ramps drawn over the page and pulled by their handles. Knows the pass in hand."""

import numpy as np
from PyQt6.QtCore import QPointF
from PyQt6.QtGui import QColor, QPainter

from drip_pot.core.render import Ramp as Run
from drip_pot.desk.session.easel import Easel
from drip_pot.desk.stages.shade.shading import Shading
from drip_pot.desk.view.tool import Mods, Tool, draw_with, tool

_REACH = 12


@tool("Shade")
class Ramp(Tool):
    """Draw a ramp, or pull the handles of the one in hand."""

    name = "Ramp"
    place = 50
    key = "R"
    says = "Drag from where a run of colour begins to where it ends; drag a handle to move it. Shift: round a middle."

    def __init__(self, easel: Easel) -> None:
        super().__init__(easel)
        self._ends: list[tuple[float, float]] = []
        self._held = 1

    def _ramp(self) -> Run | None:
        held = self.easel.own(Shading).in_hand()
        return None if held is None else held[1].ramp

    def press(self, row: float, col: float, mods: Mods) -> None:
        ramp, reach = self._ramp(), _REACH / max(self.easel.zoom, 0.01)
        self._ends, self._held = [(row, col), (row, col)], 1
        for place, at in enumerate((ramp.start, ramp.end) if ramp is not None else ()):
            if np.hypot(row - at[0], col - at[1]) <= reach and ramp is not None:
                self._ends, self._held = [ramp.start, ramp.end], place

    def drag(self, row: float, col: float, mods: Mods) -> None:
        if self._ends:
            self._ends[self._held] = (row, col)

    def release(self, row: float, col: float, mods: Mods) -> None:
        ends, self._ends = self._ends, []
        if not ends:
            return
        if np.hypot(ends[0][0] - ends[1][0], ends[0][1] - ends[1][1]) < 2:
            self.easel.said.emit("Drag from where the ramp begins to where it ends.", False)
            return
        self.easel.own(Shading).run(ends[0], ends[1], radial=bool(mods & Mods.ShiftModifier))

    def cancel(self) -> None:
        self._ends = []

    def marks(self, painter: QPainter, zoom: float) -> None:
        ramp = self._ramp()
        ends = self._ends or ([] if ramp is None else [ramp.start, ramp.end])
        if not ends:
            return
        spots = [QPointF(c, r) for r, c in ends]
        for shade, width in (("#ffffff", 4.0), ("#161616", 1.6)):
            draw_with(painter, shade, width)
            painter.drawLine(*spots)
        painter.setBrush(QColor("#ffffff"))
        for spot in spots:
            painter.drawEllipse(spot, 6 / zoom, 6 / zoom)
