"""The canvas: the page seen, moving about, the wipe, marks, and the tool at work.

Knows the easel, the view and the tools. Positions on the widget are logical pixels; the page's are (row, col).
"""

from collections.abc import Mapping
from pathlib import Path

from PyQt6.QtCore import QEvent, QPoint, QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import (
    QColor,
    QDragEnterEvent,
    QDropEvent,
    QKeyEvent,
    QMouseEvent,
    QNativeGestureEvent,
    QPainter,
    QPainterPath,
    QPaintEvent,
    QPen,
    QPolygonF,
    QResizeEvent,
    QTabletEvent,
    QTransform,
    QWheelEvent,
)
from PyQt6.QtWidgets import QWidget

from drip_pot.core.arrays import Rect
from drip_pot.desk.parts import theme
from drip_pot.desk.session.easel import Easel
from drip_pot.desk.session.page_view import PageView
from drip_pot.desk.view.overlay import Overlay
from drip_pot.desk.view.render import TILE, Look
from drip_pot.desk.view.tiles import Tiles
from drip_pot.desk.view.tool import Tool, draw_with

_LEAST_ZOOM, _MOST_ZOOM, _GRID_ZOOM = 0.01, 32.0, 8.0
_CHIPS = 54  # what the chips take of the canvas at the top


