"""The soft brush of Shade. Knows the pass in hand."""

from PyQt6.QtGui import QPainter

from drip_pot.desk.stages.shade.shading import Shading
from drip_pot.desk.view.tool import Mods, PressedStroke, draw_brush, tool


@tool("Shade")
class Mist(PressedStroke):
    """Lay soft light or shadow."""

    name = "Mist"
    place = 30
    key = "M"
    says = "Lay the pass in hand softly. Alt: wipe it off. Shift: only inside the region you begin in. [ and ]: width."

    def drawn(self, stroke: list[tuple[float, float, float]], mods: Mods) -> None:
        only = self.easel.atom_at(*stroke[0][:2]) if mods & Mods.ShiftModifier else 0
        self.easel.own(Shading).mist(stroke, away=bool(mods & Mods.AltModifier), only=only)

    def widen(self, factor: float) -> bool:
        self.easel.own(Shading).widen(factor)
        return True

    def marks(self, painter: QPainter, zoom: float) -> None:
        draw_brush(painter, self._points, self.easel.own(Shading).width_px, "#30161616")
