# SPDX-License-Identifier: GPL-3.0-or-later
"""Effect lines beneath the line, each a pass: laid, moved and set in Shade. Knows the pass in hand."""

from collections.abc import Mapping

from drip_pot.book import verbs
from drip_pot.book.values import PASSES, TONE
from drip_pot.core.inks import Effect
from drip_pot.desk.parts.widgets import button
from drip_pot.desk.session.easel import Easel
from drip_pot.desk.stages.effects import EffectKind, EffectRows, EffectTool
from drip_pot.desk.stages.shade.shading import Shading
from drip_pot.desk.view.tool import tool


class PassEffects:
    """The effect lines of the passes of a page."""

    def __init__(self, easel: Easel) -> None:
        self.easel, self._shading = easel, easel.own(Shading)
        self.effect_kind: EffectKind = "focus"

    def effects(self) -> Mapping[int, Effect]:
        """Return the effect lines beneath the line, by the number of their pass."""
        sources = self.easel.sources()
        passes = {} if sources is None else sources[PASSES]
        return {number: one.effect for number, one in passes.items() if one.effect is not None}

    def effect_number(self) -> int | None:
        """Return the pass in hand, if it is one of effect lines."""
        held = self._shading.in_hand()
        return None if held is None or held[1].effect is None else held[0]

    def choose_effect(self, number: int | None) -> None:
        """Take the pass of effect lines in hand."""
        self._shading.choose(TONE if number is None else number)

    def set_effect(self, effect: Effect | None, number: int | None = None) -> None:
        """Lay effect lines beneath the line, change those of a pass, or take them away (None)."""
        if number is not None:
            if effect is None:
                self._shading.remove(number)
            else:
                self._shading.change(number, effect=effect)
        elif effect is not None:
            made: list[int] = []
            self.easel.hands.start(
                lambda hand: made.append(verbs.lay_effect(hand, effect)),
                then=lambda: self._shading.choose(made[0]) if made else None,
            )

    def raise_effect(self) -> None:
        """Lay the effect lines in hand over the line."""
        number = self.effect_number()
        if number is not None and self.easel.do(lambda book, page: verbs.raise_effect(book, page, number)):
            self._shading.choose(TONE)
            self.easel.said.emit("The effect lines lie over the line now: the tool Effect in Inks moves them.", False)


@tool("Shade")
class PassEffectTool(EffectTool):
    """Place effect lines beneath the line, behind figures."""

    name = "Effect pass"
    place = 57
    key = "E"
    group = "soft"

    def __init__(self, easel: Easel) -> None:
        super().__init__(easel, easel.own(PassEffects))


class PassEffectRows(EffectRows):
    """What can be set of effect lines beneath the line."""

    def __init__(self, easel: Easel) -> None:
        effects = easel.own(PassEffects)
        super().__init__(effects)
        self.layout().addWidget(button("Scatter anew", self.scatter, "The same lines, scattered anew"))  # type: ignore[union-attr]
        self.layout().addWidget(  # type: ignore[union-attr]
            button("Over the line", effects.raise_effect, "Lay them over the line and everywhere in their shape: Inks")
        )
