# SPDX-License-Identifier: GPL-3.0-or-later
"""Steps made on a snapshot of the book in the background, then done to the book itself. Knows the easel."""

from collections.abc import Callable
from typing import TypeVar

from PyQt6.QtCore import QObject

from drip_pot.book import Book, Edit
from drip_pot.core.arrays import Report
from drip_pot.desk.session.easel import Easel
from drip_pot.desk.session.work import Work

T = TypeVar("T")


class Apart(QObject):
    """Work on snapshots of the open book.

    Attributes
    ----------
    work : Work
        What it is done with; it is dropped when another book is opened.
    """

    def __init__(self, parent: QObject, easel: Easel, patience: int = 10) -> None:
        super().__init__(parent)
        self.easel, self.work = easel, Work(self, patience=patience)
        easel.opened.connect(self.work.drop)

    def failed(self, error: Exception) -> None:
        """Tell what went wrong."""
        self.easel.said.emit(str(error), True)

    def start(self, name: str, doing: str, make: Callable[[Book], T], then: Callable[[T], object]) -> None:
        """Let `make` change a snapshot, then do the same to the book as one gesture, and go on with what it returned.

        Where something else was done meanwhile, so that numbers may be taken, it is made anew.
        """
        book = self.easel.book
        if book is None:
            return
        still, position = book.still(), book.position

        def work(report: Report) -> tuple[list[Edit], T]:
            report(0.1, doing)
            made = make(still)
            return still.made(), made

        def done(found: tuple[list[Edit], T]) -> None:
            if book is not self.easel.book:
                return
            if book.position != position:
                self.start(name, doing, make, then)
                return

            def apply() -> None:
                with book.as_one():
                    for edit in found[0]:
                        book.apply(edit)

            if self.easel.trying(apply):
                then(found[1])

        self.work.start(name, work, done, self.failed)
