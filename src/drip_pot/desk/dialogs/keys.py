# SPDX-License-Identifier: GPL-3.0-or-later
"""The sheet of keys. Knows widgets."""

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import (
    QGridLayout,
    QLabel,
    QLineEdit,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from drip_pot.desk.parts.dialog import Dialog
from drip_pot.desk.parts.widgets import label
from drip_pot.words import tr


class Keys(Dialog):
    """The one sheet of keys."""

    def __init__(self, parent: QWidget | None, groups: dict[str, list[tuple[str, str]]]) -> None:
        super().__init__(parent)
        self.setWindowTitle(tr("Keys"))
        whole = QVBoxLayout(self)
        whole.setContentsMargins(24, 20, 12, 12)
        self.text = QLineEdit()
        self.text.setPlaceholderText(tr("A key, or what it does"))
        self.text.setAccessibleName(tr("A key, or what it does"))
        self.text.textChanged.connect(self.look_for)
        whole.addWidget(self.text)
        inside = QWidget()
        grid = QGridLayout(inside)
        grid.setContentsMargins(0, 8, 12, 8)
        scroll = QScrollArea()
        scroll.setWidget(inside)
        scroll.setWidgetResizable(True)
        scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        whole.addWidget(scroll)
        self._rows: list[tuple[str, tuple[QLabel, QLabel]]] = []
        grid.setHorizontalSpacing(36)
        grid.setVerticalSpacing(22)
        heights = [0, 0, 0]
        columns = [QVBoxLayout() for _ in heights]
        for place, column in enumerate(columns):
            column.setSpacing(22)
            grid.addLayout(column, 0, place)
        for title, rows in sorted(groups.items(), key=lambda group: -len(group[1])):
            place = heights.index(min(heights))
            heights[place] += len(rows) + 2
            box = QGridLayout()
            box.setHorizontalSpacing(14)
            box.setVerticalSpacing(5)
            box.addWidget(label(title, "title"), 0, 0, 1, 2)
            for line, (key, text) in enumerate(rows, 1):
                shown, told = label(key, "figure"), label(text)
                box.addWidget(shown, line, 0)
                box.addWidget(told, line, 1)
                self._rows.append((f"{key} {tr(text)} {tr(title)}".lower(), (shown, told)))
            box.setRowStretch(len(rows) + 1, 1)
            box.setColumnMinimumWidth(0, 84)
            box.setColumnStretch(1, 1)
            columns[place].addLayout(box)
        for column in columns:
            column.addStretch(1)
        inside.adjustSize()
        scroll.setMinimumWidth(inside.sizeHint().width() + 20)
        self.resize(scroll.minimumWidth() + 40, inside.sizeHint().height() + 90)

    def look_for(self, words: str) -> None:
        """Show what has every word."""
        wanted = words.lower().split()
        for text, labels in self._rows:
            for one in labels:
                one.setVisible(all(word in text for word in wanted))
