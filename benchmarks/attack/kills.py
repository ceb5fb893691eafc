# SPDX-License-Identifier: GPL-3.0-or-later
"""Kills: a child works and says each gesture that is finished; it is killed at any moment; nothing said may be lost."""

import os
import random
import shutil
import signal
import time
from itertools import count
from pathlib import Path

import numpy as np

from attack.made import made_book
from drip_pot.book import Book, verbs
from drip_pot.files import open_book


def work(path: Path, chance: random.Random, say: int) -> None:
    """Work for ever, saying how many steps there are after each gesture."""
    _, book = open_book(path)
    mask = np.ones((90, 90), bool)
    for number in count(1):
        act = chance.randrange(8)
        if act < 4:
            verbs.pour(book, 1, range(number % 900, number % 900 + 40), 1 + number % 9)
        elif act < 6:
            top = number * 7 % 100
            verbs.shade_mask(book, 1, (top, top, top + 90, top + 90), mask, mask, light=number % 2 == 0)
        elif act == 6:
            book.undo()
        else:
            with book.as_one():
                verbs.pour(book, 1, range(30), 2)
                verbs.pour(book, 1, range(30, 60), 3)
        os.write(say, f"{len(book.history)} {book.position}\n".encode())


def started(path: Path, chance: random.Random) -> tuple[int, int]:
    """Start a child at work; return its number and where to hear it."""
    hear, say = os.pipe()
    child = os.fork()
    if child == 0:
        os.close(hear)
        try:
            work(path, chance, say)
        finally:
            os._exit(1)
    os.close(say)
    return child, hear


def heard(hear: int) -> tuple[int, int]:
    """Return the last whole thing said, after the child is gone."""
    said = b""
    while piece := os.read(hear, 1 << 16):
        said += piece
    os.close(hear)
    lines = said.decode().rsplit("\n", 1)[0].splitlines()
    steps, position = lines[-1].split() if lines else ("0", "0")
    return int(steps), int(position)


def check(book: Book, steps: int) -> None:
    """Check that nothing said is lost, and that undo and redo are exact."""
    assert len(book.history) >= steps, f"{steps} steps were said, {len(book.history)} are there"
    reached = book.values(), book.tiles()
    back = 0
    while back < 5 and book.undo():
        back += 1
    for _ in range(back):
        book.redo()
    assert (book.values(), book.tiles()) == reached, "undo and redo lead elsewhere"


def case(number: int, folder: Path) -> None:
    """Kill once, and open what is left."""
    chance = random.Random(number)
    path = folder / f"k{number}.drip"
    shutil.copyfile(made_book(folder), path)
    child, hear = started(path, chance)
    time.sleep(chance.uniform(0.02, 0.4))
    os.kill(child, signal.SIGKILL)
    os.waitpid(child, 0)
    steps, _ = heard(hear)
    file, book = open_book(path)
    check(book, steps)
    file.close()
    for left in folder.glob(f"k{number}.drip*"):
        left.unlink()
