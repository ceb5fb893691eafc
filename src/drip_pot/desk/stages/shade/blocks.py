# SPDX-License-Identifier: GPL-3.0-or-later
"""The inspector in Shade: the tone pair in hand, the tone rule. Writes to the book through the easel."""

import msgspec
from PyQt6.QtWidgets import QCheckBox

from drip_pot.book import verbs
from drip_pot.book.values import PRESS
from drip_pot.core.color import ToneRule, from_hex, srgb8_to_oklab
from drip_pot.desk.dialogs.color import pick_color
from drip_pot.desk.dialogs.pairs import PairSheet
from drip_pot.desk.parts.widgets import Block, NumberRow, Swatch, button, label
from drip_pot.desk.session.easel import Easel
from drip_pot.desk.stages.panel import Panel
from drip_pot.desk.stages.shade.lamp_block import LampBlock
from drip_pot.desk.stages.shade.pass_block import PassBlock
from drip_pot.desk.stages.shade.values_block import ValuesBlock
from drip_pot.words import tr

_HUES = ((0, "rose"), (30, "red"), (60, "orange"), (95, "yellow"), (140, "green"), (195, "teal"), (245, "blue"),
         (285, "violet"), (320, "plum"), (360, "rose"))  # fmt: skip


class ShadePanel(Panel):
    """The tone pair of the pot in hand, and the book's tone rule."""

    def __init__(self, easel: Easel) -> None:
        super().__init__(easel)
        pair = Block("Tone pair")
        self.pair = pair
        self.local = Swatch("Local colour of the pot in hand", lambda: self._pick("local"))
        self.shadow = Swatch("Shadow colour of the pot in hand", lambda: self._pick("shadow"))
        pair.row(self.local, self.shadow)
        self.local_l, self.shadow_l = label("", "smallmuted"), label("", "smallmuted")
        pair.row(self.local_l, self.shadow_l)
        self.own = button("Set from the rule", self._by_rule, "Drop this pot's own shadow and follow the rule below")
        pair.row(self.own)
        self.rule = rule = Block("Tone rule")
        self.key = Swatch("Colour of the key light: all shadows follow it", self._pick_key, 26)
        rule.add(label("Key light", "smallmuted"))
        rule.add(self.key)
        self.darker = NumberRow("Darker by", 0, 60, 1, "L")
        self.hue = NumberRow("Turn toward", 0, 360, 1, "°")
        self.turn = NumberRow("At most", 0, 60, 1, "°")
        self.apart = NumberRow("Away from other pots", 0, 12, 0.5, "ΔE")
        self.apart.setToolTip(
            tr("How far a shadow stays from the colour of any other pot; 0 works every pair out alone")
        )
        for row, name in ((self.darker, "darker_l"), (self.hue, "hue_deg"), (self.turn, "turn_deg"),
                          (self.apart, "apart_de")):  # fmt: skip
            rule.add(row)
            row.done.connect(lambda v, n=name: self._keep(n, v))
        self.by_part = QCheckBox("")
        self.by_part.setToolTip(tr("The part of the pot in hand gets a rule of its own, or follows the book's"))
        self.by_part.clicked.connect(self._own_rule)
        self.sheet = button("All pairs", self._show_pairs, "All pots of the book with their shadows")
        rule.add(self.by_part)
        rule.row(self.sheet)
        self.passes = PassBlock(easel)
        self.lamp = LampBlock(easel)
        self.values = ValuesBlock(easel)
        self.blocks = [self.lamp, self.passes, pair, rule, self.values]

    def _rule(self) -> tuple[ToneRule, int | None]:
        """Return the rule that is shown, and the part whose own it is."""
        book, pot = self.easel.book, self.easel.pot
        known = {} if book is None else book.pots()
        if book is None or pot not in known:
            return ToneRule() if book is None else book.tone, None
        part = known[pot].part
        own = book.parts()[part].tone if part in book.parts() else None
        return (book.tone, None) if own is None else (own, part)

    def _keep(self, name: str, value: object) -> None:
        rule, part = self._rule()
        changed = msgspec.structs.replace(rule, **{name: value})
        if part is None:
            self.easel.do(lambda book, _: verbs.set_tone(book, changed))
        else:
            self.easel.do(lambda book, _: verbs.set_part_tone(book, part, changed))

    def _own_rule(self, wanted: bool) -> None:
        book, pot = self.easel.book, self.easel.pot
        if book is not None and pot in book.pots():
            part, rule = book.pots()[pot].part, book.tone if wanted else None
            self.easel.do(lambda book, _: verbs.set_part_tone(book, part, rule))

    def _pick_key(self) -> None:
        sources = self.easel.sources()
        if sources is not None:
            chosen = pick_color(self, "Key light", self._rule()[0].key, self.easel.book, sources[PRESS])
            if chosen is not None:
                self._keep("key", chosen)

    def _show_pairs(self) -> None:
        if self.easel.book is not None:
            PairSheet(self, self.easel.book, self.easel.choose_pot).exec()

    def _pick(self, tone: str) -> None:
        book, number, sources = self.easel.book, self.easel.pot, self.easel.sources()
        if book is None or number is None or sources is None:
            return
        pot = book.pots()[number]
        local, shadow = book.tone_pair(pot)
        chosen = pick_color(
            self, f"{pot.name}, {tone}", local if tone == "local" else shadow, self.easel.book, sources[PRESS]
        )
        if chosen is not None:
            changed = msgspec.structs.replace(pot, **{tone: chosen})
            self.easel.do(lambda book, _: verbs.set_pot(book, number, changed))

    def _by_rule(self) -> None:
        book, number = self.easel.book, self.easel.pot
        if book is not None and number is not None:
            pot = msgspec.structs.replace(book.pots()[number], shadow=None)
            self.easel.do(lambda book, _: verbs.set_pot(book, number, pot))

    def refresh(self) -> None:
        ready = self._ready()
        if ready is None:
            return
        self.lamp.refresh()
        self.passes.refresh()
        self.values.refresh()
        book = ready[0]
        pot = book.pots().get(self.easel.pot or 0)
        self.pair.note.setText(pot.name if pot else tr("Paper"))
        for widget in (self.local, self.shadow):
            widget.setEnabled(pot is not None)
        local, shadow = book.tone_pair(pot) if pot else ("#ffffff", "#ffffff")
        for swatch, text, color, says in (
            (self.local, self.local_l, local, "local  L {0:.0f}"),
            (self.shadow, self.shadow_l, shadow, "shadow  L {0:.0f}"),
        ):
            swatch.show_color(color)
            text.setText(tr(says, float(srgb8_to_oklab(from_hex(color))[0]) * 100))
        self.own.setEnabled(pot is not None and pot.shadow is not None)
        tone, part = self._rule()
        parts = book.parts()
        self.rule.note.setText(tr("of {0}", parts[part].name) if part is not None else tr("every pot"))
        self.by_part.setEnabled(pot is not None)
        self.by_part.setChecked(part is not None)
        self.by_part.setText(
            tr("Own rule for {0}", parts[pot.part].name) if pot and pot.part in parts else tr("Own rule")
        )
        self.key.show_color(tone.key)
        self.darker.show_value(tone.darker_l)
        self.hue.show_value(tone.hue_deg)
        self.turn.show_value(tone.turn_deg)
        self.apart.show_value(tone.apart_de)
        name = min(_HUES, key=lambda h: abs(h[0] - tone.hue_deg))[1]
        self.hue.name.setText(tr("Turn toward {0}", name))
