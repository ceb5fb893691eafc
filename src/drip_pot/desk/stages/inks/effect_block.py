# SPDX-License-Identifier: GPL-3.0-or-later
"""The inspector's block of effect lines. Writes to the book through the easel."""

import msgspec

from drip_pot.book.values import PRESS
from drip_pot.desk.dialogs.color import pick_color
from drip_pot.desk.parts.widgets import Block, Swatch, button
from drip_pot.desk.session.easel import Easel
from drip_pot.desk.stages.effects import EffectRows, effect_in_hand
from drip_pot.desk.stages.inks.inking import Inking
from drip_pot.words import tr


class EffectBlock(Block):
    """The effect lines in hand."""

    def __init__(self, easel: Easel) -> None:
        super().__init__("Effect lines")
        self.easel, self._inking = easel, easel.own(Inking)
        self.rows = EffectRows(self._inking)
        self.add(self.rows)
        self.effect_color = Swatch("Colour of these effect lines", self._pick, 26)
        self.add(self.effect_color)
        self.row(
            button("Scatter anew", self.rows.scatter, "The same lines, scattered anew"),
            button("Remove", self._remove, "Take these effect lines away (Delete)"),
        )
        self.beneath = button(
            "Beneath the line", self._inking.lower_effect,
            "Lay them behind figures: over what is picked, or the grounds they cross, as a pass in Shade",
        )  # fmt: skip
        self.row(self.beneath)

    def _pick(self) -> None:
        effect, sources = effect_in_hand(self._inking), self.easel.sources()
        if effect is not None and sources is not None:
            chosen = pick_color(self, "Effect lines", effect.color, self.easel.book, sources[PRESS])
            if chosen is not None:
                self._inking.set_effect(msgspec.structs.replace(effect, color=chosen), self._inking.effect)

    def _remove(self) -> None:
        if effect_in_hand(self._inking) is not None:
            self._inking.set_effect(None, self._inking.effect)

    def refresh(self) -> None:
        """Show the effect lines in hand."""
        effect = effect_in_hand(self._inking)
        self.note.setText("" if effect is not None else tr("loop round where they go"))
        self.rows.refresh()
        self.effect_color.setEnabled(effect is not None)
        self.beneath.setEnabled(effect is not None)
        self.effect_color.show_color(effect.color if effect is not None else "#ffffff")
