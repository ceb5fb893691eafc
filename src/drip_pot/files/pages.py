"""New books, pages brought in, and what is derived from a page of a book file. Knows images and books."""

from dataclasses import dataclass
from pathlib import Path

from drip_pot.book import Book, Derived, InkState, Page, verbs
from drip_pot.core.arrays import U8, Report, no_report
from drip_pot.core.inks import estimate_paper, remove_paper, suggest_settings
from drip_pot.files.book_file import BookFile, open_book
from drip_pot.files.images import decode, read_image

_STARTER = (
    ("Figure", (("Skin", "#f0c5a0"), ("Hair", "#6a3526"), ("Cloth", "#3f6f69"), ("Trim", "#d9a441"))),
    ("Ground", (("Earth", "#a8704a"), ("Stone", "#8d857c"), ("Leaf", "#5d7a3a"))),
    ("Sky", (("Air", "#a9d3df"), ("Cloud", "#f5eee2"))),
)


def new_book(path: Path, title: str, *, starter: bool = True) -> tuple[BookFile, Book]:
    """Make a book with a title and, if wanted, nine starter pots in three parts; errors are `open_book`'s."""
    file, book = open_book(path, create=True)
    verbs.name_book(book, title)
    if starter:
        for part, pots in _STARTER:
            number = verbs.add_part(book, part)
            for name, local in pots:
                verbs.add_pot(book, name, number, local)
    return file, book


@dataclass(frozen=True)
class Incoming:
    """A drawing read but not yet a page: its file's bytes, its size and dpi, the ink settings that suit it, notes."""

    name: str
    data: bytes
    shape: tuple[int, int]
    dpi: float
    inks: InkState
    notes: list[str]


def read_page(path: Path, report: Report = no_report) -> Incoming:
    """Read a drawing and find the ink settings that suit it.

    Raises
    ------
    Unreadable, BadInput
        If it is no usable picture.
    """
    report(0.1, f"Reading {path.name}")
    data, scan = read_image(path)
    report(0.5, "Finding the paper")
    evened = remove_paper(scan.gray, estimate_paper(scan.gray))
    shape = (scan.gray.shape[0], scan.gray.shape[1])
    return Incoming(path.name, data, shape, scan.dpi, InkState(suggest_settings(evened, scan.dpi)), scan.notes)


def add_page(book: Book, incoming: Incoming, original: int, name: str = "") -> int:
    """Make a page of a drawing whose original is kept under a number; it is called `name` or after its file."""
    title = name or Path(incoming.name).stem.replace("-", " ").replace("_", " ")
    page = Page(title, *incoming.shape, incoming.dpi, original)
    return verbs.add_page(book, page, incoming.inks)


def import_page(file: BookFile, book: Book, path: Path, name: str = "") -> tuple[int, list[str]]:
    """Read a drawing and add it as a page, its original kept as it is.

    Returns
    -------
    page : int
        The new page's number.
    notes : list of str
        What was taken for granted.

    Raises
    ------
    Unreadable, BadInput
        If it is no usable picture; the book is then unchanged.
    CannotWrite
        If it does not fit on the disk.
    """
    incoming = read_page(path)
    return add_page(book, incoming, file.add_original(incoming.name, incoming.data), name), incoming.notes


def derive(file: BookFile, book: Book, page: int) -> Derived:
    """Return what follows from a page of an open book."""
    number = book.sources(page).page.original

    def load() -> U8:
        name, data = file.original(number)
        return decode(data, name).gray

    return Derived(load, file, f"original {number}")
