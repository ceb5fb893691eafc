# SPDX-License-Identifier: GPL-3.0-or-later
"""The page's sheets as cards: a click takes one in hand. Knows the easel."""

import numpy as np
from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QMouseEvent

from drip_pot.book.values import SHEETS
from drip_pot.desk.session.easel import Easel
from drip_pot.desk.shelf.cards import Card, Cards, card_image


class SheetCards(Cards):
    """The sheets.

    Signals
    -------
    menu_wanted(object)
        A sheet's menu, at a global position.
    name_wanted()
        The sheet in hand wants another name.
    """

    menu_wanted = pyqtSignal(object)
    name_wanted = pyqtSignal()

    def __init__(self, easel: Easel) -> None:
        super().__init__(easel, "Sheets")

    def made(self) -> list[Card]:
        view, sources = self.easel.view, self.easel.sources()
        if view is None or sources is None:
            return []
        found = []
        for number, sheet in sources[SHEETS].items():
            small = view.drawing.thumbs.get(number)
            picture = None if small is None else card_image(np.stack([255 - small] * 3, axis=-1))
            found.append(Card(sheet.name, sheet.role if sheet.shown else "hidden", picture, number, sheet.shown))
        return found

    def is_strong(self, card: Card) -> bool:
        return card.number == self.easel.sheet

    def press(self, card: Card, mods: Qt.KeyboardModifier) -> None:
        self.easel.choose_sheet(card.number)

    def go(self, place: int) -> None:
        super().go(place)
        self.easel.choose_sheet(self._pictures[place].number)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        super().mousePressEvent(event)
        if event is not None and event.button() == Qt.MouseButton.RightButton and self.card_at(event.position()):
            self.menu_wanted.emit(event.globalPosition().toPoint())

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if self.card_at(event.position()) is not None:
            self.name_wanted.emit()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        if event.key() == Qt.Key.Key_Menu:
            self.menu_wanted.emit(self.mapToGlobal(self._box(0).center().toPoint()))
        else:
            super().keyPressEvent(event)
