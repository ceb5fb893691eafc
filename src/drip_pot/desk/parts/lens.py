# SPDX-License-Identifier: GPL-3.0-or-later
"""Pictures zoomed and moved together: one place and scale for all, and what shows a picture so. Knows pixels."""

import cv2
import numpy as np
from PyQt6.QtCore import QObject, QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QImage, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QWheelEvent
from PyQt6.QtWidgets import QWidget

from drip_pot.core.arrays import U8
from drip_pot.desk.parts import theme
from drip_pot.desk.parts.pixels import image_of
from drip_pot.words import tr

_STEP, _MOST, _PAN, _LEAST_PX = 1.25, 32.0, 0.1, 200


def levels_of(rgb: U8) -> tuple[QImage, ...]:
    """Return a picture of (M, N, 3) uint8 sRGB, and the same at half the size, again and again, down to some 200 px."""
    found = [image_of(rgb)]
    while min(rgb.shape[:2]) > _LEAST_PX:
        size = max(1, rgb.shape[1] // 2), max(1, rgb.shape[0] // 2)
        rgb = np.asarray(cv2.resize(rgb, size, interpolation=cv2.INTER_AREA), np.uint8)
        found.append(image_of(rgb))
    return tuple(found)


class Lens(QObject):
    """Where pictures are looked at, as shares of each.

    Signals
    -------
    changed()
        They are looked at elsewhere, or the pointer is elsewhere.

    Attributes
    ----------
    across, down : float
        What lies in the middle, 0..1 of width and height.
    zoom : float
        How much larger than whole, 1..32.
    spot : (float, float) or None
        What the pointer is at, as shares.
    """

    changed = pyqtSignal()

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.across, self.down, self.zoom = 0.5, 0.5, 1.0
        self.spot: tuple[float, float] | None = None

    def look(self, across: float, down: float, zoom: float) -> None:
        """Look at another place, or closer."""
        self.zoom = min(max(zoom, 1.0), _MOST)
        half = 0.5 / self.zoom
        self.across, self.down = (min(max(at, half), 1 - half) for at in (across, down))
        self.changed.emit()

    def point(self, spot: tuple[float, float] | None) -> None:
        """Tell what the pointer is at."""
        self.spot = spot
        self.changed.emit()


class LensView(QWidget):
    """A picture seen through a lens: the wheel zooms at the pointer, a drag moves, a double click shows all of it."""

    def __init__(self, lens: Lens) -> None:
        super().__init__()
        self.lens, self._from = lens, QPointF()
        self._levels: tuple[QImage, ...] = ()
        self.words = ""
        self.setMinimumSize(160, 160)
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        lens.changed.connect(self.update)

    def show_levels(self, levels: tuple[QImage, ...], words: str = "") -> None:
        """Show a picture, see `levels_of`, or words in its place."""
        self._levels, self.words = levels, words
        self.update()

    def box(self) -> QRectF:
        """Return where the whole picture lies, in widget pixels; empty without one."""
        if not self._levels:
            return QRectF()
        whole = self._levels[0]
        fit = min(self.width() / whole.width(), self.height() / whole.height())
        wide, high = (side * fit * self.lens.zoom for side in (whole.width(), whole.height()))
        return QRectF(self.width() / 2 - self.lens.across * wide, self.height() / 2 - self.lens.down * high, wide, high)

    def _share(self, at: QPointF) -> tuple[float, float]:
        box = self.box()
        return (at.x() - box.left()) / max(box.width(), 1), (at.y() - box.top()) / max(box.height(), 1)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), theme.color("surround"))
        if not self._levels:
            painter.setPen(QColor("#ffffff"))
            painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, tr(self.words))
            return
        box = self.box()
        wide = box.width() * self.devicePixelRatioF()
        level = next((image for image in reversed(self._levels) if image.width() >= wide), self._levels[0])
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform, wide < 2 * level.width())
        painter.drawImage(box, level)
        if self.lens.spot is not None and not self.underMouse():
            across, down = self.lens.spot
            at = QPointF(box.left() + across * box.width(), box.top() + down * box.height())
            for shade, width in (("#ffffff", 3.0), ("#161616", 1.2)):
                painter.setPen(QPen(QColor(shade), width))
                painter.drawLine(at - QPointF(8, 0), at + QPointF(8, 0))
                painter.drawLine(at - QPointF(0, 8), at + QPointF(0, 8))
        if self.hasFocus():
            painter.setPen(QPen(theme.color("text"), 2))
            painter.drawRect(self.rect().adjusted(1, 1, -1, -1))

    def zoom_by(self, factor: float, at: QPointF | None = None) -> None:
        """Look closer or from further off; what lies at a point of the widget stays there."""
        at = at if at is not None else QPointF(self.rect().center())
        across, down = self._share(at)
        lens, zoom = self.lens, min(max(self.lens.zoom * factor, 1.0), _MOST)
        back = lens.zoom / zoom
        lens.look(across + (lens.across - across) * back, down + (lens.down - down) * back, zoom)

    def _move(self, right: float, down: float) -> None:
        box = self.box()
        if not box.isEmpty():
            self.lens.look(self.lens.across + right / box.width(), self.lens.down + down / box.height(), self.lens.zoom)

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        assert event is not None
        self.zoom_by(_STEP ** (event.angleDelta().y() / 120), event.position())
        event.accept()

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        self._from = event.position()

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if event.buttons():
            moved = self._from - event.position()
            self._from = event.position()
            self._move(moved.x(), moved.y())
        self.lens.point(self._share(event.position()))

    def leaveEvent(self, event: object) -> None:
        self.lens.point(None)

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        self.lens.look(0.5, 0.5, 1.0)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        wide, high = self.width() * _PAN, self.height() * _PAN
        steps = {
            Qt.Key.Key_Left: (-wide, 0), Qt.Key.Key_Right: (wide, 0), Qt.Key.Key_Up: (0, -high),
            Qt.Key.Key_Down: (0, high),
        }  # fmt: skip
        if event.key() in steps:
            self._move(*steps[Qt.Key(event.key())])
        elif event.text() in ("+", "="):
            self.zoom_by(_STEP)
        elif event.text() == "-":
            self.zoom_by(1 / _STEP)
        elif event.text() == "0":
            self.lens.look(0.5, 0.5, 1.0)
        else:
            super().keyPressEvent(event)
