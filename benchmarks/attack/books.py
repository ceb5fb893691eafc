# SPDX-License-Identifier: GPL-3.0-or-later
"""Hostile books: bytes of the file, rows of its tables and their very layout made wrong; opened, looked at, rescued."""

import random
import shutil
import sqlite3
from collections.abc import Callable
from contextlib import suppress
from pathlib import Path

from attack.damage import damaged
from attack.made import made_book
from drip_pot.book import build_tables
from drip_pot.book.findings import find
from drip_pot.core.errors import DripPotError
from drip_pot.files import derive, open_book, rescue

_TABLES = ("meta", "value", "tile", "edit", "change", "edit_tile", "original", "original_chunk", "derived")
_GARBAGE = (
    None, -1, 0, 1, 1 << 62, 1.5, float("inf"), "", "x", "{}", "[]", "null", "true", '"a"', "1e999", "[" * 3000, "{\"name\":1}",
    "9" * 5000, '{"rows":1e9}', b"", b"\x00" * 40, b"\x28\xb5\x2f\xfd\x60\xff\xff", bytes(range(256)), "\udc80".encode("utf-8", "surrogatepass"),
)  # fmt: skip


def case(number: int, folder: Path) -> None:
    """Open and look into one hostile book; then rescue it."""
    chance = random.Random(number)
    path, out = folder / f"b{number}.drip", folder / f"r{number}.drip"
    shutil.copyfile(made_book(folder), path)
    chance.choice((_bytes, _rows, _rows, _rows, _names, _views))(path, chance)
    refused: DripPotError | None = None
    try:
        _look(path)
    except DripPotError as error:
        refused = error
    with suppress(DripPotError):
        rescue(path, out)
        _look(out)
    for left in folder.glob(f"[br]{number}*"):
        left.unlink(missing_ok=True)
    if refused is not None:
        raise refused


def _look(path: Path) -> None:
    file, book = open_book(path)
    try:
        for page in book.pages():
            sources = book.sources(page)
            derived = derive(file, book, page)
            atoms = derived.regions.atoms(sources.line)
            find(book, sources, derived, build_tables(book, sources, atoms.count))
            for name in book.planes(page):
                book.plane(name).whole()
        for _ in range(3):
            book.undo()
        for _ in range(3):
            book.redo()
        book.forget_branches()
    finally:
        file.close()


def _bytes(path: Path, chance: random.Random) -> None:
    data = path.read_bytes()
    path.write_bytes(damaged(data, data[::-1], chance))


def _changing(path: Path, act: Callable[[sqlite3.Connection], object]) -> None:
    db = sqlite3.connect(path, isolation_level=None)
    db.execute("PRAGMA foreign_keys = OFF")
    with suppress(sqlite3.Error, UnicodeEncodeError):
        act(db)
    db.close()


def _rows(path: Path, chance: random.Random) -> None:
    """Put garbage into cells, and take rows away."""

    def act(db: sqlite3.Connection) -> None:
        for _ in range(chance.randint(1, 12)):
            table = chance.choice(_TABLES)
            columns = [row[1] for row in db.execute(f"PRAGMA table_info({table})")]
            where = f"rowid = (SELECT rowid FROM {table} ORDER BY random() LIMIT 1)"
            if table in ("value", "change"):  # tables without row numbers
                where = f"key = (SELECT key FROM {table} ORDER BY random() LIMIT 1)"
            with suppress(sqlite3.Error):
                if chance.random() < 0.2:
                    db.execute(f"DELETE FROM {table} WHERE {where}")
                else:
                    db.execute(
                        f"UPDATE {table} SET {chance.choice(columns)} = ? WHERE {where}", (chance.choice(_GARBAGE),)
                    )

    _changing(path, act)


def _names(path: Path, chance: random.Random) -> None:
    """Give values keys that mean nothing, or too much."""
    keys = ("page/1/pour/-1", "page/99999999999999999999", "page/1/dam/x", "pot/0", "part/", "page/1/pass/1e9", "page//", "page/1/sheet/0/x",
            "page/1/inks/7", "book", "tone", "page/1/press", "page/1/cut", "page/1", "page/1/frame")  # fmt: skip
    _changing(path, lambda db: [
        db.execute("INSERT OR REPLACE INTO value VALUES (?, ?)", (chance.choice(keys), chance.choice([g for g in _GARBAGE if isinstance(g, str)])))
        for _ in range(chance.randint(1, 6))
    ])  # fmt: skip


def _views(path: Path, chance: random.Random) -> None:
    """Replace a table by a view that never ends, drop one, or claim another version."""
    table = chance.choice(_TABLES)
    endless = f"CREATE VIEW {table} AS WITH RECURSIVE n(x) AS (SELECT 1 UNION ALL SELECT x + 1 FROM n) SELECT x AS number, x AS key, x AS json FROM n"
    acts = ([f"DROP TABLE {table}", endless], [f"DROP TABLE {table}"], [f"PRAGMA user_version = {chance.choice((0, 3, 4, 6, 99))}"],
            ["PRAGMA application_id = 7"], [f"ALTER TABLE {table} RENAME TO other"])  # fmt: skip
    _changing(path, lambda db: [db.execute(text) for text in chance.choice(acts)])
