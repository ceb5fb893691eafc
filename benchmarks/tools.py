# SPDX-License-Identifier: GPL-3.0-or-later
"""How fast every tool of Flats answers at 26 megapixels, and whether thousands of edits leave no trace.

Run `python benchmarks/tools.py [--dpi N] [--uses N] [--edits N]`. A use lasts from the pointer's release to the last
tile that it changed; it is told in frames, a frame being the time to draw the same tiles anew in the same run.
"""

import argparse
import os
import resource
import time
from collections.abc import Callable
from pathlib import Path
from statistics import median
from tempfile import TemporaryDirectory

import numpy as np

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from PyQt6.QtCore import QSettings
from PyQt6.QtTest import QTest

from drip_pot.book import Seed, verbs
from drip_pot.book.verbs.seeds import sow
from drip_pot.book.verbs.setting import thinned
from drip_pot.demo.build import build_book
from drip_pot.demo.works import WORKS
from drip_pot.desk.app import make_app
from drip_pot.desk.stages.flats.flatting import Flatting
from drip_pot.desk.view.render import render_tile
from drip_pot.desk.window import Window


class Bench:
    """A window on the dense page, seen at half size, and a clock."""

    def __init__(self, window: Window, seed: int) -> None:
        self.window, self.easel, self.canvas = window, window.easel, window.canvas
        self.rng = np.random.default_rng(seed)

    def settle(self) -> None:
        """Wait until nothing is being worked out or drawn."""
        while not self.window.is_settled():
            QTest.qWait(3)

    def pause(self) -> None:
        """Wait until what a use needs is known; Look here, which works in the background, is not waited for."""
        self.easel.deriving._later.stop()
        while self.easel.deriving.work.busy() or self.easel.hands.busy() or not self.canvas.tiles.settled():
            self.easel.deriving._later.stop()
            QTest.qWait(3)

    def drawn(self) -> None:
        """Wait until what is seen is drawn."""
        while self.easel.hands.busy():
            QTest.qWait(1)
        self.canvas.repaint()
        while not self.canvas.tiles.settled():
            QTest.qWait(1)

    def spot(self) -> tuple[float, float]:
        """Return a random place on the page that is seen."""
        x, y = self.rng.uniform(0.15, 0.85, 2)
        row, col = self.canvas.to_page(self.canvas.rect().toRectF().topLeft())
        scale = self.canvas.zoom
        return row + y * self.canvas.height() / scale, col + x * self.canvas.width() / scale

    def near(self, spot: tuple[float, float], reach: float, count: int) -> list[tuple[float, float]]:
        """Return a few places round one."""
        away = self.rng.uniform(-reach, reach, (count, 2))
        return [(spot[0] + r, spot[1] + c) for r, c in away.tolist()]


def uses(bench: Bench) -> dict[str, Callable[[], object]]:
    """Every tool as a function that uses it once somewhere."""
    easel, flats = bench.easel, bench.easel.own(Flatting)

    def pour() -> None:
        spot = bench.spot()
        flats.pour(set(easel.region_atoms(easel.atom_at(int(spot[0]), int(spot[1])))))

    def mix() -> None:
        flats.strength = 0.5
        pour()
        flats.strength = 1.0

    def loop(reach: float) -> list[tuple[float, float]]:
        middle = bench.spot()
        turn = np.linspace(0, 2 * np.pi, 40)
        return [(middle[0] + reach * np.sin(t), middle[1] + reach * np.cos(t)) for t in turn.tolist()]

    def cut(shape: str) -> Callable[[], None]:
        def work() -> None:
            flats.shape = shape  # type: ignore[assignment]
            flats.cut_out(loop(120), back=False, keep=False)

        return work

    def leash() -> None:
        spot = bench.spot()
        flats.brush([spot, *bench.near(spot, 150, 12)], "region")

    def dam() -> None:
        path = thinned(bench.near(bench.spot(), 200, 2))
        easel.hands.start(lambda hand: verbs.set_dam(hand, path))

    def door() -> None:
        path = tuple(bench.near(bench.spot(), 60, 2))
        easel.do(lambda book, page: verbs.set_door(book, page, path))

    def bridge() -> None:
        view = easel.view
        assert view is not None
        feet = view.flat.atoms.bridges.feet
        row, col = ((feet[:, :2] + feet[:, 2:]) / 2)[int(bench.rng.integers(len(feet)))].tolist()
        easel.do(lambda book, page: verbs.choose_bridge(book, page, row, col, bool(bench.rng.random() < 0.5)))

    def seed() -> None:
        path, number = thinned(bench.near(bench.spot(), 80, 4)), int(bench.rng.integers(1, 4))
        easel.hands.start(lambda hand: sow(hand, {number: Seed(path, easel.pot)}, "Sow"))

    def shift() -> None:
        spot = bench.spot()
        easel.pick(set(easel.region_atoms(easel.atom_at(int(spot[0]), int(spot[1])))))
        flats.shift_picked(0.02, 1.05, 4)

    return {
        "Pour": pour, "Pour at 50 %": mix, "Corral": lambda: flats.corral(loop(500), only_empty=False),
        "Sweep": lambda: flats.sweep(bench.near(bench.spot(), 300, 8)), "Seed": seed, "Leash": leash,
        "Cut-out": cut("Freehand"), "Pencil": cut("Pencil"), "Eraser": cut("Eraser"), "Pick, shift": shift,
        "Silhouette": lambda: flats.silhouette(*bench.spot(), framed=True),
        "Panel": lambda: flats.pour_panel(*bench.spot(), everything=False), "Bridge": bridge, "Dam": dam, "Door": door,
        "Undo": easel.undo,
    }  # fmt: skip


