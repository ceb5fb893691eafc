# SPDX-License-Identifier: GPL-3.0-or-later
"""The reference board: pictures pinned beside the pages, and colours taken from them. Knows the easel.

Nothing of it is ever printed or exported.
"""

from pathlib import Path

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import (
    QCloseEvent,
    QColor,
    QDragEnterEvent,
    QDropEvent,
    QIcon,
    QImage,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QPixmap,
)
from PyQt6.QtWidgets import QFileDialog, QHBoxLayout, QListWidget, QListWidgetItem, QVBoxLayout, QWidget

from drip_pot.book import verbs
from drip_pot.book.values import Reference
from drip_pot.core.arrays import U8
from drip_pot.core.color import plain_name, to_hex
from drip_pot.desk.parts import theme
from drip_pot.desk.parts.dialog import Dialog
from drip_pot.desk.parts.pixels import image_of
from drip_pot.desk.parts.widgets import Swatch, button, label
from drip_pot.desk.session.easel import Easel
from drip_pot.desk.session.work import Work
from drip_pot.files import IMAGE_SUFFIXES, pinned_pixels
from drip_pot.words import tr

_MOST_PX, _AROUND = 1600, 2
_NUMBER = Qt.ItemDataRole.UserRole


class _Picture(QWidget):
    """A picture as large as there is room; a click takes a colour."""

    taken = pyqtSignal(object)

    def __init__(self) -> None:
        super().__init__()
        self.pixels: U8 | None = None
        self._image: QImage | None = None
        self._spot: QPointF | None = None
        self.setMinimumSize(260, 260)
        self.setCursor(Qt.CursorShape.CrossCursor)
        self.setAccessibleName(tr("The reference; click to take a colour"))

    def show_pixels(self, pixels: U8 | None) -> None:
        """Show a picture, (M, N, 3) uint8, or none."""
        self.pixels, self._spot = pixels, None
        self._image = None if pixels is None else image_of(pixels)
        self.update()

    def _box(self) -> QRectF:
        assert self._image is not None
        scale = min(self.width() / self._image.width(), self.height() / self._image.height())
        wide, high = self._image.width() * scale, self._image.height() * scale
        return QRectF((self.width() - wide) / 2, (self.height() - high) / 2, wide, high)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), theme.color("surround"))
        if self._image is None:
            painter.setPen(QColor("#ffffff"))
            painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, tr("Pin a picture, or drop one here"))
            return
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.drawImage(self._box(), self._image)
        if self._spot is not None:
            painter.setBrush(Qt.BrushStyle.NoBrush)
            for shade, width in (("#ffffff", 4.0), ("#161616", 1.6)):
                painter.setPen(QPen(QColor(shade), width))
                painter.drawEllipse(self._spot, 8, 8)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        self._take(event.position())

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        self._take(event.position())

    def _take(self, at: QPointF) -> None:
        if self._image is None or self.pixels is None or not self._box().contains(at):
            return
        box, (high, wide) = self._box(), self.pixels.shape[:2]
        row = min(int((at.y() - box.top()) / box.height() * high), high - 1)
        col = min(int((at.x() - box.left()) / box.width() * wide), wide - 1)
        piece = self.pixels[max(0, row - _AROUND) : row + _AROUND + 1, max(0, col - _AROUND) : col + _AROUND + 1]
        self._spot = at
        self.taken.emit(np.rint(piece.reshape(-1, 3).mean(axis=0)).astype(np.uint8))
        self.update()


