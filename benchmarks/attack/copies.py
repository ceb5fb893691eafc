# SPDX-License-Identifier: GPL-3.0-or-later
"""Copies: book and journal are copied while a child works in them, one after the other, as a backup program would."""

import os
import random
import shutil
import signal
import time
from contextlib import suppress
from pathlib import Path

from attack.kills import check, heard, started
from attack.made import made_book
from drip_pot.core.errors import DripPotError
from drip_pot.files import open_book, rescue


def case(number: int, folder: Path) -> None:
    """Copy once in the middle of work, open the copy, or rescue it; the book itself loses nothing."""
    chance = random.Random(number)
    path, copy = folder / f"c{number}.drip", folder / f"d{number}.drip"
    shutil.copyfile(made_book(folder), path)
    child, hear = started(path, chance)
    time.sleep(chance.uniform(0.02, 0.3))
    parts = ["", "-wal"]
    chance.shuffle(parts)
    for part in parts[: chance.randint(1, 2)] if parts[0] == "" else parts:
        with suppress(FileNotFoundError):
            shutil.copyfile(f"{path}{part}", f"{copy}{part}")
    os.kill(child, signal.SIGKILL)
    os.waitpid(child, 0)
    steps, _ = heard(hear)
    file, book = open_book(path)
    check(book, steps)
    file.close()
    try:
        file, book = open_book(copy)
        check(book, 0)
        file.close()
    except DripPotError:
        saved = rescue(copy, folder / f"e{number}.drip")
        assert saved["value"] > 20, "next to nothing could be rescued"
    for left in folder.glob(f"[cde]{number}.drip*"):
        left.unlink()
