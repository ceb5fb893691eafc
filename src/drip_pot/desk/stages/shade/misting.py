"""The soft brush of Shade. Knows the pass in hand."""

from PyQt6.QtGui import QPainter

from drip_pot.desk.session.easel import Easel
from drip_pot.desk.stages.shade.shading import Shading
from drip_pot.desk.view.tool import Mods, Stroke, draw_brush, tool


@tool("Shade")
class Mist(Stroke):
    """Lay soft light or shadow."""

    name = "Mist"
    place = 30
    key = "M"
    closed = False
    says = "Lay the pass in hand softly. Alt: wipe it off. Shift: only inside the region you begin in. [ and ]: width."

    def __init__(self, easel: Easel) -> None:
        super().__init__(easel)
        self._pressures: list[float] = []

    def press(self, row: float, col: float, mods: Mods) -> None:
        super().press(row, col, mods)
        self._pressures = [self.easel.pressure]

    def drag(self, row: float, col: float, mods: Mods) -> None:
        before = len(self._points)
        super().drag(row, col, mods)
        if len(self._points) > before:
            self._pressures.append(self.easel.pressure)

    def done(self, points: list[tuple[float, float]], mods: Mods) -> None:
        stroke = [(r, c, p) for (r, c), p in zip(points, self._pressures, strict=True)]
        only = self.easel.atom_at(*points[0]) if mods & Mods.ShiftModifier else 0
        self.easel.own(Shading).mist(stroke, away=bool(mods & Mods.AltModifier), only=only)

    def widen(self, factor: float) -> bool:
        self.easel.own(Shading).widen(factor)
        return True

    def marks(self, painter: QPainter, zoom: float) -> None:
        draw_brush(painter, self._points, self.easel.own(Shading).width_px, "#30161616")
