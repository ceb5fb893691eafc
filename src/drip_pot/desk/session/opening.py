# SPDX-License-Identifier: GPL-3.0-or-later
"""Books and drawings brought in, in the background. Knows the easel and files; asks nothing but through `ask_dpi`."""

from collections import deque
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from datetime import date
from functools import partial
from pathlib import Path
from typing import Protocol, TypeVar

from PyQt6.QtCore import QObject, QThreadPool

from drip_pot.book import Book, InkState, Sheet, verbs
from drip_pot.core.arrays import Report
from drip_pot.core.errors import DripPotError
from drip_pot.core.press import CONDITIONS, PressSettings
from drip_pot.desk.session.in_use import InUse
from drip_pot.desk.session.work import Work
from drip_pot.files import (
    BookFile,
    Incoming,
    add_sheets,
    bring_page,
    keep_copy,
    new_book,
    open_book,
    pages_of,
    read_file,
    read_mesh,
    read_page,
    read_placed,
    reink_sheet,
    take_in,
    with_dpi,
)
from drip_pot.words import tr

T = TypeVar("T")
_CLOSING = ThreadPoolExecutor(1, "closing")
"""Where files are closed, one after another: what is in their journals is brought home then."""


def all_closed() -> None:
    """Wait until the files of all books let go of are closed; not for a window that is in use."""
    _CLOSING.submit(int).result()


def _opened(path: Path) -> tuple[BookFile, Book]:
    """Open a book once those let go of before are closed; it may be one of them."""
    all_closed()
    return open_book(path)


class Host(Protocol):
    """What books and drawings are brought to."""

    def show_page(self, page: int) -> None:
        """Show a page of the open book."""

    def choose_sheet(self, number: int) -> None:
        """Take a sheet in hand."""

    def take_up(self, book: Book) -> None:
        """Listen to a book."""

    def let_go(self) -> None:
        """Let go of the book."""


