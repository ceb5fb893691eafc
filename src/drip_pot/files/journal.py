# SPDX-License-Identifier: GPL-3.0-or-later
"""The journal beside a book (`-wal`): brought home, and told from one that belongs to another file of that name.

Knows SQLite; nothing of what a book holds. SQLite replays whatever journal lies beside a file, also when the file was
replaced by a backup meanwhile, which brings old edits back or damages it. So a book carries a mark that changes
whenever its journal is brought home; every transaction writes the page with the mark, so the journal holds the mark
of the file that it goes with. Only who has the lock of a book (see `lock`) may move or remove its journal.
"""

import fcntl
import secrets
import sqlite3
from contextlib import closing
from pathlib import Path

_MARK = "life"
_LOCK_AT, _LOCK_SIZE = 0x40000002, 510  # as the SQLite file format lays down
_HEAD = 32


def journal_of(path: Path) -> Path:
    """Return where SQLite keeps the journal of a file."""
    return path.with_name(path.name + "-wal")


def mark_anew(db: sqlite3.Connection) -> bytes:
    """Give a book a new mark, in its journal first; return it. Raises `sqlite3.Error`."""
    mark = secrets.token_hex(16)
    db.execute("INSERT OR REPLACE INTO meta VALUES (?, ?)", (_MARK, mark))
    return mark.encode()


def touch_mark(db: sqlite3.Connection) -> None:
    """Have the transaction at hand write the page with the mark, whatever else it writes; raises `sqlite3.Error`."""
    db.execute("INSERT OR REPLACE INTO meta VALUES ('turn', ?)", (secrets.randbits(32),))


def bring_home(db: sqlite3.Connection) -> None:
    """Put all that is in the journal into the file itself; raises `sqlite3.Error`."""
    db.execute("PRAGMA wal_checkpoint(TRUNCATE)").fetchone()


def mark_of(path: Path) -> bytes | None:
    """Return the mark in a file as it is without its journal; None where it has none, or none that can be read."""
    try:
        with closing(sqlite3.connect(path.absolute().as_uri() + "?mode=ro&immutable=1", uri=True)) as db:
            row = db.execute("SELECT value FROM meta WHERE key = ?", (_MARK,)).fetchone()
    except sqlite3.Error:
        return None
    return row[0].encode() if row is not None and isinstance(row[0], str) else None


def is_foreign(path: Path) -> bool:
    """Whether a journal lies beside a book that was not written for the file as it is now.

    A book without a mark (of an earlier version), or whose mark cannot be read, is given the benefit of the doubt.
    """
    journal = journal_of(path)
    if not journal.is_file() or journal.stat().st_size == 0:
        return False
    mark = mark_of(path)
    return mark is not None and mark not in journal.read_bytes()


def is_in_use(path: Path) -> bool:
    """Whether an earlier version of this program has a book open: it holds SQLite's lock bytes and nothing else.

    Not for a file that this process has open: POSIX drops all locks of a process on a file when it closes one handle.
    """
    with path.open("r+b") as handle:
        try:
            fcntl.lockf(handle, fcntl.LOCK_EX | fcntl.LOCK_NB, _LOCK_SIZE, _LOCK_AT)
        except OSError:
            return True
    return False


def set_aside(path: Path) -> Path | None:
    """Give a foreign journal a name of its own, so that it is neither replayed nor lost.

    Returns
    -------
    Path or None
        The journal; None where it held nothing, and was taken away.
    """
    journal, number = journal_of(path), 1
    path.with_name(path.name + "-shm").unlink(missing_ok=True)
    if journal.stat().st_size <= _HEAD:
        journal.unlink()
        return None
    while (place := path.with_name(f"{path.name}-other-{number}")).exists():
        number += 1
    return journal.rename(place)
