# SPDX-License-Identifier: GPL-3.0-or-later
"""Pages, parts and schemes of another book, asked for and brought in. Knows the easel and files."""

from dataclasses import replace
from pathlib import Path

from PyQt6.QtWidgets import QFileDialog, QWidget

from drip_pot.book import Book
from drip_pot.book.bringing import ToBring, same_named
from drip_pot.core.arrays import Report
from drip_pot.desk.dialogs.bringing import BringDialog, OtherBook, SameName, SameNames
from drip_pot.desk.session.apart import Apart
from drip_pot.desk.session.easel import Easel
from drip_pot.files import bring_from, looking_into
from drip_pot.words import tr

_BOOKS = tr("Books (*.drip)")


def what_is_in(book: Book) -> OtherBook:
    """Return what a book has to choose from."""
    pages, parts, schemes = ({n: one.name for n, one in things.items()} for things in (
        book.pages(), book.parts(), book.schemes()))  # fmt: skip
    return OtherBook(book.info.title, pages, parts, schemes)


def alike_in(mine: Book, theirs: Book, wanted: ToBring) -> list[SameName]:
    """Return the pots that would come but are here by name in other colours."""
    return [
        SameName(number, theirs.pots()[number].name, mine.tone_pair(mine.pots()[twin]),
                 theirs.tone_pair(theirs.pots()[number]))
        for number, twin in same_named(mine, theirs, wanted).items()
    ]  # fmt: skip


class BringMenu(Apart):
    """What is brought in from another book."""

    def __init__(self, window: QWidget, easel: Easel) -> None:
        super().__init__(window, easel)
        self.window = window

    def ask(self) -> None:
        """Ask for a book, and what of it comes."""
        file = self.easel.file
        if file is None:
            return
        chosen, _ = QFileDialog.getOpenFileName(
            self.window, tr("Bring in from another book"), str(self.easel.folder), _BOOKS
        )
        if not chosen:
            return
        path = Path(chosen)
        if path.resolve() == file.path.resolve():
            self.easel.said.emit("That is the book itself. Choose another one.", False)
            return

        def work(report: Report) -> OtherBook:
            report(0.2, "Reading the book")
            with looking_into(path) as (_, theirs):
                return what_is_in(theirs)

        self.work.start("look", work, lambda found: self._choose(path, found), self.failed)

    def _choose(self, path: Path, other: OtherBook) -> None:
        asking = BringDialog(self.window, other)
        book = self.easel.book
        if book is None or not asking.exec():
            return
        wanted, still = asking.wanted(), book.still()

        def work(report: Report) -> list[SameName]:
            report(0.2, "Reading the book")
            with looking_into(path) as (_, theirs):
                return alike_in(still, theirs, wanted)

        self.work.start("look", work, lambda alike: self._settle(path, wanted, alike), self.failed)

    def _settle(self, path: Path, wanted: ToBring, alike: list[SameName]) -> None:
        if alike:
            asking = SameNames(self.window, alike)
            if not asking.exec():
                return
            wanted = replace(wanted, own=asking.own())
        self.bring(path, wanted)

    def bring(self, path: Path, wanted: ToBring) -> None:
        """Bring in what is wanted of a book, in the background, as one step."""
        file = self.easel.file
        if file is None:
            return

        def make(still: Book) -> list[int]:
            with looking_into(path) as theirs:
                return bring_from(file, still, theirs, wanted)

        def then(pages: list[int]) -> None:
            self.easel.said.emit(tr("Brought in from {0}; one undo takes it out again.", path.stem), False)
            if pages:
                self.easel.show_page(pages[0])

        self.start("bring", "Bringing in", make, then)
