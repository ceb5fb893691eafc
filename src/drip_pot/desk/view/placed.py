# SPDX-License-Identifier: GPL-3.0-or-later
"""A widget that a page lies on: near or far, turned, mirrored. Knows positions only; nothing of what is on the page.

Positions on the widget are logical pixels; the page's are (row, col).
"""

from PyQt6.QtCore import QPointF, QRectF, pyqtSignal
from PyQt6.QtGui import QTransform
from PyQt6.QtWidgets import QWidget

from drip_pot.core.arrays import Rect

_LEAST_ZOOM, _MOST_ZOOM, _ROOM = 0.01, 32.0, 0.94
_CHIPS = 54  # what the chips take of the canvas at the top


class PlacedMark(QWidget):
    """Where the page lies.

    Attributes
    ----------
    zoom : float
        1 is one page pixel on one pixel of the screen.
    turn_deg : float
        Clockwise.
    focus_rect : Rect or None
        What was gone to last.
    beside : bool
        Whether the page takes the right half alone, and what it is compared with the left.

    Signals
    -------
    zoomed()
        Zoom or place changed.
    """

    zoomed = pyqtSignal()

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.zoom = 0.1
        self.origin = QPointF(0, 0)
        self.turn_deg = 0.0
        self.mirrored = False
        self.focus_rect: Rect | None = None
        self.beside = False
        self._fitted = True

    def middle(self) -> QPointF:
        """Return the middle of what the page takes of the widget."""
        return QPointF(self.width() * (0.75 if self.beside else 0.5), self.height() / 2)

    def set_beside(self, on: bool) -> None:
        """Give the page the right half alone, or all of the widget."""
        row, col = self.to_page(self.middle())
        self.beside = on
        if self._fitted:
            self.fit()
        else:
            self._center(row, col)
            self._placed()

    def is_busy(self) -> bool:
        """Whether a gesture is being made."""
        return False

    def is_fitted(self) -> bool:
        """Whether the whole page is shown, whatever the size of the widget."""
        return self._fitted

    def page_size(self) -> tuple[int, int] | None:
        """Return rows and columns of the page; None without one."""
        return None

    def fit(self) -> None:
        """Show the whole page."""
        size = self.page_size()
        if size is None:
            return
        rows, cols = size
        turned = QTransform().rotate(self.turn_deg).mapRect(QRectF(0, 0, cols, rows))
        room = self.width() / 2 if self.beside else self.width()
        wide, high = (room - 32) / turned.width(), (self.height() - _CHIPS - 14) / turned.height()
        self.zoom = max(_LEAST_ZOOM, min(wide, high, 1.0) * self.devicePixelRatioF())
        self._center(rows / 2, cols / 2, QPointF(self.middle().x(), (self.height() + _CHIPS - 14) / 2))
        self._fitted = True
        self._placed()

    def _center(self, row: float, col: float, at: QPointF | None = None) -> None:
        """Bring a page position to a widget position, the middle if none is given."""
        at = at or self.middle()
        self.origin += at - self.to_widget(row, col)

    def set_zoom(self, zoom: float, at: QPointF | None = None) -> None:
        """Zoom (1 is one page pixel on one screen pixel), keeping the page under `at` in place."""
        at = at or self.middle()
        row, col = self.to_page(at)
        self.zoom = max(_LEAST_ZOOM, min(zoom, _MOST_ZOOM))
        self._center(row, col, at)
        self._fitted = False
        self._placed()

    def center(self, row: float, col: float) -> None:
        """Bring a page position into the middle."""
        self._center(row, col)
        self._fitted = False
        self._placed()

    def set_turn(self, turn_deg: float, *, mirrored: bool) -> None:
        """Turn the view, clockwise in degrees, and mirror it; the page itself is not changed."""
        row, col = self.to_page(self.middle())
        self.turn_deg, self.mirrored = (turn_deg + 180) % 360 - 180, mirrored
        if self._fitted:
            self.fit()
        else:
            self._center(row, col)
            self._placed()

    def turn(self, by_deg: float) -> None:
        """Turn the view by some degrees."""
        self.set_turn(self.turn_deg + by_deg, mirrored=self.mirrored)

    def mirror(self) -> None:
        """Mirror the view, or unmirror it."""
        self.set_turn(-self.turn_deg, mirrored=not self.mirrored)

    def go_to(self, rect: Rect) -> None:
        """Bring a page rectangle into the middle, at a size where it can be judged."""
        room = min(self.width() / max(rect[3] - rect[1], 1), self.height() / max(rect[2] - rect[0], 1)) * 0.5
        self.zoom = max(self.zoom, min(room * self.devicePixelRatioF(), 1.0))
        self._center((rect[0] + rect[2]) / 2, (rect[1] + rect[3]) / 2)
        self._fitted = False
        self.focus_rect = rect
        self._placed()

    def fill_with(self, rect: Rect) -> None:
        """Bring a page rectangle into the middle, as large as the canvas leaves room for."""
        room = min(self.width() / max(rect[3] - rect[1], 1), self.height() / max(rect[2] - rect[0], 1)) * _ROOM
        self.set_zoom(room * self.devicePixelRatioF())
        self.center((rect[0] + rect[2]) / 2, (rect[1] + rect[3]) / 2)

    def transform(self) -> QTransform:
        """Return the way from page positions (column, row) to the widget."""
        scale = self.zoom / self.devicePixelRatioF()
        place = QTransform.fromTranslate(self.origin.x(), self.origin.y()).rotate(self.turn_deg)
        return place.scale(-scale if self.mirrored else scale, scale)

    def to_page(self, at: QPointF) -> tuple[float, float]:
        """Return the page position (row, col) of a widget position."""
        found = self.transform().inverted()[0].map(at)
        return found.y(), found.x()

    def to_widget(self, row: float, col: float) -> QPointF:
        """Return the widget position of a page position."""
        return self.transform().map(QPointF(col, row))

    def _placed(self) -> None:
        self.update()
        self.zoomed.emit()

    def shift(self, by: QPointF) -> None:
        """Move the page about."""
        self.origin += by
        self._fitted = False
        self._placed()
