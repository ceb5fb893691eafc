# SPDX-License-Identifier: GPL-3.0-or-later
"""Regions of pages found ahead, each page by itself from files in a folder. Knows what a page is derived from.

What finds them gets the drawings as they are and the settings as JSON, and gives back the atoms as they are kept: no
book is opened there, and nothing but data goes either way.
"""

import shutil
from collections.abc import Iterable, Iterator
from contextlib import suppress
from pathlib import Path

import msgspec

from drip_pot.book import Book, Derived, Picture, SheetLine
from drip_pot.book.derive.atoms_kept import pack_atoms
from drip_pot.book.derive.regions import atoms_key
from drip_pot.book.values import LineState
from drip_pot.core.errors import BadInput, DripPotError, Unreadable
from drip_pot.files.book_file import BookFile
from drip_pot.files.images import decode
from drip_pot.words import tr

Division = tuple[str, bytes, dict[int, str], str]
"""Name of the page, its line as JSON, names of its drawings by number, and the folder they are in."""


def undivided_pages(file: BookFile, book: Book) -> list[int]:
    """Return the pages whose regions are not kept in the book yet."""
    keys = {page: atoms_key(book.sources(page).line.uncut) for page in book.pages()}
    return [page for page, key in keys.items() if not any(file.recall(k) for k in (key, f"kept/{key}"))]


def needs_book(line: LineState) -> bool:
    """Whether more than drawings decides the regions: what was mended by hand, and props."""
    return bool(line.repair) or any(sheet.view is not None for sheet in line.sheets)


def divisions(file: BookFile, book: Book, pages: Iterable[int], folder: Path) -> Iterator[Division]:
    """Yield what finds the regions of each page, its drawings written into the folder as it is asked for."""
    for place, page in enumerate(pages):
        line = book.sources(page).line.uncut
        into, names = folder / str(place), dict[int, str]()
        into.mkdir()
        for number in {sheet.original for sheet in line.sheets}:
            with suppress(Unreadable):  # told where it is looked for
                names[number], data = file.original(number)
                (into / str(number)).write_bytes(data)
        yield book.pages()[page].name, msgspec.json.encode(line), names, str(into)


def divide_apart(name: str, line: bytes, names: dict[int, str], folder: str) -> tuple[bool, list[str]]:
    """Find the regions of a page from what `divisions` told; its atoms are in the folder then. Says what fails."""
    told, place = msgspec.json.decode(line, type=LineState), Path(folder)

    def load(sheet: SheetLine) -> Picture:
        if sheet.original not in names:
            raise BadInput("Its drawing is damaged or missing.")
        return decode((place / str(sheet.original)).read_bytes(), names[sheet.original], sheet.picture)

    try:
        atoms = Derived(load).regions.atoms(told)
        (place / "atoms").write_bytes(pack_atoms(atoms))
    except (DripPotError, OSError) as error:
        return False, [tr("{0}: {1}", name, error)]
    return True, [tr("{0}: {1} regions before bridges", name, atoms.count)]


def keep_divided(file: BookFile, line: LineState, folder: Path) -> None:
    """Keep the atoms that were found of a line in the book, and empty the folder; nothing where there are none."""
    found = folder / "atoms"
    if found.is_file():
        file.keep(atoms_key(line), found.read_bytes())
    shutil.rmtree(folder, ignore_errors=True)
