# SPDX-License-Identifier: GPL-3.0-or-later
"""What a book of many pages costs beside a book of one: opening, edits, memory. Run `python benchmarks/book.py`.

Every figure is told as a ratio to the same of a book of one page, in the same run, and in milliseconds for what a
person waits for.
"""

import argparse
import subprocess
import sys
import time
from pathlib import Path
from statistics import median
from tempfile import TemporaryDirectory

import msgspec
import numpy as np

from drip_pot.book import InkState, Page, verbs
from drip_pot.files import new_book, open_book


def make(path: Path, pages: int, pours: int) -> None:
    """Make a book of pages that are poured densely."""
    file, book = new_book(path, "Dense")
    part = verbs.add_part(book, "Part")
    pots = [verbs.add_pot(book, f"Pot {k}", part, f"#{k * 4:02x}80a0") for k in range(60)]
    rng = np.random.default_rng(3)
    for number in range(pages):
        page = verbs.add_page(book, Page(f"Page {number + 1}", 6262, 4125, 600.0, 1), InkState())
        every = rng.integers(0, len(pots), pours)
        for place, pot in enumerate(pots):
            verbs.pour(book, page, (np.flatnonzero(every == place) + 1).tolist(), pot)
    file.close()


def measure(path: Path, edits: int) -> None:
    """Open a book, edit a page in its middle, print the figures as JSON."""
    start = time.perf_counter()
    file, book = open_book(path)
    page = list(book.pages())[len(book.pages()) // 2]
    book.sources(page)
    opened = time.perf_counter() - start
    rng, after, whole = np.random.default_rng(5), [], []
    pots = list(book.pots())
    for _ in range(edits):
        atoms, pot = rng.integers(1, 3000, 4).tolist(), int(rng.choice(pots))
        start = time.perf_counter()
        verbs.pour(book, page, set(atoms), pot)
        done = time.perf_counter()
        book.sources(page)
        after.append(time.perf_counter() - done)
        whole.append(time.perf_counter() - start)
    peak = int(next(s for s in Path("/proc/self/status").read_text().splitlines() if s.startswith("VmRSS")).split()[1])
    file.close()
    told = {"opened": opened, "sources": median(after), "edit": median(whole), "kb": peak}
    print(msgspec.json.encode(told).decode())


def main() -> None:
    """Make both books and compare them, each in a process of its own."""
    asks = argparse.ArgumentParser(description=__doc__)
    asks.add_argument("--pages", type=int, default=100)
    asks.add_argument("--pours", type=int, default=3000)
    asks.add_argument("--edits", type=int, default=200)
    asks.add_argument("--book", type=Path)
    asked = asks.parse_args()
    if asked.book is not None:
        measure(asked.book, asked.edits)
        return
    with TemporaryDirectory() as folder:
        found = []
        for pages in (1, asked.pages):
            path = Path(folder) / f"{pages}.drip"
            make(path, pages, asked.pours)
            command = [sys.executable, __file__, "--book", str(path), "--edits", str(asked.edits)]
            found.append(msgspec.json.decode(subprocess.run(command, capture_output=True, check=True).stdout))
    one, many = found
    print(f"{asked.pages} pages of {asked.pours} pours beside one page")
    for name, what in (("opened", "opening"), ("sources", "sources after an edit"), ("edit", "an edit, whole")):
        print(f"{what:22s} {many[name] * 1000:8.2f} ms   {many[name] / one[name]:5.2f} ×")
    print(f"{'memory':22s} {many['kb'] / 1024:8.0f} MB   {many['kb'] / one['kb']:5.2f} ×")


if __name__ == "__main__":
    main()
