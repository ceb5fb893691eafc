# SPDX-License-Identifier: GPL-3.0-or-later
"""Pages worked out before they are opened, when nothing else is to be done. Knows the easel and files.

What is found is kept in the book's file, as it is when a page is opened, so that opening it takes a moment.
"""

from collections.abc import Callable

from PyQt6.QtCore import QObject, QTimer

from drip_pot.book import Book, LineState
from drip_pot.core.arrays import Report
from drip_pot.desk.session.in_use import InUse
from drip_pot.desk.session.work import Work
from drip_pot.files import derive

_WAIT_MS, _MOST = 4000, 400


class Ahead(QObject):
    """What works ahead of the page that is shown: first the next pages, then those before it.

    Attributes
    ----------
    done : dict
        The line of every page that was worked out, by number.
    """

    def __init__(self, easel: InUse, is_settled: Callable[[], bool]) -> None:
        super().__init__(easel)
        self.easel, self._is_settled = easel, is_settled
        self.work = Work(self, patience=19)
        self.done: dict[int, LineState] = {}
        self._rest = QTimer(self)
        self._rest.setSingleShot(True)
        self._rest.setInterval(_WAIT_MS)
        self._rest.timeout.connect(self.go_on)
        for signal in (easel.refreshed, easel.edited, easel.chosen):
            signal.connect(self.wait)
        easel.opened.connect(self.work.drop)

    def wait(self) -> None:
        """Begin when nothing was done for a while."""
        self._rest.start()

    def next_page(self) -> int | None:
        """Return the page to work out next; None where all are."""
        book = self.easel.book
        pages = [] if book is None else list(book.pages())[:_MOST]
        if book is None or self.easel.page not in pages:
            return None
        at = pages.index(self.easel.page)
        self.done[self.easel.page] = book.sources(self.easel.page).line
        order = [*pages[at + 1 :], *reversed(pages[:at])]
        return next((page for page in order if self.done.get(page) != book.sources(page).line), None)

    def go_on(self) -> None:
        """Work the next page out, unless something else is being done."""
        book, file, page = self.easel.book, self.easel.file, self.next_page()
        if book is None or file is None or page is None or self.work.busy() or file.read_only:
            return
        if not self._is_settled():
            self.wait()
            return
        still: Book = book.still()
        line = still.sources(page).line

        def work(report: Report) -> None:
            derive(file, still, page).regions.atoms(line.uncut, report)

        def came(_: None) -> None:
            self.done[page] = line
            self.wait()

        def failed(_: Exception) -> None:
            self.done[page] = line  # it is told when the page is opened

        self.work.start("ahead", work, came, failed)

    def close(self) -> None:
        """Stop."""
        self._rest.stop()
        self.work.close()
        self.done.clear()
