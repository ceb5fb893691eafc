# SPDX-License-Identifier: GPL-3.0-or-later
"""The cut in hand, and cuts that were suggested: softness, kept, dropped. Writes through Shade's hands."""

import msgspec
from PyQt6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from drip_pot.desk.parts.text import counted
from drip_pot.desk.parts.widgets import Choice, NumberRow, button, label
from drip_pot.desk.session.easel import Easel
from drip_pot.desk.stages.shade.shaping import SHAPES, Shaping
from drip_pot.words import tr

_TOOLS = ("Cut shade", "Cut light", "Pull")


class CutRows(QWidget):
    """Settings of cuts."""

    def __init__(self, easel: Easel) -> None:
        super().__init__()
        self.easel, self._shaping = easel, easel.own(Shaping)
        shaping = self._shaping
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        self.told = label("", "muted")
        self.told.setWordWrap(True)
        column.addWidget(self.told)
        self.shape = Choice("How a cut is drawn", list(SHAPES), 3)
        self.shape.chosen.connect(shaping.choose_shape)
        column.addWidget(self.shape)
        self.softness = NumberRow("Soft edge", 0, 200, 1, "px")
        self.softness.done.connect(self._soften)
        column.addWidget(self.softness)
        self.side = Choice("What the cut does", ["Shade", "Light"], 2)
        self.side.chosen.connect(lambda word: self._set(light=word == "Light"))
        column.addWidget(self.side)
        row = QHBoxLayout()
        row.setSpacing(4)
        self.keep = button("Keep", lambda: shaping.settle(drop=False), "Keep this suggestion (Enter)")
        self.drop = button("Drop", lambda: shaping.settle(drop=True), "Take it away (Delete)")
        self.keep_all = button("Keep all", lambda: shaping.settle(drop=False, every=True), "Keep all suggestions here")
        self.drop_all = button("Drop all", lambda: shaping.settle(drop=True, every=True), "Take all of them away")
        for entry in (self.keep, self.drop, self.keep_all, self.drop_all):
            row.addWidget(entry, 1)
        column.addLayout(row)

    def _soften(self, value: float) -> None:
        if self._shaping.cut_in_hand() is not None and self.easel.tool == "Pull":
            self._set(softness_px=value)
        else:
            self._shaping.put_edge(value)

    def _set(self, **values: object) -> None:
        chosen = self._shaping.cut_in_hand()
        if chosen is not None:
            self._shaping.set_cut(msgspec.structs.replace(chosen[1], **values))

    def refresh(self) -> None:
        """Show the cut in hand; hidden with other tools."""
        shaping, tool = self._shaping, self.easel.tool
        offered = sum(cut.offered for cut in shaping.cuts().values())
        self.setVisible(tool in _TOOLS or (offered > 0 and tool == "Lamp"))
        chosen = shaping.cut_in_hand() if tool == "Pull" else None
        count = len(shaping.cuts())
        told = tr("{0} in this pass", counted(count, "cut")) if count else tr("No cut in this pass yet")
        self.told.setText(tr("{0}, {1} suggested", told, offered) if offered else told)
        self.shape.setVisible(tool in ("Cut shade", "Cut light"))
        self.shape.show_choice(shaping.shape)
        self.softness.setVisible(tool != "Lamp")
        self.softness.show_value(shaping.edge_px if chosen is None else chosen[1].softness_px)
        self.side.setVisible(chosen is not None)
        if chosen is not None:
            self.side.show_choice("Light" if chosen[1].light else "Shade")
        for entry in (self.keep, self.drop):
            entry.setVisible(offered > 0)
            entry.setEnabled(chosen is not None and chosen[1].offered)
        for entry in (self.keep_all, self.drop_all):
            entry.setVisible(offered > 0)