class ReferenceBoard(Dialog):
    """The board; it stays open beside the work."""

    def __init__(self, parent: QWidget | None, easel: Easel) -> None:
        super().__init__(parent)
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.setWindowTitle(tr("References"))
        self.setAcceptDrops(True)
        self.resize(560, 560)
        self.easel, self.work = easel, Work(self, patience=6)
        self._known: dict[int, U8] = {}
        self.color = "#ffffff"
        column = QVBoxLayout(self)
        self.list = QListWidget()
        self.list.setFlow(QListWidget.Flow.LeftToRight)
        self.list.setViewMode(QListWidget.ViewMode.IconMode)
        self.list.setIconSize(QSize(72, 54))
        self.list.setFixedHeight(88)
        self.list.setWrapping(False)
        self.list.setMovement(QListWidget.Movement.Static)
        self.list.setAccessibleName(tr("Pinned pictures"))
        self.list.currentItemChanged.connect(lambda *_: self._show())
        column.addWidget(self.list)
        self.picture = _Picture()
        self.picture.taken.connect(self._take)
        column.addWidget(self.picture, 1)
        row = QHBoxLayout()
        self.swatch = Swatch("Colour taken", lambda: None, 30)
        self.swatch.setFixedWidth(60)
        self.name = label("Click the picture to take a colour", "muted")
        row.addWidget(self.swatch)
        row.addWidget(self.name, 1)
        self.into = button("Into the pot in hand", self._into, "Give the pot in hand this colour")
        self.fresh = button("New pot", self._fresh, "A pot of this colour in the part in hand")
        row.addWidget(self.into)
        row.addWidget(self.fresh)
        column.addLayout(row)
        row = QHBoxLayout()
        row.addWidget(button("Pin a picture", self._ask, "Keep a picture in the book, beside its pages"))
        self.gone = button("Unpin", self._unpin, "Take this picture off the board")
        row.addWidget(self.gone)
        row.addStretch(1)
        row.addWidget(button("Close", self.close))
        column.addLayout(row)
        for one in (self.into, self.fresh):
            one.setEnabled(False)
        easel.edited.connect(self.refresh)
        self.refresh()

    def refresh(self) -> None:
        """Show what is pinned now."""
        book = self.easel.book
        known = {} if book is None else book.references()
        if [self._number(row) for row in range(self.list.count())] != list(known):
            before = self._number(self.list.currentRow())
            self.list.clear()
            for number, one in known.items():
                item = QListWidgetItem(one.name)
                item.setData(_NUMBER, number)
                if number in self._known:
                    item.setIcon(_icon(self._known[number]))
                self.list.addItem(item)
            numbers = list(known)
            self.list.setCurrentRow(numbers.index(before) if before in numbers else len(numbers) - 1)
        self._next()
        self._show()

    def _number(self, row: int) -> int:
        item = self.list.item(row)
        return 0 if item is None else int(item.data(_NUMBER))

    def _next(self) -> None:
        """Read the next picture that is not known yet."""
        book, file = self.easel.book, self.easel.file
        if book is None or file is None or self.work.busy():
            return
        for row in range(self.list.count()):
            number, item = self._number(row), self.list.item(row)
            if number in self._known or item is None or number not in book.references():
                continue
            one: Reference = book.references()[number]
            self.work.start("pinned", lambda _, o=one.original: pinned_pixels(file, o, _MOST_PX),  # type: ignore[misc]
                            lambda found, n=number: self._came(n, found), lambda error: self.name.setText(str(error)))  # type: ignore[misc]  # fmt: skip
            return

    def _came(self, number: int, pixels: U8) -> None:
        self._known[number] = pixels
        for row in range(self.list.count()):
            item = self.list.item(row)
            if item is not None and self._number(row) == number:
                item.setIcon(_icon(pixels))
        self._show()
        self._next()

    def _show(self) -> None:
        number = self._number(self.list.currentRow())
        pixels = self._known.get(number)
        if pixels is not self.picture.pixels:
            self.picture.show_pixels(pixels)
        self.gone.setEnabled(number > 0)

    # Colours

    def _take(self, color: U8) -> None:
        self.color = to_hex(color)
        self.swatch.show_color(self.color)
        self.name.setText(f"{plain_name(color).capitalize()}, {self.color}")
        for one in (self.into, self.fresh):
            one.setEnabled(self.easel.book is not None)

    def _into(self) -> None:
        self.easel.recolor_pot(self.color)

    def _fresh(self) -> None:
        book = self.easel.book
        if book is None:
            return
        pots, parts = book.pots(), book.parts()
        part = pots[self.easel.pot].part if self.easel.pot in pots and self.easel.pot else next(iter(parts), 0)
        made: list[int] = []
        name = self.name.text().split(",")[0]
        if self.easel.do(lambda book, _: made.append(verbs.add_pot(book, name, part, self.color))):
            self.easel.choose_pot(made[0])

    # Pinning

    def _ask(self) -> None:
        files = " ".join(f"*{suffix}" for suffix in IMAGE_SUFFIXES)
        found, _ = QFileDialog.getOpenFileNames(
            self, tr("Pin pictures"), str(self.easel.folder), tr("Pictures ({0})", files)
        )
        for name in found:
            self.pin(Path(name))

    def pin(self, path: Path) -> None:
        """Keep a picture in the book and pin it."""
        self.easel.opening.take_picture(
            path, lambda original, _: self.easel.do(lambda book, __: verbs.pin_reference(book, original, path.stem))
        )

    def _unpin(self) -> None:
        number = self._number(self.list.currentRow())
        if number:
            self.easel.do(lambda book, _: verbs.unpin_reference(book, number))

    def dragEnterEvent(self, event: QDragEnterEvent | None) -> None:
        data = None if event is None else event.mimeData()
        if event is not None and data is not None and data.hasUrls():
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent | None) -> None:
        data = None if event is None else event.mimeData()
        for url in [] if data is None else data.urls():
            if url.isLocalFile():
                self.pin(Path(url.toLocalFile()))

    def closeEvent(self, event: QCloseEvent | None) -> None:
        self.easel.edited.disconnect(self.refresh)
        self.work.close()
        super().closeEvent(event)


def _icon(pixels: U8) -> QIcon:
    image = image_of(pixels).scaled(144, 108, Qt.AspectRatioMode.KeepAspectRatio)
    return QIcon(QPixmap.fromImage(image))
