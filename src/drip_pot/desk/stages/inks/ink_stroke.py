# SPDX-License-Identifier: GPL-3.0-or-later
"""What of the greys of a page is ink, and what is paper, as a stroke that runs dry. Knows no book."""

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QBrush, QLinearGradient, QMouseEvent, QPainterPath, QPaintEvent, QPen
from PyQt6.QtWidgets import QWidget

from drip_pot.core.arrays import F64
from drip_pot.desk.parts import theme
from drip_pot.desk.parts.pot import paint_drip
from drip_pot.desk.stages.panel import chart_painter
from drip_pot.words import tr

_STROKE = 0.62


class InkStroke(QWidget):
    """A stroke of ink that is black up to a grey and runs dry at another, over how much of the page has which grey.

    Its two ends can be dragged.
    """

    moved = pyqtSignal(int, int)
    done = pyqtSignal(int, int)

    def __init__(self) -> None:
        super().__init__()
        self.setFixedHeight(84)
        self.setAccessibleName(tr("What is ink and what is paper"))
        self._heights: F64 = np.zeros(256)
        self._points = [60, 225]
        self._held: int | None = None

    def show_page(self, heights: F64, black: int, white: int) -> None:
        """Show how much of a page has which grey, (256,) of 0..1, and the two ends."""
        self._heights = heights
        if self._held is None:
            self._points = [black, white]
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        box = QRectF(0, 0, self.width(), self.height() - 14)
        painter = chart_painter(self, box)
        middle, half = box.center().y(), box.height() / 2 - 4
        painter.setPen(QPen(theme.color("edge"), 1))
        for grey, height in enumerate(self._heights.tolist()):
            painter.drawLine(
                QPointF(self._x(grey), middle - height * half), QPointF(self._x(grey), middle + height * half)
            )
        black, paper = (self._x(point) for point in self._points)
        wide = half * _STROKE
        stroke = QPainterPath(QPointF(box.left(), middle - wide))
        stroke.lineTo(black, middle - wide)
        stroke.quadTo(black + (paper - black) * 0.4, middle - wide * 0.9, paper, middle)
        stroke.quadTo(black + (paper - black) * 0.4, middle + wide * 0.9, black, middle + wide)
        stroke.lineTo(box.left(), middle + wide)
        fade = QLinearGradient(black, 0, paper, 0)
        ink, thin = theme.color("text"), theme.color("text")
        thin.setAlpha(40)
        fade.setColorAt(0, ink)
        fade.setColorAt(1, thin)
        painter.setClipRect(box)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QBrush(fade))
        painter.drawPath(stroke)
        painter.setClipping(False)
        for at, full in ((black, True), (paper, False)):
            painter.setPen(QPen(theme.color("text"), 1.6))
            painter.drawLine(QPointF(at, box.top() + 3), QPointF(at, box.bottom() + 2))
            paint_drip(painter, QPointF(at, box.bottom() + 2), 5.5, theme.color("text" if full else "card").name())

    def _x(self, grey: int) -> float:
        return 7 + grey / 255 * (self.width() - 14)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        x = event.position().x()
        self._held = min((0, 1), key=lambda i: abs(self._x(self._points[i]) - x))
        self.mouseMoveEvent(event)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if self._held is None or event is None:
            return
        grey = round((event.position().x() - 7) / max(self.width() - 14, 1) * 255)
        low, high = (0, self._points[1] - 1) if self._held == 0 else (self._points[0] + 1, 255)
        self._points[self._held] = min(max(grey, low), high)
        self.update()
        self.moved.emit(*self._points)

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        if self._held is not None:
            self._held = None
            self.done.emit(*self._points)
