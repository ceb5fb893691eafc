# SPDX-License-Identifier: GPL-3.0-or-later
"""The brushes of Shade: mist and bristles. Knows the pass in hand."""

from PyQt6.QtGui import QPainter

from drip_pot.desk.stages.shade.shading import Shading
from drip_pot.desk.view.senses import BRUSH
from drip_pot.desk.view.tool import Mods, PressedStroke, draw_brush, tool


@tool("Shade")
class Mist(PressedStroke):
    """Lay soft light or shadow."""

    name = "Mist"
    place = 30
    key = "M"
    group = "soft"
    says = "Lay the pass in hand softly. [ and ]: width."
    senses = BRUSH

    def drawn(self, stroke: list[tuple[float, float, float]], mods: Mods) -> None:
        self.easel.own(Shading).brush(self.name, stroke, mods, self._wide())

    def _wide(self) -> float:
        """Return the width of the stroke: a pen laid flat draws twice as wide."""
        return self.easel.own(Shading).width_px * (1 + self.tilt)

    def widen(self, factor: float) -> bool:
        self.easel.own(Shading).widen(factor)
        return True

    def marks(self, painter: QPainter, zoom: float) -> None:
        draw_brush(painter, self._points, self._wide(), "#30161616")


@tool("Shade")
class Streak(Mist):
    """Lay light or shadow with bristles that follow the hand."""

    name = "Streak"
    place = 40
    key = "K"
    group = "soft"
    says = "Draw the pass in hand with bristles; a light hand lifts some. [ and ]: width."


@tool("Shade")
class Crayon(Mist):
    """Paint in the colour of the pot in hand."""

    name = "Crayon"
    place = 45
    key = "C"
    group = "soft"
    says = "Paint softly in the colour of the pot in hand, many colours in one pass. [ and ]: width."

    def drawn(self, stroke: list[tuple[float, float, float]], mods: Mods) -> None:
        if not self.easel.own(Shading).color_here() and not mods & Mods.AltModifier:
            self.easel.said.emit("Take a pot in hand first: Crayon paints in its colour.", False)
            return
        super().drawn(stroke, mods)

    def marks(self, painter: QPainter, zoom: float) -> None:
        shade = self.easel.own(Shading).color_here()
        draw_brush(painter, self._points, self._wide(), f"#80{shade[1:]}" if shade else "#30161616")
