# SPDX-License-Identifier: GPL-3.0-or-later
"""A colour asked for. Knows the colour editor."""

from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QPainter, QPaintEvent
from PyQt6.QtWidgets import (
    QHBoxLayout,
    QWidget,
)

from drip_pot.book import Book
from drip_pot.core.press import PressSettings
from drip_pot.desk.dialogs.asking import Asking
from drip_pot.desk.dialogs.color_editor import ColorEditor
from drip_pot.desk.dialogs.color_taking import offered_by
from drip_pot.desk.parts.pot import paint_pot

_WIDE = 570


class Disc(QWidget):
    """A pot drawn by itself."""

    def __init__(self, local: str, shadow: str) -> None:
        super().__init__()
        self.pair = (local, shadow)
        self.setFixedSize(76, 76)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        paint_pot(painter, QPointF(38, 38), 34, *self.pair)


def pick_color(parent: QWidget, title: str, color: str, book: Book | None, press: PressSettings) -> str | None:
    """Ask for a colour, with the pots of a book at hand; None if it was called off."""
    asking = Asking(parent, title, "Apply")
    disc, editor = Disc(color, color), ColorEditor(color, press, (), () if book is None else offered_by(book))
    asking.setMinimumWidth(_WIDE)
    line = QHBoxLayout()
    line.addWidget(disc, 0, Qt.AlignmentFlag.AlignTop)
    line.addWidget(editor, 1)
    asking.body.addLayout(line)

    def show(changed: str) -> None:
        disc.pair = (changed, color)
        disc.update()

    editor.changed.connect(show)
    asking.stand_aside()
    return editor.color if asking.exec() else None
