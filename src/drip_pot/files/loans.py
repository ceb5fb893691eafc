# SPDX-License-Identifier: GPL-3.0-or-later
"""Pages sent out of a book file as a book of their own, and taken back. Knows open books and their layout."""

import sqlite3
import uuid
from collections.abc import Iterable, Sequence
from contextlib import closing
from pathlib import Path

import msgspec

from drip_pot.book import Book, Edit
from drip_pot.book.derive.regions import atoms_key
from drip_pot.book.loans import Clash, Return, edits_back, loan_of, loans_of, new_loan, originals_in, taken
from drip_pot.book.values import LOAN, LOANS, PAGES, Sent
from drip_pot.core.errors import BadInput, CannotWrite
from drip_pot.files.book_file import BookFile
from drip_pot.files.outputs import in_place
from drip_pot.files.pruning import drop_originals
from drip_pot.words import say


def send_out(file: BookFile, book: Book, pages: Sequence[int], target: Path, name: str) -> Edit:
    """Write some pages of an open book as a book of their own; return the edit that remembers that they are out.

    That book has the pots, parts and all else of the whole book, no other page and no history.

    Parameters
    ----------
    file, book
        The open book, or a snapshot of it.
    pages : sequence of int
        Pages by number.
    target : Path
        The file; who calls has asked whether it may be replaced.
    name : str
        Whom they go to, or what for.

    Raises
    ------
    BadInput
        If there is no name, no page, or no such page, or the target is the book itself.
    CannotWrite
        If the disk is full, or the folder cannot be written to.
    """
    name = " ".join(name.split())
    if not name:
        raise BadInput("Say whom the pages go to, or what for.")
    if target.resolve() == file.path.resolve():
        raise BadInput("Pages go out as a file of their own; {0} is the book itself.", target.name)
    loan = new_loan(book, pages, name, uuid.uuid4().hex)
    try:
        with in_place(target) as work, closing(sqlite3.connect(work)) as copy:
            file.copy_into(copy)
            lines = [line for page in pages for line in (book.sources(page).cut, book.sources(page).line)]
            atoms = {atoms_key(line.uncut) for line in lines}
            _keep_pages(copy, [page for page in book.pages() if page not in pages], atoms, loan)
    except sqlite3.Error as error:
        raise CannotWrite("{0} could not be written: {1}. Nothing was sent out.", target.name, error) from error
    sent = book.change(LOANS.key(loan.key), Sent(name, tuple(pages)))
    return Edit("send-out", say("Send pages out to {0}", name), (sent,))


def _keep_pages(db: sqlite3.Connection, others: Iterable[int], atoms: Iterable[str], loan: object) -> None:
    """Take out of a copy of a book what does not go out: other pages, the history, what was worked out but `atoms`.

    Those divide the pages that go out, perhaps as an earlier version did, and what is poured stands by them.
    """
    db.execute("PRAGMA foreign_keys = ON")
    for page in others:
        top = PAGES.key(page)
        db.execute("DELETE FROM value WHERE key = ? OR key GLOB ?", (top, f"{top}/*"))
        db.execute("DELETE FROM tile WHERE plane GLOB ?", (f"{top}/*",))
    for table in ("edit_tile", "change", "edit"):
        db.execute(f"DELETE FROM {table}")
    places = [place for key in atoms for place in (key, f"kept/{key}")]
    db.execute(f"DELETE FROM derived WHERE key NOT IN ({', '.join('?' * len(places))})", places)
    db.execute("DELETE FROM value WHERE key GLOB ?", (f"{LOANS.below}*",))
    db.execute("INSERT OR REPLACE INTO meta VALUES ('position', 0)")
    db.execute("INSERT OR REPLACE INTO value VALUES (?, ?)", (LOAN.key, msgspec.json.encode(loan).decode()))
    drop_originals(db)
    db.commit()
    db.execute("VACUUM")


def take_back(file: BookFile, book: Book, theirs: tuple[BookFile, Book], back: Return, left: Iterable[Clash]) -> None:
    """Do to a book what was done to pages of it that were out, as one step; clashes that are `left` stay as they are.

    `theirs` is the book that went out, open for looking; `back` is what `compare` told of it. New drawings of it are
    put into the file.

    Raises
    ------
    Unreadable
        If a drawing that is new in it is damaged.
    CannotWrite
        If the disk is full.
    """
    loan = loan_of(theirs[1])
    numbers = {number: file.add_original(*theirs[0].original(number)) for number in sorted(originals_in(theirs[1]))}
    numbers = {there: here for there, here in numbers.items() if there != here}
    with book.as_one(say("Take back from {0}", loan.name)):
        for edit in edits_back(book, theirs[1], back, left, numbers):
            book.apply(edit)
        change = book.change(LOANS.key(loan.key), taken(loans_of(book)[loan.key], loan, back))
        book.apply(Edit("take-back", say("Take back from {0}", loan.name), (change,)))
