# SPDX-License-Identifier: GPL-3.0-or-later
"""What is done with books and pages: menus and dialogs. Knows the easel."""

from collections.abc import Callable, Mapping
from functools import partial
from pathlib import Path

from PyQt6.QtCore import QBuffer, QIODevice, QSettings
from PyQt6.QtGui import QAction
from PyQt6.QtWidgets import QApplication, QFileDialog, QMenu, QWidget

from drip_pot.book import ENGINE, verbs
from drip_pot.core.errors import DripPotError
from drip_pot.core.inks import find_skew
from drip_pot.desk.dialogs.asking import ask_name, ask_whether
from drip_pot.desk.dialogs.contact import ContactSheet
from drip_pot.desk.dialogs.history import HistoryDialog
from drip_pot.desk.dialogs.naming import ask_names
from drip_pot.desk.dialogs.pages import PageDialog, PicturesDialog
from drip_pot.desk.dialogs.recipes import RecipesDialog
from drip_pot.desk.memory import recent
from drip_pot.desk.menus.bringing import BringMenu
from drip_pot.desk.menus.figures import FigureMenu
from drip_pot.desk.menus.loans import LoanMenu
from drip_pot.desk.parts.text import counted
from drip_pot.desk.session.easel import Easel
from drip_pot.desk.session.recipes import Recipes
from drip_pot.desk.session.work import Work
from drip_pot.files import (
    IMAGE_SUFFIXES,
    MESH_SUFFIXES,
    drawings_in,
    in_order,
    pictures_in,
    read_file,
    read_flats,
    take_flats,
    take_layers,
    without_dpi,
)
from drip_pot.words import tr

_DRAWINGS = " ".join(f"*{suffix}" for suffix in IMAGE_SUFFIXES)
_FILES = tr("Drawings and books (*.drip {0})", _DRAWINGS)


