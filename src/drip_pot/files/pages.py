# SPDX-License-Identifier: GPL-3.0-or-later
"""New books, pages brought in, and what is derived from a page of a book file. Knows images and books."""

from dataclasses import dataclass, replace
from functools import partial
from pathlib import Path

import cv2
import msgspec
import numpy as np

from drip_pot.book import Book, Derived, InkState, Page, Picture, Role, Sheet, SheetLine, verbs
from drip_pot.book.hand import Hand, hand_at
from drip_pot.book.picture import laid_square
from drip_pot.book.values import INKS, REPAIR, SHEETS
from drip_pot.core.arrays import Gray, Report, no_report
from drip_pot.core.color import ToneRule
from drip_pot.core.errors import BadInput
from drip_pot.core.inks import InkSettings, align, coverage, estimate_paper, remove_paper
from drip_pot.files.access import open_book
from drip_pot.files.book_file import BookFile
from drip_pot.files.images import Scan, decode, pictures_in, read_file
from drip_pot.files.meshes import prop_picture
from drip_pot.files.suggest import suggest_inks
from drip_pot.words import tr

_STARTER = (
    ("Figure", (("Skin", "#f0c5a0"), ("Hair", "#6a3526"), ("Cloth", "#3f6f69"), ("Edging", "#d9a441"))),
    ("Ground", (("Earth", "#a8704a"), ("Stone", "#8d857c"), ("Leaf", "#5d7a3a"))),
    ("Sky", (("Air", "#a9d3df"), ("Cloud", "#f5eee2"))),
)


_LOOK_PX = 1600
TOGETHER_DE = 3.0
"""How far shadows of a new book stay from the other pots: the palette is solved together."""


def new_book(path: Path, title: str, *, starter: bool = True) -> tuple[BookFile, Book]:
    """Make a book with a title and, if wanted, nine starter pots in three parts; errors are `open_book`'s."""
    file, book = open_book(path, create=True)
    verbs.name_book(book, title)
    verbs.set_tone(book, ToneRule(apart_de=TOGETHER_DE))
    if starter:
        for part, pots in _STARTER:
            number = verbs.add_part(book, part)
            for name, local in pots:
                verbs.add_pot(book, name, number, local)
    return file, book


_ROLE_WORDS: tuple[tuple[Role, tuple[str, ...]], ...] = (
    ("lettering", ("letter", "balloon", "text", "dialog", "caption")),
    ("detail", ("detail", "hatch", "texture", "stipple")),
    ("effect", ("effect", "speed", "burst")),
)
_ASIDE = ("paper", "background", "sketch", "pencil", "rough", "flat", "color", "colour", "reference")


@dataclass(frozen=True)
class Incoming:
    """A drawing read but not in a book yet.

    Attributes
    ----------
    name : str
        Its file's name.
    data : bytes
        The file as it is.
    shape : tuple of int
        Rows and columns.
    dpi : float
        Its resolution.
    knows_dpi : bool
        Whether the file said so.
    sheets : tuple of (Sheet, InkState)
        What it holds, the first being the page's first sheet; originals are not numbered yet.
    notes : list of str
        What was taken for granted.
    look : bytes
        It small, as JPEG, to be seen until it is worked out.
    """

    name: str
    data: bytes
    shape: tuple[int, int]
    dpi: float
    knows_dpi: bool
    sheets: tuple[tuple[Sheet, InkState], ...]
    notes: list[str]
    look: bytes = b""


def read_page(path: Path, report: Report = no_report, *, picture: int | None = None) -> Incoming:
    """Read a drawing and find the ink settings that suit it.

    Parameters
    ----------
    path : Path
        The file.
    report : Report
        Progress.
    picture : int, optional
        Which picture of a file that holds several; the layers of an OpenRaster file become sheets of one page if it
        is not given, otherwise the first picture is taken.

    Raises
    ------
    Unreadable, BadInput
        If it is no usable picture.
    """
    report(0.1, tr("Reading {0}", path.name))
    return take_in(read_file(path), path.name, report, picture=picture)


