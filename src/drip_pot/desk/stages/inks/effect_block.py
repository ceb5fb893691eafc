# SPDX-License-Identifier: GPL-3.0-or-later
"""The inspector's block of effect lines. Writes to the book through the easel."""

from typing import Any

import msgspec
from PyQt6.QtWidgets import QComboBox

from drip_pot.book.values import PRESS
from drip_pot.desk.dialogs.color import pick_color
from drip_pot.desk.parts.widgets import Block, NumberRow, Swatch, button
from drip_pot.desk.session.easel import Easel
from drip_pot.desk.stages.inks.inking import Inking
from drip_pot.words import tr


class EffectBlock(Block):
    """The effect lines in hand."""

    def __init__(self, easel: Easel) -> None:
        super().__init__("Effect lines")
        self.easel, self._inking = easel, easel.own(Inking)
        self.kind = QComboBox()
        self.kind.setAccessibleName(tr("Kind of effect lines"))
        for kind, name in (("focus", "Focus: from the edge inwards"), ("burst", "Burst: from the middle outwards"),
                           ("speed", "Speed: side by side")):  # fmt: skip
            self.kind.addItem(name, kind)
        self.kind.activated.connect(lambda _: self._effect(kind=self.kind.currentData()))
        self.add(self.kind)
        self.effect_rows = {
            "count": NumberRow("Lines", 1, 400, 1),
            "length": NumberRow("Length", 2, 100, 1, "%"),
            "weight_px": NumberRow("Weight", 0.5, 80, 0.5, "px", 1),
            "jitter": NumberRow("Jitter", 0, 100, 1, "%"),
            "turn_deg": NumberRow("Direction", -180, 180, 1, "°"),
        }
        for name, row in self.effect_rows.items():
            self.add(row)
            row.done.connect(lambda v, n=name: self._effect(**{n: v / 100 if n in ("length", "jitter") else v}))
        self.effect_color = Swatch("Colour of these effect lines", self._pick_effect, 26)
        self.add(self.effect_color)
        self.row(
            button("Scatter anew", self._again, "The same lines, scattered anew"),
            button("Remove", self._remove_effect, "Take these effect lines away (Delete)"),
        )

    def _effect(self, **values: Any) -> None:
        effect = self._inking.effect_in_hand()
        self._inking.effect_kind = values.get("kind", self._inking.effect_kind)
        if effect is not None:
            if "count" in values:
                values["count"] = int(values["count"])
            self._inking.set_effect(msgspec.structs.replace(effect, **values), self._inking.effect)

    def _again(self) -> None:
        effect = self._inking.effect_in_hand()
        if effect is not None:
            self._effect(seed=effect.seed + 1)

    def _pick_effect(self) -> None:
        effect, sources = self._inking.effect_in_hand(), self.easel.sources()
        if effect is not None and sources is not None:
            chosen = pick_color(self, "Effect lines", effect.color, self.easel.book, sources[PRESS])
            if chosen is not None:
                self._effect(color=chosen)

    def _remove_effect(self) -> None:
        self._inking.remove_effect()

    def refresh(self) -> None:
        """Show the effect lines in hand."""
        effect = self._inking.effect_in_hand()
        kind = effect.kind if effect is not None else self._inking.effect_kind
        self.kind.setCurrentIndex(self.kind.findData(kind))
        self.note.setText("" if effect is not None else tr("loop round where they go"))
        for name, row in self.effect_rows.items():
            row.setEnabled(effect is not None)
            if effect is not None:
                value = getattr(effect, name)
                row.show_value(value * 100 if name in ("length", "jitter") else value)
        self.effect_color.setEnabled(effect is not None)
        self.effect_color.show_color(effect.color if effect is not None else "#ffffff")