class Canvas(QWidget):
    """The page on its grey surround.

    Signals
    -------
    moved(float, float)
        Page position under the pointer (row, col).
    zoomed()
        Zoom or place changed.
    dropped(object)
        A file was dropped here.
    """

    moved = pyqtSignal(float, float)
    zoomed = pyqtSignal()
    dropped = pyqtSignal(object)

    def __init__(
        self, easel: Easel, tools: Mapping[str, Tool], overlays: Mapping[str, Overlay], parent: QWidget | None = None
    ) -> None:  # fmt: skip
        super().__init__(parent)
        self.easel = easel
        self._tools, self._overlays = tools, overlays
        self.tiles = Tiles(self)
        self.look, self.before = Look(), Look(kind="line")
        self.peeking = False
        self.wipe: float | None = None
        self.focus_rect: Rect | None = None
        self.zoom = 0.1
        self.origin = QPointF(0, 0)
        self.turn_deg = 0.0
        self.mirrored = False
        self.earlier: PageView | None = None
        self._past = Tiles(self)
        self._fitted = True
        self._stage, self._tool_in_hand = easel.stage, easel.tool
        self._busy: Tool | None = None
        self._pan: QPointF | None = None
        self._space = False
        self._wiping = False
        self.setMouseTracking(True)
        self.setAcceptDrops(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Page")
        self.setMinimumSize(200, 200)
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self.tiles.ready.connect(self.update)
        self._past.ready.connect(self.update)
        easel.opened.connect(self._on_opened)
        easel.repaint.connect(self._on_repaint)
        easel.chosen.connect(self._on_chosen)

    # State

    @property
    def tool(self) -> Tool:
        """The tool in use."""
        return self._tools[self.easel.tool]

    @property
    def overlay(self) -> Overlay:
        """What the stage draws over the page."""
        return self._overlays[self.easel.stage]

    def is_busy(self) -> bool:
        """Whether a gesture is being made."""
        return self._busy is not None

    def set_looks(self, look: Look, before: Look) -> None:
        """Say what is shown now, and what peek and wipe compare it to."""
        if (look, before) != (self.look, self.before):
            self.look, self.before = look, before
            self.update()

    def every_tiles(self) -> tuple[Tiles, Tiles]:
        """Return the tiles of now and of what it is compared with."""
        return self.tiles, self._past

    def close_tiles(self) -> None:
        """Wait for the threads that draw."""
        for tiles in self.every_tiles():
            tiles.close()

    def set_wipe(self, on: bool) -> None:
        """Show or hide the before/after divider."""
        self.wipe = 0.5 if on else None
        self.update()

    def compare_with(self, view: PageView | None) -> None:
        """Wipe and peek against an earlier view of the page; None is the stage's own comparison again."""
        self._past.clear()
        self.earlier = view
        self.set_wipe(view is not None)

    def _on_opened(self) -> None:
        self.cancel_gesture()
        self.compare_with(None)
        self.turn_deg, self.mirrored = 0.0, False
        self.tiles.clear()
        self.focus_rect = None
        self._fitted = True
        self.update()

    def _on_repaint(self, rects: list[Rect] | None) -> None:
        if self._fitted:
            self.fit()
        self.tiles.stale(rects)
        self.update()

    def _on_chosen(self) -> None:
        self.cancel_gesture()
        if self.easel.stage != self._stage:
            self._stage, self.focus_rect = self.easel.stage, None
            self.compare_with(None)
        if self.easel.tool != self._tool_in_hand:
            self._tools[self._tool_in_hand].dropped()
            self._tool_in_hand = self.easel.tool
        self.setCursor(self.tool.cursor)
        self.update()

    def cancel_gesture(self) -> bool:
        """Give up what the pointer is doing; return whether it was doing anything."""
        if self._busy is None:
            return False
        self._busy.cancel()
        self._busy = None
        self.update()
        return True

    # Place

    def fit(self) -> None:
        """Show the whole page."""
        view = self.easel.view
        if view is None:
            return
        rows, cols = view.shape
        turned = QTransform().rotate(self.turn_deg).mapRect(QRectF(0, 0, cols, rows))
        wide, high = (self.width() - 32) / turned.width(), (self.height() - _CHIPS - 14) / turned.height()
        self.zoom = max(_LEAST_ZOOM, min(wide, high, 1.0) * self.devicePixelRatioF())
        self._center(rows / 2, cols / 2, QPointF(self.width() / 2, (self.height() + _CHIPS - 14) / 2))
        self._fitted = True
        self._placed()

    def _center(self, row: float, col: float, at: QPointF | None = None) -> None:
        """Bring a page position to a widget position, the middle if none is given."""
        at = at or QPointF(self.width() / 2, self.height() / 2)
        self.origin += at - self.to_widget(row, col)

    def set_zoom(self, zoom: float, at: QPointF | None = None) -> None:
        """Zoom (1 is one page pixel on one screen pixel), keeping the page under `at` in place."""
        at = at or QPointF(self.width() / 2, self.height() / 2)
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
        middle = QPointF(self.width() / 2, self.height() / 2)
        row, col = self.to_page(middle)
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

    # Painting

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), theme.color("surround"))
        view = self.easel.view
        if view is None:
            self._paint_empty(painter)
            return
        page = self.transform().mapRect(QRectF(0, 0, view.shape[1], view.shape[0]))
        before = (view, self.before, self.tiles) if self.earlier is None else (self.earlier, self.look, self._past)
        now = (view, self.look, self.tiles)
        if self.peeking:
            self._paint_page(painter, *before, page)
        elif self.wipe is None:
            self._paint_page(painter, *now, page)
        else:
            at = self._wipe_x()
            self._paint_page(painter, *before, page.intersected(QRectF(0, 0, at, self.height())))
            self._paint_page(painter, *now, page.intersected(QRectF(at, 0, self.width() - at, self.height())))
        self._paint_marks(painter, view)
        if self.wipe is not None and not self.peeking:
            self._paint_wipe(painter)

    def _paint_empty(self, painter: QPainter) -> None:
        painter.setPen(QColor("#ffffff"))
        painter.setFont(theme.font(20, 500))
        waiting = self.easel.opening.work.busy() or (self.easel.page and self.easel.deriving.work.busy())
        words = "Reading the page" if waiting else "Open a drawing or a book"
        painter.drawText(self.rect().adjusted(0, 0, 0, -30), Qt.AlignmentFlag.AlignCenter, words)
        if not waiting:
            painter.setFont(theme.font(15))
            hint = "Drop a scan here, paste one, or press Ctrl+O.  PNG, TIFF, JPEG, WebP, BMP, OpenRaster, PDF or .drip"
            painter.drawText(self.rect().adjusted(0, 30, 0, 0), Qt.AlignmentFlag.AlignCenter, hint)

    def _paint_page(self, painter: QPainter, view: PageView, look: Look, tiles: Tiles, clip: QRectF) -> None:
        seen = clip.intersected(QRectF(self.rect()))
        if seen.isEmpty():
            return
        painter.save()
        painter.setClipRect(seen)
        if self.turn_deg:
            page = QPainterPath()
            page.addPolygon(self.transform().map(QPolygonF(QRectF(0, 0, view.shape[1], view.shape[0]))))
            painter.setClipPath(page, Qt.ClipOperation.IntersectClip)
        painter.fillRect(seen, Qt.GlobalColor.white)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform, self.zoom < 2)
        levels = view.levels - 1
        level = view.level(self.zoom)
        if level < levels and not all(tiles.has((look, level, row, col)) for row, col in self._seen(view, level, seen)):
            self._paint_level(painter, view, look, tiles, levels, seen)  # coarse ones where fine ones are missing
        self._paint_level(painter, view, look, tiles, level, seen)
        painter.restore()

    def _seen(self, view: PageView, level: int, seen: QRectF) -> list[tuple[int, int]]:
        size = TILE << level
        rows, cols = view.shape
        box = self.transform().inverted()[0].mapRect(seen)
        return [
            (row, col)
            for row in range(max(0, int(box.top() // size)), min(-(-rows // size), int(box.bottom() // size) + 1))
            for col in range(max(0, int(box.left() // size)), min(-(-cols // size), int(box.right() // size) + 1))
        ]

    def _paint_level(
        self, painter: QPainter, view: PageView, look: Look, tiles: Tiles, level: int, seen: QRectF
    ) -> None:
        size = TILE << level
        turned = bool(self.turn_deg) or self.mirrored
        if turned:
            painter.setTransform(self.transform())
        place, ratio = self.transform(), self.devicePixelRatioF()
        for row, col in self._seen(view, level, seen):
            image = tiles.get((look, level, row, col), view)
            if image is None:
                continue
            high, wide = image.height() << level, image.width() << level
            if turned:
                painter.drawImage(QRectF(col * size, row * size, wide, high), image)
                continue
            box = place.mapRect(QRectF(col * size, row * size, wide, high))
            left, top, right, bottom = (round(v * ratio) / ratio for v in box.getCoords())  # so that tiles meet
            painter.drawImage(QRectF(QPointF(left, top), QPointF(right, bottom)), image)
        if turned:
            painter.resetTransform()

    def _paint_marks(self, painter: QPainter, view: PageView) -> None:
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.save()
        scale = self.zoom / self.devicePixelRatioF()
        painter.setTransform(self.transform(), True)
        self.easel.zoom = scale
        self.overlay.page_marks(painter, view, self)
        if self.zoom >= _GRID_ZOOM:
            self._paint_grid(painter, view)
        for ghost in self.easel.hands.ghosts:
            draw_with(painter, "#a0161616", 1.4)
            painter.drawPolyline(QPolygonF([QPointF(c, r) for r, c in ghost]))
        self.tool.marks(painter, scale)
        painter.restore()
        self.overlay.marks(painter, view, self)
        if self.focus_rect is not None:
            r = self.focus_rect
            middle = self.to_widget((r[0] + r[2]) / 2, (r[1] + r[3]) / 2)
            radius = min(max(14.0, (r[2] - r[0]) * scale / 2), 90.0)
            for shade, width in ((QColor("#ffffff"), 5.0), (theme.color("mark"), 2.4)):
                painter.setPen(QPen(shade, width))
                painter.setBrush(Qt.BrushStyle.NoBrush)
                painter.drawEllipse(middle, radius, radius)

    def _paint_grid(self, painter: QPainter, view: PageView) -> None:
        """Draw the borders of page pixels; the painter is in page pixels."""
        box = self.transform().inverted()[0].mapRect(QRectF(self.rect()))
        box = box.intersected(QRectF(0, 0, view.shape[1], view.shape[0]))
        draw_with(painter, "#50808080", 1.0)
        for col in range(int(box.left()), int(box.right()) + 2):
            painter.drawLine(QPointF(col, box.top()), QPointF(col, box.bottom()))
        for row in range(int(box.top()), int(box.bottom()) + 2):
            painter.drawLine(QPointF(box.left(), row), QPointF(box.right(), row))

    def _wipe_x(self) -> float:
        return (self.wipe or 0.0) * self.width()

    def _paint_wipe(self, painter: QPainter) -> None:
        x, y = self._wipe_x(), self.height() * 0.86
        painter.fillRect(QRectF(x - 1, 0, 2, self.height()), Qt.GlobalColor.white)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(Qt.GlobalColor.white)
        painter.drawEllipse(QPointF(x, y), 14, 14)
        painter.setPen(QPen(QColor("#161616"), 2))
        for side in (-1, 1):
            painter.drawLine(QPointF(x + 4 * side, y - 4), QPointF(x + 8 * side, y))
            painter.drawLine(QPointF(x + 8 * side, y), QPointF(x + 4 * side, y + 4))

    # Pointer and keys

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        at = event.position()
        self.setFocus()
        if self.wipe is not None and abs(at.x() - self._wipe_x()) < 12 and event.button() == Qt.MouseButton.LeftButton:
            self._wiping = True
        elif event.button() == Qt.MouseButton.MiddleButton or self._space or self.tool.pans:
            self._pan = at
            self.setCursor(Qt.CursorShape.ClosedHandCursor)
        elif event.button() == Qt.MouseButton.LeftButton and self.easel.view is not None:
            self._busy = self.tool
            self._busy.press(*self.to_page(at), event.modifiers())
            self.update()

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        at = event.position()
        if self._wiping:
            self.wipe = min(max(at.x() / self.width(), 0.0), 1.0)
            self.update()
        elif self._pan is not None:
            self._shift(at - self._pan)
            self._pan = at
        elif self._busy is not None:
            self._busy.drag(*self.to_page(at), event.modifiers())
            self.update()
        elif self.overlay.hover(*self.to_page(at), at):
            self.update()
        self.moved.emit(*self.to_page(at))

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if self._wiping:
            self._wiping = False
        elif self._pan is not None:
            self._pan = None
            self.setCursor(Qt.CursorShape.OpenHandCursor if self._space else self.tool.cursor)
        elif self._busy is not None:
            busy, self._busy = self._busy, None
            busy.release(*self.to_page(event.position()), event.modifiers())
            self.update()

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        assert event is not None
        if not event.pixelDelta().isNull() and not event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            self._shift(QPointF(event.pixelDelta()))
        else:
            turn = event.angleDelta().y() or event.pixelDelta().y() * 4
            self.set_zoom(self.zoom * 1.2 ** (turn / 120), event.position())
        event.accept()

    def tabletEvent(self, event: QTabletEvent | None) -> None:
        """Note the pen's pressure; the mouse event that Qt sends after an unaccepted pen event draws with it."""
        assert event is not None
        down = event.type() != QEvent.Type.TabletRelease
        self.easel.pressure = max(event.pressure(), 0.05) if down and event.pressure() > 0 else 1.0
        event.ignore()

    def event(self, event: QEvent | None) -> bool:
        if isinstance(event, QNativeGestureEvent) and event.gestureType() == Qt.NativeGestureType.ZoomNativeGesture:
            self.set_zoom(self.zoom * (1 + event.value()), event.position())
            return True
        return super().event(event)

    def _shift(self, by: QPointF) -> None:
        self.origin += by
        self._fitted = False
        self._placed()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        step = {Qt.Key.Key_Left: (60, 0), Qt.Key.Key_Right: (-60, 0), Qt.Key.Key_Up: (0, 60), Qt.Key.Key_Down: (0, -60)}
        if event.key() == Qt.Key.Key_Space and not event.isAutoRepeat():
            self._space = True
            self.setCursor(Qt.CursorShape.OpenHandCursor)
        elif event.key() == Qt.Key.Key_Q and not event.isAutoRepeat():
            self.peeking = True
            self.update()
        elif event.key() == Qt.Key.Key_Escape:
            self.cancel_gesture()
            self.tool.cancel()
            self.overlay.escape()
            self.focus_rect = None
            self.update()
        elif Qt.Key(event.key()) in step:
            self._shift(QPointF(QPoint(*step[Qt.Key(event.key())])))
        else:
            super().keyPressEvent(event)

    def keyReleaseEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        if event.key() == Qt.Key.Key_Space and not event.isAutoRepeat():
            self._space = False
            self.setCursor(self.tool.cursor)
        elif event.key() == Qt.Key.Key_Q and not event.isAutoRepeat():
            self.peeking = False
            self.update()
        else:
            super().keyReleaseEvent(event)

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        if self._fitted:
            self.fit()

    def leaveEvent(self, event: QEvent | None) -> None:
        self.overlay.leave()
        self.update()

    def dragEnterEvent(self, event: QDragEnterEvent | None) -> None:
        assert event is not None
        data = event.mimeData()
        if data is not None and data.hasUrls():
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent | None) -> None:
        assert event is not None
        data = event.mimeData()
        for url in data.urls() if data is not None else []:
            if url.isLocalFile():
                self.dropped.emit(Path(url.toLocalFile()))