def take_in(data: bytes, name: str, report: Report = no_report, *, picture: int | None = None) -> Incoming:
    """Do the same with the bytes of a file, as they come from the clipboard or the scanner."""
    inside = pictures_in(data, name)
    layered = picture is None and len(inside) > 1 and inside[0].is_layer
    numbers = [k.number for k in inside][::-1] if layered else [picture or 0]
    notes: dict[str, None] = {}
    sheets: list[tuple[Sheet, InkState]] = []
    shape, dpi, knows, look = (0, 0), 300.0, False, b""
    for place, number in enumerate(numbers):
        report(0.2 + 0.7 * place / len(numbers), tr("Finding the paper of {0}", name))
        scan = decode(data, name, number)
        if layered and not _has_line(scan):
            continue
        settings, told = suggest_inks(scan)
        scan = laid_square(scan, settings.square)
        notes.update(dict.fromkeys([*scan.notes, *told]))
        shape, dpi, knows = (scan.gray.shape[0], scan.gray.shape[1]), scan.dpi, scan.knows_dpi
        look = look or _look(scan.gray)
        sheet = Sheet("Contour", "contour", picture=number)
        if layered:
            layer = inside[number]
            aside = any(word in layer.name.lower() for word in _ASIDE)
            sheet = Sheet(layer.name, _role(layer.name), picture=number, shown=layer.shown and not aside)
            if aside:
                sheet = msgspec.structs.replace(sheet, role="detail")
        sheets.append((sheet, InkState(settings)))
    if not sheets:
        raise BadInput("{0} has no layer with line on it.", name)
    if not layered and len(inside) > 1 and picture is None:
        notes[tr("{0} holds {1} pictures; the first was taken.", name, len(inside))] = None
    if layered and not any(s.role == "contour" for s, _ in sheets):
        sheets[0] = msgspec.structs.replace(sheets[0][0], role="contour"), sheets[0][1]
    first = next(k for k, (s, _) in enumerate(sheets) if s.role == "contour")
    sheets.insert(0, sheets.pop(first))
    return Incoming(name, data, shape, dpi, knows, tuple(sheets), list(notes), look)


def _role(name: str) -> Role:
    words = name.lower()
    return next((role for role, known in _ROLE_WORDS if any(word in words for word in known)), "contour")


