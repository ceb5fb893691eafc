"""The inspector in Shade: the tone pair in hand, the tone rule. Writes to the book through the easel."""

import msgspec

from drip_pot.book import verbs
from drip_pot.core.color import from_hex, srgb8_to_oklab
from drip_pot.desk.dialogs.color import pick_color
from drip_pot.desk.parts.widgets import Block, NumberRow, Swatch, button, label
from drip_pot.desk.session.easel import Easel
from drip_pot.desk.stages.panel import Panel
from drip_pot.desk.stages.shade.lamp_block import LampBlock
from drip_pot.desk.stages.shade.pass_block import PassBlock

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
        rule = Block("Tone rule", "every pot")
        self.darker = NumberRow("Darker by", 0, 60, 1, "L")
        self.hue = NumberRow("Turn toward", 0, 360, 1, "°")
        self.turn = NumberRow("At most", 0, 60, 1, "°")
        for row, name in ((self.darker, "darker_l"), (self.hue, "hue_deg"), (self.turn, "turn_deg")):
            rule.add(row)
            row.done.connect(lambda v, n=name: self._keep(n, v))
        self.passes = PassBlock(easel)
        self.lamp = LampBlock(easel)
        self.blocks = [self.lamp, self.passes, pair, rule]

    def _keep(self, name: str, value: float) -> None:
        ready = self._ready()
        if ready is not None:
            self.easel.do(lambda book, _: verbs.set_tone(book, msgspec.structs.replace(ready[0].tone, **{name: value})))

    def _pick(self, tone: str) -> None:
        book, number, sources = self.easel.book, self.easel.pot, self.easel.sources()
        if book is None or number is None or sources is None:
            return
        pot = book.pots()[number]
        local, shadow = book.tone_pair(pot)
        chosen = pick_color(self, f"{pot.name}, {tone}", local if tone == "local" else shadow, sources.press)
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
        book = ready[0]
        pot = book.pots().get(self.easel.pot or 0)
        self.pair.note.setText(pot.name if pot else "Paper")
        for widget in (self.local, self.shadow):
            widget.setEnabled(pot is not None)
        local, shadow = book.tone_pair(pot) if pot else ("#ffffff", "#ffffff")
        for swatch, text, color, name in (
            (self.local, self.local_l, local, "local"),
            (self.shadow, self.shadow_l, shadow, "shadow"),
        ):
            swatch.show_color(color)
            text.setText(f"{name}  L {float(srgb8_to_oklab(from_hex(color))[0]) * 100:.0f}")
        self.own.setEnabled(pot is not None and pot.shadow is not None)
        tone = book.tone
        self.darker.show_value(tone.darker_l)
        self.hue.show_value(tone.hue_deg)
        self.turn.show_value(tone.turn_deg)
        name = min(_HUES, key=lambda h: abs(h[0] - tone.hue_deg))[1]
        self.hue.name.setText(f"Turn toward {name}")
