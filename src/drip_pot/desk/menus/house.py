# SPDX-License-Identifier: GPL-3.0-or-later
"""The palette of a house that a book follows: chosen, read again, taken, left. Knows the easel and files."""

from functools import partial
from pathlib import Path

from PyQt6.QtCore import QObject
from PyQt6.QtWidgets import QFileDialog, QMenu, QWidget

from drip_pot.book import Book, verbs
from drip_pot.book.values import HOUSE
from drip_pot.core.arrays import Report
from drip_pot.core.errors import DripPotError
from drip_pot.desk.session.easel import Easel
from drip_pot.desk.session.work import Work
from drip_pot.files import house_colors
from drip_pot.words import tr, tr_many


class HouseMenu(QObject):
    """What is done with the palette of a house."""

    def __init__(self, window: QWidget, easel: Easel) -> None:
        super().__init__(window)
        self.window, self.easel, self.work = window, easel, Work(self, patience=19)
        easel.opened.connect(self.look)

    def fill(self, menu: QMenu) -> None:
        """Add what can be done to a menu."""
        book = self.easel.book
        menu.addAction(tr("Follow a palette of the house"), self.choose)
        if book is None or book.get(HOUSE.key) is None:
            return
        house, unlike = verbs.house_of(book), verbs.unlike_house(book)
        if house.path:
            menu.addAction(tr("Read {0} again", house.name), partial(self.follow, Path(house.path)))
        count = len(unlike)
        take = menu.addAction(
            tr_many("Take the one colour that differs", "Take the {0} colours that differ", count, count),
            lambda: self.easel.do(lambda b, _: verbs.take_house(b)),
        )
        if take is not None:
            take.setEnabled(bool(unlike))
        menu.addAction(tr("Follow {0} no longer", house.name), lambda: self.easel.do(lambda b, _: verbs.leave_house(b)))

    def choose(self) -> None:
        """Ask for a palette and follow it."""
        if self.easel.book is None:
            return
        kinds = tr("Palettes (*.txt *.csv *.json)")
        found, _ = QFileDialog.getOpenFileName(self.window, tr("Palette of the house"), str(self.easel.folder), kinds)
        if found:
            self.follow(Path(found))

    def follow(self, path: Path) -> None:
        """Follow the palette of a file as it is now, and say how many pots differ."""
        try:
            colors, problems = house_colors(path)
        except DripPotError as error:
            self.easel.said.emit(str(error), True)
            return
        self.easel.do(lambda book, _: verbs.follow_house(book, path.stem, colors, str(path)))
        self.easel.said.emit(self._told(path.stem, problems), False)

    def _told(self, name: str, problems: list[str]) -> str:
        unlike = len(verbs.unlike_house(self.easel.book)) if self.easel.book is not None else 0
        told = tr("Every pot that {0} names is as it has it.", name)
        if unlike:
            told = tr_many("One pot differs from {1}; Look here in Flats shows it on pages that use it.",
                           "{0} pots differ from {1}; Look here in Flats shows those of the page.",
                           unlike, unlike, name)  # fmt: skip
        return told if not problems else tr("{0} {1}", told, problems[0])

    def look(self) -> None:
        """Tell where the file of the palette has changed since it was read; nothing is changed unasked."""
        book: Book | None = self.easel.book
        if book is None or book.get(HOUSE.key) is None:
            return
        house = verbs.house_of(book)
        if not house.path:
            return

        def work(_: Report) -> bool:
            return tuple(house_colors(Path(house.path))[0]) != house.colors

        def done(differs: bool) -> None:
            if differs and book is self.easel.book:
                self.easel.said.emit(tr("{0} has changed since this book read it. Pots › More reads it again.",
                                        house.name), False)  # fmt: skip

        self.work.start("house", work, done, lambda _: None)
