# SPDX-License-Identifier: GPL-3.0-or-later
"""The canvas painted: the page in tiles, the wipe, marks on top. Knows the canvas; changes nothing."""

from weakref import WeakKeyDictionary

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QPainter, QPainterPath, QPen, QPolygonF

from drip_pot.desk.parts import theme
from drip_pot.desk.session.page_view import PageView
from drip_pot.desk.view.render import TILE, Look
from drip_pot.desk.view.shown import OnScreen
from drip_pot.desk.view.tiles import Tiles
from drip_pot.desk.view.tool import draw_with
from drip_pot.words import tr

_GRID_ZOOM = 8.0


class Painting:
    """What paints a canvas."""

    def __init__(self, canvas: OnScreen) -> None:
        self.canvas = canvas
        self._before: WeakKeyDictionary[Tiles, Look] = WeakKeyDictionary()

    def paint(self, painter: QPainter) -> None:
        """Paint all that is seen."""
        c = self.canvas
        painter.fillRect(c.rect(), theme.color("surround"))
        view, waiting = c.easel.view, c.easel.page and c.easel.deriving.is_behind()
        if c.last.picture is not None and (view is None or view.flat is None) and waiting:
            self._paint_last(painter)
            return
        if view is None:
            self._paint_empty(painter)
            return
        page = c.transform().mapRect(QRectF(0, 0, view.shape[1], view.shape[0]))
        before = (view, c.before, c.tiles) if c.earlier is None else (c.earlier, c.look, c.past)
        now = (view, c.look, c.tiles)
        half = QRectF(c.width() / 2, 0, c.width() / 2, c.height())
        if c.beside:
            painter.translate(-half.width(), 0)
            self._paint_page(painter, *before, page.intersected(half))
            painter.resetTransform()
            self._paint_page(painter, *(before if c.peeking else now), page.intersected(half))
        elif c.peeking:
            self._paint_page(painter, *before, page)
        elif c.wipe is None:
            self._paint_page(painter, *now, page)
        else:
            at = c.wipe_x()
            self._paint_page(painter, *before, page.intersected(QRectF(0, 0, at, c.height())))
            self._paint_page(painter, *now, page.intersected(QRectF(at, 0, c.width() - at, c.height())))
        if c.beside:
            painter.setClipRect(half)
        self._paint_marks(painter, view)
        painter.setClipping(False)
        if c.beside:
            painter.fillRect(QRectF(half.left() - 1, 0, 2, half.height()), Qt.GlobalColor.white)
        elif c.wipe is not None and not c.peeking:
            self._paint_wipe(painter)
        if c.hasFocus():
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setPen(QPen(theme.color("text"), 2))
            painter.drawRect(c.rect().adjusted(1, 1, -1, -1))

    def _paint_last(self, painter: QPainter) -> None:
        """Draw the page as it was seen last."""
        c = self.canvas
        if c.last.picture is not None and c.last.size is not None:
            painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
            painter.setTransform(c.transform())
            painter.drawImage(QRectF(0, 0, c.last.size[1], c.last.size[0]), c.last.picture)
            painter.resetTransform()

    def _paint_empty(self, painter: QPainter) -> None:
        c = self.canvas
        painter.setPen(QColor("#ffffff"))
        painter.setFont(theme.font(20, 500))
        waiting = c.easel.opening.work.busy() or (c.easel.page and c.easel.deriving.work.busy())
        words = "Reading the page" if waiting else "Open a drawing or a book"
        painter.drawText(c.rect().adjusted(0, 0, 0, -30), Qt.AlignmentFlag.AlignCenter, tr(words))
        if not waiting:
            painter.setFont(theme.font(15))
            hint = "Drop a scan here, paste one, or press Ctrl+O.  PNG, TIFF, JPEG, WebP, BMP, OpenRaster, PDF or .drip"
            painter.drawText(c.rect().adjusted(0, 30, 0, 0), Qt.AlignmentFlag.AlignCenter, tr(hint))

    def _paint_page(self, painter: QPainter, view: PageView, look: Look, tiles: Tiles, clip: QRectF) -> None:
        c = self.canvas
        seen = clip.intersected(QRectF(c.rect()))
        if seen.isEmpty():
            return
        painter.save()
        painter.setClipRect(seen)
        if c.turn_deg:
            page = QPainterPath()
            page.addPolygon(c.transform().map(QPolygonF(QRectF(0, 0, view.shape[1], view.shape[0]))))
            painter.setClipPath(page, Qt.ClipOperation.IntersectClip)
        painter.fillRect(seen, Qt.GlobalColor.white)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform, c.zoom < 2)
        levels = view.levels - 1
        level = view.level(c.zoom)
        whole = all(tiles.has((look, level, row, col)) for row, col in self.seen(view, level, seen))
        before = self._before.get(tiles)
        if whole:
            c.last.picture = None
            self._before[tiles] = look
        elif c.last.picture is not None:
            self._paint_last(painter)
        elif before is not None and before != look:  # another stage or look: the old one until the new one is there
            for coarser in range(levels, level - 1, -1):
                self._paint_level(painter, view, before, tiles, coarser, seen, ask=False)
        elif level < levels:
            self._paint_level(painter, view, look, tiles, levels, seen)  # coarse ones where fine ones are missing
        self._paint_level(painter, view, look, tiles, level, seen)
        painter.restore()

    def seen(self, view: PageView, level: int, seen: QRectF) -> list[tuple[int, int]]:
        """Return row and column of the tiles of a level within a part of the canvas."""
        c = self.canvas
        size = TILE << level
        rows, cols = view.shape
        box = c.transform().inverted()[0].mapRect(seen)
        return [
            (row, col)
            for row in range(max(0, int(box.top() // size)), min(-(-rows // size), int(box.bottom() // size) + 1))
            for col in range(max(0, int(box.left() // size)), min(-(-cols // size), int(box.right() // size) + 1))
        ]

    def _paint_level(
        self, painter: QPainter, view: PageView, look: Look, tiles: Tiles, level: int, seen: QRectF, *, ask: bool = True
    ) -> None:
        c = self.canvas
        size = TILE << level
        turned = bool(c.turn_deg) or c.mirrored
        if turned:
            painter.setTransform(c.transform())
        place, ratio = c.transform(), c.devicePixelRatioF()
        for row, col in self.seen(view, level, seen):
            key = (look, level, row, col)
            image = tiles.get(key, view) if ask else tiles.kept(key)
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
        c = self.canvas
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.save()
        scale = c.zoom / c.devicePixelRatioF()
        painter.setTransform(c.transform(), True)
        c.easel.zoom = scale
        for ghost, strength in c.ghosts:
            painter.setOpacity(strength)
            painter.drawImage(QRectF(0, 0, view.shape[1], view.shape[0]), ghost)
        painter.setOpacity(1.0)
        c.overlay.page_marks(painter, view, c)
        if c.zoom >= _GRID_ZOOM:
            self._paint_grid(painter, view)
        for drawn in c.easel.hands.ghosts:
            draw_with(painter, "#a0161616", 1.4)
            painter.drawPolyline(QPolygonF([QPointF(c, r) for r, c in drawn]))
        c.tool.marks(painter, scale)
        painter.restore()
        c.overlay.marks(painter, view, c)
        if c.focus_rect is not None:
            r = c.focus_rect
            middle = c.to_widget((r[0] + r[2]) / 2, (r[1] + r[3]) / 2)
            radius = min(max(14.0, (r[2] - r[0]) * scale / 2), 90.0)
            for shade, width in ((QColor("#ffffff"), 5.0), (theme.color("mark"), 2.4)):
                painter.setPen(QPen(shade, width))
                painter.setBrush(Qt.BrushStyle.NoBrush)
                painter.drawEllipse(middle, radius, radius)

    def _paint_grid(self, painter: QPainter, view: PageView) -> None:
        """Draw the borders of page pixels; the painter is in page pixels."""
        c = self.canvas
        box = c.transform().inverted()[0].mapRect(QRectF(c.rect()))
        box = box.intersected(QRectF(0, 0, view.shape[1], view.shape[0]))
        draw_with(painter, "#50808080", 1.0)
        for col in range(int(box.left()), int(box.right()) + 2):
            painter.drawLine(QPointF(col, box.top()), QPointF(col, box.bottom()))
        for row in range(int(box.top()), int(box.bottom()) + 2):
            painter.drawLine(QPointF(box.left(), row), QPointF(box.right(), row))

    def _paint_wipe(self, painter: QPainter) -> None:
        c = self.canvas
        x, y = c.wipe_x(), c.height() * 0.86
        painter.fillRect(QRectF(x - 1, 0, 2, c.height()), Qt.GlobalColor.white)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(Qt.GlobalColor.white)
        painter.drawEllipse(QPointF(x, y), 14, 14)
        painter.setPen(QPen(QColor("#161616"), 2))
        for side in (-1, 1):
            painter.drawLine(QPointF(x + 4 * side, y - 4), QPointF(x + 8 * side, y))
            painter.drawLine(QPointF(x + 8 * side, y), QPointF(x + 4 * side, y + 4))
