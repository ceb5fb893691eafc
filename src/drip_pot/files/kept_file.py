# SPDX-License-Identifier: GPL-3.0-or-later
"""An open database that stays whole, whatever happens to its file from outside. Knows SQLite, locks and shelters.

An edit is written in one transaction, so a file is never between two gestures. Where the file was renamed, removed or
written over, work goes on in a new one beside it.
"""

import os
import shutil
import sqlite3
import threading
from collections.abc import Callable, Iterator
from contextlib import contextmanager, suppress
from pathlib import Path
from tempfile import TemporaryDirectory

from drip_pot.core.errors import BookLocked, CannotWrite, DripPotError, Unreadable
from drip_pot.files.base import Base
from drip_pot.files.journal import bring_home, journal_of, mark_anew, touch_mark
from drip_pot.files.lock import take
from drip_pot.files.shelter import Shelter, beside, shelter
from drip_pot.words import tr

_LONG_JOURNAL = 64 << 20


class KeptFile:
    """An open file of one database.

    `read_only` says why nothing can be written, or is empty. `moved` is called with a sentence when the file was
    renamed, removed, replaced or written over from outside and work goes on in a new one; `path` is where it is.
    `notes` are sentences on what was found when it was opened.
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
        self.notes: list[str] = []
        self._db = db
        self._lock = threading.RLock()
        self._copy = copy
        self._base: Base | None = None
        self._shelter: Shelter | None = None
        self._home = 0
        self._lost = ""
        self._holders = 0
        self._closing = False

    def begin(self, base: Base) -> None:
        """Let the book be worked in from now on, in a file that is this program's alone."""
        self._base = base
        self._bring_home()

    @property
    def connection(self) -> sqlite3.Connection:
        """The connection, for what reads or repairs the file as a whole."""
        return self._db

    def settle(self) -> None:
        """Bring the journal home, so that a copy of the file alone is the whole book; for when nothing else is done.

        A disk that is full is no reason to complain: nothing is lost, and the next time may go well.
        """
        with self._lock:
            if not self._closing:
                self._settle()

    def _settle(self) -> None:
        if self.read_only or self._base is None or self._db.in_transaction:
            return
        with suppress(sqlite3.Error, DripPotError):
            self._follow()
            self._bring_home()

    def shelter(self) -> None:
        """Keep a copy of the file in case that something writes over it; takes as long as copying does.

        Where there is no room for one there is none.
        """
        while (home := self._sheltered(None, -1)) is not None:
            base, release = self._base, self.hold()
            assert base is not None
            try:
                kept = shelter(base.path, base.handle)
            except OSError:
                return
            finally:
                release()
            if self._sheltered(kept, home) == home:
                return
            kept.drop()

    def _sheltered(self, kept: Shelter | None, home: int) -> int | None:
        """Take a copy of the file, if it is still that; return how often the file was written, None if it is closed."""
        with self._lock:
            if self._base is None or self._closing:
                return None
            if kept is not None and home == self._home and not self._base.is_spoiled():
                self._shelter = kept
            return self._home

    def copy_into(self, copy: sqlite3.Connection) -> None:
        """Copy the book into another database, a few pages at a time, so that work in it goes on meanwhile."""
        release = self.hold()
        try:
            self._db.backup(copy, pages=256)
            copy.execute("PRAGMA journal_mode = DELETE")
        finally:
            release()

    def _bring_home(self) -> None:
        """Put what is in the journal into the file, and into its shelter."""
        assert self._base is not None
        mark = mark_anew(self._db)
        if self._shelter is not None:
            try:
                self._shelter.follow(journal_of(self.path))
            except (OSError, sqlite3.Error):
                self._shelter.drop()
                self._shelter = None
        self._home += 1
        try:
            bring_home(self._db)
        finally:
            self._base.written(mark)

    def _follow(self) -> None:
        """Go on in a new file where the present one is no longer the one that was opened."""
        if self._base is None:
            return
        if self._base.is_away():
            self._leave(self._from_away, "{0} was renamed, removed or replaced while it was open. Nothing is lost: "
                        "work goes on in {1}.")  # fmt: skip
        elif self._base.is_spoiled():
            if self._shelter is None:
                self._give_up()
            self._leave(self._from_shelter, "{0} was written over from outside while it was open. Nothing is lost: "
                        "work goes on in {1}.")  # fmt: skip

    def _leave(self, make: Callable[[Path], None], sentence: str) -> None:
        """Go on in a new file beside the present one, which `make` makes."""
        assert self._base is not None
        old, place = self.path, beside(self.path)
        lock = take(place)
        try:
            make(place)
            fresh = connect(place, read_only=False)
            hold_alone(fresh)
        except BaseException:
            place.unlink(missing_ok=True)
            journal_of(place).unlink(missing_ok=True)
            lock.release()
            raise
        self._abandon()
        self._base.close()
        self._db, self.path, self._base = fresh, place, Base(place, lock)
        self._bring_home()
        self.moved(tr(sentence, old.name, place))

    def _from_away(self, place: Path) -> None:
        """Make a file of what lies elsewhere now; that one is left whole, too."""
        fresh = connect(place, read_only=False)
        try:
            self._db.backup(fresh)
        finally:
            fresh.close()
        if self._shelter is not None:
            self._shelter.drop()
            self._shelter = None
        with suppress(sqlite3.Error):
            bring_home(self._db)

    def _from_shelter(self, place: Path) -> None:
        """Make a file of the shelter and the journal; what was written over the book is not touched."""
        assert self._shelter is not None
        self._shelter.follow(journal_of(self.path))
        shutil.copyfile(self._shelter.path, place)

    def _give_up(self) -> None:
        """Write nothing any more, since half of what was to be kept is gone; the journal is kept as it is."""
        kept = self.path.with_name(f"{self.path.name}-other-1")
        with suppress(OSError):
            shutil.copyfile(journal_of(self.path), kept)
        self.read_only = self._lost = tr(
            "{0} was written over from outside while it was open, before a copy of it was made; the last changes "
            "cannot be kept. Open it again.",
            self.path.name,
        )
        self._abandon()
        raise CannotWrite(self._lost)

    def _abandon(self) -> None:
        """Let go of the connection without a trace: SQLite would bring the journal home into what lies there now."""
        spoiled = self._base is not None and not self._base.is_away()
        if spoiled:
            with suppress(OSError):
                os.truncate(journal_of(self.path), 0)  # nothing can be brought home from it then
        with suppress(sqlite3.Error):
            self._db.close()
        if spoiled:
            with suppress(OSError):
                journal_of(self.path).unlink()

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
            if self._base is None:
                self._db.close()
            else:
                self._close_base()
        if self._copy is not None:
            self._copy.cleanup()

    def _close_base(self) -> None:
        assert self._base is not None
        self._settle()
        if self._base.is_away() or not self._base.is_spoiled():
            self._db.close()
        else:
            self._abandon()
        if self._shelter is not None:
            self._shelter.drop()
            self._shelter = None
        self._base.close()
        self._base = None

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
            db.execute("BEGIN IMMEDIATE")
            try:
                yield db
                touch_mark(db)
                db.execute("COMMIT")
            except BaseException:
                if self._db.in_transaction:
                    db.execute("ROLLBACK")
                raise
            if journal_of(self.path).stat().st_size > _LONG_JOURNAL:
                self.settle()

    @contextmanager
    def _reading(self) -> Iterator[sqlite3.Connection]:
        """Use the connection, one thread at a time; errors become sentences."""
        with self._lock:
            if self._lost:
                raise CannotWrite(self._lost)
            try:
                if not self._db.in_transaction:
                    self._follow()
                yield self._db
            except sqlite3.Error as error:
                raise explained(error, self.path) from error
            except OSError as error:
                raise CannotWrite("{0} cannot be written: {1}.", self.path, error.strerror or error) from error


def connect(path: Path, *, read_only: bool) -> sqlite3.Connection:
    """Connect to a book file; raises `sqlite3.Error`."""
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
        db.execute("PRAGMA wal_autocheckpoint = 0")  # the file is written when it is looked after, see `Base`
    return db


def hold_alone(db: sqlite3.Connection) -> None:
    """Let SQLite hold a book for this connection alone; raises `sqlite3.Error`."""
    db.execute("PRAGMA journal_mode = WAL")
    db.execute("BEGIN IMMEDIATE")
    db.execute("COMMIT")


def explained(error: sqlite3.Error, path: Path) -> DripPotError:
    """Say what an error of SQLite means."""
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