def _has_line(scan: Scan) -> bool:
    """Whether a layer is more than empty or one tone all over."""
    small = scan.gray[::4, ::4]
    return bool(small.size and int(small.max()) - int(small.min()) > np.iinfo(scan.gray.dtype).max // 8)


def add_page(book: Book, incoming: Incoming, original: int, name: str = "") -> int:
    """Make a page of a drawing whose original is kept under a number; it is called `name` or after its file."""
    title = name or Path(incoming.name).stem.replace("-", " ").replace("_", " ")
    sheets = [(msgspec.structs.replace(s, original=original), inks) for s, inks in incoming.sheets]
    page = Page(title, *incoming.shape, incoming.dpi, original, picture=sheets[0][0].picture)
    return verbs.add_page(book, page, sheets[0][1], sheets if len(sheets) > 1 else ())


def bring_page(file: BookFile, book: Book, incoming: Incoming, name: str = "") -> int:
    """Keep a drawing in a book and make a page of it, which is seen small until it is read; return its number."""
    page = add_page(book, incoming, file.add_original(incoming.name, incoming.data), name)
    if incoming.look:
        file.keep(f"look/{page}", incoming.look)
    return page


def _look(gray: Gray) -> bytes:
    """Return a scan at most 1600 px long, as JPEG."""
    scale = min(1.0, _LOOK_PX / max(gray.shape))
    small = gray if scale == 1 else cv2.resize(gray, None, fx=scale, fy=scale, interpolation=cv2.INTER_AREA)
    if small.dtype != np.uint8:
        small = (small >> 8).astype(np.uint8)
    return cv2.imencode(".jpg", np.atleast_2d(small), [cv2.IMWRITE_JPEG_QUALITY, 80])[1].tobytes()


def add_sheets(book: Book, page: int, incoming: Incoming, original: int) -> list[int]:
    """Lay the sheets of a drawing on a page, scaled to its resolution where both are known; return their numbers."""
    known = book.sources(page).page
    scale = known.dpi / incoming.dpi if incoming.knows_dpi else 1.0
    scale = 1.0 if abs(scale - 1) < 0.002 else scale
    stem = Path(incoming.name).stem.replace("-", " ").replace("_", " ")
    numbers = []
    for sheet, inks in incoming.sheets:
        name, role = (sheet.name, sheet.role) if len(incoming.sheets) > 1 else (stem, _role(stem))
        place = msgspec.structs.replace(sheet.place, scale=scale)
        laid = msgspec.structs.replace(sheet, name=name, role=role, original=original, place=place)
        numbers.append(verbs.add_sheet(book, page, laid, inks))
    return numbers


def reink_sheet(
    file: BookFile, book: Book, page: int, number: int, incoming: Incoming, report: Report = no_report
) -> tuple[Sheet, InkState]:
    """Lay a corrected drawing over the sheet it replaces.

    Returns
    -------
    sheet, inks
        For `verbs.reink`; the file is kept in the book already.

    Raises
    ------
    BadInput
        If the two do not look like the same drawing.
    """
    sources = book.sources(page)
    old, new = sources[SHEETS][number], incoming.sheets[0]
    report(0.2, "Reading the old drawing")
    settings = sources[INKS][number].settings
    gray = laid_square(decode(file.original(old.original)[1], old.name, old.picture), settings.square).gray
    before = coverage(remove_paper(gray, estimate_paper(gray)), replace_threshold(settings))
    report(0.4, "Reading the new drawing")
    fresh = laid_square(decode(incoming.data, incoming.name, new[0].picture), new[1].settings.square).gray
    now = coverage(remove_paper(fresh, estimate_paper(fresh)), replace_threshold(new[1].settings))
    report(0.6, "Laying the new drawing over the old")
    place = align(before, now).then(old.place)
    report(0.95, "Keeping the new drawing")
    original = file.add_original(incoming.name, incoming.data)
    sheet = msgspec.structs.replace(old, original=original, picture=new[0].picture, place=place)
    return sheet, msgspec.structs.replace(new[1], erased=(), kept=())


def replace_threshold(settings: InkSettings) -> InkSettings:
    """Return settings with a soft edge, for comparing drawings."""
    return msgspec.structs.replace(settings, threshold=None)


def with_dpi(incoming: Incoming, dpi: float) -> Incoming:
    """Return a drawing with a resolution given by hand; speck sizes follow it."""
    scale = (dpi / incoming.dpi) ** 2
    sheets = []
    for sheet, inks in incoming.sheets:
        s = inks.settings
        speck = min(round(s.speck_px * scale), 600)
        sheets.append(
            (sheet, InkState(msgspec.structs.replace(s, speck_px=speck, hole_px=min(speck, s.hole_px or speck))))
        )
    notes = [note for note in incoming.notes if "dpi" not in note]  # what was taken for granted is known now
    return replace(incoming, dpi=dpi, knows_dpi=True, sheets=tuple(sheets), notes=notes)


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
    return bring_page(file, book, incoming, name), incoming.notes


def hand_on(file: BookFile, book: Book, page: int) -> Hand:
    """Return a hand at work on a page of an open book, from where the other pages can be reached as well."""
    return replace(hand_at(book, page, derive(file, book, page)), others=partial(hand_on, file))


def derive(file: BookFile, book: Book, page: int) -> Derived:
    """Return what follows from a page of an open book."""

    def load(sheet: SheetLine) -> Picture:
        if sheet.view is not None:
            return prop_picture(book.meshes(sheet.original), sheet.view)
        name, data = file.original(sheet.original)
        return decode(data, name, sheet.picture)

    return Derived(load, file, lambda checksum: book.frozen(REPAIR.key(page), checksum).whole())
