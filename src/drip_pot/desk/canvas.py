"""The canvas: the page seen, moving about, the wipe, marks, and the tool at work.

Knows the easel, the view and the tools. Positions on the widget are logical pixels; the page's are (row, col).
"""

from collections.abc import Iterable
from pathlib import Path

import cv2
import numpy as np
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

from drip_pot.book.derived import chosen_specks
from drip_pot.core.arrays import Rect
from drip_pot.core.regions import bridge_verdicts
from drip_pot.desk import theme
from drip_pot.desk.easel import Easel
from drip_pot.desk.tiles import Tiles
from drip_pot.desk.tool import Tool, draw_with
from drip_pot.desk.tools import TOOL_CLASSES
from drip_pot.desk.view import TILE, Look, PageView

_WORTH = 0.1
_LEAST_ZOOM, _MOST_ZOOM, _GRID_ZOOM = 0.01, 32.0, 8.0
_CHIPS = 54  # what the chips take of the canvas at the top


def outline(view: PageView, atoms: Iterable[int], zoom: float) -> QPainterPath:
    """Return the outline of atoms in page pixels, as fine as it can be seen at a zoom."""
    path = QPainterPath()
    chosen = [a for a in atoms if view.atoms is not None and a <= view.atoms.count]
    if not chosen or view.divided is None or view.labels is None or view.atoms is None:
        return path
    level = view.level(zoom)
    step = 1 << level
    boxes = view.divided.boxes[chosen]
    top, left = (boxes[:, :2].min(axis=0) // step).tolist()
    bottom, right = (-(-boxes[:, 2:].max(axis=0) // step)).tolist()
    table = np.zeros(view.atoms.count + 1, np.uint8)
    table[chosen] = 1
    mask = np.pad(table[view.labels[level][top:bottom, left:right]], 1)
    fine = cv2.resize(mask, None, fx=2, fy=2, interpolation=cv2.INTER_NEAREST)  # so that the outline is not inside
    contours, _ = cv2.findContours(fine, cv2.RETR_LIST, cv2.CHAIN_APPROX_SIMPLE)
    for contour in contours:
        spots = (contour[:, 0].astype(np.float64) + 0.5) / 2 - 1
        points = [QPointF((x + left) * step, (y + top) * step) for x, y in spots.tolist()]
        path.addPolygon(QPolygonF(points))
        path.closeSubpath()
    return path


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

    def __init__(self, easel: Easel, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.easel = easel
        self.tiles = Tiles(self)
        self.look, self.before = Look(), Look(kind="line")
        self.peeking = False
        self.wipe: float | None = None
        self.show_bridges = False
        self.show_specks = False
        self.focus_rect: Rect | None = None
        self.zoom = 0.1
        self.origin = QPointF(0, 0)
        self.turn_deg = 0.0
        self.mirrored = False
        self.earlier: PageView | None = None
        self.show_names = True
        self._past = Tiles(self)
        self._hover: tuple[int, QPointF] = (0, QPointF())
        self._outline: tuple[object, QPainterPath] = (None, QPainterPath())
        self._picked: tuple[object, QPainterPath] = (None, QPainterPath())
        self._fitted = True
        self._stage, self._tool_in_hand = easel.stage, easel.tool
        self._tools: dict[str, Tool] = {n: kind(easel) for n, kind in TOOL_CLASSES.items()}
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

    def set_looks(self, look: Look, before: Look) -> None:
        """Say what is shown now, and what peek and wipe compare it to."""
        if (look, before) != (self.look, self.before):
            self.look, self.before = look, before
            self.update()

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
        waiting = self.easel.work.busy("open") or (self.easel.page and self.easel.work.busy())
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
        levels = len(view.gray) - 1
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
        for row, col in self._seen(view, level, seen):
            image = tiles.get((look, level, row, col), view)
            if image is None:
                continue
            high, wide = image.height() << level, image.width() << level
            if turned:
                painter.drawImage(QRectF(col * size, row * size, wide, high), image)
                continue
            a, b = self.to_widget(row * size, col * size), self.to_widget(row * size + high, col * size + wide)
            painter.drawImage(QRectF(self._on_pixel(a), self._on_pixel(b)), image)
        if turned:
            painter.resetTransform()

    def _on_pixel(self, at: QPointF) -> QPointF:
        """Move a position to a whole pixel of the screen, so that tiles meet without a seam."""
        ratio = self.devicePixelRatioF()
        return QPointF(round(at.x() * ratio) / ratio, round(at.y() * ratio) / ratio)

    def _paint_marks(self, painter: QPainter, view: PageView) -> None:
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if self.show_bridges and view.atoms is not None and view.partition is not None:
            self._paint_bridges(painter, view)
        if self.show_specks:
            painter.setPen(QPen(theme.color("mark"), 1.6))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            for speck in chosen_specks(view.pieces, view.preview or view.inks):
                painter.drawEllipse(self.to_widget(speck.row, speck.col), 7, 7)
        painter.save()
        scale = self.zoom / self.devicePixelRatioF()
        painter.setTransform(self.transform(), True)
        self.easel.zoom = scale
        if self.easel.stage == "Flats":
            self._paint_regions(painter, view)
        if self.zoom >= _GRID_ZOOM:
            self._paint_grid(painter, view)
        self.tool.marks(painter, scale)
        self._paint_trim(painter, view)
        painter.restore()
        if self.easel.stage == "Flats":
            self._paint_name(painter, view)
        if self.focus_rect is not None:
            r = self.focus_rect
            middle = self.to_widget((r[0] + r[2]) / 2, (r[1] + r[3]) / 2)
            radius = min(max(14.0, (r[2] - r[0]) * scale / 2), 90.0)
            for shade, width in ((QColor("#ffffff"), 5.0), (theme.color("mark"), 2.4)):
                painter.setPen(QPen(shade, width))
                painter.setBrush(Qt.BrushStyle.NoBrush)
                painter.drawEllipse(middle, radius, radius)

    def _paint_regions(self, painter: QPainter, view: PageView) -> None:
        """Outline what is picked, and the region under the pointer; the painter is in page pixels."""
        if view.divided is None or view.partition is None:
            return
        picked = self.easel.flats.picked
        if self._picked[0] != (picked, id(view.divided), view.level(self.zoom)):
            self._picked = ((picked, id(view.divided), view.level(self.zoom)), outline(view, picked, self.zoom))
        root = self._hover[0] if self._busy is None else 0
        if self._outline[0] != (root, id(view.partition), view.level(self.zoom)):
            atoms = self.easel.region_atoms(root) if root else ()
            self._outline = ((root, id(view.partition), view.level(self.zoom)), outline(view, atoms, self.zoom))
        for path, wide in ((self._outline[1], 1.0), (self._picked[1], 2.0)):
            for shade, width in (("#ffffff", wide + 2.0), ("#161616", wide)):
                draw_with(painter, shade, width)
                painter.drawPath(path)

    def _paint_grid(self, painter: QPainter, view: PageView) -> None:
        """Draw the borders of page pixels; the painter is in page pixels."""
        box = self.transform().inverted()[0].mapRect(QRectF(self.rect()))
        box = box.intersected(QRectF(0, 0, view.shape[1], view.shape[0]))
        draw_with(painter, "#50808080", 1.0)
        for col in range(int(box.left()), int(box.right()) + 2):
            painter.drawLine(QPointF(col, box.top()), QPointF(col, box.bottom()))
        for row in range(int(box.top()), int(box.bottom()) + 2):
            painter.drawLine(QPointF(box.left(), row), QPointF(box.right(), row))

    def _paint_name(self, painter: QPainter, view: PageView) -> None:
        """Write the name of the pot under the pointer beside it."""
        root, at = self._hover
        book = self.easel.book
        if not self.show_names or not root or self._busy is not None or book is None:
            return
        pot = book.pots().get(self.easel.pot_of(root) or 0)
        painter.setFont(theme.font(13, 500))
        name = pot.name if pot is not None else "not poured"
        wide = painter.fontMetrics().horizontalAdvance(name) + 14
        box = QRectF(min(at.x() + 14, self.width() - wide - 2), min(at.y() + 16, self.height() - 24), wide, 20)
        painter.setPen(QPen(QColor("#161616"), 1))
        painter.setBrush(QColor("#ffffff"))
        painter.drawRoundedRect(box, 4, 4)
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, name)

    def _paint_trim(self, painter: QPainter, view: PageView) -> None:
        """Draw where the page is trimmed, and how far its bleed goes; the painter is in page pixels."""
        sources = self.easel.sources()
        if self.easel.stage != "Inks" or sources is None or sources.page.trim_mm is None:
            return
        page, px = sources.page, sources.page.dpi / 25.4
        wide, high = (side * px for side in sources.page.trim_mm)
        trim = QRectF((page.cols - wide) / 2, (page.rows - high) / 2, wide, high)
        bleed = page.bleed_mm * px
        for box, style in ((trim, Qt.PenStyle.SolidLine), (trim.adjusted(-bleed, -bleed, bleed, bleed),
                                                           Qt.PenStyle.DashLine)):  # fmt: skip
            pen = QPen(QColor("#161616"), 1.2, style)
            pen.setCosmetic(True)
            painter.setPen(pen)
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(box)

    def _paint_bridges(self, painter: QPainter, view: PageView) -> None:
        assert view.atoms is not None
        assert view.partition is not None
        feet, bend, part = view.atoms.bridges.feet, view.atoms.bridges.bend, view.partition
        near = self.zoom >= 0.2
        worth = bridge_verdicts(view.atoms) >= (0.0 if self.easel.tool == "Bridge" else _WORTH)
        open_ones = part.separates & ~part.closed & worth
        for wanted, ink in ((part.closed, QColor("#161616")), (open_ones, theme.color("mark"))):
            for index in wanted.nonzero()[0].tolist():
                a, b = self.to_widget(*feet[index, :2].tolist()), self.to_widget(*feet[index, 2:].tolist())
                if not self.rect().contains(a.toPoint()) and not self.rect().contains(b.toPoint()):
                    continue
                curve = QPainterPath(a)
                curve.quadTo(self.to_widget(*bend[index].tolist()), b)
                painter.setBrush(Qt.BrushStyle.NoBrush)
                for shade, width in ((QColor("#ffffff"), 4.4), (ink, 2.0)) if near else ((ink, 1.4),):
                    painter.setPen(QPen(shade, width, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
                    painter.drawPath(curve)

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
        elif event.button() == Qt.MouseButton.MiddleButton or self._space or self.easel.tool == "Look":
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
        elif self.easel.stage == "Flats":
            row, col = self.to_page(at)
            self._hover = self.easel.atom_at(int(row // 1), int(col // 1)), at
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
            if self.easel.flats.panel:
                self.easel.flats.confine(0)
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
        self._hover = (0, QPointF())
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
