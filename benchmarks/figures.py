# SPDX-License-Identifier: GPL-3.0-or-later
"""How well figures of one page are found again on another, where they are moved, scaled, turned and mirrored.

    python benchmarks/figures.py [--dpi 300] [--sway]

Every figure of the demo's pen stands on a page of its own background, and again on others. `--sway` bends them as well:
such figures are not drawn stroke for stroke, and few of them may be found. Thresholds were chosen on 'tune' alone.
"""

import argparse
import time
from collections.abc import Callable

import numpy as np

from carry import HIGH, WIDE, Bent, _house, _stage, seen  # type: ignore[import-not-found]
from drip_pot.core.carry import find_figures
from drip_pot.demo.cast import cloud, kite, wren_back, wren_face, wren_standing
from drip_pot.demo.folk import bram_bust, lamp_post, pim_face, pim_small, townsman
from drip_pot.demo.pen import Frame, Pen

GROUNDS = (
    "Air",
    "Dusk",
    "Night",
    "Plaster",
    "Stone",
    "Tile",
    "Slate",
    "Cloud",
    "Paper",
    "Window",
    "Iron",
    "Glow",
    "Lamp glow",
)
Draw = Callable[[Pen, Frame], None]
FIGURES: dict[str, tuple[Draw, float, bool]] = {
    "wren standing": (wren_standing, 3.4, True),
    "kite": (kite, 2.2, True),
    "wren back": (wren_back, 3.2, False),
    "pim": (pim_small, 4.2, True),
    "wren's face": (wren_face, 1.0, False),
    "pim's face": (pim_face, 1.0, False),
    "bram": (bram_bust, 1.0, False),
    "townsman": (lambda pen, frame: townsman(pen, frame, 2), 2.8, False),
}
"""What draws it, its scale, and whether thresholds were chosen on it."""
FACES = ("wren's face", "pim's face", "bram")


def page(draw: Draw, name: str, scale: float, variant: int, *, sway: bool) -> Callable[[Pen], None]:
    """Return what draws a page with a figure; the variant says how it stands there."""
    rng = np.random.default_rng(variant * 31 + len(name))
    size, turn = (rng.uniform(0.6, 1.5), rng.uniform(-12, 12)) if variant else (1.0, 0.0)
    at = rng.uniform(200, 640), (rng.uniform(60, 120) if name in FACES else rng.uniform(480, 600))

    def on(pen: Pen) -> None:
        _stage(pen, ("Air", "Dusk", "Night", "Plaster")[variant % 4])
        for n in range(1 + variant % 3):
            _house(pen, n, 60 + 300 * n, 200, 150 + 9 * variant, 240 - 12 * variant, 80, depth=0.4 + 0.1 * variant)
        cloud(pen, Frame(120 + 160 * variant, 90, 0.8), 1.7)
        if variant:
            lamp_post(pen, 760 - 60 * variant, 600, 300)
        bend = rng.uniform(2, 5) if sway and variant else 0.0
        draw(pen, Bent(*at, scale * size, turn, variant % 2 == 1, sway=bend, tall=340 if name in FACES else 100))
        pen.end_panel()

    return on


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--dpi", type=float, default=300)
    parser.add_argument("--sway", action="store_true")
    parser.add_argument("--tune", action="store_true", help="only the figures that thresholds were chosen on")
    told = parser.parse_args()
    sums: dict[bool, list[tuple[float, ...]]] = {True: [], False: []}
    for name, (draw, scale, tune) in FIGURES.items():
        if told.tune and not tune:
            continue
        names: list[str] = []
        old, before, _ = seen(page(draw, name, scale, 0, sway=False), (WIDE, HIGH), told.dpi, names)
        for variant in range(1, 5):
            new, truth, areas = seen(page(draw, name, scale, variant, sway=told.sway), (WIDE, HIGH), told.dpi, names)
            start = time.perf_counter()
            found = find_figures(old, new, before)
            took = time.perf_counter() - start
            ground = np.isin(truth, [names.index(pot) for pot in names if pot in GROUNDS])
            mine = np.concatenate([figure.new for figure in found]) if found else np.zeros(0, np.int64)
            theirs = np.concatenate([figure.old for figure in found]) if found else np.zeros(0, np.int64)
            right = before[theirs] == truth[mine]
            figure = ~ground & (areas > 0)
            figure[0] = False
            row = (
                float(figure.sum()), float((~ground[mine]).sum()), float(right.sum()), float(len(mine)),
                float(areas[mine][right].sum()), float(areas[mine].sum()), float(areas[figure].sum()),
            )  # fmt: skip
            sums[tune].append(row)
            lies = ", ".join(f"{len(f.new)}{' mirrored' * f.mirrored}" for f in found)
            print(f"{name:14s} {variant} of {row[0]:3.0f} regions {row[1]:3.0f} found; of {row[3]:3.0f} poured"
                  f" {row[2]:3.0f} right; area {row[4] / max(row[5], 1):6.1%} right; {took:.2f} s; {lies}")  # fmt: skip
    for tune, rows in sums.items():
        if rows:
            there, some, good, poured, good_area, area, of = np.array(rows).sum(axis=0)
            shares = some / there, area / of, good / max(poured, 1), good_area / max(area, 1)
            found_share, found_area, right_share, right_area = (f"{share:.1%}" for share in shares)
            print("tune:" if tune else "judge:", f"found {found_share} of the regions, {found_area} of the area;",
                  f"right {right_share} of the regions, {right_area} of the area")  # fmt: skip


if __name__ == "__main__":
    main()
