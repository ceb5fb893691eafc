# SPDX-License-Identifier: GPL-3.0-or-later
"""A copy of a book and its journal as they are at one moment, whoever writes in it meanwhile. Knows the journal.

Whoever only reads a book reads such a copy: nothing beside the book is made, renamed, removed or written, and nothing
that its owner does shows half in what is read.
"""

import os
import shutil
import time
from contextlib import suppress
from pathlib import Path
from tempfile import TemporaryDirectory

from drip_pot.core.errors import CannotWrite, Unreadable
from drip_pot.files.journal import is_foreign, journal_of

_TRIES, _COARSE_NS = 20, 50_000_000
_HEAD = 32


def snapshot(path: Path) -> "TemporaryDirectory[str]":
    """Copy a book, with the journal that belongs to it, into a folder of its own that goes with what is returned.

    The copy has the name of the book. A journal grows at its end and is read up to its last whole gesture, so only a
    book whose file itself is written meanwhile is copied again.

    Raises
    ------
    Unreadable
        If the book is missing, or written to without a pause.
    CannotWrite
        If there is no room for a copy.
    """
    folder = TemporaryDirectory(prefix="drip-pot-", dir=_roomy())
    copy = Path(folder.name) / path.name
    try:
        for _ in range(_TRIES):
            before = _face(path)
            if before is not None:
                _copy_both(path, copy)
                if _face(path) == before:
                    if is_foreign(copy):
                        journal_of(copy).unlink()
                    return folder
            time.sleep(_COARSE_NS / 1e9)
        raise Unreadable("{0} is being written to without a pause. Try again in a moment.", path.name)
    except FileNotFoundError as error:
        folder.cleanup()
        raise Unreadable("There is no book {0}.", path) from error
    except OSError as error:
        folder.cleanup()
        raise CannotWrite(
            "There is no copy of {0} to look into: {1} ({2}). Free some space there.",
            path.name, error.strerror or error, folder.name,
        ) from error  # fmt: skip
    except BaseException:
        folder.cleanup()
        raise


def _copy_both(path: Path, copy: Path) -> None:
    shutil.copyfile(path, copy)
    journal_of(copy).unlink(missing_ok=True)
    with suppress(FileNotFoundError):
        shutil.copyfile(journal_of(path), journal_of(copy))


def _face(path: Path) -> tuple[object, ...] | None:
    """Return what changes when a book itself, not only the end of its journal, is written; None just after it was.

    Times of files are coarse: two writes within one tick look like one.
    """
    told = path.stat()
    if time.time_ns() - told.st_mtime_ns < _COARSE_NS and time.time_ns() >= told.st_mtime_ns:
        return None
    try:
        with journal_of(path).open("rb") as journal:
            head = journal.read(_HEAD)
    except FileNotFoundError:
        head = b""
    return told.st_dev, told.st_ino, told.st_size, told.st_mtime_ns, head


def _roomy() -> str | None:
    """Return the folder for large files that need not outlive a start of the machine; None for any."""
    place = "/var/tmp"
    return place if "TMPDIR" not in os.environ and os.access(place, os.W_OK) else None
