# SPDX-License-Identifier: GPL-3.0-or-later
"""What the inspector's columns of the stages share. Knows the easel and widgets."""

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPolygonF
from PyQt6.QtWidgets import QWidget

from drip_pot.book import Book, PageSources
from drip_pot.desk.parts import theme
from drip_pot.desk.parts.widgets import Block
from drip_pot.desk.session.easel import Easel


class Panel(QWidget):
    """A stage's blocks; subclasses fill `blocks` and `refresh`."""

    def __init__(self, easel: Easel) -> None:
        super().__init__()
        self.easel = easel
        self.blocks: list[Block] = []

    def refresh(self) -> None:
        """Show what the book holds now."""

    def _ready(self) -> tuple[Book, PageSources] | None:
        return self.easel.ready()


def chart_painter(widget: QWidget, box: QRectF) -> QPainter:
    """Return a painter on a widget with the ground of a small chart painted."""
    painter = QPainter(widget)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(theme.color("card"))
    painter.drawRoundedRect(box, 4, 4)
    return painter


def paint_mark(painter: QPainter, x: float, box: QRectF, tip: float, base: float) -> None:
    """Paint a movable mark: a line through a chart and a triangle from `tip` to `base`."""
    painter.fillRect(QRectF(x - 1, 0, 2, box.bottom()), theme.color("mark"))
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(theme.color("mark"))
    painter.drawPolygon(QPolygonF([QPointF(x, tip), QPointF(x + 6, base), QPointF(x - 6, base)]))
