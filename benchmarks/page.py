# SPDX-License-Identifier: GPL-3.0-or-later
"""How fast and how lean the program is on the demo scan at 26 megapixels, as ratios to floor operations.

Run `./run bench`, or `python benchmarks/page.py [--rounds N] [--dpi N]`. Each operation is timed in the same run as
its floor, interleaved, median of the rounds:

    F      cv2.connectedComponents + cv2.distanceTransform + cv2.distanceTransformWithLabels on the same page
    plain  scipy.ndimage.label + distance_transform_edt with indices: label the white, fill the line from the nearest
    tile   drawing one 256-pixel tile of the page
"""

import argparse
import os
import resource
import subprocess
import sys
import time
from collections.abc import Callable
from pathlib import Path
from statistics import median
from tempfile import TemporaryDirectory

import cv2
import numpy as np
from scipy import ndimage

from drip_pot.desk.stages.flats.flatting import Flatting

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")


def timed(work: Callable[[], object]) -> float:
    start = time.perf_counter()
    work()
    return time.perf_counter() - start


def floor(ink: np.ndarray) -> None:
    white = (ink < 128).astype(np.uint8)
    cv2.connectedComponents(white, connectivity=4, ltype=cv2.CV_32S)
    cv2.distanceTransform(white, cv2.DIST_L2, 5)
    cv2.distanceTransformWithLabels(1 - white, cv2.DIST_L2, 5, labelType=cv2.DIST_LABEL_PIXEL)


def plain(ink: np.ndarray) -> np.ndarray:
    labels, _ = ndimage.label(ink < 128)
    rows, cols = ndimage.distance_transform_edt(labels == 0, return_distances=False, return_indices=True)
    return labels[rows, cols]


def regions(dpi: float, rounds: int) -> None:
    """Automatic flats, gaps included, against the floor and against the plain way."""
    from drip_pot.core.inks import (
        CROWD,
        coverage,
        erase_specks,
        estimate_paper,
        find_pieces,
        lone_specks,
        remove_paper,
        suggest_settings,
    )
    from drip_pot.core.regions import auto_gap, decide, find_atoms
    from drip_pot.demo.works import draw

    colors = draw("page-2", dpi).scan
    assert colors is not None
    scan = cv2.cvtColor(colors, cv2.COLOR_RGB2GRAY)
    evened = remove_paper(scan, estimate_paper(scan))
    settings = suggest_settings(evened, dpi)
    ink = coverage(evened, settings)
    ink = erase_specks(ink, lone_specks(find_pieces(ink, CROWD * settings.speck_px, evened), settings))

    def flats() -> np.ndarray:
        atoms = find_atoms(ink)
        part = decide(atoms, gap_px=auto_gap(atoms))
        return part.region.astype(np.int32)[atoms.labels]

    times: dict[str, list[float]] = {"F": [], "flats": [], "plain": []}
    for _ in range(rounds):
        times["F"].append(timed(lambda: floor(ink)))
        times["flats"].append(timed(flats))
        times["plain"].append(timed(lambda: plain(ink)))
    unit, ours, theirs = (median(times[k]) for k in ("F", "flats", "plain"))
    print(f"page                  {ink.shape[1]} x {ink.shape[0]} px, F = {unit:.2f} s here")
    print(f"automatic flats       {ours / unit:6.2f} F     (gaps found, measured and closed)")
    print(f"plain label and fill  {theirs / unit:6.2f} F     (no gap closed)")
    print(f"flats against plain   {ours / theirs:6.2f}       (below 1 is faster)")


def growth() -> None:
    """How the cost of finding regions grows with the page: 6.5, 26 and 103 megapixels of the same drawing."""
    from drip_pot.core.regions import find_atoms
    from drip_pot.demo.works import draw

    for dpi in (300, 600, 1200):
        ink = draw("page-1", dpi).broken
        unit, ours = timed(lambda i=ink: floor(i)), timed(lambda i=ink: find_atoms(i))
        print(
            f"{ink.size / 1e6:6.1f} megapixels     {ours / unit:6.2f} F, {ours / ink.size * 1e9:5.1f} ns a pixel here"
        )


