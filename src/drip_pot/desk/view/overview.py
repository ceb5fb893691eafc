# SPDX-License-Identifier: GPL-3.0-or-later
"""The whole page, small, in a corner of the canvas. Knows the canvas; draws its tiles again."""

from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF
from PyQt6.QtWidgets import QWidget

from drip_pot.desk.parts import theme
from drip_pot.desk.view.canvas import Canvas
from drip_pot.desk.view.render import TILE
from drip_pot.desk.view.tool import draw_with
from drip_pot.words import tr


class Overview(QWidget):
    """The whole page, small, in a corner of the canvas; click or drag to go there."""

    _SIDE = 190

    def __init__(self, canvas: Canvas) -> None:
        super().__init__(canvas)
        self.canvas = canvas
        self.setAccessibleName(tr("Whole page"))
        self.hide()
        canvas.zoomed.connect(self.update)
        canvas.tiles.ready.connect(self.update)
        canvas.easel.opened.connect(self.hide)

    def place(self) -> None:
        """Take the shape of the page and lie in the lower right corner."""
        view = self.canvas.easel.view
        if view is None:
            self.hide()
            return
        rows, cols = view.shape
        scale = self._SIDE / max(rows, cols)
        self.setFixedSize(max(20, round(cols * scale)), max(20, round(rows * scale)))
        self.move(self.canvas.width() - self.width() - 12, self.canvas.height() - self.height() - 12)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        view = self.canvas.easel.view
        if view is None:
            return
        self.place()
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        painter.fillRect(self.rect(), Qt.GlobalColor.white)
        level = len(view.drawing.gray) - 1
        size, scale = TILE << level, self.width() / view.shape[1]
        painter.scale(scale, scale)
        for row in range(-(-view.shape[0] // size)):
            for col in range(-(-view.shape[1] // size)):
                image = self.canvas.tiles.get((self.canvas.look, level, row, col), view)
                if image is not None:
                    high, wide = image.height() << level, image.width() << level
                    painter.drawImage(QRectF(col * size, row * size, wide, high), image)
        seen = self.canvas.transform().inverted()[0].map(QPolygonF(QRectF(self.canvas.rect())))
        for shade, width in (("#ffffff", 3.6), ("#161616", 1.6)):
            draw_with(painter, shade, width)
            painter.drawPolygon(seen)
        painter.resetTransform()
        painter.setPen(QPen(theme.color("text"), 1))
        painter.drawRect(self.rect().adjusted(0, 0, -1, -1))

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        self.mouseMoveEvent(event)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        view = self.canvas.easel.view
        if event is not None and view is not None:
            scale = view.shape[1] / max(self.width(), 1)
            self.canvas.center(event.position().y() * scale, event.position().x() * scale)
