# SPDX-License-Identifier: GPL-3.0-or-later
"""How many gaps there are of each width, as bars with a mark to drag. Knows no book."""

import numpy as np
from PyQt6.QtCore import QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QMouseEvent, QPaintEvent
from PyQt6.QtWidgets import QWidget

from drip_pot.core.arrays import F64, I64
from drip_pot.desk.parts import theme
from drip_pot.desk.stages.panel import chart_painter, paint_mark
from drip_pot.words import tr


class GapBars(QWidget):
    """How many gaps there are of each width; a mark, to be dragged, up to which they are bridged."""

    moved = pyqtSignal(float)
    done = pyqtSignal(float)
    MOST = 60

    def __init__(self) -> None:
        super().__init__()
        self.setFixedHeight(96)
        self.setAccessibleName(tr("Gaps by width"))
        self._counts: I64 = np.zeros(self.MOST // 2, np.int64)
        self._gap = 0.0
        self._held = False

    def show_gaps(self, widths: F64, gap: float) -> None:
        """Show gap widths in pixels, (B,), and the width bridged."""
        self._counts = np.histogram(widths, bins=self.MOST // 2, range=(0, self.MOST))[0]
        if not self._held:
            self._gap = gap
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        box = QRectF(0, 4, self.width(), self.height() - 22)
        painter = chart_painter(self, box)
        most = max(int(self._counts.max()), 1)
        for place, count in enumerate(self._counts.tolist()):
            x, wide = self._x(place * 2), self._x(place * 2 + 2) - self._x(place * 2) - 2
            height = (count / most) ** 0.6 * (box.height() - 12)
            inside = place * 2 + 1 <= self._gap
            painter.fillRect(
                QRectF(x + 1, box.bottom() - 3 - height, wide, height), theme.color("text" if inside else "line")
            )
        paint_mark(painter, self._x(self._gap), box, box.bottom() + 4, box.bottom() - 6)
        painter.setPen(theme.color("muted"))
        painter.setFont(theme.font(13, 400, theme.FIGURES))
        for px in range(0, self.MOST + 1, 10):
            painter.drawText(
                QRectF(self._x(px) - 16, self.height() - 16, 32, 16), Qt.AlignmentFlag.AlignCenter, str(px)
            )

    def _x(self, px: float) -> float:
        return 8 + px / self.MOST * (self.width() - 16)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        self._held = True
        self.mouseMoveEvent(event)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is None or not self._held:
            return
        px = (event.position().x() - 8) / max(self.width() - 16, 1) * self.MOST
        self._gap = float(round(min(max(px, 0), self.MOST)))
        self.update()
        self.moved.emit(self._gap)

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        if self._held:
            self._held = False
            self.done.emit(self._gap)
