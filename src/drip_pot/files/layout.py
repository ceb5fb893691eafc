# SPDX-License-Identifier: GPL-3.0-or-later
"""How a book file is laid out, and how older layouts are raised to it. Knows SQLite, and tiles; nothing of editing.

docs/book-file.md describes the tables.
"""

import json
import sqlite3
from pathlib import Path

import numpy as np
import zstandard

from drip_pot.book import ENGINE, FIRST_ENGINE
from drip_pot.book.store import TILE, inflated, pack_tile
from drip_pot.core.errors import NewerBook, Unreadable

APPLICATION_ID = 0x44524950
VERSION = 8

_SCHEMA = (
    "CREATE TABLE meta (key TEXT PRIMARY KEY, value)",
    "CREATE TABLE value (key TEXT PRIMARY KEY, json TEXT NOT NULL) WITHOUT ROWID",
    """CREATE TABLE tile (plane TEXT, row INTEGER, col INTEGER, data BLOB NOT NULL,
        PRIMARY KEY (plane, row, col))""",
    "CREATE TABLE edit (number INTEGER PRIMARY KEY, name TEXT, title TEXT, joined INTEGER, asked TEXT, back INTEGER)",
    """CREATE TABLE change (number INTEGER REFERENCES edit ON DELETE CASCADE, place INTEGER, key TEXT,
        before TEXT, after TEXT, PRIMARY KEY (number, place)) WITHOUT ROWID""",
    """CREATE TABLE edit_tile (number INTEGER REFERENCES edit ON DELETE CASCADE, place INTEGER, plane TEXT,
        row INTEGER, col INTEGER, before BLOB, after BLOB, PRIMARY KEY (number, place))""",
    "CREATE TABLE original (number INTEGER PRIMARY KEY, name TEXT, sha256 TEXT)",
    """CREATE TABLE original_chunk (number INTEGER REFERENCES original ON DELETE CASCADE, place INTEGER,
        data BLOB, PRIMARY KEY (number, place))""",
    "CREATE TABLE derived (key TEXT PRIMARY KEY, data BLOB)",
)
TABLES = ("meta", "value", "tile", "edit", "change", "edit_tile", "original", "original_chunk", "derived")


def make_tables(db: sqlite3.Connection) -> None:
    """Make a new book of it; raises `sqlite3.Error`."""
    db.execute(f"PRAGMA application_id = {APPLICATION_ID}")
    db.execute("BEGIN IMMEDIATE")
    for statement in _SCHEMA:
        db.execute(statement)
    db.execute("INSERT INTO meta VALUES ('position', 0)")
    db.execute("INSERT INTO meta VALUES ('engine', ?)", (ENGINE,))
    db.execute(f"PRAGMA user_version = {VERSION}")
    db.execute("COMMIT")


def is_newer(db: sqlite3.Connection, path: Path) -> bool:
    """Whether the book is newer than this program; raises unless it is a book that can be read."""
    (application,) = db.execute("PRAGMA application_id").fetchone()
    (version,) = db.execute("PRAGMA user_version").fetchone()
    if application != APPLICATION_ID:
        raise Unreadable("{0} is not a Drip Pot book.", path.name)
    tables = {row[0] for row in db.execute("SELECT name FROM sqlite_master WHERE type = 'table'")}
    if not set(TABLES) <= tables:  # a view of that name may have no end
        if version > VERSION:
            raise NewerBook(
                "{0} was made by a newer Drip Pot that this one cannot read. Update the program.", path.name
            )
        raise Unreadable("{0} is damaged. Rescue what can be read with: drip-pot rescue '{0}'", path.name)
    return bool(version > VERSION)


def migrate(db: sqlite3.Connection) -> None:
    """Raise an older layout step by step, each in a transaction with the number that says it was done."""
    version = max(1, int(db.execute("PRAGMA user_version").fetchone()[0]))
    for number, step in enumerate(_STEPS[version - 1 :], version + 1):
        db.execute("BEGIN IMMEDIATE")
        step(db)
        db.execute(f"PRAGMA user_version = {number}")
        db.execute("COMMIT")


def keep_atoms(db: sqlite3.Connection) -> None:
    """Keep for good what another version of the program found in pages; colours hang on it. Raises `sqlite3.Error`."""
    row = db.execute("SELECT value FROM meta WHERE key = 'engine'").fetchone()
    if row is None or row[0] != ENGINE:
        db.execute("BEGIN IMMEDIATE")
        db.execute("UPDATE OR IGNORE derived SET key = 'kept/' || key WHERE key LIKE 'atoms/%'")
        db.execute("INSERT OR REPLACE INTO meta VALUES ('engine', ?)", (ENGINE,))
        db.execute("COMMIT")


def _name_engine(db: sqlite3.Connection) -> None:
    """Layout 2: pages say which engine divided them; what it found is kept for good, as colours hang on it."""
    pages = db.execute("SELECT key FROM value WHERE key LIKE 'page/%' AND key NOT LIKE 'page/%/%'").fetchall()
    for (key,) in pages:
        db.execute("INSERT OR IGNORE INTO value VALUES (?, ?)", (f"{key}/engine", str(FIRST_ENGINE)))
    db.execute("UPDATE derived SET key = 'kept/' || key WHERE key LIKE 'atoms/%'")


