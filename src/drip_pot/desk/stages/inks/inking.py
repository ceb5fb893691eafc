# SPDX-License-Identifier: GPL-3.0-or-later
"""What is in use in Inks: the pen, the effect lines in hand. Knows the easel; draws nothing."""

from collections.abc import Mapping

from drip_pot.book import InkState, verbs
from drip_pot.book.values import EFFECTS
from drip_pot.core.inks import Effect
from drip_pot.desk.session.easel import Easel
from drip_pot.desk.stages.effects import EffectKind, EffectTool, effect_in_hand
from drip_pot.desk.view.tool import tool
from drip_pot.words import tr

WIDTHS = (0.5, 120.0)


class Inking:
    """Settings of the tools of Inks, and what they do."""

    def __init__(self, easel: Easel) -> None:
        self.easel = easel
        self.pen_px, self.smoothing, self.taper, self.matches = 9.0, 0.3, 0.0, False
        self.effect: int | None = None
        self.effect_kind: EffectKind = "focus"
        easel.opened.connect(self._forget)

    def _forget(self) -> None:
        self.effect = None

    def choose_effect(self, number: int | None) -> None:
        """Take effect lines in hand."""
        self.effect = number
        self.easel.chosen.emit()

    def widen(self, factor: float) -> None:
        """Make the pen wider, or finer."""
        self.pen_px = min(max(round(self.pen_px * factor * 2) / 2, WIDTHS[0]), WIDTHS[1])
        self.easel.refreshed.emit()

    def set_inks(self, inks: InkState, title: str = "Adjust the line") -> None:
        """Keep new ink settings of the sheet in hand."""
        number = self.easel.sheet
        if self.easel.do(lambda book, page: verbs.set_inks(book, page, inks, title, number)):
            self.easel.deriving.set_preview(inks)

    def stroke(self, points: list[tuple[float, float, float]], *, away: bool) -> None:
        """Lay a stroke of ink on the repair sheet, or scrape ink away."""
        view, wide, steady = self.easel.view, self.pen_px, self.smoothing
        if view is not None and points:
            ink = view.drawing.ink[0]
            taper, matches = (0.0, False) if away else (self.taper, self.matches)
            self.easel.do(
                lambda b, p: verbs.draw_ink(
                    b, p, points, wide, ink=ink, steady=steady, taper=taper, matches=matches, away=away
                )
            )

    def mirror(self, points: list[tuple[float, float]], axis_col: float) -> None:
        """Lift what a loop encloses and lay its mirror image on the repair sheet, about an upright axis."""
        view = self.easel.view
        if view is not None:
            ink = view.drawing.ink[0]
            self.easel.do(lambda book, page: verbs.mirror_ink(book, page, points, axis_col, ink=ink))

    def effects(self) -> Mapping[int, Effect]:
        """Return the effect lines over the line of the page, by number."""
        sources = self.easel.sources()
        return {} if sources is None else sources[EFFECTS]

    def effect_number(self) -> int | None:
        """Return the number of the effect lines in hand."""
        return self.effect

    def set_effect(self, effect: Effect | None, number: int | None = None) -> None:
        """Add effect lines, change those of a number, or take them away (None)."""
        kept: list[int] = []
        self.easel.do(lambda book, page: kept.append(verbs.set_effect(book, page, number, effect)))
        if kept:
            self.choose_effect(kept[0] if effect is not None else None)

    def lower_effect(self) -> None:
        """Lay the effect lines in hand beneath the line, over what lies behind figures, and go where they are then."""
        number = self.effect
        if number is None or effect_in_hand(self) is None:
            return

        def then() -> None:
            self.choose_effect(None)
            self.easel.said.emit(tr("The effect lines lie beneath the line now, a pass in Shade."), False)
            self.easel.choose_stage("Shade")

        self.easel.hands.start(lambda hand: verbs.lower_effect(hand, number), then=then)


@tool("Inks")
class LineEffectTool(EffectTool):
    """Place effect lines over the line."""

    def __init__(self, easel: Easel) -> None:
        super().__init__(easel, easel.own(Inking))
