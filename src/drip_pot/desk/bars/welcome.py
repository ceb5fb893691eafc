# SPDX-License-Identifier: GPL-3.0-or-later
"""What lies over the canvas while nothing is open: begin, or go on with a book used before. Knows widgets."""

from collections.abc import Callable, Mapping
from functools import partial
from pathlib import Path

from PyQt6.QtCore import QEvent, QObject, QSize
from PyQt6.QtGui import QIcon
from PyQt6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from drip_pot.desk.memory import picture_file
from drip_pot.desk.parts.widgets import button, label

_MOST, _ICON = 6, QSize(66, 44)


class Welcome(QWidget):
    """Buttons to begin with, and the books used last."""

    def __init__(
        self, parent: QWidget, begin: Mapping[str, Callable[[], object]], open_book: Callable[[Path], object]
    ) -> None:  # fmt: skip
        super().__init__(parent)
        self._open = open_book
        column = QVBoxLayout(self)
        row = QHBoxLayout()
        for words, done in begin.items():
            row.addWidget(button(words, done))
        column.addLayout(row)
        self._recent = QVBoxLayout()
        column.addLayout(self._recent)
        self.hide()
        parent.installEventFilter(self)

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        """Keep to the middle when what it lies over changes its size."""
        if event is not None and event.type() == QEvent.Type.Resize:
            self.place()
        return super().eventFilter(watched, event)

    def show_books(self, books: list[Path]) -> None:
        """List the books used last, as far as they are still there."""
        while (item := self._recent.takeAt(0)) is not None:
            if (old := item.widget()) is not None:
                old.deleteLater()
        there = [book for book in books if book.is_file()][:_MOST]
        if there:
            head = label("Go on with")
            head.setStyleSheet("color: white")
            self._recent.addWidget(head)
        for book in there:
            one = button(f"{book.stem}     {book.parent}", partial(self._open, book), str(book))
            one.setIcon(QIcon(str(picture_file(book))))
            one.setIconSize(_ICON)
            self._recent.addWidget(one)
        self.adjustSize()
        self.place()

    def place(self) -> None:
        """Stand in the middle of what it lies over, below its words."""
        over = self.parentWidget()
        if over is not None:
            self.adjustSize()
            self.move((over.width() - self.width()) // 2, over.height() // 2 + 56)