def _keep_orders(db: sqlite3.Connection) -> None:
    """Layout 3: edits carry the order that asked for them."""
    if "asked" not in {row[1] for row in db.execute("PRAGMA table_info(edit)")}:
        db.execute("ALTER TABLE edit ADD COLUMN asked TEXT")


def _name_passes(db: sqlite3.Connection) -> None:
    """Layout 4: shade of zeros and ones becomes the coverage of the first pass, 0 to 255."""
    db.create_function("covered", 1, as_coverage, deterministic=True)
    for table, columns in (("tile", ("data",)), ("edit_tile", ("before", "after"))):
        made = ", ".join(f"{column} = covered({column})" for column in columns)
        named = "plane = substr(plane, 1, length(plane) - 5) || 'pass/1'"
        db.execute(f"UPDATE {table} SET {named}, {made} WHERE plane LIKE 'page/%/shade'")


def as_coverage(data: bytes | None) -> bytes | None:
    """Turn a tile of zeros and ones into one of 0 and 255; what is damaged is left as it is."""
    if data is None:
        return None
    try:
        pixels = np.frombuffer(inflated(data, TILE * TILE), np.uint8)
    except zstandard.ZstdError:
        return data
    return pack_tile(np.where(pixels > 0, 255, 0).astype(np.uint8))


def _keep_branches(db: sqlite3.Connection) -> None:
    """Layout 5: markers lead back over steps that were left by an edit in the past."""
    if "back" not in {row[1] for row in db.execute("PRAGMA table_info(edit)")}:
        db.execute("ALTER TABLE edit ADD COLUMN back INTEGER")


def _keep_cuts(db: sqlite3.Connection) -> None:
    """Layout 6: shapes cut into passes are kept, with what lies under them; an older program would paint them away."""


def _name_holds(db: sqlite3.Connection) -> None:
    """Layout 7: a hold, once a number for the lines of a part, has a name and says where it is."""
    names = {key.split("/")[1]: json.loads(text).get("name", "") for key, text in
             db.execute("SELECT key, json FROM value WHERE key LIKE 'part/%'")}  # fmt: skip
    db.create_function("named", 2, lambda key, text: as_hold(key, text, names), deterministic=True)
    for table, columns in (("value", ("json",)), ("change", ("before", "after"))):
        made = ", ".join(f"{column} = named(key, {column})" for column in columns)
        db.execute(f"UPDATE {table} SET {made} WHERE key LIKE 'page/%/hold/%'")


def as_hold(key: str, text: str | None, names: dict[str, str]) -> str | None:
    """Turn how much darker the lines of a part are into a hold; what is damaged, or one already, is left as it is."""
    part = key.rsplit("/", 1)[-1]
    try:
        old = json.loads(text or "")
    except ValueError:
        return text
    if not isinstance(old, dict) or "amount" not in old or "name" in old or not part.isdecimal():
        return text
    return json.dumps({"name": names.get(part) or f"Part {part}", "scope": {"parts": [int(part)]}, **old})


def _list_wear(db: sqlite3.Connection) -> None:
    """Layout 8: old stock, once a number for every kind of wear, is a list of steps; what was kept new has its own."""
    db.create_function("listed", 1, as_steps, deterministic=True)
    for table, columns in (("value", ("json",)), ("change", ("before", "after"))):
        made = ", ".join(f"{column} = listed({column})" for column in columns)
        db.execute(f"UPDATE {table} SET {made} WHERE key LIKE 'page/%/wear'")
    db.execute("UPDATE edit SET asked = NULL WHERE name IN ('set-wear', 'lay-texture', 'change-texture')")
    for table in ("tile", "edit_tile"):
        named = "plane = substr(plane, 1, length(plane) - 7) || 'worn/0'"
        db.execute(f"UPDATE {table} SET {named} WHERE plane LIKE 'page/%/plate/4'")


def as_steps(text: str | None) -> str | None:
    """Turn numbers for every kind of wear into steps; what is damaged, or a list already, is left as it is."""
    try:
        old = json.loads(text or "")
    except ValueError:
        return text
    if not isinstance(old, dict) or "steps" in old:
        return text
    values = {"screen" if kind == "screen_lpi" else kind: old[kind] for kind in _OLD_WEAR if old.get(kind)}
    steps = [{"kind": kind, "value": value, "number": n} for n, (kind, value) in enumerate(values.items(), 1)]
    strength = old.get("texture", 1.0)
    textures = [{"placed": placed, "strength": strength, "seamless": False} for placed in old.get("textures", [])]
    return json.dumps({"steps": steps, "textures": textures, "seed": old.get("seed", 1)})


_OLD_WEAR = (
    "register", "spread", "screen_lpi", "fade", "mottle", "scratches", "folds", "age", "stains", "grain", "white",
)  # fmt: skip
_STEPS = (_name_engine, _keep_orders, _name_passes, _keep_branches, _keep_cuts, _name_holds, _list_wear)
