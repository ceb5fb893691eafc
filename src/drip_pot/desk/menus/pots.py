# SPDX-License-Identifier: GPL-3.0-or-later
"""What is done with pots and parts: menus and dialogs. Knows the easel and the shelf."""

from functools import partial
from pathlib import Path

from PyQt6.QtCore import QPoint
from PyQt6.QtWidgets import QFileDialog, QInputDialog, QMenu, QWidget

from drip_pot.book import verbs
from drip_pot.book.picking import neighbors_of
from drip_pot.book.values import PINS, PRESS
from drip_pot.core.errors import DripPotError
from drip_pot.desk.dialogs.asking import ask_name, ask_whether
from drip_pot.desk.dialogs.palette import PaletteDialog
from drip_pot.desk.dialogs.pots import FindPot, PotEditor, RemovePart, RemovePot
from drip_pot.desk.dialogs.references import ReferenceBoard
from drip_pot.desk.menus.house import HouseMenu
from drip_pot.desk.menus.schemes import SchemeMenu
from drip_pot.desk.session.easel import Easel
from drip_pot.desk.shelf.pots import Pots, pots_by_part
from drip_pot.files import (
    book_palette,
    write_palette,
)
from drip_pot.words import tr

_LISTED = 24


class PotMenu:
    """Pots and parts, asked about; a dialog stands beside the inspector."""

    def __init__(self, window: QWidget, easel: Easel, shelf: Pots, beside: QWidget) -> None:
        self.window, self.easel, self.schemes = window, easel, SchemeMenu(window, easel)
        self.house = HouseMenu(window, easel)
        self.shelf, self.beside = shelf, beside
        self._typed: tuple[int, int | None, int] | None = None

    def take_key(self, digit: int) -> None:
        """Take the pot of the part in hand with a number; 0 is paper. Two digits with nothing done between are one."""
        book = self.easel.book
        keys = self.shelf.keys()
        done = 0 if book is None else book.position
        first = self._typed[0] if self._typed is not None and self._typed[1:] == (self.easel.pot, done) else 0
        number = 10 * first + digit if 10 * first + digit in keys else digit
        if number in keys or not number:
            self.easel.choose_pot(keys[number] if number else None)
            self._typed = (digit, self.easel.pot, done) if 0 < number == digit else None

    def step_part(self, step: int) -> None:
        groups = {part: members for part, members in pots_by_part(self.easel.book).items() if members}
        if groups:
            order, now = list(groups), self.shelf.part_in_hand()
            place = order.index(now) if now in order else -step
            self.easel.choose_pot(groups[order[(place + step) % len(order)]][0])

    def edit_pot(self, number: int | None) -> None:
        """Ask for a pot's name and colours; None makes a new pot."""
        book, sources = self.easel.book, self.easel.sources()
        if book is None or sources is None or self.easel.opening.work.busy("open"):
            return  # the keys are meant for the book that is coming
        known = book.pots()
        part = known[self.easel.pot].part if self.easel.pot in known else next(iter(book.parts()), 0)
        hand = self.easel.hand()
        around = neighbors_of(hand, number) if number is not None and hand is not None else ()
        editor = PotEditor(self.window, book, number, part, sources[PRESS], around)
        if number is not None:
            editor.editor.changed.connect(lambda color: self.easel.preview_pot(number, color))
        corner = self.beside.mapToGlobal(self.beside.rect().bottomLeft())
        editor.adjustSize()
        editor.move(corner.x() - editor.width() - 12, corner.y() - editor.height() - 12)
        try:
            if editor.exec() and editor.number in book.pots():
                self.easel.choose_pot(editor.number)
            else:
                self.easel.deriving.drop_preview()
        except DripPotError as error:
            self.easel.said.emit(str(error), True)

    def more_menu(self, at: QWidget) -> None:
        known = self.easel.book.pots() if self.easel.book is not None else {}
        part = known[self.easel.pot].part if self.easel.pot in known and self.easel.pot is not None else 0
        menu = self.fill(QMenu(self.window), self.easel.pot or 0, part)
        menu.popup(at.mapToGlobal(QPoint(0, -menu.sizeHint().height())))

    def fill(self, menu: QMenu, pot: int, part: int) -> QMenu:
        """Fill a menu with what can be done with a pot and a part (0 for none); return it."""
        book = self.easel.book
        if book is None:
            return menu
        if pot in book.pots():
            menu.addAction(tr("Edit {0}", book.pots()[pot].name), lambda: self.edit_pot(pot))
            menu.addAction(tr("Pick its regions"), lambda: self._pick_pot(pot))
            self._fill_keys(menu, pot)
            steps = menu.addMenu(tr("Series of one hue"))
            assert steps is not None
            for count in (3, 5, 7):
                for word in ("darker", "lighter"):
                    steps.addAction(f"{count} {word}", partial(self._series, pot, count, lighter=word == "lighter"))
            if book.pots()[pot].spot:
                menu.addAction(tr("Print colours like it in {0}", book.pots()[pot].spot), lambda: self._gather(pot))
            menu.addAction(tr("Remove it, or merge it into another"), lambda: self.remove_pot(pot))
            menu.addSeparator()
        if part in book.parts():
            name = book.parts()[part].name
            menu.addAction(tr("Name the part {0}", name), lambda: self.name_part(part))
            menu.addAction(tr("Fold {0}, or open it", name), lambda: self.shelf.fold(part))
            menu.addAction(tr("Move {0} left", name), lambda: self.easel.do(lambda b, _: verbs.move_part(b, part, -1)))
            menu.addAction(tr("Move {0} right", name), lambda: self.easel.do(lambda b, _: verbs.move_part(b, part, 1)))
            menu.addAction(tr("Remove the part {0}", name), lambda: self.remove_part(part))
            menu.addSeparator()
        menu.addAction(tr("Add a part"), self.add_part)
        menu.addAction(tr("Find a pot"), self.find_pot)
        menu.addAction(tr("Remove unused pots"), self.remove_unused)
        menu.addAction(tr("Colours from a picture or a palette"), self.show_palette)
        menu.addAction(tr("References"), self.show_references)
        menu.addAction(tr("Write all pots as a palette"), self.write_palette)
        self.house.fill(menu)
        schemes = menu.addMenu(tr("Schemes"))
        assert schemes is not None
        self.schemes.fill(schemes)
        return menu

    def _fill_keys(self, menu: QMenu, pot: int) -> None:
        """Offer the keys that a pot can be pinned to on this page, and to free the one it has."""
        sources = self.easel.sources()
        keys = menu.addMenu(tr("Pin to a key on this page"))
        if keys is None or sources is None:
            return
        pinned = sources[PINS]
        for key in range(1, 10):
            there = self.easel.book.pots().get(pinned.get(key, 0)) if self.easel.book is not None else None
            said = tr("{0}, now {1}", key, there.name) if there is not None else str(key)
            if pinned.get(key) != pot:
                keys.addAction(said, partial(self._pin, key, pot))
        for key in (key for key, held in pinned.items() if held == pot):
            keys.addAction(tr("Free the key {0}", key), partial(self._pin, key, None))

    def _pin(self, key: int, pot: int | None) -> None:
        self.easel.do(lambda book, page: verbs.pin_pot(book, page, key, pot))

    def _pick_pot(self, pot: int) -> None:
        self.easel.choose_stage("Flats")
        self.easel.choose_tool("Pick")
        self.easel.pick(set(self.easel.atoms_of_pot(pot)))

    def _series(self, pot: int, count: int, *, lighter: bool) -> None:
        self.easel.do(lambda book, _: verbs.series(book, pot, count, lighter=lighter))

    def _gather(self, pot: int) -> None:
        """Ask how near colours are to be, and print those pots in the ink of this one."""
        within, sure = QInputDialog.getDouble(
            self.window, tr("Gather onto one ink"), tr("Colours within (ΔE)"), 6, 0, 50, 1
        )
        if sure:
            self.easel.do(lambda book, _: verbs.gather_spot(book, pot, within))

    def remove_pot(self, number: int) -> None:
        """Ask what a pot's regions become, and remove it."""
        if self.easel.book is not None:
            asking = RemovePot(self.window, self.easel.book, number)
            if asking.exec():
                self.easel.do(lambda book, _: verbs.remove_pot(book, number, asking.into()))

    def remove_unused(self) -> None:
        """List the pots that colour nothing, and remove them."""
        book = self.easel.book
        if book is None:
            return
        unused = [book.pots()[number].name for number in verbs.unused_pots(book)]
        told, more = ", ".join(unused[:_LISTED]), len(unused) - _LISTED
        told = tr("{0} and {1} more", told, more) if more > 0 else told
        if not unused or ask_whether(
            self.window, tr("Remove unused pots"), tr("No page uses {0}.", told), tr("Remove")
        ):
            self.easel.do(lambda book, _: verbs.remove_unused_pots(book))

    def remove_part(self, number: int) -> None:
        """Ask where a part's pots go, and remove it."""
        if self.easel.book is not None:
            asking = RemovePart(self.window, self.easel.book, number)
            if asking.exec():
                self.easel.do(lambda book, _: verbs.remove_part(book, number, asking.into()))

    def add_part(self) -> None:
        """Ask for a name and add a part."""
        name = ask_name(self.window, tr("Name of the part"), "") if self.easel.book is not None else None
        if name:
            self.easel.do(lambda book, _: verbs.add_part(book, name))

    def name_part(self, part: int) -> None:
        """Ask for the name of a part."""
        if self.easel.book is not None:
            name = ask_name(self.window, tr("Name of the part"), self.easel.book.parts()[part].name)
            if name:
                self.easel.do(lambda book, _: verbs.rename_part(book, part, name))

    def find_pot(self) -> None:
        """Find a pot by typing and take it in hand."""
        if self.easel.book is not None:
            asking = FindPot(self.window, self.easel.book)
            if asking.exec() and asking.chosen() is not None:
                self.easel.choose_pot(asking.chosen())

    def show_palette(self) -> None:
        """Collect colours from pictures and palettes and add them as pots."""
        book = self.easel.book
        if book is None:
            return
        pot = book.pots().get(self.easel.pot or 0)
        asking = PaletteDialog(self.window, book, pot.local if pot is not None else None, self.easel.folder)
        if asking.exec() and asking.made:
            self.easel.choose_pot(asking.made[0])

    def show_references(self) -> None:
        """Show the pictures pinned beside the pages."""
        if self.easel.book is not None:
            ReferenceBoard(self.window, self.easel).show()

    def write_palette(self) -> None:
        """Ask where, and write all pots of the book as a palette."""
        if self.easel.book is None:
            return
        place = str(Path.home() / "pots.json")
        found, _ = QFileDialog.getSaveFileName(self.window, tr("Palette"), place, tr("Palettes (*.txt *.csv *.json)"))
        if found:
            try:
                write_palette(Path(found), book_palette(self.easel.book))
                self.easel.said.emit(tr("Wrote {0}", Path(found).name), False)
            except DripPotError as error:
                self.easel.said.emit(str(error), True)
