# SPDX-License-Identifier: GPL-3.0-or-later
"""Switches over the canvas. Knows nothing of what they show."""

from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QPainter, QPaintEvent
from PyQt6.QtWidgets import (
    QHBoxLayout,
    QPushButton,
    QWidget,
)

from drip_pot.desk.parts import theme
from drip_pot.desk.view.seen import Chip
from drip_pot.words import tr


class Chips(QWidget):
    """What is seen: small switches at the top left of the canvas."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.row = QHBoxLayout(self)
        self.row.setContentsMargins(4, 4, 4, 4)
        self.row.setSpacing(1)
        self._shown: list[tuple[str, bool, str]] = []

    def fill(self, chips: list[Chip]) -> None:
        """Show chips."""
        if [(c.name, c.on, c.tip) for c in chips] == self._shown:
            return
        self._shown = [(c.name, c.on, c.tip) for c in chips]
        while (item := self.row.takeAt(0)) is not None:
            if (old := item.widget()) is not None:
                old.hide()
                old.deleteLater()
        for chip in chips:
            entry = QPushButton(tr(chip.name))
            entry.setProperty("chip", True)
            entry.setCheckable(True)
            entry.setChecked(chip.on)
            entry.setToolTip(tr(chip.tip))
            entry.setAccessibleName(tr("See {0}", tr(chip.name)))
            entry.setFocusPolicy(Qt.FocusPolicy.TabFocus)
            entry.clicked.connect(lambda _, done=chip.done: done())
            self.row.addWidget(entry)
            entry.show()
        self.row.activate()
        self.resize(self.sizeHint())

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(theme.color("chrome"))
        painter.drawRoundedRect(QRectF(self.rect()), self.height() / 2, self.height() / 2)
