# SPDX-License-Identifier: GPL-3.0-or-later
"""Ink rubbed out of the plates that are shown, or wear. Knows the easel and what is shown; not how it is made."""

from PyQt6.QtGui import QPainter

from drip_pot.book import verbs
from drip_pot.book.hand import Hand
from drip_pot.desk.session.easel import Easel
from drip_pot.desk.view.senses import BRUSH, Senses
from drip_pot.desk.view.tool import Mods, PressedStroke, draw_brush, kept_in, tool
from drip_pot.words import tr

WIDTHS, _FOUR = (4.0, 2000.0), 4


class Rubbing:
    """The brush, and what it works on: plates that are shown; a step of wear or all, where old stock is looked at."""

    def __init__(self, easel: Easel) -> None:
        self.easel = easel
        self.plates: tuple[bool, ...] = (True,) * 4
        self.width_px, self.wear = 120.0, False
        self.step = 0  # of wear; 0 is every one

    def widen(self, factor: float) -> None:
        """Make the brush wider, or finer."""
        self.width_px = min(max(float(round(self.width_px * factor)), WIDTHS[0]), WIDTHS[1])
        self.easel.said.emit(tr("The brush is {0:g} px wide", self.width_px), False)
        self.easel.chosen.emit()


@tool("Press")
class RubOut(PressedStroke):
    """Take ink out of plates locally."""

    name = "Rub out"
    place = 20
    key = "X"
    says = "Rub ink out of the plates shown, or wear where old stock is looked at. [ and ]: width."
    senses = Senses(BRUSH.shift, BRUSH.ctrl, "put it back")

    def drawn(self, stroke: list[tuple[float, float, float]], mods: Mods) -> None:
        rubbing, away = self.easel.own(Rubbing), bool(mods & Mods.AltModifier)
        view = self.easel.view
        names = () if view is None or view.flat is None else tuple(spot.name for spot in view.flat.tables.spots)
        shown = [*rubbing.plates, *[True] * _FOUR * 2][: _FOUR + len(names)]
        plates = tuple(plate for plate in range(_FOUR) if shown[plate])
        spots = tuple(name for name, seen in zip(names, shown[_FOUR:], strict=False) if seen)
        wide, inside, worn, step = rubbing.width_px, set(self.easel.picked), rubbing.wear, rubbing.step
        only, reach = kept_in(self.easel, stroke[0][:2], mods)
        if not worn and not plates and not spots:
            self.easel.said.emit(tr("Ink is rubbed out of the plates shown. Show one of them first."), False)
            return

        def work(hand: Hand) -> None:
            if worn:
                verbs.rub_wear(hand, stroke, wide, step, away=away, only=only, reach=reach, inside=inside)
            else:
                verbs.rub_plates(
                    hand, plates, stroke, wide, spots=spots, away=away, only=only, reach=reach, inside=inside
                )

        self.easel.hands.start(work, [(row, col) for row, col, _ in stroke])

    def widen(self, factor: float) -> bool:
        self.easel.own(Rubbing).widen(factor)
        return True

    def marks(self, painter: QPainter, zoom: float) -> None:
        draw_brush(painter, self._points, self.easel.own(Rubbing).width_px, "#30161616")
