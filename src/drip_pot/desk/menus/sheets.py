# SPDX-License-Identifier: GPL-3.0-or-later
"""What is done with the sheet in hand: its menu. Knows the easel."""

from collections.abc import Callable

from PyQt6.QtCore import QPoint
from PyQt6.QtGui import QAction
from PyQt6.QtWidgets import QMenu, QWidget

from drip_pot.book import ROLES, Book, Role, verbs
from drip_pot.book.values import PRESS, SHEETS
from drip_pot.desk.dialogs.asking import ask_name
from drip_pot.desk.dialogs.color import pick_color
from drip_pot.desk.menus.books import BookMenu
from drip_pot.desk.session.easel import Easel
from drip_pot.words import tr


class SheetMenu:
    """The sheet in hand."""

    def __init__(self, window: QWidget, easel: Easel, bring: BookMenu) -> None:
        self.window, self.easel = window, easel
        self.bring = bring

    def popup(self, at: QPoint) -> None:
        """Show what can be done with the sheet in hand."""
        self.fill(QMenu(self.window)).popup(at)

    def fill(self, menu: QMenu) -> QMenu:
        """Fill a menu with what can be done with the sheet in hand; return it."""
        sources, number = self.easel.sources(), self.easel.sheet
        if sources is None:
            return menu
        sheet = sources[SHEETS][number]

        def do(text: str, verb: Callable[[Book, int], object], *, on: bool | None = None) -> None:
            entry = QAction(text, menu)
            if on is not None:
                entry.setCheckable(True)
                entry.setChecked(on)
            entry.triggered.connect(lambda: self.easel.do(verb))
            menu.addAction(entry)

        def becomes(role: Role) -> Callable[[Book, int], None]:
            return lambda book, page: verbs.set_sheet(book, page, number, role=role)

        for role, means in ROLES.items():
            do(means, becomes(role), on=role == sheet.role)
        menu.addSeparator()
        menu.addAction(tr("Name the sheet"), self.name_sheet)
        if sheet.role == "effect":
            menu.addAction(tr("Colour of the effect"), self._color_sheet)
        do("Hide" if sheet.shown else "Show", lambda b, p: verbs.set_sheet(b, p, number, shown=not sheet.shown))
        do("Move left", lambda b, p: verbs.move_sheet(b, p, number, -1))
        do("Move right", lambda b, p: verbs.move_sheet(b, p, number, 1))
        menu.addSeparator()
        menu.addAction(tr("Re-ink: replace with a corrected drawing"), self.bring.reink)
        menu.addAction(tr("Add a sheet"), self.bring.add_sheet)
        menu.addAction(tr("Stand a prop"), self.bring.stand_prop)
        if number and sheet.role == "contour":
            do(
                "Hides what is below",
                lambda b, p: verbs.set_sheet(b, p, number, covers=not sheet.covers),
                on=sheet.covers,
            )
        if number:
            do("Remove the sheet", lambda b, p: verbs.remove_sheet(b, p, number))
        return menu

    def _color_sheet(self) -> None:
        sources, number = self.easel.sources(), self.easel.sheet
        if sources is not None:
            chosen = pick_color(self.window, "Effect", sources[SHEETS][number].color, self.easel.book, sources[PRESS])
            if chosen is not None:
                self.easel.do(lambda book, page: verbs.set_sheet(book, page, number, color=chosen))

    def name_sheet(self) -> None:
        """Ask for the name of the sheet in hand."""
        sources, number = self.easel.sources(), self.easel.sheet
        if sources is not None:
            name = ask_name(self.window, tr("Name of the sheet"), sources[SHEETS][number].name)
            if name:
                self.easel.do(lambda book, page: verbs.set_sheet(book, page, number, name=name))

    def step(self, step: int) -> None:
        sources = self.easel.sources()
        if sources is not None:
            order = list(sources[SHEETS])
            self.easel.choose_sheet(order[(order.index(self.easel.sheet) + step) % len(order)])

    def hide(self) -> None:
        sources, number = self.easel.sources(), self.easel.sheet
        if sources is not None:
            shown = not sources[SHEETS][number].shown
            self.easel.do(lambda book, page: verbs.set_sheet(book, page, number, shown=shown))
