"""Loops cut into shadow and light. Knows the page at hand."""

from drip_pot.desk.stages.shade.shading import Shading
from drip_pot.desk.view.tool import Mods, Stroke, tool


@tool("Shade")
class CutShade(Stroke):
    """Loop an area into shadow."""

    name = "Cut shade"
    place = 10
    key = "S"
    light = False
    says = "Loop round an area to put it in shadow. Alt: give light back. Shift: stay in the region, Ctrl: in the pot."

    def done(self, points: list[tuple[float, float]], mods: Mods) -> None:
        if len(points) >= 3:
            self.easel.own(Shading).cut(points, mods, light=self.light != bool(mods & Mods.AltModifier))


@tool("Shade")
class CutLight(CutShade):
    """Loop an area into light."""

    name = "Cut light"
    place = 20
    key = "L"
    light = True
    says = "Loop round an area to give it back to the light. Alt: shade. Shift: stay in the region, Ctrl: in the pot."
