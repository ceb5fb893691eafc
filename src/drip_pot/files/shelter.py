# SPDX-License-Identifier: GPL-3.0-or-later
"""A private copy of an open book's file, for the day that something writes over the book. Knows SQLite's journal.

What a person did since the journal was last brought home lies in the journal, the rest in the file. A program that
copies another file over the book (a backup put back, a synchronised folder) destroys the second half; this copy stands
in for it. It is byte for byte the file that the journal belongs to: where the journal is brought home in the book, it
is brought home here too.
"""

import hashlib
import os
import shutil
import sqlite3
import time
from collections.abc import Iterator
from contextlib import closing, suppress
from pathlib import Path

import platformdirs

from drip_pot.files.journal import journal_of, mark_of

_PIECE, _OLD_DAYS = 8 << 20, 14


class Shelter:
    """The copy of the file of one book; `path` is where it lies."""

    def __init__(self, path: Path) -> None:
        self.path = path

    def follow(self, journal: Path) -> None:
        """Bring a journal home in the copy, as is about to be done in the book; raises `OSError`, `sqlite3.Error`."""
        if journal.exists():
            shutil.copyfile(journal, journal_of(self.path))
        with closing(sqlite3.connect(self.path)) as db:
            db.execute("PRAGMA wal_checkpoint(TRUNCATE)").fetchone()

    def drop(self) -> None:
        """Take the copy away."""
        for path in (self.path, journal_of(self.path), self.path.with_name(self.path.name + "-shm")):
            with suppress(OSError):
                path.unlink(missing_ok=True)


def shelter_of(book: Path) -> Shelter:
    """Return the place of a book's copy, whether there is one or not."""
    mark = hashlib.sha256(os.fsencode(book.resolve())).hexdigest()[:24]
    return Shelter(Path(platformdirs.user_cache_dir("drip-pot")) / "open" / f"{mark}.drip")


def pieces_of(handle: int) -> Iterator[bytes]:
    """Yield what an open file holds, a piece at a time, without moving its position or closing anything."""
    at = 0
    while piece := os.pread(handle, _PIECE, at):
        yield piece
        at += len(piece)


def shelter(book: Path, handle: int) -> Shelter:
    """Copy the open file of a book to its place, and take away copies that were left behind long ago.

    Raises
    ------
    OSError
        If there is no room, or no folder for it.
    """
    kept = shelter_of(book)
    kept.path.parent.mkdir(parents=True, exist_ok=True, mode=0o700)
    for left in kept.path.parent.glob("*.drip"):
        if time.time() - left.stat().st_mtime > _OLD_DAYS * 86400:
            Shelter(left).drop()
    kept.drop()
    try:
        with open(kept.path, "wb", opener=lambda path, flags: os.open(path, flags, 0o600)) as out:
            for piece in pieces_of(handle):
                out.write(piece)
    except OSError:
        kept.drop()
        raise
    return kept


def goes_with(kept: Shelter, journal: Path) -> bool:
    """Whether a copy is that of the file a journal was written for."""
    try:
        mark = mark_of(kept.path)
        return mark is not None and mark in journal.read_bytes()
    except OSError:
        return False


def beside(book: Path) -> Path:
    """Return the first free name of the kind 'book-2.drip' beside a book."""
    number = 2
    while (place := book.with_name(f"{book.stem}-{number}.drip")).exists() or journal_of(place).exists():
        number += 1
    return place
