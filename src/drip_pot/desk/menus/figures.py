# SPDX-License-Identifier: GPL-3.0-or-later
"""Figures that stand on other pages too: looked for on one page or on all, and gone to. Knows the easel."""

from functools import partial

from PyQt6.QtCore import QObject
from PyQt6.QtWidgets import QMenu, QWidget

from drip_pot.book import Book, verbs
from drip_pot.book.values import FigureOffer
from drip_pot.core.arrays import Report
from drip_pot.desk.session.easel import Easel
from drip_pot.desk.session.work import Work
from drip_pot.files import hand_on
from drip_pot.words import say, tr

_OFFERED = dict[int, list[FigureOffer]]


class FigureMenu(QObject):
    """Figures of pages, looked for on others.

    Attributes
    ----------
    work : Work
        What looks on all pages, behind everything else.
    """

    def __init__(self, window: QWidget, easel: Easel) -> None:
        super().__init__(window)
        self.window, self.easel = window, easel
        self.work = Work(self, patience=19)
        easel.opened.connect(self.work.drop)

    def menu(self, parent: QWidget) -> QMenu:
        """Return the pages whose figures may stand on the one shown, to choose from, and the ways to look further."""
        menu = QMenu(tr("Look for figures of"), parent)
        pages = self.easel.book.pages() if self.easel.book is not None else {}
        menu.addAction(tr("This page, on all others"), self.look_everywhere)
        menu.addSeparator()
        for place, (number, page) in enumerate(pages.items(), 1):
            if number != self.easel.page:
                menu.addAction(f"{place}   {page.name}", partial(self._look_for, place))
        return menu

    def ask(self, at: QWidget) -> None:
        """Ask which page's figures to look for on the one shown."""
        if self.easel.book is None or len(self.easel.book.pages()) < 2:
            self.easel.said.emit("Figures are looked for on another page, and this book has no other.", False)
        else:
            self.menu(self.window).popup(at.mapToGlobal(at.rect().bottomLeft()))

    def _look_for(self, source: int) -> None:
        self.easel.said.emit("Looking for figures that stand here again…", False)
        self.easel.hands.start(lambda hand: verbs.look_for_figures(hand, source))

    def look_everywhere(self, pages: list[int] | None = None) -> None:
        """Look on all other pages for figures of some, or of the one shown; what is found until it is stopped stays."""
        book, file = self.easel.book, self.easel.file
        pages = pages or [self.easel.page]
        if book is None or file is None or len(book.pages()) <= len(pages):
            self.easel.said.emit("Figures are looked for on another page, and this book has no other.", False)
            return
        if self.work.busy():
            self.easel.said.emit("Figures are being looked for already.", False)
            return
        still = book.still()
        found: _OFFERED = {}

        def work(report: Report) -> int:
            return verbs.look_over(still, pages, partial(hand_on, file, still), found, report)

        self.easel.said.emit("Looking for figures on all pages…", False)
        self.work.start("figures", work, lambda left: self._offer(book, found, pages, left), self._failed,
                        lambda: self._offer(book, found, pages, 0))  # fmt: skip

    def _failed(self, error: Exception) -> None:
        self.easel.said.emit(str(error), False)

    def _offer(self, book: Book, found: _OFFERED, sources: list[int], left: int) -> None:
        """Offer what was found on the pages that are still there, unless another book is open by now."""
        if book is not self.easel.book:
            return
        there = {page: fresh for page, fresh in found.items() if page in book.pages()}
        title = say("Look for figures on all pages")
        self.easel.do(lambda book, _: verbs.offer_figures(book, there, sources, title) or None)
        self.easel.said.emit(verbs.told_offers(there, left), False)

    def next_page(self) -> None:
        """Go to the next page that figures are offered on, the surest first."""
        book = self.easel.book
        pages = [] if book is None else verbs.pages_with_figures(book)
        others = [page for page in pages if page != self.easel.page]
        if others:
            at = pages.index(self.easel.page) if self.easel.page in pages else -1
            self.easel.show_page(pages[(at + 1) % len(pages)])
            self.easel.choose_stage("Flats")
        elif pages:
            self.easel.said.emit("Figures are offered on this page alone.", False)
        else:
            self.easel.said.emit("No figure is offered on any page. Look for figures of a page first.", False)
