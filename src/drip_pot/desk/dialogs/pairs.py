# SPDX-License-Identifier: GPL-3.0-or-later
"""All pots of a book with their shadows, at once. Changes nothing; a click takes a pot in hand."""

from collections.abc import Callable

import numpy as np
from PyQt6.QtCore import QSize, Qt
from PyQt6.QtGui import QColor, QIcon, QPainter, QPixmap
from PyQt6.QtWidgets import QDialogButtonBox, QGridLayout, QScrollArea, QToolButton, QVBoxLayout, QWidget

from drip_pot.book import Book
from drip_pot.core.color import delta_e, from_hex, srgb8_to_oklab
from drip_pot.desk.parts.dialog import Dialog
from drip_pot.desk.parts.widgets import label
from drip_pot.words import tr

_COLUMNS, _SIZE = 4, QSize(54, 34)


class PairSheet(Dialog):
    """A sheet of tone pairs, part by part."""

    def __init__(self, parent: QWidget | None, book: Book, choose: Callable[[int | None], object]) -> None:
        super().__init__(parent)
        self.setWindowTitle(tr("All pairs"))
        self.resize(660, 560)
        self._choose = choose
        sheet = QWidget()
        grid = QGridLayout(sheet)
        grid.setHorizontalSpacing(14)
        row = 0
        every = list(book.pots())
        seen = srgb8_to_oklab(np.array([from_hex(pot.local) for pot in book.pots().values()], np.uint8).reshape(-1, 3))
        for number, part in book.parts().items():
            pots = {n: pot for n, pot in book.pots().items() if pot.part == number}
            if not pots:
                continue
            title = tr("{0}, by its own rule", part.name) if part.tone is not None else part.name
            grid.addWidget(label(title, "title"), row, 0, 1, _COLUMNS)
            row += 1
            for place, (n, pot) in enumerate(pots.items()):
                pair = book.tone_pair(pot)
                shadow = srgb8_to_oklab(from_hex(pair[1]))
                here = every.index(n)
                away = delta_e(shadow, seen)
                away[here] = np.inf
                nearest = int(away.argmin())
                step = float(seen[here][0] - shadow[0]) * 100
                told = tr(
                    "{0}\n{1:.0f} L darker, set by hand" if pot.shadow else "{0}\n{1:.0f} L darker", pot.name, step
                )
                tip = tr("Nearest other pot: {0}, {1:.1f} ΔE", book.pots()[every[nearest]].name, away[nearest])
                if len(every) == 1:
                    tip = tr("There is no other pot")
                grid.addWidget(self._button(n, told, tip, pair), row + place // _COLUMNS, place % _COLUMNS)
            row += -(-len(pots) // _COLUMNS)
        grid.setRowStretch(row, 1)
        area = QScrollArea()
        area.setWidget(sheet)
        area.setWidgetResizable(True)
        close = QDialogButtonBox(QDialogButtonBox.StandardButton.Close)
        close.rejected.connect(self.reject)
        column = QVBoxLayout(self)
        column.addWidget(area)
        column.addWidget(close)

    def _button(self, number: int, told: str, tip: str, pair: tuple[str, str]) -> QToolButton:
        picture = QPixmap(_SIZE)
        painter = QPainter(picture)
        painter.fillRect(0, 0, _SIZE.width() // 2, _SIZE.height(), QColor(pair[0]))
        painter.fillRect(_SIZE.width() // 2, 0, _SIZE.width(), _SIZE.height(), QColor(pair[1]))
        painter.end()
        found = QToolButton()
        found.setIcon(QIcon(picture))
        found.setIconSize(_SIZE)
        found.setText(told)
        found.setToolTip(tip)
        found.setToolButtonStyle(Qt.ToolButtonStyle.ToolButtonTextBesideIcon)
        found.setAutoRaise(True)
        found.clicked.connect(lambda: self._take(number))
        return found

    def _take(self, number: int) -> None:
        self._choose(number)
        self.accept()
