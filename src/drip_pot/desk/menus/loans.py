# SPDX-License-Identifier: GPL-3.0-or-later
"""Pages sent out to somebody as a book of their own, and taken back. Knows the easel and files."""

from pathlib import Path

from PyQt6.QtWidgets import QFileDialog, QWidget

from drip_pot.book import Book, Edit
from drip_pot.book.loans import Clash, Return, compare, loan_of
from drip_pot.core.arrays import Report
from drip_pot.desk.dialogs.asking import ask_name
from drip_pot.desk.dialogs.loans import ReturnDialog
from drip_pot.desk.session.apart import Apart
from drip_pot.desk.session.easel import Easel
from drip_pot.files import looking_into, send_out, slug, take_back
from drip_pot.words import tr, tr_many

_BOOKS = tr("Books (*.drip)")


class LoanMenu(Apart):
    """Pages that go out and come back."""

    def __init__(self, window: QWidget, easel: Easel) -> None:
        super().__init__(window, easel)
        self.window = window

    def send(self, pages: list[int] | None = None) -> None:
        """Ask whom some pages, or the one shown, go to and where they are written, and write them."""
        book, file = self.easel.book, self.easel.file
        pages = pages or [self.easel.page]
        if book is None or file is None or not self.easel.page:
            return
        name = ask_name(self.window, tr("Whom do the pages go to?"), "")
        if not name:
            return
        usual = file.path.with_name(f"{file.path.stem}-{slug(name)}.drip")
        chosen, _ = QFileDialog.getSaveFileName(self.window, tr("Send pages out"), str(usual), _BOOKS)
        if not chosen:
            return
        still, target = book.still(), Path(chosen).with_suffix(".drip")

        def work(report: Report) -> Edit:
            report(0.1, "Sending pages out")
            return send_out(file, still, pages, target, name)

        def done(edit: Edit) -> None:
            if book is self.easel.book and self.easel.trying(lambda: book.apply(edit)):
                told = tr_many("One page went out to {1} as {2}.", "{0} pages went out to {1} as {2}.",
                               len(pages), len(pages), name, target.name)  # fmt: skip
                self.easel.said.emit(told, False)

        self.work.start("send", work, done, self.failed)

    def take(self) -> None:
        """Ask for a book that went out, tell what comes back with it, and take that back."""
        book = self.easel.book
        if book is None:
            return
        chosen, _ = QFileDialog.getOpenFileName(self.window, tr("Take pages back"), str(self.easel.folder), _BOOKS)
        if not chosen:
            return
        path, still = Path(chosen), book.still()

        def work(report: Report) -> tuple[str, Return, dict[int, str]]:
            report(0.1, "Comparing")
            with looking_into(path) as (_, theirs):
                known = theirs.pages() | still.pages()
                return loan_of(theirs).name, compare(still, theirs), {n: page.name for n, page in known.items()}

        self.work.start("compare", work, lambda found: self._ask(path, *found), self.failed)

    def _ask(self, path: Path, name: str, back: Return, pages: dict[int, str]) -> None:
        if not back.fresh:
            self.easel.said.emit("Nothing is there that is not here already.", False)
            return
        asking = ReturnDialog(self.window, name, back, pages)
        if asking.exec():
            self._take(path, name, asking.left())

    def _take(self, path: Path, name: str, left: list[Clash]) -> None:
        file = self.easel.file
        if file is None:
            return

        def make(still: Book) -> None:
            with looking_into(path) as theirs:
                take_back(file, still, theirs, compare(still, theirs[1]), left)

        told = tr("Taken back from {0}; one undo gives it up again.", name)
        self.start("take", "Taking pages back", make, lambda _: self.easel.said.emit(told, False))
