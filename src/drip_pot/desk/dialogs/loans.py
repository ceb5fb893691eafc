# SPDX-License-Identifier: GPL-3.0-or-later
"""What comes back with pages that were out, and what both sides changed, to choose from. Knows what was compared."""

from collections.abc import Mapping

from PyQt6.QtWidgets import QCheckBox, QScrollArea, QVBoxLayout, QWidget

from drip_pot.book.loans import Clash, Return, told_back
from drip_pot.desk.dialogs.asking import Asking
from drip_pot.desk.parts.widgets import label
from drip_pot.words import tr, tr_many

_HIGH = 260


class ReturnDialog(Asking):
    """What comes back; where both sides changed something, a tick takes what is there instead of what is here."""

    def __init__(self, parent: QWidget | None, name: str, back: Return, pages: Mapping[int, str]) -> None:
        super().__init__(parent, tr("Take back from {0}?", name), "Take back")
        self._clashes: list[tuple[Clash, QCheckBox]] = []
        listed = QWidget()
        column = QVBoxLayout(listed)
        column.setContentsMargins(0, 0, 0, 0)
        for line in told_back(back, pages):
            told = label(line)
            told.setWordWrap(True)
            column.addWidget(told)
        if back.clashes:
            count = len(back.clashes)
            column.addSpacing(8)
            head = tr_many("Both sides changed one thing", "Both sides changed {0} things", count, count)
            column.addWidget(label(head, "title"))
            asked = label("It stays as it is here. Tick what is to be as it is there.", "smallmuted")
            asked.setWordWrap(True)
            column.addWidget(asked)
        for clash in back.clashes:
            place = tr("The whole book") if clash.page is None else pages.get(clash.page, "")
            box = QCheckBox(tr("{0}: {1}", place, clash.what))
            column.addWidget(box)
            self._clashes.append((clash, box))
        column.addStretch(1)
        scroll = QScrollArea()
        scroll.setWidgetResizable(True)
        scroll.setWidget(listed)
        scroll.setMinimumHeight(min(_HIGH, listed.sizeHint().height() + 4))
        self.body.addWidget(scroll)

    def left(self) -> list[Clash]:
        """Return what stays as it is here."""
        return [clash for clash, box in self._clashes if not box.isChecked()]