def measure(bench: Bench, count: int) -> None:
    """Tell the median and the worst of so many uses of every tool."""
    view, canvas = bench.easel.view, bench.canvas
    assert view is not None
    level = view.level(canvas.zoom)
    keys = canvas.painting.seen(view, level, canvas.rect().toRectF())
    frame = median(
        sum(_timed(lambda k=key: render_tile(view, canvas.look, level, *k)) for key in keys) for _ in range(9)
    )
    print(f"one frame        {frame * 1e3:6.1f} ms here, {len(keys)} tiles of 256 px at level {level}")
    for name, use in uses(bench).items():
        times = []
        for _ in range(count):
            bench.easel.choose_pot(int(bench.rng.choice(list(bench.easel.book.pots()))))  # type: ignore[union-attr]
            bench.pause()
            times.append(_timed(lambda u=use: (u(), bench.drawn())) / frame)
        print(f"{name:16} {median(times):6.2f} frames, at worst {max(times):6.2f}")


def edits(bench: Bench, count: int) -> None:
    """Do thousands of mixed edits, then undo them all: memory, and the book to the last bit."""
    book = bench.easel.book
    assert book is not None
    start, values, tiles = book.position, book.values(), book.tiles()
    tools = [u for n, u in uses(bench).items() if n not in ("Undo", "Silhouette", "Panel")]
    marks = []
    began = time.perf_counter()
    while book.position < start + count:
        tools[int(bench.rng.integers(len(tools)))]()
        if bench.rng.random() < 0.1:
            bench.easel.undo()
        if book.position % 500 == 0:
            bench.settle()
        bench.pause()
        if (book.position - start) * 5 // count > len(marks):
            marks.append(_resident())
    print(
        f"{count} edits      {(time.perf_counter() - began) / count * 1e3:6.1f} ms each here, undone ones not counted"
    )
    print("memory in between " + ", ".join(f"{m:.2f}" for m in marks) + " GB")
    while book.position > start:
        bench.easel.undo()
    bench.settle()
    print(f"undone            {'bit for bit' if (book.values(), book.tiles()) == (values, tiles) else 'NOT THE SAME'}")
    print(f"memory then       {_resident():.2f} GB, at most {_peak():.2f}")


def _resident() -> float:
    pages = int(Path("/proc/self/statm").read_text().split()[1])
    return pages * resource.getpagesize() / 1e9


def _peak() -> float:
    return resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1e6


def _timed(work: Callable[[], object]) -> float:
    start = time.perf_counter()
    work()
    return time.perf_counter() - start


def main() -> None:
    words = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    words.add_argument("--dpi", type=float, default=600)
    words.add_argument("--uses", type=int, default=50)
    words.add_argument("--edits", type=int, default=0)
    asked = words.parse_args()
    app = make_app(["bench"])
    with TemporaryDirectory() as folder:
        work = next(w for w in WORKS if w.name == "page-3")
        build_book(Path(folder) / "kites.drip", asked.dpi, works=(work,), finished=False)
        window = Window(QSettings(str(Path(folder) / "s.ini"), QSettings.Format.IniFormat))
        window.resize(1280, 800)
        window.show()
        window.easel.opening.open(Path(folder) / "kites.drip")
        bench = Bench(window, 7)
        bench.settle()
        bench.canvas.set_zoom(0.5)
        bench.settle()
        if asked.edits:
            edits(bench, asked.edits)
        else:
            measure(bench, asked.uses)
        window.close()
    app.processEvents()


if __name__ == "__main__":
    main()
