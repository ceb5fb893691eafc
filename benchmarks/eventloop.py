# SPDX-License-Identifier: GPL-3.0-or-later
"""Whether anything a person does holds up the window at 26 megapixels: 300 mixed gestures with a clock beside them.

Among them are another book opened in mid-reading, every dialog opened and closed again, schemes, export, page change.

Run `python benchmarks/eventloop.py [--dpi N] [--gestures N]`. A timer that should ring every 4 ms notes how late it
rings; what was being done then is told with the longest block of each kind, and how much of it was the window's own
work (the rest it waited for a core, or for Python).
"""

import argparse
import faulthandler
import os
import re
import shutil
import time
from collections import Counter
from collections.abc import Callable
from pathlib import Path
from tempfile import TemporaryDirectory

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from PyQt6.QtCore import QSettings, QTimer
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QDialog

from drip_pot.book import verbs
from drip_pot.demo.build import build_book
from drip_pot.demo.works import WORKS
from drip_pot.desk.app import make_app
from drip_pot.desk.dialogs.compare import SideBySide, first_sights
from drip_pot.desk.dialogs.contact import ContactSheet
from drip_pot.desk.dialogs.export import ExportDialog
from drip_pot.desk.dialogs.find_action import FindAction
from drip_pot.desk.dialogs.history import HistoryDialog
from drip_pot.desk.dialogs.keys import Keys
from drip_pot.desk.dialogs.pairs import PairSheet
from drip_pot.desk.dialogs.references import ReferenceBoard
from drip_pot.desk.window import Window
from tools import Bench, uses

TICK_MS, BOUND_MS = 4, 50
RARE = ("Page change", "Export", "Stage", "Other book", "Scheme", "Contact sheet", "History", "Keys", "Find",
        "Export dialog", "Schemes", "References", "Pairs")  # fmt: skip


class Clock:
    """How long the event loop was held up, by what was being done."""

    def __init__(self, folder: Path, *, look: bool) -> None:
        self.doing, self.worst, self.late = "", {}, []
        self._last, self._worked = time.perf_counter(), time.thread_time()
        self._timer = QTimer()
        self._timer.setInterval(TICK_MS)
        self._timer.timeout.connect(self._tick)
        self._timer.start()
        self._look, self._dump = look, (folder / "held-up.txt").open("w+")

    def where(self) -> Counter[str]:
        """Return the lines of the program that held the loop up, and how often each was met."""
        self._dump.seek(0)
        found: Counter[str] = Counter()
        self.beside: Counter[str] = Counter()
        for dump in self._dump.read().split("Timeout (")[1:]:
            *others, main = dump.split("Thread ")[1:]
            for other in others:
                inner = re.findall(r'File "(?:.*/)?([^/]+/[^/]+)", line (\d+) in (\w+)', other)
                if inner and "thread.py" not in inner[0][0] and "threading" not in inner[0][0]:
                    self.beside[" < ".join(":".join(i) for i in inner[:3])] += 1
            own = re.findall(r'drip_pot/(\S+)", line (\d+) in (\w+)', main)
            found[" < ".join(f"{file}:{line} {name}" for file, line, name in own[:4])] += 1
        return found

    def _tick(self) -> None:
        now, worked = time.perf_counter(), time.thread_time()
        block = (now - self._last) * 1000 - TICK_MS
        self.worst[self.doing] = max(self.worst.get(self.doing, (0.0, 0.0)), (block, (worked - self._worked) * 1000))
        if block > BOUND_MS:
            self.late.append((self.doing, block))
        self._last, self._worked = time.perf_counter(), time.thread_time()
        if self._look:
            faulthandler.dump_traceback_later(BOUND_MS / 1000, file=self._dump)


