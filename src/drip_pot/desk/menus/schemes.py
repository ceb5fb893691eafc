# SPDX-License-Identifier: GPL-3.0-or-later
"""Schemes in the window: used, made, named, mixed, compared. Knows the easel."""

from functools import partial

from PyQt6.QtWidgets import QMenu, QWidget

from drip_pot.book import verbs
from drip_pot.desk.dialogs.asking import ask_name
from drip_pot.desk.dialogs.compare import SideBySide, first_sights
from drip_pot.desk.session.easel import Easel
from drip_pot.words import tr


class SchemeMenu:
    """What can be done with schemes."""

    def __init__(self, window: QWidget, easel: Easel) -> None:
        self.window, self.easel = window, easel

    def fill(self, menu: QMenu) -> QMenu:
        """Fill a menu with the schemes of the book; return it."""
        book = self.easel.book
        if book is None:
            return menu
        known, now = book.schemes(), book.scheme
        for number, scheme in known.items():
            entry = menu.addAction(scheme.name, partial(self._use, number))
            if entry is not None:
                entry.setCheckable(True)
                entry.setChecked(number == now)
        if known:
            menu.addSeparator()
        menu.addAction(tr("Add a scheme from these colours"), self.add)
        if known:
            menu.addAction(tr("Name {0}", known[now].name), self.name)
            mixed = menu.addMenu(tr("Mix in the colours of a part"))
            gone = menu.addMenu(tr("Remove a scheme"))
            assert mixed is not None
            assert gone is not None
            for number, scheme in known.items():
                if number == now:
                    continue
                parts = mixed.addMenu(tr("from {0}", scheme.name))
                assert parts is not None
                for part, named in book.parts().items():
                    parts.addAction(named.name, partial(self._mix, number, part))
                gone.addAction(scheme.name, partial(self._remove, number))
            menu.addAction(tr("Side by side"), self.compare)
        return menu

    def add(self) -> None:
        """Ask for a name, and make a scheme from the colours in hand."""
        name = ask_name(self.window, tr("Name of the scheme"), "")
        if name:
            self.easel.do(lambda book, _: verbs.add_scheme(book, name))

    def name(self) -> None:
        """Ask for another name of the scheme in hand."""
        book = self.easel.book
        if book is not None and book.scheme:
            name = ask_name(self.window, tr("Name of the scheme"), book.schemes()[book.scheme].name)
            if name:
                self.easel.do(lambda book, _: verbs.rename_scheme(book, book.scheme, name))

    def next(self) -> None:
        """Use the next scheme."""
        book = self.easel.book
        known = [] if book is None else list(book.schemes())
        if book is not None and len(known) > 1:
            self._use(known[(known.index(book.scheme) + 1) % len(known)])
        else:
            self.easel.said.emit("This book has one set of colours. Add a scheme under More on the shelf.", False)

    def _use(self, number: int, parts: tuple[int, ...] = ()) -> None:
        """Take a scheme in hand, in the background where it can be: colours of every page change."""

        def told() -> None:
            if self.easel.book is not None and not parts:
                self.easel.said.emit(tr("In hand: {0}", self.easel.book.schemes()[number].name), False)

        if self.easel.hand() is not None:
            self.easel.hands.start(lambda hand: verbs.use_scheme(hand.book, number, parts), then=told)
        elif self.easel.do(lambda book, _: verbs.use_scheme(book, number, parts)):
            told()

    def _mix(self, number: int, part: int) -> None:
        self._use(number, (part,))

    def _remove(self, number: int) -> None:
        self.easel.do(lambda book, _: verbs.remove_scheme(book, number))

    def compare(self) -> None:
        """Show the page that is shown in its schemes and values, and other pages, side by side."""
        if self.easel.book is not None and self.easel.page:
            SideBySide(self.window, self.easel, first_sights(self.easel), self._use).show()
