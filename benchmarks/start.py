# SPDX-License-Identifier: GPL-3.0-or-later
"""How long the program takes to its window, and a book to its first pixels: `python benchmarks/start.py [--dpi N]`.

Every start is a process of its own, from the moment it is asked for; the first one, which reads everything from disk,
is told apart.
"""

import argparse
import os
import subprocess
import sys
import time
from pathlib import Path
from statistics import median
from tempfile import TemporaryDirectory

_CHILD = """
import sys, time
from pathlib import Path
from PyQt6.QtCore import QSettings
from PyQt6.QtTest import QTest
from drip_pot.desk.app import make_app
from drip_pot.desk.window import Window
asked, settings, book = float(sys.argv[1]), sys.argv[2], sys.argv[3:]
app = make_app(["start"])
window = Window(QSettings(settings, QSettings.Format.IniFormat))
window.resize(1280, 800)
window.show()
QTest.qWaitForWindowExposed(window)
window.repaint()
print(f"window {time.time() - asked:.3f}")
begun = time.time()
if book:
    window.easel.opening.open(Path(book[0]))
    last = window.canvas.last
    while last.picture is None and (window.easel.view is None or not window.canvas.tiles.settled()):
        QTest.qWait(2)
    window.canvas.repaint()
    while last.picture is None and not window.canvas.tiles.settled():
        QTest.qWait(2)
    print(f"pixels {time.time() - begun:.3f}")
    while window.easel.view is None or window.easel.view.flat is None:
        QTest.qWait(2)
    print(f"regions {time.time() - begun:.3f}")
    while "keep" in sys.argv and not window.easel.file.recall(f"look/{window.easel.page}"):
        QTest.qWait(50)
window.close()
"""


def started(folder: Path, *book: str) -> dict[str, float]:
    """Start the program once; return seconds by what was waited for."""
    command = [sys.executable, "-c", _CHILD, str(time.time()), str(folder / "settings.ini"), *book]
    env = {**os.environ, "QT_QPA_PLATFORM": os.environ.get("QT_QPA_PLATFORM", "offscreen")}
    ran = subprocess.run(command, capture_output=True, text=True, check=True, env=env)
    return {name: float(seconds) for name, seconds in (row.split() for row in ran.stdout.splitlines())}


def main() -> None:
    """Start it several times and print medians."""
    asks = argparse.ArgumentParser(description=__doc__)
    asks.add_argument("--dpi", type=float, default=600)
    asks.add_argument("--starts", type=int, default=5)
    asked = asks.parse_args()
    with TemporaryDirectory() as name:
        folder = Path(name)
        first = started(folder)["window"]
        later = [started(folder)["window"] for _ in range(asked.starts)]
        print(f"a usable window after {median(later):.2f} s (at first {first:.2f} s)")
        book = folder / "kites.drip"
        code = "from drip_pot.demo.build import build_book; from drip_pot.demo.works import WORKS; import sys, pathlib;"
        code += "build_book(pathlib.Path(sys.argv[1]), float(sys.argv[2]), works=WORKS[:1])"
        subprocess.run([sys.executable, "-c", code, str(book), str(asked.dpi)], check=True)
        first = started(folder, str(book), "keep")
        every = [started(folder, str(book)) for _ in range(asked.starts)]
        pixels, regions = (median(one[what] for one in every) for what in ("pixels", "regions"))
        print(f"page 1 at {asked.dpi:g} dpi: first pixels after {pixels:.2f} s, its regions after {regions:.2f} s"
              f" (at first {first['pixels']:.2f} and {first['regions']:.2f} s)")  # fmt: skip


if __name__ == "__main__":
    main()
