# SPDX-License-Identifier: GPL-3.0-or-later
"""Pages as they were seen last, kept small in the book's file, so that a page is there before it is read again.

Knows the easel, tiles and looks; nothing depends on what is kept here.
"""

from collections.abc import Callable

import cv2
import numpy as np
from PyQt6.QtCore import QObject, QPoint, QTimer
from PyQt6.QtGui import QImage, QPainter

from drip_pot.desk.session.easel import Easel
from drip_pot.desk.session.page_view import PageView
from drip_pot.desk.session.work import Work
from drip_pot.desk.view.render import TILE, Look, render_tile
from drip_pot.desk.view.screen_profile import on_screen, screen_space

_WAIT_MS, _MOST_PX, _QUALITY = 5000, 1600, 82


class LastLook(QObject):
    """What is shown of a page until it is read.

    Attributes
    ----------
    picture : QImage or None
        The page as it was seen last; None where nothing is kept of it.
    size : (int, int) or None
        Its rows and columns in full.
    """

    def __init__(self, easel: Easel, look: Callable[[], Look], parent: QObject) -> None:
        super().__init__(parent)
        self.easel, self._look = easel, look
        self.work = Work(self, patience=19)
        self.picture: QImage | None = None
        self.size: tuple[int, int] | None = None
        self._kept: object = None
        self._rest = QTimer(self)
        self._rest.setSingleShot(True)
        self._rest.setInterval(_WAIT_MS)
        self._rest.timeout.connect(self.keep)
        for signal in (easel.refreshed, easel.edited, easel.chosen):
            signal.connect(self._wait)

    def recall(self) -> None:
        """Take up what is kept of the page that is shown now."""
        self.work.drop()
        self.picture, self.size = None, None
        book, file, page = self.easel.book, self.easel.file, self.easel.page
        known = None if book is None else book.pages().get(page)
        data = None if file is None or known is None else file.recall(f"look/{page}")
        image = QImage.fromData(data) if data else QImage()
        if known is not None and not image.isNull():
            self.picture, self.size = on_screen(image, screen_space()), (known.rows, known.cols)

    def _wait(self) -> None:
        self.work.cancel("look")
        self._rest.start()

    def keep(self) -> None:
        """Keep what is seen, unless it is kept already."""
        book, file, page, view = self.easel.book, self.easel.file, self.easel.page, self.easel.view
        if book is None or file is None or file.read_only or view is None or view.flat is None:
            return
        look, state = self._look(), (file.path, page, book.position, self._look())
        if state == self._kept or self.easel.deriving.is_behind():
            return

        def work(_: object) -> None:
            file.keep(f"look/{page}", drawn(view, look))

        def done(_: object) -> None:
            self._kept = state

        self.work.start("look", work, done, lambda _: None)

    def close(self) -> None:
        """Stop."""
        self._rest.stop()
        self.work.close()


def drawn(view: PageView, look: Look) -> bytes:
    """Draw a whole page at most 1600 px long, as JPEG."""
    rows, cols = view.shape
    level = 0
    while max(rows, cols) >> level > _MOST_PX and level < view.levels - 1:
        level += 1
    size = TILE << level
    image = QImage(-(-cols >> level), -(-rows >> level), QImage.Format.Format_RGB32)
    image.fill(0xFFFFFFFF)
    painter = QPainter(image)
    for row in range(-(-rows // size)):
        for col in range(-(-cols // size)):
            painter.drawImage(QPoint(col * TILE, row * TILE), render_tile(view, look, level, row, col))
    painter.end()
    bits = image.constBits()
    assert bits is not None
    bits.setsize(image.sizeInBytes())
    pixels = np.frombuffer(bits, np.uint8).reshape(image.height(), image.width(), 4)  # type: ignore[call-overload]
    return cv2.imencode(".jpg", pixels[..., :3], [cv2.IMWRITE_JPEG_QUALITY, _QUALITY])[1].tobytes()
