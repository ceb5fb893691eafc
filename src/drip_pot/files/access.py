# SPDX-License-Identifier: GPL-3.0-or-later
"""Opening a book: to work in it, which locks it, or to look into it, which leaves no trace. Knows the book file."""

import os
import shutil
import sqlite3
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from pathlib import Path

from drip_pot.book import Book
from drip_pot.core.errors import BookLocked, CannotWrite, Unreadable
from drip_pot.files.base import Base
from drip_pot.files.book_file import BookFile, read_book
from drip_pot.files.journal import is_foreign, is_in_use, journal_of, set_aside
from drip_pot.files.kept_file import connect, explained, hold_alone
from drip_pot.files.layout import is_newer, keep_atoms, make_tables, migrate
from drip_pot.files.lock import BookLock, take
from drip_pot.files.meshes import Meshes
from drip_pot.files.placed import PlacedPictures
from drip_pot.files.pruning import prune
from drip_pot.files.shelter import beside, goes_with, shelter_of
from drip_pot.files.snapshot import snapshot
from drip_pot.words import tr


def open_book(path: Path, *, create: bool = False) -> tuple[BookFile, Book]:
    """Open a book file to work in it, or make a new one.

    Parameters
    ----------
    path : Path
        The file.
    create : bool
        Make it; it must not exist.

    Returns
    -------
    file : BookFile
        Keep it open as long as the book is used; `file.read_only` tells why a book cannot be changed.
    book : Book
        The document.

    Raises
    ------
    Unreadable
        If the file is missing, is no book, or is damaged (see `rescue`).
    NewerBook
        If it was written by a version that keeps books in a way this one cannot even read.
    BookLocked
        If another window has it open.
    CannotWrite
        If a new book cannot be made there.
    """
    if create and path.exists():
        raise CannotWrite("{0} exists already. Choose another name.", path)
    if not create and not path.is_file():
        raise Unreadable("There is no book {0}.", path)
    why = "" if create else _why_read_only(path)
    if why:
        return _look(path, why)
    try:
        lock = take(path)
    except OSError as error:
        if create:
            raise CannotWrite("{0} cannot be made: {1}.", path, error.strerror or error) from error
        return _look(path, tr("{0} cannot be written to: {1}; it is open for looking only.", path.name,
                              error.strerror or error))  # fmt: skip
    try:
        return _made(path, lock) if create else _opened(path, lock)
    except _OnlyLook as found:
        lock.release()
        return _look(path, str(found))
    except BaseException:
        lock.release()
        raise


def look_into(path: Path) -> tuple[BookFile, Book]:
    """Open a book file as it is now, whoever has it open; nothing of it, or beside it, is changed.

    Raises
    ------
    Unreadable, NewerBook
        As `open_book` does.
    CannotWrite
        If there is no room for a copy to look into.
    """
    if not path.is_file():
        raise Unreadable("There is no book {0}.", path)
    return _look(path, tr("{0} is open for looking only.", path.name))


@contextmanager
def looking_into(path: Path) -> Iterator[tuple[BookFile, Book]]:
    """Open a book as `look_into` does, for as long as it is looked into."""
    file, book = look_into(path)
    try:
        yield file, book
    finally:
        file.close()


@contextmanager
def working_in(path: Path) -> Iterator[tuple[BookFile, Book]]:
    """Open a book as `open_book` does, for as long as it is worked in."""
    file, book = open_book(path)
    try:
        yield file, book
    finally:
        file.close()


class _OnlyLook(Exception):
    """Why a book can be looked into alone, as was found when it was opened."""


def _made(path: Path, lock: BookLock) -> tuple[BookFile, Book]:
    if journal_of(path).exists():
        set_aside(path)
    try:
        db = connect(path, read_only=False)
        try:
            hold_alone(db)
            make_tables(db)
            return _begun(BookFile(path, db), Base(path, lock))
        except BaseException:
            db.close()
            for left in (path, journal_of(path)):
                left.unlink(missing_ok=True)
            raise
    except sqlite3.Error as error:
        raise explained(error, path) from error


def _opened(path: Path, lock: BookLock) -> tuple[BookFile, Book]:
    """Open a book that is locked; raises `_OnlyLook` where it can be looked into alone."""
    notes: list[str] = []
    if is_in_use(path):
        raise BookLocked("{0} is open in another window. Close it there first.", path.name)
    if is_foreign(path):
        notes.append(_parted(path))
    try:
        db = connect(path, read_only=False)
        try:
            if is_newer(db, path):
                raise _OnlyLook(tr("{0} was made by a newer Drip Pot; it is open for looking only.", path.name))
            hold_alone(db)
            migrate(db)
            keep_atoms(db)
            prune(db)
            file, book = _begun(BookFile(path, db), Base(path, lock))
        except BaseException:
            db.close()
            raise
    except sqlite3.Error as error:
        if getattr(error, "sqlite_errorcode", 0) & 0xFF == sqlite3.SQLITE_FULL:
            full = tr("The disk of {0} is full; the book is open for looking only. Free some space and open it again.",
                      path)  # fmt: skip
            raise _OnlyLook(full) from error
        raise explained(error, path) from error
    except (UnicodeDecodeError, OverflowError) as error:  # from words and numbers of SQLite itself
        raise Unreadable("{0} is damaged. Try: drip-pot rescue {0}", path.name) from error
    file.notes = [note for note in notes if note]
    return file, book


def _begun(file: BookFile, base: Base) -> tuple[BookFile, Book]:
    file.begin(base)
    return file, _read(file)


def _read(file: BookFile) -> Book:
    book = read_book(file)
    book.pictures, book.meshes = PlacedPictures(file.original), Meshes(file.original)
    return book


def _look(path: Path, why: str) -> tuple[BookFile, Book]:
    """Open a copy of a book, so that whoever works in it is neither disturbed nor seen half way."""
    copy = snapshot(path)
    try:
        db = connect(Path(copy.name) / path.name, read_only=False)
        try:
            if not is_newer(db, path):
                hold_alone(db)
                migrate(db)
            file = BookFile(path, db, why, copy)
            return file, _read(file)
        except BaseException:
            db.close()
            raise
    except sqlite3.Error as error:
        copy.cleanup()
        raise explained(error, path) from error
    except (UnicodeDecodeError, OverflowError) as error:
        copy.cleanup()
        raise Unreadable("{0} is damaged. Try: drip-pot rescue {0}", path.name) from error
    except BaseException:
        copy.cleanup()
        raise


def _parted(path: Path) -> str:
    """Part a book from a journal that was written for another file of its name; say where that work is now.

    Where the file it was written for is still sheltered, both become a book of their own.
    """
    kept = shelter_of(path)
    if goes_with(kept, journal_of(path)):
        place = beside(path)
        with suppress(OSError, sqlite3.Error):
            kept.follow(journal_of(path))
            shutil.copyfile(kept.path, place)
            kept.drop()
            journal_of(path).unlink()
            return tr("{0} was written over from outside while it was open. What was in it then is in {1}.",
                      path.name, place.name)  # fmt: skip
    aside = set_aside(path)
    return "" if aside is None else tr("A journal that belongs to another file lay beside {0}; it is called {1} now.",
                                       path.name, aside.name)  # fmt: skip


def _why_read_only(path: Path) -> str:
    if not os.access(path, os.W_OK):
        return tr("{0} is write-protected; it is open for looking only. Copy it to change it.", path.name)
    if not os.access(path.parent, os.W_OK):
        return tr("The folder of {0} is write-protected; it is open for looking only. Copy it to change it.", path.name)
    return ""
