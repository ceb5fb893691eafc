# SPDX-License-Identifier: GPL-3.0-or-later
"""The line at the very bottom. Knows nothing."""

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import (
    QHBoxLayout,
    QWidget,
)

from drip_pot.desk.parts.widgets import label


class StatusLine(QWidget):
    """Left: what the tool does now. Right: what is under the pointer."""

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("status")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setFixedHeight(24)
        row = QHBoxLayout(self)
        row.setContentsMargins(14, 0, 14, 1)
        self.left, self.right = label("", "small"), label("", "smallmuted")
        row.addWidget(self.left, 1)
        row.addWidget(self.right)
