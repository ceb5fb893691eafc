# SPDX-License-Identifier: GPL-3.0-or-later
"""How much of the page has which grey, with black and white point. Knows no book."""

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, pyqtSignal
from PyQt6.QtGui import QMouseEvent, QPainterPath, QPaintEvent
from PyQt6.QtWidgets import QWidget

from drip_pot.core.arrays import F64
from drip_pot.desk.parts import theme
from drip_pot.desk.stages.panel import chart_painter, paint_mark
from drip_pot.words import tr


class Histogram(QWidget):
    """How much of the page has which grey; black and white point as hard marks that can be dragged."""

    moved = pyqtSignal(int, int)
    done = pyqtSignal(int, int)

    def __init__(self) -> None:
        super().__init__()
        self.setFixedHeight(84)
        self.setAccessibleName(tr("Histogram with black and white point"))
        self._heights: F64 = np.zeros(256)
        self._points = [60, 225]
        self._held: int | None = None

    def show_page(self, heights: F64, black: int, white: int) -> None:
        """Show a histogram, (256,) of 0..1, and the two points."""
        self._heights = heights
        if self._held is None:
            self._points = [black, white]
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        box = QRectF(0, 0, self.width(), self.height() - 14)
        painter = chart_painter(self, box)
        path = QPainterPath(QPointF(self._x(0), box.bottom()))
        for grey, height in enumerate(self._heights.tolist()):
            path.lineTo(self._x(grey), box.bottom() - height * (box.height() - 6))
        path.lineTo(self._x(255), box.bottom())
        painter.setBrush(theme.color("muted"))
        painter.drawPath(path)
        for point in self._points:
            paint_mark(painter, self._x(point), box, box.bottom() + 2, self.height() - 2)

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
