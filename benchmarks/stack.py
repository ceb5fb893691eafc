# SPDX-License-Identifier: GPL-3.0-or-later
"""What passes cost: a view of 1600 × 1000 px with eight of them beside the same view with none, in one run.

Run `python benchmarks/stack.py [--dpi N]`. The eight are the tone, four tints, three of them painted soft, one of
these in a mode that treats the channels together, a ramp in overlay and a correction; each is told alone as well.
"""

import argparse
import time
from collections.abc import Callable
from pathlib import Path
from tempfile import TemporaryDirectory

import cv2

from drip_pot.book import verbs
from drip_pot.book.hand import hand_at
from drip_pot.book.values import COVER, PASSES
from drip_pot.core.render import Finish, Ramp, Stop
from drip_pot.demo.build import build_book
from drip_pot.demo.works import WORKS
from drip_pot.files import derive, open_book
from drip_pot.files.delivery.export import prepared

VIEW, TILE, TIMES = (1000, 1600), 256, 7


def least(work: Callable[[], object]) -> float:
    """Return the least time of several."""
    found = []
    for _ in range(TIMES):
        start = time.perf_counter()
        work()
        found.append(time.perf_counter() - start)
    return min(found)


def main() -> None:
    """Build the page, lay the passes one after another, and time the view."""
    asks = argparse.ArgumentParser(description=__doc__)
    asks.add_argument("--dpi", type=float, default=600)
    asked = asks.parse_args()
    cv2.setNumThreads(1)
    with TemporaryDirectory() as folder:
        path = Path(folder) / "kites.drip"
        build_book(path, asked.dpi, works=tuple(w for w in WORKS if w.name == "page-1"), finished=False)
        file, book = open_book(path)
        page = next(iter(book.pages()))
        derived = derive(file, book, page)
        rows, cols = book.pages()[page].rows, book.pages()[page].cols
        for number in list(book.sources(page)[PASSES]):
            plane = book.plane(COVER.key(page, number))
            print(f"pass {number} of the demo has {sum(1 for _ in plane)} tiles")

        def view() -> Callable[[], object]:
            ready = prepared(book, derived, page, traps=False).ready
            top, left = rows // 4, cols // 6

            def draw() -> None:
                for r in range(top, top + VIEW[0], TILE):
                    for c in range(left, left + VIEW[1], TILE):
                        ready.screen(slice(r, min(r + TILE, rows)), slice(c, min(c + TILE, cols)))

            return draw

        bare = book.sources(page)[PASSES][1]
        verbs.set_pass(book, page, 1, type(bare)(shown=False))
        none = least(view())
        print(f"no pass: {none * 1000:.1f} ms")
        verbs.set_pass(book, page, 1, bare)
        print(f"the tone: {least(view()) / none:.2f} ×")

        def hand():
            return hand_at(book, page, derived)

        ramp = Ramp((0.0, 0.0), (float(rows), 0.0), (Stop(0, "#203060"), Stop(1, "#ffd080", 0.3)))
        across = [(rows * (0.2 + 0.05 * k), cols * (0.1 + 0.08 * k), 1.0) for k in range(10)]
        for name, mode, soft, more in (
            ("soft multiply", "multiply", True, {}), ("soft screen", "screen", True, {}),
            ("soft luminosity", "luminosity", True, {}), ("hard multiply", "multiply", False, {}),
            ("ramp overlay", "overlay", False, {"ramp": ramp}), ("normal", "normal", False, {}),
            ("correction", "normal", False, {"finish": Finish(dark=20, chroma=1.2)}),
        ):  # fmt: skip
            number = verbs.add_pass(book, page, name, "#6040a0", mode, 0.6, **more)
            before = least(view())
            if soft:
                verbs.mist_pass(hand(), across, 0.3 * rows, 0.9, 0.8, into=number)
            elif not more:
                verbs.cut_shade(hand(), [(r, c) for r, c, _ in across] + [(rows * 0.9, 10.0)], into=number)
            after = least(view())
            print(f"{name}: {after / none:.2f} × with all before ({(after - before) / none:+.2f} by its paint)")
        file.close()


if __name__ == "__main__":
    main()
