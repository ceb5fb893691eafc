# SPDX-License-Identifier: GPL-3.0-or-later
"""How well gaps are closed on drawings nobody here made: `python benchmarks/gaps/measure.py [choose|judge] [EVERY]`.

Look at *judge* only for figures that are told, never while choosing.
"""

import sys
from concurrent.futures import ProcessPoolExecutor

import cv2
from cases import grid_specs, score, told


def main() -> None:
    """Score a split and print the table."""
    split = sys.argv[1] if len(sys.argv) > 1 else "choose"
    specs = grid_specs(split, int(sys.argv[2]) if len(sys.argv) > 2 else 1)
    with ProcessPoolExecutor(2, initializer=cv2.setNumThreads, initargs=(1,)) as pool:
        told(list(pool.map(score, specs, chunksize=4)))


if __name__ == "__main__":
    main()
