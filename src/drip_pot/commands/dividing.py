# SPDX-License-Identifier: GPL-3.0-or-later
"""Regions of whole books found ahead, overnight, from the command line. Knows files and the book; no window."""

import os
import time
from collections.abc import Iterator
from itertools import chain
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import TYPE_CHECKING, Annotated

import typer

from drip_pot.commands.spread import KeyFolder, SchedulerAddress, spread
from drip_pot.core.errors import DripPotError
from drip_pot.words import tr

if TYPE_CHECKING:
    from drip_pot.book import Book
    from drip_pot.files import BookFile


def find_regions(
    books: Annotated[list[Path], typer.Argument(metavar="BOOK...", help=".drip files.", show_default=False)],
    jobs: Annotated[int | None, typer.Option(min=1, max=64, help="How many pages at once; one a core if not given.",
                                             show_default=False)] = None,
    scheduler: SchedulerAddress = None,
    tls: KeyFolder = None,
) -> None:  # fmt: skip
    """Find the regions of all pages ahead, so that each opens at once. Ends with code 1 if any page failed.

    What was found is kept page by page: stopped, it goes on where it was. Meanwhile the book cannot be opened.

    Example: drip-pot find-regions kites.drip storm.drip --jobs 2
    """
    from drip_pot.files import working_in

    failed = 0
    for path in books:
        try:
            with working_in(path) as (file, document):
                failed += _divide(path, file, document, jobs or os.cpu_count() or 1, scheduler, tls)
        except DripPotError as error:
            failed += 1
            print(tr("{0}: {1}", path.name, error), flush=True)
    if failed:
        raise typer.Exit(1)


def _divide(
    path: Path, file: "BookFile", book: "Book", jobs: int, scheduler: str | None, tls: Path | None
) -> int:  # fmt: skip
    """Find the regions of pages of a book that has none of them yet; say what came of each, return how many failed."""
    from drip_pot.files import divide_apart, divisions, keep_divided, needs_book, undivided_pages

    left = undivided_pages(file, book)
    lines = {page: book.sources(page).line.uncut for page in left}
    apart = [page for page in left if not needs_book(lines[page])]
    failed, begun = 0, time.monotonic()
    shared = path.resolve().parent if scheduler is not None else None  # where workers on other machines see it
    with TemporaryDirectory(prefix=f".{path.stem}-regions-", dir=shared) as folder:
        found = spread(divide_apart, divisions(file, book, apart, Path(folder)), jobs, scheduler, tls)
        ended = ((apart[place], said) for place, said in found)
        for count, (page, said) in enumerate(chain(ended, _here(file, book, set(left) - set(apart))), 1):
            if page in apart:
                keep_divided(file, lines[page], Path(folder) / str(apart.index(page)))
            failed += not said[0]
            for line in said[1]:
                print(tr("[{0} of {1}] {2}: {3}", count, len(left), path.name, line), flush=True)
    spent = round(time.monotonic() - begun)
    told = tr("{0}: regions of {1} of {2} pages found in {3} s", path.name, len(left) - failed, len(left), spent)
    print(told if left else tr("{0}: the regions of all pages are there", path.name))
    return failed


def _here(file: "BookFile", book: "Book", pages: set[int]) -> Iterator[tuple[int, tuple[bool, list[str]]]]:
    """Find the regions of pages that need the book itself."""
    from drip_pot.files import derive

    for page in sorted(pages):
        name = book.pages()[page].name
        try:
            count = derive(file, book, page).regions.atoms(book.sources(page).line.uncut).count
        except DripPotError as error:
            yield page, (False, [tr("{0}: {1}", name, error)])
        else:
            yield page, (True, [tr("{0}: {1} regions before bridges", name, count)])
