# SPDX-License-Identifier: GPL-3.0-or-later
"""The inspector's block of lamps. Writes through the lamps in use."""

from PyQt6.QtWidgets import QCheckBox

from drip_pot.book.values import CALM, PRESS
from drip_pot.desk.dialogs.color import pick_color
from drip_pot.desk.parts.widgets import Block, NumberRow, Swatch, button
from drip_pot.desk.session.easel import Easel
from drip_pot.desk.stages.shade.lighting import Lighting
from drip_pot.words import tr


class LampBlock(Block):
    """The lamp in hand, and what it is asked for."""

    def __init__(self, easel: Easel) -> None:
        super().__init__("Lamp")
        self.easel, self._lighting = easel, easel.own(Lighting)
        lighting = self._lighting
        self.height_row = NumberRow("Height", 0, 100, 1, "%")
        self.height_row.done.connect(lambda v: lighting.change(height=v / 100))
        self.cast = NumberRow("Cast shadows", 0, 400, 5, "%")
        self.cast.done.connect(lambda v: lighting.change(cast=v / 100))
        self.soft = NumberRow("Soft edges", 0, 200, 1, "px")
        self.soft.done.connect(lambda v: lighting.change(softness_px=v))
        self.back = QCheckBox(tr("Behind the figures"))
        self.back.setToolTip(tr("The lamp stands behind the figures: only their rims are lit"))
        self.back.clicked.connect(lambda on: lighting.change(back=on))
        self.color = Swatch("Colour of the bounce", self._pick, 26)
        self.bounces = QCheckBox(tr("Bounces a colour"))
        self.bounces.setToolTip(
            tr("Its light is laid over what it reaches, in a pass of its own, instead of shadows cut")
        )
        self.bounces.clicked.connect(lambda on: lighting.change(color=self._pot() if on else ""))
        for entry in (self.height_row, self.cast, self.soft, self.back):
            self.add(entry)
        self.row(self.bounces, self.color)
        self.calm = QCheckBox(tr("Leave this part alone"))
        self.calm.clicked.connect(lambda on: lighting.leave_calm(on))
        self.add(self.calm)
        tip = "Suggest cuts in the pass in hand, to be kept or dropped (Enter)"
        self.ask = button("Suggest cuts", lighting.suggest, tip)
        self.take = button("Take away", lambda: lighting.remove(), "Take the lamp away (Delete)")
        self.row(self.ask, self.take)

    def _pot(self) -> str:
        book = self.easel.book
        pot = None if book is None else book.pots().get(self.easel.pot or 0)
        return "#e8a860" if pot is None else pot.local

    def _pick(self) -> None:
        lamp, sources = self._lighting.in_hand(), self.easel.sources()
        if lamp is not None and lamp.color and sources is not None:
            color = pick_color(self, "Bounce", lamp.color, self.easel.book, sources[PRESS])
            if color is not None:
                self._lighting.change(color=color)

    def refresh(self) -> None:
        """Show the lamp in hand; hidden with other tools."""
        self.setVisible(self.easel.tool == "Lamp")
        lamp, sources, book = self._lighting.in_hand(), self.easel.sources(), self.easel.book
        for entry in (self.height_row, self.cast, self.soft, self.back, self.bounces, self.ask, self.take):
            entry.setEnabled(lamp is not None)
        if lamp is None:
            self.note.setText(tr("click on the page to place one"))
        else:
            self.note.setText(tr("for every panel") if lamp.panel == 0 else tr("for panel {0}", lamp.panel))
            self.height_row.show_value(lamp.height * 100)
            self.cast.show_value(lamp.cast * 100)
            self.soft.show_value(lamp.softness_px)
            self.back.setChecked(lamp.back)
        color = lamp.color if lamp is not None else ""
        self.bounces.setChecked(bool(color))
        self.color.setVisible(bool(color))
        self.color.show_color(color or "#ffffff")
        self.ask.setText(tr("Lay the bounce") if color else tr("Suggest cuts"))
        pot = None if book is None else book.pots().get(self.easel.pot or 0)
        self.calm.setEnabled(pot is not None)
        if pot is not None and book is not None and sources is not None:
            self.calm.setText(tr("Leave {0} alone", book.parts()[pot.part].name))
            self.calm.setChecked(sources[CALM].get(pot.part, False))
