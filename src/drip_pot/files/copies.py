# SPDX-License-Identifier: GPL-3.0-or-later
"""Copies of books, one a day, kept apart from them. Knows open books; nothing of what is in them."""

import hashlib
import sqlite3
from contextlib import closing, suppress
from datetime import date
from pathlib import Path

from drip_pot.core.errors import CannotWrite
from drip_pot.files.book_file import BookFile
from drip_pot.files.outputs import in_place
from drip_pot.words import tr

KEPT = 3


def keep_copy(file: BookFile, folder: Path, today: date) -> Path | None:
    """Copy a book into a folder, unless it was today already; the last three of every book are kept.

    Parameters
    ----------
    file : BookFile
        The book; it may be worked in meanwhile.
    folder : Path
        Made if it is not there.
    today : date
        The day the copy is named after.

    Returns
    -------
    Path or None
        The copy; None if there was one of today.

    Raises
    ------
    CannotWrite
        If the disk is full, or the folder cannot be written to.
    """
    book = file.path
    mark = hashlib.sha256(str(book.resolve()).encode("utf-8", "surrogateescape")).hexdigest()[:8]
    target = folder / f"{book.stem}-{mark}-{today.isoformat()}.drip"
    if target.exists():
        return None
    try:
        folder.mkdir(parents=True, exist_ok=True)
        with in_place(target) as work, closing(sqlite3.connect(work)) as copy:
            file.copy_into(copy)
    except (OSError, sqlite3.Error) as error:
        told = tr("No copy of {0} could be kept in {1}: {2}. The book itself is safe.", book.name, folder, error)
        raise CannotWrite(told) from error
    for old in sorted(folder.glob(f"{book.stem}-{mark}-*.drip"))[:-KEPT]:
        with suppress(OSError):
            old.unlink()
    return target
