# SPDX-License-Identifier: GPL-3.0-or-later
"""A curve of values, pulled by its points. Knows widgets and numbers; nothing of passes."""

from PyQt6.QtCore import QEvent, QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF
from PyQt6.QtWidgets import QWidget

from drip_pot.desk.parts import theme
from drip_pot.desk.stages.panel import chart_painter
from drip_pot.words import tr

Points = tuple[tuple[float, float], ...]
_STRAIGHT: Points = ((0.0, 0.0), (1.0, 1.0))
_KEYS = (Qt.Key.Key_Left, Qt.Key.Key_Right, Qt.Key.Key_Up, Qt.Key.Key_Down, Qt.Key.Key_Delete)
_REACH, _MOST, _APART, _STEP = 10, 8, 0.02, 0.02


class CurveEdit(QWidget):
    """A curve from dark to light: drag a point, click beside to add one, Delete or pull it out to remove it.

    With the keys: Tab goes in, Left and Right choose a point, with Shift they move it, as Up and Down do.
    """

    done = pyqtSignal(object)

    def __init__(self) -> None:
        super().__init__()
        self.setFixedHeight(120)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(tr("Curve of values"))
        self.setToolTip(tr("Drag a point; click beside the curve to add one; pull it out, or Delete, removes it"))
        self.points: list[tuple[float, float]] = list(_STRAIGHT)
        self._held: int | None = None
        self._chosen = 0

    def show_curve(self, curve: Points) -> None:
        """Show a curve; none is straight."""
        if self._held is None:
            self.points = list(curve or _STRAIGHT)
            self._chosen = min(self._chosen, len(self.points) - 1)
            self.update()

    def _box(self) -> QRectF:
        return QRectF(self.rect()).adjusted(7, 7, -7, -7)

    def _at(self, point: tuple[float, float]) -> QPointF:
        box = self._box()
        return QPointF(box.left() + point[0] * box.width(), box.bottom() - point[1] * box.height())

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter: QPainter = chart_painter(self, QRectF(self.rect()))
        painter.setPen(QPen(theme.color("line"), 1))
        for share in (0.25, 0.5, 0.75):
            painter.drawLine(self._at((share, 0)), self._at((share, 1)))
            painter.drawLine(self._at((0, share)), self._at((1, share)))
        first, last = self.points[0], self.points[-1]
        path = [(0.0, first[1]), *self.points, (1.0, last[1])]
        painter.setPen(QPen(theme.color("text"), 2))
        painter.drawPolyline(QPolygonF([self._at(point) for point in path]))
        for place, point in enumerate(self.points):
            chosen = self.hasFocus() and place == self._chosen
            painter.setBrush(theme.color("text" if chosen else "card"))
            painter.drawEllipse(self._at(point), 5, 5)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        at = event.position()
        apart = [(self._at(point) - at).manhattanLength() for point in self.points]
        nearest = apart.index(min(apart))
        if apart[nearest] > 2 * _REACH:
            if len(self.points) >= _MOST:
                return
            self.points = sorted([*self.points, self._value(at)])
            nearest = self.points.index(self._value(at))
        self._held = self._chosen = nearest
        self.update()

    def _value(self, at: QPointF) -> tuple[float, float]:
        box = self._box()
        x, y = (at.x() - box.left()) / box.width(), (box.bottom() - at.y()) / box.height()
        return round(min(max(x, 0.0), 1.0), 3), round(min(max(y, 0.0), 1.0), 3)

    def _put(self, place: int, point: tuple[float, float]) -> None:
        """Move a point, between those beside it."""
        low = self.points[place - 1][0] + _APART if place else 0.0
        high = self.points[place + 1][0] - _APART if place + 1 < len(self.points) else 1.0
        self.points[place] = round(min(max(point[0], low), max(low, high)), 3), round(min(max(point[1], 0.0), 1.0), 3)
        self.update()

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is not None and self._held is not None:
            self._put(self._held, self._value(event.position()))

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        held, self._held = self._held, None
        if held is None or event is None:
            return
        if not QRectF(self.rect()).adjusted(-40, -40, 40, 40).contains(event.position()):
            self._remove(held)
        else:
            self._told()

    def _remove(self, place: int) -> None:
        if len(self.points) > 2:
            del self.points[place]
            self._chosen = min(self._chosen, len(self.points) - 1)
            self._told()

    def _told(self) -> None:
        self.update()
        curve = tuple(self.points)
        self.done.emit(() if curve == _STRAIGHT else curve)

    def event(self, event: QEvent | None) -> bool:
        """Keep the keys it understands from meaning something else in the window."""
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.ShortcutOverride and event.key() in _KEYS:
            event.accept()
            return True
        return super().event(event)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        key, moves = Qt.Key(event.key()), bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        aside = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}.get(key, 0)
        up = {Qt.Key.Key_Up: 1, Qt.Key.Key_Down: -1}.get(key, 0)
        x, y = self.points[self._chosen]
        if up or (aside and moves):
            self._put(self._chosen, (x + _STEP * aside, y + _STEP * up))
            self._told()
        elif aside:
            self._chosen = min(max(self._chosen + aside, 0), len(self.points) - 1)
            self.update()
        elif key == Qt.Key.Key_Delete:
            self._remove(self._chosen)
        else:
            super().keyPressEvent(event)