class Opening(QObject):
    """What brings books and drawings to the easel; problems are said.

    Attributes
    ----------
    ask_dpi : callable
        Asked for the resolution of a drawing that does not tell it; None gives it up.
    condition : str
        The press condition of books made here.
    copies : Path or None
        The folder for a copy of every book that is opened, one a day.
    """

    def __init__(self, easel: InUse, host: Host) -> None:
        super().__init__(easel)
        self.easel, self.host = easel, host
        self.work, self.keeping = Work(self), Work(self, patience=19)
        self._reading: deque[Callable[[], object]] = deque()
        self._brought: list[int] = []
        self._dpi: float | None = None
        self.work.idle.connect(self._read_next)
        easel.moved.connect(self._moved)
        self.ask_dpi: Callable[[str], float | None] = lambda name: 300.0
        self.condition = "coated"
        self.copies: Path | None = None

    def open(self, path: Path) -> None:
        """Open a book, or a drawing into a new book beside it."""
        file = self.easel.file
        self._reading.clear()
        self._brought.clear()
        self._dpi = None
        if path.suffix.lower() != ".drip":
            self._read(path, self._new_from)
        elif file is not None and path.is_file() and path.samefile(file.path):
            self.easel.said.emit(tr("{0} is open here already.", path.name), False)
        else:
            self._start("open", lambda _: _opened(path), lambda found: self._show(*found))

    def _start(self, name: str, work: Callable[[Report], T], done: Callable[[T], None]) -> None:
        self.work.start(name, work, done, lambda error: self.easel.said.emit(str(error), True))

    def _keep(self, file: BookFile) -> None:
        """Keep copies of a book in the background: one for the day it is written over, one a day where wanted."""
        folder = self.copies

        def work(_: Report) -> None:
            file.shelter()
            if folder is not None:
                keep_copy(file, folder, date.today())

        self.keeping.start("copy", work, lambda _: None, lambda error: self.easel.said.emit(str(error), True))

    def new_book(self, path: Path) -> None:
        """Make an empty book."""
        self.easel.trying(lambda: self._show(*new_book(path, path.stem)))

    def add_page(self, image: Path, data: bytes | None = None, pictures: list[int] | None = None) -> None:
        """Bring a drawing into the open book, or into a new one; `data` stands in for the file, if given."""
        self._read(image, self._add, data, pictures)

    def add_all(self, image: Path) -> None:
        """Bring every picture of a file in as a page; its layers are sheets of one."""
        self._read(image, self._add, every=True)

    def add_sheet(self, image: Path, data: bytes | None = None, pictures: list[int] | None = None) -> None:
        """Lay a drawing on the page as further sheets."""
        if self.easel.page:
            self._read(image, self._add_sheet, data, pictures)

    def take_picture(self, path: Path, then: Callable[[int, tuple[int, int]], object]) -> None:
        """Keep a picture in the book; `then` is told its number, and its rows and columns."""
        file = self.easel.file
        if file is None:
            return

        def work(report: Report) -> tuple[bytes, tuple[int, int]]:
            report(0.1, tr("Reading {0}", path.name))
            return read_placed(path)

        def done(found: tuple[bytes, tuple[int, int]]) -> None:
            data, size = found
            self.easel.trying(lambda: then(file.add_original(path.name, data), size))

        self._start("picture", work, done)

    def stand_prop(self, path: Path) -> None:
        """Stand a mesh in the middle of the page, and take its sheet in hand."""
        file, flat = self.easel.file, self.easel.sources()
        if file is None or flat is None:
            return
        page = flat.page
        line_px = max(1.0, page.dpi / 75)

        def work(report: Report) -> bytes:
            report(0.1, tr("Reading {0}", path.name))
            return read_mesh(path)[0]

        def stand(data: bytes) -> None:
            original, made = file.add_original(path.name, data), list[int]()
            size = round(min(page.rows, page.cols) / 3)
            if self.easel.do(lambda book, number: made.append(verbs.stand_prop(
                book, number, original, path.stem, page.rows / 2, page.cols / 2, size, line_px))):  # fmt: skip
                self.host.choose_sheet(made[0])
                self.easel.choose_tool("Prop")

        def done(data: bytes) -> None:
            self.easel.trying(lambda: stand(data))

        self._start("prop", work, done)

    def _read(
        self, image: Path, then: Callable[[Path, Incoming], None], data: bytes | None = None,
        pictures: list[int] | None = None, *, every: bool = False,
    ) -> None:  # fmt: skip
        """Read a drawing (or several pictures of a file, or `every` one) in the background and go on with it."""

        def read(report: Report) -> list[Incoming]:
            if data is not None:
                return [take_in(data, image.name, report)]
            if every:
                whole = read_file(image)
                return [take_in(whole, image.name, report, picture=k) for k in pages_of(whole, image.name)]
            return [read_page(image, report, picture=k) for k in (pictures or (None,))]

        def done(found: list[Incoming]) -> None:
            dpi = None if found[0].knows_dpi else self._dpi or self.ask_dpi(found[0].name)
            self._dpi = (dpi or self._dpi) if self._reading else None  # those that come with it are of one scanner
            if not found[0].knows_dpi and dpi is None:
                self.easel.said.emit(tr("{0} was not opened.", image.name), False)
                return
            for incoming in found:
                ready = incoming if dpi is None else with_dpi(incoming, dpi)
                if not self.easel.trying(partial(then, image, ready)):
                    return

        self._reading.append(lambda: self._start("open", read, done))
        self._read_next()

    def _read_next(self, _: str = "") -> None:
        """Read the next of the drawings that wait, one after another in the order they came."""
        if self._reading and not self.work.busy("open"):
            self._reading.popleft()()
            self.easel.repaint.emit(None)
        elif self._brought and not self.work.busy("open"):  # the first of those that came together is shown
            first = self._brought[0]
            self._brought.clear()
            self.host.show_page(first)

    def _new_from(self, image: Path, incoming: Incoming) -> None:
        place, number = image.with_suffix(".drip"), 1
        while place.exists():
            number += 1
            place = image.with_name(f"{image.stem}-{number}.drip")
        file, book = new_book(place, image.stem.replace("-", " ").replace("_", " ").capitalize())
        try:
            page = bring_page(file, book, incoming)
            limit = CONDITIONS[self.condition].ink_limit
            verbs.set_press(book, page, PressSettings(condition=self.condition, ink_limit=limit))
        except DripPotError:
            file.close()
            place.unlink(missing_ok=True)
            raise
        self._show(file, book)
        self._say([*incoming.notes, tr("The book is kept in {0}, beside the drawing.", place.name)])

    def _add(self, image: Path, incoming: Incoming) -> None:
        file, book = self.easel.file, self.easel.book
        if file is None or book is None:
            self._new_from(image, incoming)
            return
        self._brought.append(bring_page(file, book, incoming))
        self._say(incoming.notes)

    def _add_sheet(self, image: Path, incoming: Incoming) -> None:
        file, book = self.easel.file, self.easel.book
        assert file is not None
        assert book is not None
        original = file.add_original(incoming.name, incoming.data)
        self.host.choose_sheet(add_sheets(book, self.easel.page, incoming, original)[-1])
        self._say([*incoming.notes, "Say on the shelf what the new sheet is for."])

    def reink(self, image: Path) -> None:
        """Put a corrected drawing in the place of the sheet in hand, laid over the old one by itself."""
        file, book, page, number = self.easel.file, self.easel.book, self.easel.page, self.easel.sheet
        if file is None or book is None or not page:
            return
        still = book.still()

        def work(report: Report) -> tuple[Sheet, InkState, list[str]]:
            incoming = read_page(image, lambda f, t: report(0.2 * f, t))
            laid = reink_sheet(file, still, page, number, incoming, lambda f, t: report(0.2 + 0.8 * f, t))
            return (*laid, incoming.notes)

        def done(found: tuple[Sheet, InkState, list[str]]) -> None:
            sheet, inks, notes = found
            self.easel.do(lambda book, _: verbs.reink(book, page, number, sheet, inks))
            turn = tr("turned {0:.2f}°, scaled {1:.3f}", sheet.place.turn_deg, sheet.place.scale)
            self._say([*notes, tr("Laid over the old drawing: {0}. Look here lists what changed.", turn)])

        self._start("reink", work, done)

    def _say(self, notes: list[str]) -> None:
        if notes:
            self.easel.said.emit(" ".join(notes), False)

    def settle(self) -> None:
        """Nothing was done for a while: let the book's file alone be the whole book."""
        pool = QThreadPool.globalInstance()
        if self.easel.file is not None and pool is not None:
            pool.start(self.easel.file.settle)

    def close(self) -> None:
        """Let go of the book; everything is on disk already."""
        self._reading.clear()
        self._let_go()
        all_closed()

    def _let_go(self) -> None:
        self.work.close()
        self.keeping.close()
        self.host.let_go()
        if self.easel.file is not None:
            _CLOSING.submit(self.easel.file.close)
        self.easel.file = None

    def _moved(self, file: BookFile, sentence: str) -> None:
        """Tell that work goes on in another file, and shelter that one."""
        self.easel.said.emit(sentence, True)
        self._keep(file)

    def _show(self, file: BookFile, book: Book) -> None:
        self._let_go()
        self.easel.file = file
        file.moved = partial(self.easel.moved.emit, file)
        self.host.take_up(book)
        if file.read_only:
            self.easel.said.emit(file.read_only, True)
        else:
            self._keep(file)
        for note in file.notes:
            self.easel.said.emit(note, True)
        lost = book.unread_shared()
        if lost:
            more = tr(" and {0} more", len(lost) - 3) if len(lost) > 3 else ""
            named = ", ".join(key.replace("/", " ") for key in lost[:3])
            self.easel.said.emit(tr("Damaged and left out of {0}: {1}{2}.", file.path.name, named, more), True)
        self.host.show_page(next(iter(book.pages()), 0))
