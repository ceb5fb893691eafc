# SPDX-License-Identifier: GPL-3.0-or-later
"""Who has a book open: a lock on a file of its own beside the book. Knows paths; nothing of what a book holds.

SQLite locks a file by POSIX record locks, which the system drops as soon as the process closes *any* descriptor of that
file; a file dialog that looks into a folder does so. This lock belongs to one open file description (`flock`, or
open-file-description locks where a file system knows none), on a file that nobody else has a reason to open. The lock,
not the file, says that a book is open: a file left behind by a killed program locks nothing.
"""

import contextlib
import errno
import fcntl
import getpass
import json
import os
import socket
import struct
from datetime import datetime
from pathlib import Path

from drip_pot.core.errors import BookLocked

_NO_FLOCK = {errno.ENOLCK, errno.ENOSYS, errno.EOPNOTSUPP, errno.EINVAL}
_TAKEN = {errno.EWOULDBLOCK, errno.EAGAIN, errno.EACCES}
_OFD_SETLK = 37  # of Linux; not in every version of `fcntl`


class BookLock:
    """The lock of a book, held until `release`; made by `take`."""

    def __init__(self, path: Path, handle: int) -> None:
        self._path, self._handle = path, handle

    def release(self) -> None:
        """Give the book free for others; the file goes."""
        if self._handle >= 0:
            with contextlib.suppress(OSError):
                if _is_at(self._handle, self._path):
                    self._path.unlink()
            os.close(self._handle)
            self._handle = -1


def lock_of(book: Path) -> Path:
    """Return the file that is locked while a book is open."""
    return book.with_name(f".{book.name}.lock")


def take(book: Path) -> BookLock:
    """Lock a book for this program.

    Parameters
    ----------
    book : Path
        The book; it need not be there yet, its folder must.

    Raises
    ------
    BookLocked
        If somebody has it open; it says who.
    OSError
        If the folder cannot be written to.
    """
    path = lock_of(book)
    while True:
        handle = os.open(path, os.O_RDWR | os.O_CREAT | os.O_CLOEXEC | os.O_NOFOLLOW, 0o644)
        try:
            locked = _lock(handle)
            if not locked:
                raise _refusal(book, _told(handle))
            if _is_at(handle, path):  # else its last holder took it away meanwhile
                with contextlib.suppress(OSError):  # a full disk: then nobody is named
                    os.truncate(handle, 0)
                    os.pwrite(handle, _me(), 0)
                return BookLock(path, handle)
        except BaseException:
            os.close(handle)
            raise
        os.close(handle)


def _lock(handle: int) -> bool:
    """Lock an open file; False where somebody else has it. A file system without locks is taken at its word."""
    try:
        fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except OSError as error:
        if error.errno in _TAKEN:
            return False
        if error.errno not in _NO_FLOCK:
            raise
    else:
        return True
    whole = struct.pack("hhqqi4x", fcntl.F_WRLCK, os.SEEK_SET, 0, 0, 0)
    try:
        fcntl.fcntl(handle, _OFD_SETLK, whole)
    except OSError as error:
        if error.errno in _TAKEN:
            return False
        if error.errno not in _NO_FLOCK:
            raise
        return not _is_alive(_told(handle))
    return True


def _is_at(handle: int, path: Path) -> bool:
    """Whether an open file is the one that lies at a path."""
    try:
        there = path.stat(follow_symlinks=False)
    except OSError:
        return False
    return os.path.samestat(os.fstat(handle), there)


def _me() -> bytes:
    try:
        user = getpass.getuser()
    except (OSError, KeyError):
        user = ""
    told = {"user": user, "host": socket.gethostname(), "pid": os.getpid(), "since": f"{datetime.now():%Y-%m-%d %H:%M}"}
    return json.dumps(told).encode()


def _told(handle: int) -> dict[str, object]:
    try:
        found = json.loads(os.pread(handle, 4096, 0))
    except (OSError, ValueError, RecursionError):
        return {}
    return found if isinstance(found, dict) else {}


def _refusal(book: Path, told: dict[str, object]) -> BookLocked:
    """Say who holds a lock."""
    host, user, since = (str(told.get(key, ""))[:80] for key in ("host", "user", "since"))
    own = told.get("pid") == os.getpid() and host == socket.gethostname()
    if own or not host:
        return BookLocked("{0} is open in another window. Close it there first.", book.name)
    return BookLocked(
        "{0} is open in another window: of {1} on {2}, process {3}, since {4}. Close it there first.",
        book.name, user or "?", host, str(told.get("pid"))[:12], since,
    )  # fmt: skip


def _is_alive(told: dict[str, object]) -> bool:
    """Whether who is named still runs, as far as this computer can tell; strangers are believed."""
    pid = told.get("pid")
    if not isinstance(pid, int) or pid <= 1:
        return False
    if told.get("host") != socket.gethostname():
        return True
    try:
        os.kill(pid, 0)
    except ProcessLookupError:
        return False
    except PermissionError:
        return True
    return pid != os.getpid()
