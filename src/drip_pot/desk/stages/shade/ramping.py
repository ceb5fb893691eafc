# SPDX-License-Identifier: GPL-3.0-or-later
"""Ramps drawn over the page and pulled by their handles. Knows the pass in hand."""

import numpy as np
from PyQt6.QtCore import QPointF
from PyQt6.QtGui import QColor, QPainter, QPolygonF

from drip_pot.core.render import Ramp, path_of
from drip_pot.desk.session.easel import Easel
from drip_pot.desk.stages.shade.shading import Shading
from drip_pot.desk.view.senses import Senses
from drip_pot.desk.view.tool import Mods, Tool, draw_with, tool

_REACH = 12


@tool("Shade")
class RampTool(Tool):
    """Draw a ramp, or pull the handles of the one in hand."""

    name = "Ramp"
    place = 50
    key = "R"
    group = "soft"
    says = "Drag a run of colour from its start to its end, or pull a handle."
    senses = Senses(shift="keep round a middle", ctrl="all along the way of the hand")

    def __init__(self, easel: Easel) -> None:
        super().__init__(easel)
        self._ends: list[tuple[float, float]] = []
        self._held = 1
        self._drawn: list[tuple[float, float]] = []

    def _ramp(self) -> Ramp | None:
        held = self.easel.own(Shading).in_hand()
        return None if held is None else held[1].ramp

    def press(self, row: float, col: float, mods: Mods) -> None:
        ramp, reach = self._ramp(), _REACH / max(self.easel.zoom, 0.01)
        self._ends, self._held = [(row, col), (row, col)], 1
        self._drawn = [(row, col)] if mods & Mods.ControlModifier else []
        if self._drawn:
            return
        for place, at in enumerate((ramp.start, ramp.end) if ramp is not None else ()):
            if np.hypot(row - at[0], col - at[1]) <= reach and ramp is not None:
                self._ends, self._held = [ramp.start, ramp.end], place

    def drag(self, row: float, col: float, mods: Mods) -> None:
        if self._ends:
            self._ends[self._held] = (row, col)
        if self._drawn:
            self._drawn.append((row, col))

    def release(self, row: float, col: float, mods: Mods) -> None:
        ends, self._ends = self._ends, []
        drawn, self._drawn = self._drawn, []
        if not ends:
            return
        if len(drawn) > 2:
            self.easel.own(Shading).run_along(path_of(drawn))
            return
        if np.hypot(ends[0][0] - ends[1][0], ends[0][1] - ends[1][1]) < 2:
            self.easel.said.emit("Drag from where the ramp begins to where it ends.", False)
            return
        self.easel.own(Shading).run(ends[0], ends[1], radial=bool(mods & Mods.ShiftModifier))

    def cancel(self) -> None:
        self._ends, self._drawn = [], []

    def marks(self, painter: QPainter, zoom: float) -> None:
        ramp = self._ramp()
        ends = self._ends or ([] if ramp is None else [ramp.start, ramp.end])
        if not ends:
            return
        spots = [QPointF(c, r) for r, c in ends]
        between = ramp.path if ramp is not None and ramp.form == "along" else ()
        line = self._drawn or [ends[0], *between, ends[1]]
        for shade, width in (("#ffffff", 4.0), ("#161616", 1.6)):
            draw_with(painter, shade, width)
            painter.drawPolyline(QPolygonF([QPointF(c, r) for r, c in line]))
        painter.setBrush(QColor("#ffffff"))
        for spot in spots:
            painter.drawEllipse(spot, 6 / zoom, 6 / zoom)
