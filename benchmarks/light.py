# SPDX-License-Identifier: GPL-3.0-or-later
"""What lamps, kept cuts and the press cost, in units of one run: F and `cv2.cvtColor` of the page.

Run `python benchmarks/light.py [--dpi N] [--finished] [--press]`. F is what labelling the page's line, a distance
transform of it and one that tells the nearest pixel take together. With `--finished` page one is as the demo book has
it, with soft passes over it.
"""

import argparse
import resource
import time
from collections.abc import Callable
from pathlib import Path
from tempfile import TemporaryDirectory

import cv2
import msgspec
import numpy as np

from drip_pot.book import verbs
from drip_pot.book.derive import stride
from drip_pot.book.hand import hand_at
from drip_pot.book.lamps import staged, suggestions
from drip_pot.book.values import LAMPS, SHADE_CUTS, Lamp
from drip_pot.core.press import Traps
from drip_pot.core.strips import each_strip
from drip_pot.demo.build import build_book
from drip_pot.demo.works import WORKS
from drip_pot.files import derive, open_book
from drip_pot.files.delivery.export import export_page, prepared
from drip_pot.files.delivery.pdf import write_pdf


def timed(work: Callable[[], object]) -> float:
    """Return how long something takes."""
    start = time.perf_counter()
    work()
    return time.perf_counter() - start


def main() -> None:
    """Build the page and time one thing after another."""
    asks = argparse.ArgumentParser(description=__doc__)
    asks.add_argument("--dpi", type=float, default=600)
    asks.add_argument("--finished", action="store_true")
    asks.add_argument("--press", action="store_true", help="the press alone, no lamps")
    asked = asks.parse_args()
    with TemporaryDirectory() as folder:
        path = Path(folder) / "kites.drip"
        build_book(path, asked.dpi, works=tuple(w for w in WORKS if w.name == "page-1"), finished=asked.finished)
        file, kept = open_book(path)
        book = kept.still()
        page = next(iter(book.pages()))
        derived = derive(file, book, page)
        hand = hand_at(book, page, derived)
        rows, cols = hand.shape
        assert hand.panels
        line = (hand.ink < 128).view(np.uint8)

        def floor() -> None:
            cv2.connectedComponents(line, connectivity=4)
            cv2.distanceTransform(line, cv2.DIST_L2, 5)
            cv2.distanceTransformWithLabels(line, cv2.DIST_L2, 5, labelType=cv2.DIST_LABEL_PIXEL)

        unit = min(timed(floor) for _ in range(5))
        picture = np.full((rows, cols, 3), 77, np.uint8)
        convert = min(timed(lambda: cv2.cvtColor(picture, cv2.COLOR_RGB2LAB)) for _ in range(5))
        print(f"page of {rows} × {cols}; F {unit:.3f} s, cvtColor {convert:.3f} s")

        def tell(name: str, work: Callable[[], object]) -> None:
            took = timed(work)
            print(f"{name}: {took / unit:.1f} F, {took / convert:.1f} × cvtColor")

        if not asked.press:
            verbs.set_lamp(book, page, Lamp(0.06 * rows, 0.8 * cols))
            tell("page prepared for lamps", lambda: staged(hand))
            tell("suggestions, as on every move of a lamp", lambda: suggestions(staged(hand), hand.sources[LAMPS]))
            tell("cuts suggested and laid", lambda: verbs.suggest_cuts(hand))
            numbers = sorted(hand.sources[SHADE_CUTS])
            one = hand.sources[SHADE_CUTS][numbers[len(numbers) // 2]]
            moved = msgspec.structs.replace(one, knots=tuple((r + 9, c, smooth) for r, c, smooth in one.knots))
            tell(f"one of {len(numbers)} cuts pulled", lambda: verbs.set_cut(hand, numbers[len(numbers) // 2], moved))
            tell("all kept", lambda: verbs.keep_cuts(hand, set(hand.sources[SHADE_CUTS])))
        made = prepared(book, derived, page, traps=False)
        press, tables = derived.press, made.ready.tables
        region = hand.partition.region
        found: list[Traps] = []
        work = lambda: press.traps(hand.sources, made.ready.composing(), 0, region)  # noqa: E731
        tell("traps", lambda: found.append(work()))
        (traps,) = found
        tell("separation", lambda: list(each_strip(lambda strip: made.plates(strip.rows), rows, height=256)))
        thin = made.ready.trapped_by(traps).thinned(stride(hand.sources))

        def separated(cut: slice, tried: object) -> object:
            return thin.plates_each(tried, cut)

        tell("register test", lambda: press.register(hand.sources, separated, tables.plates, traps))
        made = prepared(book, derived, page, traps=True)
        tell("PDF", lambda: write_pdf(Path(folder) / "page.pdf", made))
        several = ("plates", "separations", "pdf")
        tell("CMYK TIFF, plates and PDF", lambda: export_page(book, derived, page, Path(folder), kinds=several))
        print(f"most memory: {resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024:.0f} MB")
        file.close()


if __name__ == "__main__":
    main()