def gestures(bench: Bench, folder: Path) -> dict[str, Callable[[], object]]:
    """Return everything a hand can do, by name."""
    easel, window = bench.easel, bench.window

    def turn() -> None:
        pages = list(easel.book.pages())  # type: ignore[union-attr]
        easel.show_page(pages[(pages.index(easel.page) + 1) % len(pages)])

    def export() -> None:
        window.exporting.write_files(folder, ("page", "flats", "plates", "line"), [easel.page])

    def stage() -> None:
        easel.choose_stage(str(bench.rng.choice(["Inks", "Flats", "Shade", "Holds", "Press", "Flats"])))

    def gap() -> None:
        easel.deriving.try_gap(float(bench.rng.integers(4, 40)))

    def point() -> None:
        window.canvas.moved.emit(*bench.spot())
        window.canvas.overlay.hover(*bench.spot(), window.canvas.rect().center().toPointF())
        window.canvas.repaint()

    books = sorted(folder.glob("*.drip"))
    shown: list[QDialog] = []

    def other_book() -> None:  # whatever is being worked out on the present one
        easel.opening.open(next(book for book in books if book != easel.file.path))  # type: ignore[union-attr]

    def dialog(make: Callable[[], QDialog]) -> Callable[[], None]:
        def show_and_close() -> None:
            shown.append(make())
            shown[-1].show()
            QTest.qWait(int(bench.rng.integers(20, 400)))
            shown.pop().close()

        return show_and_close

    def scheme() -> None:
        book = easel.book
        if not book.schemes():  # type: ignore[union-attr]
            easel.do(lambda book, _: verbs.add_scheme(book, "Dusk"))
        easel.do(lambda book, _: verbs.use_scheme(book, int(bench.rng.choice(list(book.schemes())))))

    dialogs = {
        "Contact sheet": lambda: ContactSheet(window, easel), "History": lambda: HistoryDialog(window, easel),
        "Keys": lambda: Keys(window, window.helping.sheet), "Find": lambda: FindAction(window, window.helping.entries),
        "Export dialog": lambda: ExportDialog(window, folder, 2),
        "Schemes": lambda: SideBySide(window, easel, first_sights(easel), print),
        "References": lambda: ReferenceBoard(window, easel), "Pairs": lambda: PairSheet(window, easel.book, print),
    }  # fmt: skip
    more = {name: dialog(make) for name, make in dialogs.items()} | {
        "Other book": other_book, "Scheme": scheme, "Page change": turn, "Export": export, "Stage": stage,
        "Gap slider": gap, "Pointer": point, "Redo": easel.redo,
        "Loud": lambda: window.seen.flip("loud"),
        "Zoom": lambda: window.canvas.set_zoom(float(bench.rng.uniform(0.1, 1))),
        "Fit": window.canvas.fit,
    }  # fmt: skip
    return uses(bench) | more


def play(bench: Bench, folder: Path, count: int, *, look: bool) -> Clock:
    """Do so many gestures, one after another as a hand would, without waiting for what follows from them."""
    every, clock = gestures(bench, folder), Clock(folder, look=look)
    names = [n for n in every for _ in range(1 if n in RARE else 4)]
    for _ in range(count):
        view = bench.easel.view
        if view is not None and view.flat is not None and not bench.easel.deriving.is_behind():
            clock.doing = "Pot chosen"
            bench.easel.choose_pot(int(bench.rng.choice(list(bench.easel.book.pots()))))  # type: ignore[union-attr]
            QTest.qWait(20)
            clock.doing = str(bench.rng.choice(names))
            every[clock.doing]()
        QTest.qWait(int(bench.rng.integers(20, 250)))
    clock.doing = "settling"
    bench.settle()
    return clock


def main() -> None:
    """Play on the demo book."""
    asks = argparse.ArgumentParser(description=__doc__)
    asks.add_argument("--dpi", type=float, default=600)
    asks.add_argument("--gestures", type=int, default=300)
    asks.add_argument("--where", action="store_true", help="Tell what held it up; looking at threads may crash them.")
    asked = asks.parse_args()
    app = make_app(["bench"])
    with TemporaryDirectory() as folder:
        works = [work for work in WORKS if work.name in ("page-2", "page-3")]
        build_book(Path(folder) / "kites.drip", asked.dpi, works=tuple(works), finished=False)
        shutil.copy(Path(folder) / "kites.drip", Path(folder) / "storm.drip")
        window = Window(QSettings(str(Path(folder) / "settings.ini"), QSettings.Format.IniFormat))
        window.resize(1280, 800)
        window.show()
        bench = Bench(window, 7)
        window.easel.opening.open(Path(folder) / "kites.drip")
        bench.settle()
        clock = play(bench, Path(folder), asked.gestures, look=asked.where)
        for name, (block, worked) in sorted(clock.worst.items(), key=lambda item: -item[1][0]):
            often = sum(doing == name for doing, _ in clock.late)
            print(f"{name:14s} {block:6.0f} ms, {worked:4.0f} ms of them its own work; too long {often} times")
        faulthandler.cancel_dump_traceback_later()
        for where, seen in clock.where().most_common(25):
            print(f"{seen:4d} × {where}")
        for where, seen in clock.beside.most_common(25):
            print(f"{seen:4d} × beside it {where}")
        print(f"{len(clock.late)} of {asked.gestures} gestures held the window up for more than {BOUND_MS} ms")
        window.close()
    del app


if __name__ == "__main__":
    main()
