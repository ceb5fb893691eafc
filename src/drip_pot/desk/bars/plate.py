# SPDX-License-Identifier: GPL-3.0-or-later
"""The plate that words over the canvas stand on. Knows colours only."""

from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QPainter, QPaintEvent
from PyQt6.QtWidgets import QWidget

from drip_pot.desk.parts import theme


class Plate(QWidget):
    """A rounded plate that lies over the canvas."""

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(theme.color("card"))
        painter.drawRoundedRect(QRectF(self.rect()), 8, 8)
