# SPDX-License-Identifier: GPL-3.0-or-later
"""Pages, parts and schemes brought from one book file into another. Knows open books."""

from drip_pot.book import Book
from drip_pot.book.bringing import ToBring, edits_brought
from drip_pot.book.derive.regions import atoms_key
from drip_pot.book.loans import originals_in
from drip_pot.book.values import ENGINE, PAGES
from drip_pot.files.book_file import BookFile
from drip_pot.words import say


def bring_from(file: BookFile, book: Book, theirs: tuple[BookFile, Book], choice: ToBring) -> list[int]:
    """Bring what is chosen of another book into an open one, as one step; return the numbers of the pages here.

    The drawings of its pages are put into the file; so are the regions they were divided into, for that an earlier
    version may have divided them.

    Raises
    ------
    BadInput
        If nothing is chosen, or the other book has no such page, part or scheme.
    Unreadable
        If a drawing of the other book is damaged.
    CannotWrite
        If the disk is full.
    """
    other, there = theirs
    needed = {number for page in choice.pages for number in originals_in(there, PAGES.key(page))}
    originals = {number: file.add_original(*other.original(number)) for number in sorted(needed)}
    before = set(book.pages())
    with book.as_one(say("Bring in from {0}", there.info.title)):
        for edit in edits_brought(book, there, choice, originals):
            book.apply(edit)
    made = [page for page in book.pages() if page not in before]
    for page, source in zip(made, choice.pages, strict=True):
        _atoms_along(file, book, page, theirs, source)
    return made


def _atoms_along(file: BookFile, book: Book, page: int, theirs: tuple[BookFile, Book], source: int) -> None:
    """Keep the atoms of a page that came, in the place where they are looked for here."""
    here, there = book.sources(page), theirs[1].sources(source)
    for line, old in ((here.line.uncut, there.line.uncut), (here.cut.uncut, there.cut.uncut)):
        key = atoms_key(old)
        data = theirs[0].recall(key) or theirs[0].recall(f"kept/{key}")
        if data is not None:
            file.keep(atoms_key(line) if line.engine == ENGINE else f"kept/{atoms_key(line)}", data)
