# SPDX-License-Identifier: GPL-3.0-or-later
"""Schemes side by side on what is seen of the page, with the bare line beside them. Knows the easel."""

from collections.abc import Callable
from dataclasses import replace

import cv2
import numpy as np
from PyQt6.QtCore import Qt
from PyQt6.QtGui import QCloseEvent, QMouseEvent, QPixmap, QResizeEvent
from PyQt6.QtWidgets import QGridLayout, QLabel, QWidget

from drip_pot.book import Book, build_tables, verbs
from drip_pot.book.scope import Ground
from drip_pot.core.arrays import U8
from drip_pot.desk.parts.dialog import Dialog
from drip_pot.desk.parts.pixels import image_of
from drip_pot.desk.parts.widgets import label
from drip_pot.desk.session.easel import Easel
from drip_pot.desk.session.page_view import Flatted, PageView, ready_of
from drip_pot.desk.session.work import Work
from drip_pot.words import tr

_MOST = 4


def in_schemes(book: Book, page: int, view: PageView, flat: Flatted, level: int) -> list[tuple[int, str, U8]]:
    """Draw a page in the scheme in hand, in others, and the bare line: number (0 is the line), name, pixels."""
    found = []
    known, now = book.schemes(), book.scheme
    order = [now, *(n for n in known if n != now)][:_MOST]
    for number in order:
        if number != book.scheme:
            verbs.use_scheme(book, number)  # of a snapshot: the book itself stays as it is
        ground = Ground(flat.labels[0], lambda: flat.panels, lambda: flat.painted.pieces, at_once=True)
        tables = build_tables(book, book.sources(page), flat.atoms.count, ground)
        seen = ready_of(view, replace(flat, tables=tables), level).screen()[..., :3]
        found.append((number, known[number].name, np.ascontiguousarray(seen)))
    ink = np.ascontiguousarray(255 - flat.painted.ink[level])
    found.append((0, "The line alone", np.asarray(cv2.merge([ink] * 3), np.uint8)))
    return found


class CompareSchemes(Dialog):
    """The page in up to four schemes; a click takes one in hand."""

    def __init__(self, parent: QWidget | None, easel: Easel, use: Callable[[int], object]) -> None:
        super().__init__(parent)
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.setWindowTitle(tr("Compare schemes"))
        self.resize(1000, 560)
        self._use, self.work = use, Work(self, patience=4)
        self._pictures: list[tuple[int, QLabel, QPixmap]] = []
        self._grid = QGridLayout(self)
        self._wait = label("Drawing the page in each scheme", "muted")
        self._grid.addWidget(self._wait, 0, 0)
        book, view = easel.book, easel.view
        if book is not None and view is not None and view.flat is not None:
            still, page, flat = book.still(), easel.page, view.flat
            level = min(2, view.levels - 1)
            self.work.start("schemes", lambda _: in_schemes(still, page, view, flat, level), self._show, self._fail)

    def _fail(self, error: Exception) -> None:
        self._wait.setText(str(error))

    def _show(self, found: list[tuple[int, str, U8]]) -> None:
        self._wait.hide()
        for place, (number, name, pixels) in enumerate(found):
            image = image_of(pixels)
            shown = QLabel()
            shown.setAlignment(Qt.AlignmentFlag.AlignTop | Qt.AlignmentFlag.AlignHCenter)
            shown.setMinimumSize(80, 80)
            shown.setAccessibleName(name)
            self._pictures.append((number, shown, QPixmap.fromImage(image)))
            head = label(name, "title")
            self._grid.addWidget(head, 0, place)
            self._grid.addWidget(shown, 1, place)
            self._grid.setColumnStretch(place, 1)
        self._grid.setRowStretch(1, 1)
        self._fit()

    def _fit(self) -> None:
        for _, shown, picture in self._pictures:
            width = max(80, self.width() // max(1, len(self._pictures)) - 16)
            shown.setPixmap(picture.scaled(width, self.height() - 60, Qt.AspectRatioMode.KeepAspectRatio,
                                           Qt.TransformationMode.SmoothTransformation))  # fmt: skip

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self._fit()

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        for number, shown, _ in self._pictures:
            if number and shown.geometry().contains(event.position().toPoint()):
                self._use(number)
                self.close()

    def closeEvent(self, event: QCloseEvent | None) -> None:
        self.work.close()
        super().closeEvent(event)
