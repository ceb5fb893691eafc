# SPDX-License-Identifier: GPL-3.0-or-later
"""The line at the very bottom. Knows the easel and what modifiers mean; nothing of tools."""

from functools import partial

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QSizePolicy, QWidget

from drip_pot.desk.parts.widgets import label
from drip_pot.desk.session.easel import Easel
from drip_pot.desk.view.senses import KEYS, Mods, Senses
from drip_pot.words import tr

_WIDEST = 280


class StatusLine(QWidget):
    """Left: what the tool does now. Then what the modifiers change, as switches. Right: what is under the pointer."""

    def __init__(self, easel: Easel) -> None:
        super().__init__()
        self.easel = easel
        self.setObjectName("status")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setFixedHeight(24)
        row = QHBoxLayout(self)
        row.setContentsMargins(14, 0, 14, 1)
        row.setSpacing(4)
        self.left, self.right = label("", "small"), label("", "smallmuted")
        self.left.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        row.addWidget(self.left, 1)
        self.switches: dict[str, QPushButton] = {}
        for name, (key, mod) in KEYS.items():
            switch = QPushButton(key)
            switch.setCheckable(True)
            switch.setProperty("sense", True)
            switch.setFocusPolicy(Qt.FocusPolicy.NoFocus)
            switch.clicked.connect(partial(self._switch, mod))
            switch.hide()
            row.addWidget(switch)
            self.switches[name] = switch
        row.addWidget(self.right)

    def _switch(self, mod: Mods, on: bool) -> None:
        self.easel.switched = self.easel.switched | mod if on else self.easel.switched & ~mod
        self.easel.chosen.emit()

    def say(self, hint: str, senses: Senses) -> None:
        """Say what the tool does, and what the modifiers change."""
        self.left.setText(hint)
        self.left.setToolTip(hint)
        told = {key: word for key, _, word in senses.told()}
        for name, switch in self.switches.items():
            key, mod = KEYS[name]
            switch.setVisible(key in told)
            if key not in told:
                continue
            words = tr("{0}: {1}", tr(key), tr(told[key]))
            switch.setText(switch.fontMetrics().elidedText(words, Qt.TextElideMode.ElideRight, _WIDEST))
            switch.setAccessibleName(words)
            how = tr("{0}. A click holds the key down until the next; the right button is Alt.", words)
            switch.setToolTip(how)
            switch.setChecked(bool(self.easel.switched & mod))
