# SPDX-License-Identifier: GPL-3.0-or-later
"""From a file to line at page size, as ratios to one Gaussian blur; and how soon a moved level is seen.

Run `python benchmarks/inks.py [--rounds N] [--dpi N]`.
"""

import argparse
import subprocess
import sys
import time
from dataclasses import replace
from pathlib import Path
from statistics import median
from tempfile import TemporaryDirectory

import cv2
import msgspec
import numpy as np
from PIL import Image

CODE = """
import resource, sys
from pathlib import Path
from drip_pot.core.inks import coverage, estimate_paper, remove_paper, suggest_settings
from drip_pot.files import read_image
peak = lambda: resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
data, scan = read_image(Path(sys.argv[1]))
before = peak()
evened = remove_paper(scan.gray, estimate_paper(scan.gray))
ink = coverage(evened, suggest_settings(evened, scan.dpi))
print((peak() - before) * 1024 / ink.size)
"""


def timed(work) -> float:
    start = time.perf_counter()
    work()
    return time.perf_counter() - start


def to_coverage(path: Path) -> None:
    """Read a file and take it to coverage, as opening it does."""
    from drip_pot.core.inks import coverage, estimate_paper, remove_paper, suggest_settings
    from drip_pot.files import read_image

    _, scan = read_image(path)
    evened = remove_paper(scan.gray, estimate_paper(scan.gray))
    coverage(evened, suggest_settings(evened, scan.dpi))


def levels(gray: np.ndarray, dpi: float, rounds: int) -> None:
    """Time what a moved level draws anew at 100 %: the tiles of a 1280 × 800 window."""
    from drip_pot.book import InkState, LineState, SheetLine
    from drip_pot.core.inks import Place, find_pieces, suggest_settings
    from drip_pot.core.render import plane_pyramid
    from drip_pot.desk.view.render import Look, PageView, render_tile

    settings = suggest_settings(gray, dpi)
    sheet = SheetLine(1, 0, Place(), InkState(settings))
    line = LineState(*gray.shape, Place(), (sheet,))
    levels = plane_pyramid(gray)
    view = PageView(line, sheet, levels, levels, levels, None, None, levels, find_pieces(255 - gray, 0))
    for name, change in (("white", {"white": settings.white - 9}), ("weight", {"weight_px": 1.5})):
        wanted = InkState(msgspec.structs.replace(settings, **change))
        shown = replace(view, preview=wanted)
        times = [
            timed(
                lambda v=shown: [render_tile(v, Look(kind="line"), 0, r, c) for r in range(8, 12) for c in range(6, 11)]
            )
            for _ in range(rounds)
        ]
        print(f"moving {name:6s}        {median(times) * 1e3:6.1f} ms for the 20 tiles that are seen, one thread")


def main() -> None:
    from drip_pot.demo.works import draw

    words = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    words.add_argument("--rounds", type=int, default=5)
    words.add_argument("--dpi", type=float, default=600)
    asked = words.parse_args()
    scan = draw("page-2", asked.dpi).scan
    assert scan is not None
    gray = cv2.cvtColor(scan, cv2.COLOR_RGB2GRAY)
    with TemporaryDirectory() as folder:
        files = {"PNG": Path(folder) / "a.png", "TIFF": Path(folder) / "a.tif", "TIFF, 16 bit": Path(folder) / "b.tif"}
        Image.fromarray(gray).save(files["PNG"], compress_level=6)
        Image.fromarray(gray).save(files["TIFF"])
        cv2.imwrite(str(files["TIFF, 16 bit"]), gray.astype(np.uint16) * 257)
        times: dict[str, list[float]] = {name: [] for name in ("blur", *files)}
        for _ in range(asked.rounds):
            times["blur"].append(timed(lambda: cv2.GaussianBlur(gray, (5, 5), 0)))
            for name, path in files.items():
                times[name].append(timed(lambda p=path: to_coverage(p)))
        unit = median(times["blur"])
        print(f"page                  {gray.shape[1]} x {gray.shape[0]} px, one 5 x 5 blur = {unit * 1e3:.0f} ms here")
        for name in files:
            print(f"{name:14s} to ink {median(times[name]) / unit:6.1f} blurs")
        out = subprocess.run(
            [sys.executable, "-c", CODE, str(files["TIFF"])], check=True, capture_output=True, text=True
        ).stdout
        print(f"memory                {float(out):6.2f} bytes a pixel beyond the file that was read")
    levels(gray, asked.dpi, asked.rounds)


if __name__ == "__main__":
    main()
