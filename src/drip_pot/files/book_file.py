"""The book file: one SQLite database, described in docs/book-file.md. Knows the book's values, tiles and edits.

An edit is written in one transaction together with the values and tiles it changes, so a file is never between
two gestures.
"""

import hashlib
import os
import shutil
import sqlite3
import threading
from collections.abc import Callable, Iterator
from contextlib import contextmanager, suppress
from pathlib import Path
from tempfile import TemporaryDirectory

import msgspec

from drip_pot.book import FIRST_ENGINE, Book, Change, Edit, Step, TileChange
from drip_pot.core.errors import BookLocked, CannotWrite, DripPotError, Unreadable
from drip_pot.files.journal import bring_home, is_foreign, is_in_use, journal_of, set_aside
from drip_pot.files.layout import VERSION, as_coverage, is_newer, make_tables, migrate
from drip_pot.files.meshes import Meshes
from drip_pot.files.placed import PlacedPictures
from drip_pot.files.pruning import drop_originals, prune, renumber

_CHUNK, _DERIVED = 8 << 20, 96 << 20
_OPEN: set[tuple[int, int] | None] = set()
"""Which files this process has open for writing."""


_JSON, _KEYED = "CAST(coalesce(json, '') AS TEXT)", "typeof(key) = 'text'"
"""A cell may hold anything; a value that is no text is read as text that is no value, and told as damaged."""


