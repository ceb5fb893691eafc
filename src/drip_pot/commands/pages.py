# SPDX-License-Identifier: GPL-3.0-or-later
"""Drawings made pages of a book, from the command line. Knows files and the book; no window."""

import sys
from contextlib import closing
from pathlib import Path
from typing import Annotated

import typer

from drip_pot.core.errors import BadInput, DripPotError
from drip_pot.words import tr


def add_pages(
    book: Annotated[Path, typer.Argument(metavar="BOOK", help="A .drip file; made if missing.", show_default=False)],
    drawings: Annotated[
        list[Path], typer.Argument(metavar="DRAWING...", help="Files and folders.", show_default=False)
    ],
) -> None:
    """Add drawings to a book as pages, those of a folder in natural order; every picture of a PDF or TIFF is a page.

    Example: drip-pot pages kites.drip scans/ cover.tif
    """
    from drip_pot.files import bring_page, drawings_in, new_book, open_book, pages_of, read_file, take_in

    if book.suffix.lower() != ".drip":
        raise BadInput("{0} is no name of a book. Name it .drip.", book.name)
    paths = [one for path in drawings for one in drawings_in(path)]
    missing = next((path for path in paths if not path.is_file()), None)
    if missing is not None:
        raise BadInput("There is no drawing {0}.", missing)
    left = 0
    file, document = open_book(book) if book.exists() else new_book(book, book.stem)
    with closing(file):
        before = len(document.pages())
        for path in paths:
            try:
                data = read_file(path)
                for number in pages_of(data, path.name):
                    name = "" if number is None else tr("{0}, {1}", path.stem, number + 1)
                    bring_page(file, document, take_in(data, path.name, picture=number), name)
            except DripPotError as error:
                left += 1
                print(tr("left out: {0}", error), file=sys.stderr)
        count = len(document.pages())
    print(tr("{0}: {1} pages added, {2} in all", book, count - before, count))
    if left:
        raise typer.Exit(1)
