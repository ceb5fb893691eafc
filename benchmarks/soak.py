# SPDX-License-Identifier: GPL-3.0-or-later
"""Hours at the desk in minutes: mixed gestures on and on, memory and undo watched.

Run `python benchmarks/soak.py [--minutes N] [--dpi N]`. At the end everything is undone, and the book must be what it
was, bit for bit.
"""

import argparse
import os
import time
from pathlib import Path
from tempfile import TemporaryDirectory

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from PyQt6.QtCore import QSettings
from PyQt6.QtTest import QTest

from drip_pot.demo.build import build_book
from drip_pot.demo.works import WORKS
from drip_pot.desk.app import make_app
from drip_pot.desk.window import Window
from eventloop import gestures
from tools import Bench


def megabytes() -> float:
    """Return the memory that the process holds now."""
    pages = int(Path("/proc/self/statm").read_text().split()[1])
    return pages * os.sysconf("SC_PAGE_SIZE") / (1 << 20)


def main() -> None:
    """Work until the time is up."""
    asks = argparse.ArgumentParser(description=__doc__)
    asks.add_argument("--minutes", type=float, default=30)
    asks.add_argument("--dpi", type=float, default=150)
    asked = asks.parse_args()
    app = make_app(["soak"])
    with TemporaryDirectory() as folder:
        path = Path(folder) / "kites.drip"
        build_book(
            path, asked.dpi, works=tuple(w for w in WORKS if w.name in ("page-1", "page-2", "page-3")), finished=False
        )
        window = Window(QSettings(str(Path(folder) / "settings.ini"), QSettings.Format.IniFormat))
        window.resize(1280, 800)
        window.show()
        bench = Bench(window, 11)
        window.easel.opening.open(path)
        bench.settle()
        book = window.easel.book
        assert book is not None
        before, start = (book.values(), book.tiles()), book.position
        every = gestures(bench, Path(folder))
        every.pop("Export")
        names, count, told, begun = list(every), 0, [], time.monotonic()
        while time.monotonic() - begun < asked.minutes * 60:
            view = window.easel.view
            if view is not None and view.flat is not None and not window.easel.deriving.is_behind():
                window.easel.choose_pot(int(bench.rng.choice(list(book.pots()))))
                every[str(bench.rng.choice(names))]()
                count += 1
            QTest.qWait(int(bench.rng.integers(10, 120)))
            if count % 500 == 499:
                bench.settle()
                told.append(megabytes())
                print(f"{count} gestures, {len(book.history)} steps, {told[-1]:.0f} MB", flush=True)
                count += 1
        bench.settle()
        book.go_to(start)
        exact = (book.values(), book.tiles()) == before
        settled = told[len(told) // 3 :]
        print(f"{count} gestures; undo {'bit-exact' if exact else 'NOT exact'}; memory {min(settled):.0f} to "
              f"{max(settled):.0f} MB after the first third")  # fmt: skip
        window.close()
    del app


if __name__ == "__main__":
    main()