def window(dpi: float, rounds: int) -> None:
    """Time a pour in the real window against drawing tiles."""
    from PyQt6.QtCore import QSettings
    from PyQt6.QtTest import QTest

    from drip_pot.book import Pot, verbs
    from drip_pot.demo.build import build_book
    from drip_pot.demo.works import WORKS
    from drip_pot.desk.app import make_app
    from drip_pot.desk.view.render import render_tile
    from drip_pot.desk.window import Window

    app = make_app(["bench"])
    with TemporaryDirectory() as folder:
        build_book(Path(folder) / "kites.drip", dpi, works=WORKS[:1], finished=False)
        made = Window(QSettings(str(Path(folder) / "s.ini"), QSettings.Format.IniFormat))
        made.resize(1280, 800)
        made.show()
        easel, canvas = made.easel, made.canvas
        easel.opening.open(Path(folder) / "kites.drip")

        def settle() -> None:
            while not made.is_settled():
                QTest.qWait(5)

        settle()
        canvas.set_zoom(1.0)
        settle()
        view, spot = easel.view, canvas.to_page(canvas.rect().center().toPointF())
        assert view is not None
        tile = [timed(lambda: render_tile(view, canvas.look, 0, 9, 7)) for _ in range(40)]
        rows, cols = -(-canvas.height() // 256) + 1, -(-canvas.width() // 256) + 1
        frame = median(tile) * rows * cols
        shown, kept = [], []
        pots = list(easel.book.pots())  # type: ignore[union-attr]
        for turn in range(rounds * 3):
            easel.choose_pot(pots[turn % 2])
            atoms = easel.region_atoms(easel.atom_at(int(spot[0]), int(spot[1])))
            settle()
            start = time.perf_counter()
            easel.own(Flatting).preview_pour(atoms)
            canvas.repaint()
            while not canvas.tiles.settled():
                QTest.qWait(0)
            shown.append(time.perf_counter() - start)
            kept.append(timed(lambda a=atoms: easel.own(Flatting).pour(set(a))))
            settle()
        book, drawn = easel.book, canvas.tiles.drawn_count
        assert book is not None
        change = timed(lambda: verbs.set_pot(book, pots[0], Pot("Skin", 1, "#cc8866")))
        settle()
        tiles = canvas.tiles.drawn_count - drawn
        print(f"one frame of tiles    {frame * 1e3:6.1f} ms here, {rows * cols} tiles of 256 px")
        print(f"pour on screen        {median(shown) / frame:6.2f} frames")
        print(f"pour on disk          {median(kept) / frame:6.2f} frames (after it is seen)")
        print(f"recolour a pot        {change / frame:6.2f} frames, {tiles} tiles drawn, no page plane touched")
        made.close()
    app.processEvents()


def memory(dpi: float) -> None:
    """Peak memory of opening and flatting the scan, in a process of its own."""
    with TemporaryDirectory() as folder:
        run = [sys.executable, "-m", "drip_pot", "demo", "--render", folder, "--dpi", f"{dpi:g}"]
        subprocess.run(run, check=True, capture_output=True)
        code = (
            "import resource, sys; from pathlib import Path; from drip_pot.files import flats\n"
            "found = flats.find(flats.read(Path(sys.argv[1])))\n"
            "print(found.count, resource.getrusage(resource.RUSAGE_SELF).ru_maxrss)"
        )
        out = subprocess.run(
            [sys.executable, "-c", code, f"{folder}/page-2.png"], check=True, capture_output=True, text=True
        )
        count, kilobytes = out.stdout.split()
        print(f"open and flat         {int(kilobytes) / 1e6:6.2f} GB at most, {count} regions")


def main() -> None:
    words = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    words.add_argument("--rounds", type=int, default=5)
    words.add_argument("--dpi", type=float, default=600)
    words.add_argument("--growth", action="store_true", help="only measure 6.5, 26 and 103 megapixels")
    asked = words.parse_args()
    if asked.growth:
        growth()
        return
    memory(asked.dpi)
    regions(asked.dpi, asked.rounds)
    window(asked.dpi, asked.rounds)
    print(f"this whole run        {resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1e6:6.2f} GB at most")


if __name__ == "__main__":
    main()
