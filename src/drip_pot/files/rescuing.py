# SPDX-License-Identifier: GPL-3.0-or-later
"""Saving what can still be read of a damaged book. Knows the book file."""

import sqlite3
from pathlib import Path

from drip_pot.book import Book, Edit, MemoryContents, MemoryStore
from drip_pot.core.errors import CannotWrite, Unreadable
from drip_pot.files.access import open_book
from drip_pot.files.book_file import BookFile, read_book
from drip_pot.files.journal import journal_of
from drip_pot.files.layout import TABLES
from drip_pot.files.outputs import in_place
from drip_pot.files.snapshot import snapshot

_MOST_ROWS = 5_000_000


def rescue(path: Path, out: Path) -> dict[str, int]:
    """Copy everything that can still be read from a damaged book, and from its journal, into a new one.

    Parameters
    ----------
    path, out : Path
        The damaged book, which stays as it is, and the new one, which must not exist.

    Returns
    -------
    dict
        Rows saved by table.

    Raises
    ------
    Unreadable
        If not a single value could be read.
    CannotWrite
        If `out` exists or cannot be written.
    """
    if not path.is_file():
        raise Unreadable("There is no book {0}.", path)
    if out.exists() or journal_of(out).exists():
        raise CannotWrite("{0}, or a journal of that name, exists already. Choose another name.", out)
    with in_place(out) as work:
        file, _ = open_book(work, create=True)
        try:
            saved = _save(file, path)
        finally:
            file.close()
    return saved


def _save(file: BookFile, path: Path) -> dict[str, int]:
    """Put what can be read of a book into a new one; return the rows saved by table."""
    rows = _most_rows(path)
    saved = {table: _put(file, table, rows[table]) for table in TABLES}
    if saved["value"] == 0:
        raise Unreadable("Nothing in {0} could be read.", path.name)
    if not _history_holds(file):
        for table in ("edit", "change", "edit_tile"):
            file.connection.execute(f"DELETE FROM {table}")
        file.connection.execute("UPDATE meta SET value = 0 WHERE key = 'position'")
        saved |= {"edit": 0, "change": 0, "edit_tile": 0}
    return saved


def _most_rows(path: Path) -> dict[str, list[tuple[object, ...]]]:
    """Read every table of a copy of a book with its journal, and without, and take what gives more."""
    best: dict[str, list[tuple[object, ...]]] = {table: [] for table in TABLES}
    for with_journal in (True, False):
        with snapshot(path) as folder:
            copy = Path(folder) / path.name
            if not with_journal:
                journal_of(copy).unlink(missing_ok=True)
            try:
                old = sqlite3.connect(copy)
            except sqlite3.Error:
                continue
            try:
                rows = {table: _rows(old, table) for table in TABLES}
            finally:
                old.close()
        if _worth(rows) > _worth(best):
            best = rows
    return best


def _worth(rows: dict[str, list[tuple[object, ...]]]) -> tuple[int, int]:
    return sum(len(rows[table]) for table in ("edit", "value", "tile")), sum(map(len, rows.values()))


def _rows(old: sqlite3.Connection, table: str) -> list[tuple[object, ...]]:
    """Read a table forwards until it breaks, then backwards until it breaks."""
    rows: dict[tuple[object, ...], None] = {}
    key = {"meta": "key", "value": "key", "change": "number, place"}.get(table, "rowid")
    try:
        if old.execute("SELECT type FROM sqlite_master WHERE name = ?", (table,)).fetchone() != ("table",):
            return []
    except (sqlite3.Error, UnicodeDecodeError):
        return []
    for order in (key, ", ".join(f"{k} DESC" for k in key.split(", "))):
        try:
            for row in old.execute(f"SELECT * FROM {table} ORDER BY {order} LIMIT {_MOST_ROWS}"):
                if table != "value" or isinstance(row[0], str):  # what damage wrote over has other keys
                    rows[tuple(row)] = None
        except (sqlite3.Error, OverflowError, UnicodeDecodeError):
            continue
    return list(rows)


def _put(file: BookFile, table: str, rows: list[tuple[object, ...]]) -> int:
    done = 0
    file.connection.execute("PRAGMA foreign_keys = OFF")
    width = len(file.connection.execute(f"PRAGMA table_info({table})").fetchall())
    for short in rows:
        row = (short + (None,) * width)[:width]  # an older book has fewer columns
        try:
            file.connection.execute(f"INSERT OR REPLACE INTO {table} VALUES ({', '.join('?' * len(row))})", row)
            done += 1
        except sqlite3.Error:
            continue
    return done


def _history_holds(file: BookFile) -> bool:
    """Whether every step can be undone and done again, branches too, ending where it began; garbage is a no."""

    class LookingAt(MemoryStore):
        def load(self, number: int) -> Edit:
            return file.load(number)

    try:
        read = read_book(file)
        book = Book(LookingAt(), MemoryContents(read.values(), read.tiles()), read.history, read.position)
        for position in (*range(len(read.history) + 1), read.position):
            book.go_to(position)
        return (book.values(), book.tiles()) == (read.values(), read.tiles())
    except Exception:  # noqa: BLE001 - what stands in a damaged file may be anything
        return False