class BookMenu:
    """Books and pages, opened, made, brought in and named."""

    def __init__(self, window: QWidget, easel: Easel, settings: QSettings) -> None:
        self.window, self.easel, self._settings = window, easel, settings
        self.recipes = Recipes(easel, settings)
        self.recipes.ask = partial(ask_names, window)
        self.figures, self.loans = FigureMenu(window, easel), LoanMenu(window, easel)
        self.bringing = BringMenu(window, easel)
        self.taken_keys: Mapping[str, str] = {}

    def works(self) -> list[Work]:
        """Return what works in the background for it."""
        return [self.figures.work, self.loans.work, self.bringing.work]

    @property
    def _home(self) -> str:
        """Where files are looked for first."""
        return str(self.easel.folder)

    def popup(self, at: QWidget) -> None:
        menu = QMenu(self.window)
        book = self.easel.book
        if book is not None:
            for place, (number, page) in enumerate(book.pages().items(), 1):
                entry = QAction(f"{place}   {page.name}", menu)
                entry.setCheckable(True)
                entry.setChecked(number == self.easel.page)
                entry.triggered.connect(lambda _, n=number: self.easel.show_page(n))
                menu.addAction(entry)
            menu.addSeparator()
            menu.addAction(tr("Contact sheet"), self.show_contact)
            menu.addAction(tr("Add a page"), self.add_page)
            menu.addAction(tr("Add a folder of pages"), self.add_folder)
            menu.addAction(tr("Bring in from another book"), self.bringing.ask)
            menu.addAction(tr("Size and edges of this page"), self.set_page)
            menu.addAction(tr("Recipes"), self.show_recipes)
            menu.addAction(tr("Send this page out"), self.loans.send)
            menu.addAction(tr("Take pages back"), self.loans.take)
            if self.easel.page and book.sources(self.easel.page).line.engine != ENGINE:
                menu.addAction(tr("Divide this page anew"), self.divide_anew)
            if len(book.pages()) > 1:
                menu.addMenu(self.figures.menu(menu))
            menu.addAction(tr("Name this page"), self.name_page)
            menu.addAction(tr("Name the book"), self.name_book)
            menu.addSeparator()
        menu.addAction(tr("Open a drawing or a book"), self.open_file)
        known = [path for path in recent(self._settings) if path.is_file()]
        books = menu.addMenu(tr("Open a book used before"))
        if books is not None:
            books.setEnabled(bool(known))
            for path in known:
                books.addAction(f"{path.stem}     {path.parent}", partial(self.easel.opening.open, path))
        menu.addAction(tr("New book"), self.new_book)
        menu.addAction(tr("Simulated flatbed"), self.show_scanner)
        menu.popup(at.mapToGlobal(at.rect().bottomLeft()))

    def show_contact(self) -> None:
        """Show all pages."""
        if self.easel.book is not None:
            uses = {"figures": self.figures.look_everywhere, "send": self.loans.send}
            ContactSheet(self.window, self.easel, uses).exec()

    def show_history(self, compare: Callable[[int], object]) -> None:
        """Show what was done; `compare` is given how many steps were done at one to compare with."""
        history = HistoryDialog(self.window, self.easel)
        history.compare.connect(compare)
        history.kept.connect(self.recipes.keep_new)
        history.show()

    def show_recipes(self) -> None:
        """Show the recipes that are kept."""
        shown = RecipesDialog(self.window, self.recipes, self.taken_keys)
        shown.exec()
        shown.deleteLater()

    def divide_anew(self) -> None:
        """Work out how this version would divide a page of an earlier one; say what would change, and ask."""
        told: list[str] = []

        def ask() -> None:
            if told and ask_whether(
                self.window, tr("Divide this page anew?"),
                tr("An earlier version divided this page, and it is kept so. {0} It can be undone.", told[0]),
                tr("Divide anew"),
            ):  # fmt: skip
                self.easel.hands.start(verbs.divide_anew)

        self.easel.hands.start(lambda hand: told.append(verbs.told_of(hand, verbs.renewal_of(hand))), then=ask)

    def share(self, kind: str) -> None:
        """Give every page settings of the one that is shown."""
        made: list[int] = []
        if self.easel.do(lambda book, page: made.append(verbs.share_settings(book, page, (kind,)))):
            self.easel.said.emit(tr("Changed on {0}.", counted(made[0], "page")), False)

    def name_book(self) -> None:
        """Ask for the book's title."""
        if self.easel.book is not None:
            name = ask_name(self.window, tr("Name of the book"), self.easel.book.info.title)
            if name:
                self.easel.do(lambda book, _: verbs.name_book(book, name))

    def name_page(self) -> None:
        """Ask for the name of the page that is shown."""
        sources = self.easel.sources()
        if sources is not None:
            name = ask_name(self.window, tr("Name of the page"), sources.page.name)
            if name:
                self.easel.do(lambda book, page: verbs.name_page(book, page, name))

    def set_page(self) -> None:
        """Ask for size, resolution, trim, bleed, edges and a turn."""
        sources, view = self.easel.sources(), self.easel.view
        if sources is None:
            return
        asking = PageDialog(self.window, sources.page, find_skew(view.drawing.ink[0]) if view is not None else None)
        if not asking.exec():
            return
        wish, old = asking.wish(), sources.page
        if wish.turn_deg:
            self.easel.do(lambda book, page: verbs.straighten_page(book, page, wish.turn_deg))
        rect = wish.rect
        if rect is not None:
            self.easel.do(lambda book, page: verbs.crop_page(book, page, rect))
        if (wish.dpi, wish.trim_mm, wish.bleed_mm) != (old.dpi, old.trim_mm, old.bleed_mm):
            self.easel.do(
                lambda book, page: verbs.set_print(
                    book, page, dpi=wish.dpi, trim_mm=wish.trim_mm, bleed_mm=wish.bleed_mm
                )
            )

    def show_scanner(self) -> None:
        """Show the flatbed."""
        from drip_pot.desk.dialogs.scanner import ScannerWindow  # read when something is scanned

        scanner = ScannerWindow(self.window)
        scanner.scanned.connect(lambda name, data: self.easel.opening.add_page(self._beside(name), data))
        scanner.show()

    def _beside(self, name: str) -> Path:
        """Return a place for a drawing that is no file: beside the book, or at home."""
        return self.easel.folder / name

    def paste(self, *, sheet: bool = False) -> None:
        """Bring in the picture, or the files, on the clipboard."""
        clipboard = QApplication.clipboard()
        data = clipboard.mimeData() if clipboard is not None else None
        if data is not None and data.hasUrls():
            for url in data.urls():
                if url.isLocalFile():
                    self.bring_in(Path(url.toLocalFile()), sheet=sheet)
        elif clipboard is not None and data is not None and data.hasImage():
            buffer = QBuffer()
            buffer.open(QIODevice.OpenModeFlag.WriteOnly)
            clipboard.image().save(buffer, "PNG")
            take = self.easel.opening.add_sheet if sheet else self.easel.opening.add_page
            take(self._beside("Pasted drawing.png"), without_dpi(bytes(buffer.data().data())))
        else:
            self.easel.said.emit("There is no picture on the clipboard. Copy a drawing or an image file first.", False)

    def open_file(self) -> None:
        """Ask for a drawing or a book and open it."""
        found, _ = QFileDialog.getOpenFileName(self.window, tr("Open a drawing or a book"), self._home, _FILES)
        if found:
            self.easel.opening.open(Path(found))

    def add_page(self) -> None:
        """Ask for drawings and add them to the book as pages."""
        for path in self._ask_drawings("Add pages"):
            self.bring_in(path)

    def add_folder(self) -> None:
        """Ask for a folder and add the drawings in it as pages, in natural order."""
        found = QFileDialog.getExistingDirectory(self.window, tr("Add a folder of pages"), self._home)
        if found:
            self.bring_in(Path(found))

    def add_sheet(self) -> None:
        """Ask for drawings and lay them on the page as sheets."""
        for path in self._ask_drawings("Add sheets"):
            self.bring_in(path, sheet=True)

    def bring_flats(self) -> None:
        """Ask for finished flats of the page that is shown and turn them into pots and regions."""
        found, _ = QFileDialog.getOpenFileName(
            self.window, tr("Finished flats"), self._home, tr("Pictures ({0})", _DRAWINGS)
        )
        if found:
            path = Path(found)
            layered = path.suffix.lower() == ".ora"
            self.easel.hands.start(
                lambda hand: take_layers(hand, path) if layered else take_flats(hand, read_flats(path, hand.shape))
            )

    def stand_prop(self) -> None:
        """Ask for a mesh and stand it in the middle of the page."""
        meshes = " ".join(f"*{suffix}" for suffix in MESH_SUFFIXES)
        found, _ = QFileDialog.getOpenFileName(self.window, tr("A solid thing"), self._home, tr("Meshes ({0})", meshes))
        if found:
            self.easel.opening.stand_prop(Path(found))

    def reink(self) -> None:
        """Ask for a corrected drawing and put it in the place of the sheet in hand."""
        found, _ = QFileDialog.getOpenFileName(
            self.window, tr("Corrected drawing"), self._home, tr("Drawings ({0})", _DRAWINGS)
        )
        if found:
            self.easel.opening.reink(Path(found))

    def _ask_drawings(self, title: str) -> list[Path]:
        found, _ = QFileDialog.getOpenFileNames(self.window, title, self._home, tr("Drawings ({0})", _DRAWINGS))
        return in_order(Path(name) for name in found)

    def bring_in(self, path: Path, *, sheet: bool = False) -> None:
        """Bring in a file as a page or as a sheet; one with several pictures is asked about first.

        Of a folder all drawings are brought in as pages, in natural order.
        """
        pictures: list[int] | None = None
        try:
            if path.is_dir():
                for one in drawings_in(path):  # each is read in the background, and not asked about
                    self.easel.opening.add_all(one)
                return
            data = read_file(path)
            inside = pictures_in(data, path.name)
        except DripPotError as error:
            self.easel.said.emit(str(error), True)
            return
        if len(inside) > 1 and not inside[0].is_layer:
            asking = PicturesDialog(self.window, path.name, inside, bool(self.easel.page))
            asking.sheets.setChecked(sheet)
            if not asking.exec():
                return
            pictures, sheet = asking.chosen(), asking.sheets.isChecked()
        (self.easel.opening.add_sheet if sheet else self.easel.opening.add_page)(path, pictures=pictures)

    def new_book(self) -> None:
        """Ask where, and make an empty book."""
        found, _ = QFileDialog.getSaveFileName(
            self.window, tr("New book"), str(self.easel.folder / "Book.drip"), tr("Books (*.drip)")
        )
        if found:
            self.easel.opening.new_book(Path(found).with_suffix(".drip"))