class BookFile:
    """An open book file: the store of a `Book`, the cache of what is derived, and the originals.

    Use `open_book`. `read_only` says why nothing can be written, or is empty. `moved` is called with a sentence when
    the file was renamed, removed or replaced from outside and work goes on in a new one; `path` is where the book is.
    """

    def __init__(
        self,
        path: Path,
        db: sqlite3.Connection,
        read_only: str = "",
        copy: "TemporaryDirectory[str] | None" = None,
    ) -> None:
        self.path = path
        self.read_only = read_only
        self.moved: Callable[[str], None] = lambda sentence: None
        self._db = db
        self._lock = threading.RLock()
        self._copy = copy
        self._stamp: tuple[int, int] | None = None
        self._holders = 0
        self._closing = False
        self.layout = VERSION

    def begin(self) -> None:
        """Remember which file it is, from now on that of this process alone."""
        self._stamp = _stamp(self.path)
        _OPEN.add(self._stamp)

    @property
    def connection(self) -> sqlite3.Connection:
        """The connection, for what reads or repairs the file as a whole."""
        return self._db

    def settle(self) -> None:
        """Bring the journal home, so that a copy of the file alone is the whole book; for when nothing else is done.

        A disk that is full is no reason to complain: nothing is lost, and the next time may go well.
        """
        if self.read_only or self._stamp is None:
            return
        with self._lock, suppress(sqlite3.Error):
            if not self._db.in_transaction:
                bring_home(self._db)

    def copy_into(self, copy: sqlite3.Connection) -> None:
        """Copy the book into another database, a few pages at a time, so that work in it goes on meanwhile."""
        release = self.hold()
        try:
            self._db.backup(copy, pages=256)
            copy.execute("PRAGMA journal_mode = DELETE")
        finally:
            release()

    def _follow(self) -> None:
        """Go on in a new file where the present one is no longer the one that was opened."""
        if _stamp(self.path) == self._stamp:
            return
        old, number = self.path, 2
        while (place := old.with_name(f"{old.stem}-{number}.drip")).exists() or journal_of(place).exists():
            number += 1
        fresh = _connect(place, read_only=False)
        try:
            self._db.backup(fresh)
            _lock(fresh)
            bring_home(fresh)
            with suppress(sqlite3.Error):
                bring_home(self._db)  # the file that was moved away is whole too
        except BaseException:
            fresh.close()
            place.unlink(missing_ok=True)
            raise
        self._db.close()
        _OPEN.discard(self._stamp)
        self._db, self.path, self._stamp = fresh, place, _stamp(place)
        _OPEN.add(self._stamp)
        self.moved(f"{old.name} was renamed, removed or replaced while it was open. Nothing is lost: work goes on in "
                   f"{place}.")  # fmt: skip

    def hold(self) -> Callable[[], None]:
        """Keep the file open, whoever closes it, until what is returned is called."""
        with self._lock:
            self._holders += 1
        return self._release

    def _release(self) -> None:
        with self._lock:
            self._holders -= 1
            last = self._closing and not self._holders
        if last:
            self.close()

    def close(self) -> None:
        """Let go of the file; where somebody holds it, once they release it."""
        with self._lock:
            self._closing = True
            if self._holders:
                return
            self.settle()
            self._db.close()
            _OPEN.discard(self._stamp)
        if self._copy is not None:
            self._copy.cleanup()

    @contextmanager
    def transaction(self) -> Iterator[None]:
        """Put all that is written meanwhile on disk together, or, when something is raised, nothing of it."""
        with self._writing():
            yield

    @contextmanager
    def _writing(self) -> Iterator[sqlite3.Connection]:
        if self.read_only:
            raise CannotWrite(self.read_only)
        with self._reading() as db:
            if db.in_transaction:  # part of a gesture that is written as a whole
                yield db
                return
            self._follow()
            db = self._db
            db.execute("BEGIN IMMEDIATE")
            try:
                yield db
                db.execute("COMMIT")
            except BaseException:
                if db.in_transaction:
                    db.execute("ROLLBACK")
                raise

    @contextmanager
    def _reading(self) -> Iterator[sqlite3.Connection]:
        """Use the connection, one thread at a time; errors become sentences."""
        with self._lock:
            try:
                yield self._db
            except sqlite3.Error as error:
                raise _explained(error, self.path) from error

    # Store

    def append(self, number: int, edit: Edit) -> None:
        """Forget edits from `number` on, then apply `edit` and keep it as that number."""
        with self._writing() as db:
            db.execute("DELETE FROM edit WHERE number >= ?", (number,))
            db.execute(
                "INSERT INTO edit VALUES (?, ?, ?, ?, ?, ?)",
                (number, edit.name, edit.title, edit.joined, edit.asked, edit.back),
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
                "name": row[0], "title": row[1], "joined": bool(row[2]), "asked": row[3],
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
        """Keep derived bytes; the newest stay, up to 96 MB. Where they cannot be written they are simply not kept."""
        if self.read_only:
            return
        with suppress(CannotWrite), self._writing() as db:
            db.execute("INSERT OR REPLACE INTO derived VALUES (?, ?)", (key, data))
            db.execute(
                "DELETE FROM derived WHERE rowid IN (SELECT rowid FROM (SELECT rowid, sum(length(data)) OVER"
                " (ORDER BY rowid DESC) AS held FROM derived WHERE key NOT LIKE 'kept/%') WHERE held > ?)",
                (_DERIVED,),
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


def open_book(path: Path, *, create: bool = False) -> tuple[BookFile, Book]:
    """Open a book file, or make a new one.

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
    if not create and _stamp(path) in _OPEN:
        raise BookLocked("{0} is open in another window. Close it there first.", path.name)
    if not why and (journal_of(path).exists() if create else not is_in_use(path) and is_foreign(path)):
        set_aside(path)
    try:
        copy = _with_journal(path) if why else None
        db = _connect(path if copy is None else Path(copy.name) / path.name, read_only=bool(why) and copy is None)
        file = BookFile(path, db, why, copy)
        try:
            if create:
                _lock(db)
                make_tables(db)
                bring_home(db)
            else:
                newer = is_newer(db, path)
                if newer and not why:
                    db.close()
                    why = f"{path.name} was made by a newer Drip Pot; it is open for looking only."
                    file = BookFile(path, _connect(path, read_only=True), why)
                elif not why:
                    _lock(db)
                    migrate(db)
                    prune(db)
                    bring_home(db)
            book = read_book(file)
            book.pictures, book.meshes = PlacedPictures(file.original), Meshes(file.original)
            if not why:
                file.begin()
            return file, book
        except BaseException:
            file._db.close()
            if create:
                for left in (path, journal_of(path), path.with_name(path.name + "-shm")):
                    left.unlink(missing_ok=True)
            file.close()
            raise
    except sqlite3.Error as error:
        raise _explained(error, path) from error
    except (UnicodeDecodeError, OverflowError) as error:  # from words and numbers of SQLite itself
        raise Unreadable("{0} is damaged. Try: drip-pot rescue {0}", path.name) from error


def _why_read_only(path: Path) -> str:
    if not os.access(path, os.W_OK):
        return f"{path.name} is write-protected; it is open for looking only. Copy it to change it."
    if not os.access(path.parent, os.W_OK):
        return f"The folder of {path.name} is write-protected; it is open for looking only. Copy it to change it."
    return ""


def _with_journal(path: Path) -> "TemporaryDirectory[str] | None":
    """Copy a write-protected book whose last steps are still in its journal to where they can be read.

    A window that was killed leaves its last finished gestures in the file beside the book.
    """
    journal = journal_of(path)
    if not journal.is_file() or journal.stat().st_size == 0 or is_foreign(path):
        return None
    copy = TemporaryDirectory(prefix="drip-pot-")
    for part in (path, journal):
        shutil.copyfile(part, Path(copy.name) / part.name)
    return copy


def _connect(path: Path, *, read_only: bool) -> sqlite3.Connection:
    mode = "?mode=ro&immutable=1" if read_only else "?mode=rwc"
    db = sqlite3.connect(
        path.absolute().as_uri() + mode, uri=True, isolation_level=None, timeout=0.5, check_same_thread=False
    )
    db.text_factory = lambda data: data.decode("utf-8", "replace")
    db.execute("PRAGMA trusted_schema = OFF")
    db.execute("PRAGMA foreign_keys = ON")
    if not read_only:
        db.execute("PRAGMA locking_mode = EXCLUSIVE")
        db.execute("PRAGMA synchronous = FULL")
    return db


def _lock(db: sqlite3.Connection) -> None:
    db.execute("PRAGMA journal_mode = WAL")
    db.execute("BEGIN IMMEDIATE")
    db.execute("COMMIT")


def _stamp(path: Path) -> tuple[int, int] | None:
    """Which file lies at a path; None where there is none."""
    try:
        found = path.stat()
    except OSError:
        return None
    return found.st_dev, found.st_ino


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


def _explained(error: sqlite3.Error, path: Path) -> DripPotError:
    code = getattr(error, "sqlite_errorcode", 0) & 0xFF
    if code in (sqlite3.SQLITE_BUSY, sqlite3.SQLITE_LOCKED):
        return BookLocked("{0} is open in another window. Close it there first.", path.name)
    if code == sqlite3.SQLITE_FULL:
        return CannotWrite(
            "The disk is full; the last change was not kept. Free some space near {0} and do it again.", path
        )
    if code in (sqlite3.SQLITE_READONLY, sqlite3.SQLITE_CANTOPEN, sqlite3.SQLITE_PERM, sqlite3.SQLITE_IOERR):
        return CannotWrite("{0} cannot be written. Check the disk and the folder's permissions.", path)
    if code == sqlite3.SQLITE_NOTADB:
        return Unreadable("{0} is not a Drip Pot book.", path.name)
    return Unreadable("{0} is damaged. Rescue what can be read with: drip-pot rescue '{0}'", path.name)
