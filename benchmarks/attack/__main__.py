# SPDX-License-Identifier: GPL-3.0-or-later
"""Run one kind of attack and tell how its cases ended: `cd benchmarks && python -m attack pictures --cases 5000`."""

import argparse
import importlib
import time
from collections import Counter
from functools import partial
from pathlib import Path
from tempfile import TemporaryDirectory

import cv2

from attack.bounded import bounded
from attack.made import made_book

KINDS = ("kills", "copies", "books", "pictures", "palettes", "commands", "drawings", "orders")


def main() -> None:
    """Run the cases from a first number on; what went wrong is printed with its number, to be run again alone."""
    asks = argparse.ArgumentParser(description=__doc__)
    asks.add_argument("kind", choices=KINDS)
    asks.add_argument("--cases", type=int, default=100)
    asks.add_argument("--first", type=int, default=1)
    asked = asks.parse_args()
    cv2.setNumThreads(1)
    case = importlib.import_module(f"attack.{asked.kind}").case
    ends: Counter[str] = Counter()
    worst_s, worst_mb = 0.0, 0
    with TemporaryDirectory() as name:
        folder = Path(name)
        made_book(folder)
        for number in range(asked.first, asked.first + asked.cases):
            start = time.perf_counter()
            told = bounded(partial(case, number, folder), folder / "said.txt")
            worst_s = max(worst_s, time.perf_counter() - start)
            worst_mb = max(worst_mb, told.megabytes)
            ends[told.end] += 1
            if told.end not in ("ok", "refused"):
                print(f"{asked.kind} {number}: {told.end}, {told.megabytes} MB\n{told.said[-1500:]}", flush=True)
    print(f"{asked.kind}: {dict(ends)}; slowest {worst_s:.1f} s, largest {worst_mb} MB")


if __name__ == "__main__":
    main()
