# SPDX-License-Identifier: GPL-3.0-or-later
"""What going from page to page costs, and whether memory stays flat: `python benchmarks/pages.py [--dpi N]`.

The demo book is gone through from end to end in the real window, again and again. A page is there when all that is
seen of it is drawn. It is told in milliseconds, as a person waits for it, and in frames, a frame being the time to draw
the same tiles anew; so is going from scheme to scheme.
"""

import argparse
import os
import time
from collections.abc import Callable
from pathlib import Path
from statistics import median
from tempfile import TemporaryDirectory

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from PyQt6.QtCore import QSettings

from drip_pot.book import verbs
from drip_pot.demo.build import build_book
from drip_pot.desk.app import make_app
from drip_pot.desk.window import Window
from soak import megabytes
from tools import Bench


def timed(bench: Bench, work: Callable[[], object]) -> float:
    """Do something and wait until all that is seen is drawn; in milliseconds."""
    start = time.perf_counter()
    work()
    bench.pause()
    bench.drawn()
    return (time.perf_counter() - start) * 1000


def main() -> None:
    """Go through the book and print a line a round."""
    asks = argparse.ArgumentParser(description=__doc__)
    asks.add_argument("--dpi", type=float, default=300)
    asks.add_argument("--rounds", type=int, default=6)
    asked = asks.parse_args()
    app = make_app(["pages"])
    with TemporaryDirectory() as folder:
        path = Path(folder) / "kites.drip"
        build_book(path, asked.dpi)
        window = Window(QSettings(str(Path(folder) / "settings.ini"), QSettings.Format.IniFormat))
        window.resize(1280, 800)
        window.show()
        bench = Bench(window, 3)
        opened = timed(bench, lambda: window.easel.opening.open(path))
        bench.settle()
        book = window.easel.book
        assert book is not None
        pages = list(book.pages())
        print(f"opened in {opened:.0f} ms: {len(pages)} pages at {asked.dpi:g} dpi; {megabytes():.0f} MB")
        for turn in range(asked.rounds):
            took = [timed(bench, lambda page=page: window.easel.show_page(page)) for page in [*pages[1:], pages[0]]]
            print(f"round {turn + 1}: a page in {median(took):.0f} ms, at most {max(took):.0f} ms;"
                  f" {megabytes():.0f} MB", flush=True)  # fmt: skip
        bench.settle()
        drawn = median(timed(bench, bench.canvas.tiles.clear) for _ in range(5))
        schemes = list(book.schemes())
        took = [timed(bench, lambda n=n: window.easel.do(lambda b, _: verbs.use_scheme(b, n))) for n in schemes * 3]
        print(f"a scheme in {median(took):.0f} ms = {median(took) / drawn:.1f} frames of {drawn:.0f} ms")
        window.close()
    del app


if __name__ == "__main__":
    main()
