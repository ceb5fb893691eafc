# SPDX-License-Identifier: GPL-3.0-or-later
"""Dabs of a soft brush at page size: how many a second, whether undo is exact, and what they keep in memory.

Run `python benchmarks/dabs.py [--dpi N]`. Dabs of 400 px are laid into a pass of page 1 for ten seconds, each as a
stroke of its own with its edit in the book; the floor operation is `cv2.blur` of the page's grey.
"""

import argparse
import resource
import time
from pathlib import Path
from tempfile import TemporaryDirectory

import cv2
import numpy as np

from drip_pot.book import verbs
from drip_pot.book.hand import hand_at
from drip_pot.book.values import COVER
from drip_pot.demo.build import build_book
from drip_pot.demo.works import WORKS
from drip_pot.files import derive, open_book

WIDE, SECONDS = 400.0, 10.0


def main() -> None:
    """Build the page and lay dabs."""
    asks = argparse.ArgumentParser(description=__doc__)
    asks.add_argument("--dpi", type=float, default=600)
    asked = asks.parse_args()
    with TemporaryDirectory() as folder:
        path = Path(folder) / "kites.drip"
        build_book(path, asked.dpi, works=tuple(w for w in WORKS if w.name == "page-1"), finished=False)
        file, book = open_book(path)
        page = next(iter(book.pages()))
        derived = derive(file, book, page)
        rows, cols = book.pages()[page].rows, book.pages()[page].cols
        gray = np.zeros((rows, cols), np.uint8)
        start = time.perf_counter()
        cv2.blur(gray, (31, 31))
        floor = time.perf_counter() - start
        number = verbs.add_pass(book, page, "Mist", "#6040a0", "multiply", 0.6)
        name = COVER.key(page, number)
        hand = hand_at(book, page, derived)
        before, steps = book.plane(name).checksum(), book.position
        memory = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
        seeds = np.random.default_rng(7)
        times: list[float] = []
        begun = time.perf_counter()
        while time.perf_counter() - begun < SECONDS:
            at = float(seeds.integers(rows)), float(seeds.integers(cols)), 1.0
            start = time.perf_counter()
            verbs.mist_pass(hand, [at], WIDE, 0.8, 0.6, into=number)
            times.append(time.perf_counter() - start)
        laid = len(times) / SECONDS
        middle = float(np.median(times))
        print(f"{laid:.0f} dabs a second; {middle * 1000:.1f} ms = {middle / floor:.3f} × a blur of the page; worst "
              f"{max(times) * 1000:.1f} ms")  # fmt: skip
        grown = (resource.getrusage(resource.RUSAGE_SELF).ru_maxrss - memory) / 1024
        print(f"{len(times)} dabs: {grown:.0f} MB more; {sum(1 for _ in book.plane(name))} tiles touched")
        start, done = time.perf_counter(), book.position - steps
        while book.position > steps:
            book.undo()
        exact = book.plane(name).checksum() == before
        print(f"undone {done} steps, {(time.perf_counter() - start) / done * 1000:.1f} ms each, exact: {exact}")
        file.close()


if __name__ == "__main__":
    main()
