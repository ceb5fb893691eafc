"""Ink rubbed out of the plates that are shown. Knows the easel and the plates shown; nothing of how they are made."""

from PyQt6.QtGui import QPainter

from drip_pot.book import verbs
from drip_pot.desk.session.easel import Easel
from drip_pot.desk.view.tool import Mods, PressedStroke, draw_brush, tool

WIDTHS = (4.0, 2000.0)


class Rubbing:
    """The brush, and the plates it works on: those that are shown alone, or all four."""

    def __init__(self, easel: Easel) -> None:
        self.easel = easel
        self.width_px, self.plates = 120.0, (True,) * 4

    def widen(self, factor: float) -> None:
        """Make the brush wider, or finer."""
        self.width_px = min(max(float(round(self.width_px * factor)), WIDTHS[0]), WIDTHS[1])
        self.easel.said.emit(f"The brush is {self.width_px:g} px wide", False)
        self.easel.chosen.emit()


@tool("Press")
class RubOut(PressedStroke):
    """Take ink out of plates locally."""

    name = "Rub out"
    place = 20
    key = "X"
    says = "Rub ink out of the plates that are shown; a face without its magenta. Alt: put it back. [ and ]: width."

    def drawn(self, stroke: list[tuple[float, float, float]], mods: Mods) -> None:
        rubbing, away = self.easel.own(Rubbing), bool(mods & Mods.AltModifier)
        plates = tuple(plate for plate, shown in enumerate(rubbing.plates) if shown)
        wide = rubbing.width_px
        work = lambda hand: verbs.rub_plates(hand, plates, stroke, wide, away=away)  # noqa: E731
        self.easel.hands.start(work, [(row, col) for row, col, _ in stroke])

    def widen(self, factor: float) -> bool:
        self.easel.own(Rubbing).widen(factor)
        return True

    def marks(self, painter: QPainter, zoom: float) -> None:
        draw_brush(painter, self._points, self.easel.own(Rubbing).width_px, "#30161616")
