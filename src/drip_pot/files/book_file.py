# SPDX-License-Identifier: GPL-3.0-or-later
"""The book file: one SQLite database, described in docs/book-file.md. Knows the book's values, tiles and edits.

An edit is written in one transaction together with the values and tiles it changes, so a file is never between
two gestures.
"""

import hashlib
import sqlite3
from contextlib import suppress
from pathlib import Path
from tempfile import TemporaryDirectory

import msgspec

from drip_pot.book import FIRST_ENGINE, Book, Change, Edit, Step, TileChange
from drip_pot.book.store import marked_in, one_page
from drip_pot.core.errors import CannotWrite, Unreadable
from drip_pot.files.kept_file import KeptFile
from drip_pot.files.layout import VERSION, as_coverage
from drip_pot.files.pruning import drop_originals, renumber

_CHUNK, _DERIVED, _DERIVED_OF_PAGE, _MOST = 8 << 20, 96 << 20, 1 << 20, 2**62


_JSON, _KEYED = "CAST(coalesce(json, '') AS TEXT)", "typeof(key) = 'text'"
"""A cell may hold anything; a value that is no text is read as text that is no value, and told as damaged."""


class BookFile(KeptFile):
    """An open book file: the store of a `Book`, the cache of what is derived, and the originals.

    Use `open_book` or `look_into`.
    """

    def __init__(
        self,
        path: Path,
        db: sqlite3.Connection,
        read_only: str = "",
        copy: "TemporaryDirectory[str] | None" = None,
    ) -> None:
        super().__init__(path, db, read_only, copy)
        self.layout = VERSION

    # Store

    def append(self, number: int, edit: Edit) -> None:
        """Forget edits from `number` on, then apply `edit` and keep it as that number."""
        with self._writing() as db:
            db.execute("DELETE FROM edit WHERE number >= ?", (number,))
            db.execute(
                "INSERT INTO edit VALUES (?, ?, ?, ?, ?, ?)",
                (number, edit.name, edit.says, edit.joined, edit.asked, edit.back),
            )
            db.executemany(
                "INSERT INTO change VALUES (?, ?, ?, ?, ?)",
                [(number, i, c.key, c.before, c.after) for i, c in enumerate(edit.changes)],
            )
            db.executemany(
                "INSERT INTO edit_tile VALUES (?, ?, ?, ?, ?, ?, ?)",
                [(number, i, t.plane, t.row, t.col, t.before, t.after) for i, t in enumerate(edit.tiles)],
            )
            _apply(db, edit, number + 1)

    def move(self, number: int, edit: Edit, position: int) -> None:
        """Apply a kept edit or its inverse; `position` edits are done then."""
        with self._writing() as db:
            _apply(db, edit, position)

    def marked(self, run: str) -> list[tuple[int, int]]:
        """Return the number and the page of all edits whose order was part of a run."""
        if self.layout < 3:
            return []
        with self._reading() as db:
            return marked_in(db.execute("SELECT number, asked FROM edit WHERE instr(asked, ?)", (run,)).fetchall(), run)

    def pages(self, first: int = 0, stop: int | None = None) -> dict[int, int]:
        """Return the page that each of some edits changed, by its number, where it is one."""
        wanted = "WHERE number >= ? AND number < ?"
        names = f"SELECT number, key FROM change {wanted} UNION ALL SELECT number, plane FROM edit_tile {wanted}"
        both = f"SELECT number, key FROM ({names}) WHERE {_KEYED}"
        limits = (first, _MOST if stop is None else stop)
        with self._reading() as db:
            return one_page(db.execute(both, (*limits, *limits)).fetchall())

    def keep_only(self, numbers: list[int], position: int) -> None:
        """Forget all other edits, and drawings that nothing knows then."""
        with self._writing() as db:
            renumber(db, numbers)
            db.execute("INSERT OR REPLACE INTO meta VALUES ('position', ?)", (position,))
            drop_originals(db)

    def load(self, number: int) -> Edit:
        """Return a kept edit; raises `Unreadable` if the file has lost it."""
        with self._reading() as db:
            asked = "asked" if self.layout >= 3 else "NULL"
            row = db.execute(f"SELECT name, title, joined, {asked} FROM edit WHERE number = ?", (number,)).fetchone()
            changes = db.execute("SELECT key, before, after FROM change WHERE number = ? ORDER BY place", (number,))
            tiles = db.execute(
                "SELECT plane, row, col, before, after FROM edit_tile WHERE number = ? ORDER BY place", (number,)
            )
            if row is None:
                raise Unreadable("Step {0} of the history is missing from {1}.", number + 1, self.path.name)
            told = {
                "name": row[0], "says": row[1], "joined": bool(row[2]), "asked": row[3],
                "changes": [dict(zip(Change.__struct_fields__, c, strict=True)) for c in changes],
                "tiles": [dict(zip(TileChange.__struct_fields__, t, strict=True)) for t in tiles],
            }  # fmt: skip
        try:
            return msgspec.convert(told, Edit)
        except msgspec.ValidationError as error:
            raise Unreadable(
                "Step {0} of the history of {1} is damaged ({2}).", number + 1, self.path.name, error
            ) from error

    # Contents

    def shared(self) -> dict[str, str]:
        """Return JSON text by key of what lies below no page, and of the pages."""
        with self._reading() as db:
            beside = f"SELECT key, {_JSON} FROM value WHERE {_KEYED} AND (key < 'page/' OR key >= 'page0')"
            found = dict(db.execute(beside).fetchall())
            after = "page/"
            following = f"SELECT key, {_JSON} FROM value WHERE key >= ? AND key < 'page0' ORDER BY key LIMIT 1"
            while (row := db.execute(following, (after,)).fetchone()) is not None:
                page = "/".join(row[0].split("/", 2)[:2])
                if row[0] == page:
                    found[page] = row[1]
                after = f"{page}0"
        return found

    def page(self, number: int) -> dict[str, str]:
        """Return JSON text of what lies below a page."""
        top = f"page/{number}/"
        with self._reading() as db:
            rows = db.execute(f"SELECT key, {_JSON} FROM value WHERE key > ? AND key < ?", (top, f"page/{number}0"))
            found = {key[len(top) :]: text for key, text in rows}
        return found if self.layout > 1 else {"engine": str(FIRST_ENGINE)} | found

    def tiles(self, plane: str) -> list[tuple[int, int]]:
        """Return where a plane has tiles."""
        with self._reading() as db:
            found = "SELECT row, col FROM tile WHERE plane = ? AND typeof(row) = 'integer' AND typeof(col) = 'integer'"
            return [(row, col) for row, col in db.execute(found, (self._kept_as(plane),))]

    def tile(self, plane: str, row: int, col: int) -> bytes | None:
        """Return a compressed tile."""
        with self._reading() as db:
            found = db.execute(
                "SELECT data FROM tile WHERE plane = ? AND row = ? AND col = ?", (self._kept_as(plane), row, col)
            ).fetchone()
        data = None if found is None else _as_bytes(found[0])
        return as_coverage(data) if self._kept_as(plane) != plane else data

    def _kept_as(self, plane: str) -> str:
        """Return the name a plane has in a file of an old layout that is write-protected."""
        return plane.replace("/pass/1", "/shade") if self.layout < 4 and plane.endswith("/pass/1") else plane

    # Cache

    def recall(self, key: str) -> bytes | None:
        """Return derived bytes kept under `key`."""
        with self._reading() as db:
            row = db.execute("SELECT data FROM derived WHERE key = ?", (key,)).fetchone()
        return row[0] if row is not None and isinstance(row[0], bytes) else None

    def keep(self, key: str, data: bytes) -> None:
        """Keep derived bytes, the newest up to 96 MB and 1 MB a page; where it cannot be written it is not kept."""
        if self.read_only:
            return
        with suppress(CannotWrite), self._writing() as db:
            db.execute("INSERT OR REPLACE INTO derived VALUES (?, ?)", (key, data))
            db.execute(
                "DELETE FROM derived WHERE rowid IN (SELECT rowid FROM (SELECT rowid, sum(length(data)) OVER"
                " (ORDER BY rowid DESC) AS held FROM derived WHERE key NOT LIKE 'kept/%') WHERE held > ?"
                " + ? * (SELECT count(*) FROM value WHERE key GLOB 'page/*' AND key NOT GLOB 'page/*/*'))",
                (_DERIVED, _DERIVED_OF_PAGE),
            )

    # Originals

    def add_original(self, name: str, data: bytes) -> int:
        """Put an image file into the book as it is; return its number. The same bytes are kept once."""
        digest = hashlib.sha256(data).hexdigest()
        with self._reading() as db:
            row = db.execute("SELECT number FROM original WHERE sha256 = ?", (digest,)).fetchone()
        if row is not None:
            return int(row[0])
        with self._writing() as db:
            number = int(db.execute("INSERT INTO original (name, sha256) VALUES (?, ?)", (name, digest)).lastrowid or 0)
            for place in range(-(-len(data) // _CHUNK)):
                piece = data[place * _CHUNK : (place + 1) * _CHUNK]
                db.execute("INSERT INTO original_chunk VALUES (?, ?, ?)", (number, place, piece))
        return number

    def original(self, number: int) -> tuple[str, bytes]:
        """Return an original's name and bytes; raises `Unreadable` unless they are what was put in."""
        with self._reading() as db:
            row = db.execute("SELECT name, sha256 FROM original WHERE number = ?", (number,)).fetchone()
            pieces = db.execute("SELECT data FROM original_chunk WHERE number = ? ORDER BY place", (number,))
            data = b"".join(_as_bytes(p[0]) for p in pieces)
        if row is None or hashlib.sha256(data).hexdigest() != row[1]:
            raise Unreadable("The original drawing number {0} in {1} is damaged or missing.", number, self.path.name)
        return str(row[0]), data


def _apply(db: sqlite3.Connection, edit: Edit, position: int) -> None:
    for change in edit.changes:
        if change.after is None:
            db.execute("DELETE FROM value WHERE key = ?", (change.key,))
        else:
            db.execute("INSERT OR REPLACE INTO value VALUES (?, ?)", (change.key, change.after))
    for tile in edit.tiles:
        if tile.after is None:
            db.execute("DELETE FROM tile WHERE plane = ? AND row = ? AND col = ?", (tile.plane, tile.row, tile.col))
        else:
            db.execute("INSERT OR REPLACE INTO tile VALUES (?, ?, ?, ?)", (tile.plane, tile.row, tile.col, tile.after))
    db.execute("INSERT OR REPLACE INTO meta VALUES ('position', ?)", (position,))


def read_book(file: BookFile) -> Book:
    """Read the document of an open file; raises `sqlite3.Error`."""
    db = file.connection
    file.layout = int(db.execute("PRAGMA user_version").fetchone()[0])  # an old one, where it is write-protected
    back = _whole("back") if file.layout >= 5 else "0"
    rows = db.execute(f"SELECT CAST(coalesce(title, '') AS TEXT), {_whole('joined')}, {back} FROM edit ORDER BY number")
    history = [Step(t, bool(j), min(max(b, 0), number)) for number, (t, j, b) in enumerate(rows)]
    row = db.execute(f"SELECT {_whole('value')} FROM meta WHERE key = 'position'").fetchone()
    return Book(file, file, history, min(max(row[0] if row else 0, 0), len(history)))


def _whole(column: str) -> str:
    """Read a column as a whole number, whatever stands in it."""
    return f"CASE typeof({column}) WHEN 'integer' THEN {column} ELSE 0 END"


def _as_bytes(cell: object) -> bytes:
    """Return the bytes of a cell; what is none is damage, and is told apart by what the bytes should be."""
    return cell if isinstance(cell, bytes) else b""
