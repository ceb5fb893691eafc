# SPDX-License-Identifier: GPL-3.0-or-later
"""How well colours are carried from frame to frame, on movements made with the demo's pen.

    python benchmarks/carry.py [--dpi 300] [--tune] [--between]

Weights were chosen on the movements called 'tune'; the others had no part in that. For every pair of frames: share of
the area and of the regions right, and how many pours are left beside pouring all by hand.
"""

import argparse
import math
import time
from collections.abc import Callable
from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from scipy.optimize import minimize
from scipy.special import logsumexp

from drip_pot.book.values import DOUBTFUL
from drip_pot.core.arrays import F64, I64
from drip_pot.core.carry import Scene, carry_kinds, kinds_between, see
from drip_pot.core.carry.match import WEIGHTS, evidence
from drip_pot.core.carry.scene import small_shape
from drip_pot.core.regions import auto_gap, decide, find_atoms
from drip_pot.demo.cast import chimney, cloud, house, kite, kite_tail, wren_back, wren_face, wren_standing
from drip_pot.demo.folk import bram_bust, cat, cobbles, lamp_post, pim_face, pim_small, townsman
from drip_pot.demo.pen import Frame, Pen
from drip_pot.demo.sequence import FRAMES, SIDE, draw_frame

WIDE, HIGH = 900.0, 640.0


@dataclass(frozen=True)
class Bent(Frame):
    """A frame whose figure sways: sideways by `sway` of its units, more the higher, and bowed by `bow`."""

    sway: float = 0.0
    bow: float = 0.0
    tall: float = 100.0

    def place(self, points: F64) -> F64:
        """Move (K, 2) local x, y to the page."""
        up = -points[:, 1] / self.tall
        shift = self.sway * up + self.bow * np.sin(math.pi * up)
        return super().place(points + np.stack([shift, 0.2 * self.bow * np.cos(3 * up)], axis=1))


def _stage(pen: Pen, pot: str) -> None:
    pen.weight = 1.2
    pen.begin_panel([(16, 16), (WIDE - 16, 16), (WIDE - 16, HIGH - 16), (16, HIGH - 16)], pot)


def _house(pen: Pen, number: int, *at: float, depth: float, windows: int = 2) -> None:
    """Draw a house that keeps its colours where it moves."""
    wall, roof = ("Plaster", "Stone")[number % 2], ("Tile", "Slate")[number // 2 % 2]
    pen.swap = {"Plaster": wall, "Stone": wall, "Tile": roof, "Slate": roof}
    house(pen, *at, depth=depth, windows=windows)
    pen.swap = {}


def walk(k: int) -> Callable[[Pen], None]:
    def draw(pen: Pen) -> None:
        _stage(pen, "Air")
        cloud(pen, Frame(200 - 10 * k, 120, 0.9), 1.7)
        for n, x in enumerate((60, 260, 470, 690)):
            _house(pen, n, x - 22 * k, 300, 150, 200, 80 + 10 * n, depth=0.5, windows=2 + n % 2)
        wren_standing(pen, Bent(300 + 40 * k, 600, 3.4, 3 * k, sway=4 * math.sin(k), bow=3 * math.cos(2 * k)))
        wren_back(pen, Bent(640 - 12 * k, 600, 3.2, -4 * k, sway=3 * math.sin(k + 1)))
        pen.end_panel()

    return draw


def crowd(k: int) -> Callable[[Pen], None]:
    def draw(pen: Pen) -> None:
        _stage(pen, "Dusk")
        for n in range(5):
            _house(pen, n, 20 + 180 * n, 200, 140, 180, 70, depth=0.6)
        for n in range(9):
            at = 90 + 90 * n + (14 if n % 2 else -16) * k
            townsman(
                pen,
                Bent(
                    at,
                    470 + 16 * (n % 3) + 40 * (n % 2),
                    2.6,
                    2 * math.sin(n + k),
                    n % 2 == 1,
                    sway=3 * math.sin(n + k),
                ),
                n,
            )
        cobbles(pen, 16, 600, WIDE - 32, 1, 20, 3)
        pen.end_panel()

    return draw


def turning_face(k: int) -> Callable[[Pen], None]:
    def draw(pen: Pen) -> None:
        _stage(pen, "Air")
        cloud(pen, Frame(150 + 8 * k, 140, 1.0), 1.7)
        wren_face(pen, Bent(330 + 14 * k, 120, 1.35, 5 * k - 6, squash=1 - 0.06 * k, sway=8 * math.sin(k), tall=340))
        pen.end_panel()

    return draw


def run(k: int) -> Callable[[Pen], None]:
    def draw(pen: Pen) -> None:
        _stage(pen, "Night")
        for n in range(4):
            _house(pen, n, 30 + 230 * n - 40 * k, 260, 180, 240, 90, depth=0.3, windows=3)
        lamp_post(pen, 700 - 55 * k, 600, 300)
        pim_small(
            pen,
            Bent(200 + 50 * k, 590 - 14 * (k % 2), 4.2, 6 * math.sin(2 * k), sway=6 * math.sin(k), tall=66),
            running=True,
        )
        cat(pen, Bent(480 + 30 * k, 600, 3.0, 3 * k))
        pen.end_panel()

    return draw


def nod(k: int) -> Callable[[Pen], None]:
    def draw(pen: Pen) -> None:
        _stage(pen, "Lamp glow")
        bram_bust(pen, Bent(80 + 6 * k, 160 + 8 * k, 1.2, 6 - 5 * k, sway=10 * math.sin(k), tall=340), smile=k < 2)
        pim_face(pen, Bent(500 - 5 * k, 190, 1.1, 4 * k - 4, bow=6 * math.cos(k), tall=340))
        pen.end_panel()

    return draw


def zoom(k: int) -> Callable[[Pen], None]:
    def draw(pen: Pen) -> None:
        scale = 1 + 0.09 * k
        _stage(pen, "Air")
        cloud(pen, Frame(300 - 6 * k, 110, 0.9 * scale), 1.7)
        for n in range(5):
            _house(pen, n, 450 + (150 * n - 400) * scale, 330 - 10 * k, 120 * scale, 330, 70 * scale, depth=0.4)
        chimney(pen, 450 + 180 * scale, 420, 70 * scale, 110 * scale)
        wren_back(pen, Frame(450 - 120 * scale, 600, 3.2 * scale, 2 * k))
        pen.end_panel()

    return draw


def tail(k: int) -> Callable[[Pen], None]:
    def draw(pen: Pen) -> None:
        _stage(pen, "Air")
        cloud(pen, Frame(640 + 9 * k, 150, 1.2), 1.7)
        kite(pen, Frame(260 + 10 * k, 200 - 6 * k, 2.6, 24 - 15 * k, False, 0.7 + 0.1 * k), torn=True)
        sway = [30 * math.sin(1.1 * k + j) for j in range(5)]
        kite_tail(pen, [(300 + 30 * j + sway[j], 340 + 52 * j) for j in range(5)], 5)
        kite(pen, Frame(600 - 14 * k, 400, 1.6, -30 + 12 * k, True))
        kite_tail(pen, [(580 + 12 * j - sway[j], 480 + 26 * j) for j in range(4)], 3)
        pen.end_panel()

    return draw


MOVEMENTS: dict[str, tuple[Callable[[int], Callable[[Pen], None]], tuple[float, float], int, bool]] = {
    "walk": (walk, (WIDE, HIGH), 6, True),
    "crowd": (crowd, (WIDE, HIGH), 5, True),
    "turning face": (turning_face, (WIDE, HIGH), 4, True),
    "tail": (tail, (WIDE, HIGH), 8, True),
    "run": (run, (WIDE, HIGH), 4, False),
    "nod": (nod, (WIDE, HIGH), 4, False),
    "zoom": (zoom, (WIDE, HIGH), 4, False),
    "kite": (draw_frame, (SIDE, SIDE), FRAMES, False),
}


_SHAPES: dict[tuple[int, ...], tuple[int, int]] = {}


def seen(
    draw: Callable[[Pen], None], size: tuple[float, float], dpi: float, names: list[str]
) -> tuple[Scene, I64, F64]:
    """Draw a frame and divide it; return its scene, the true pot of every region, and their areas."""
    pen = Pen(dpi, 7, size)
    draw(pen)
    pen.finish()
    names += [pot for pot in pen.pots if pot not in names]
    atoms = find_atoms(pen.ink)
    region = decide(atoms, gap_px=auto_gap(atoms), choices=[], links=np.zeros((0, 2), np.int64)).region
    roots, where = np.unique(region[1:], return_inverse=True)
    labels = np.concatenate([[0], where + 1]).astype(np.int32)[atoms.labels]
    table = np.array([names.index(pot) for pot in pen.pots])
    count = len(roots)
    votes = np.bincount(
        labels.ravel() * np.int64(len(names)) + table[pen.pot_plane].ravel(), minlength=(count + 1) * len(names)
    )
    truth = votes.reshape(-1, len(names)).argmax(axis=1)
    areas = np.bincount(labels.ravel(), minlength=count + 1).astype(float)
    shape = _SHAPES.setdefault(labels.shape, small_shape(labels.shape, atoms.line_px))
    return see(labels, pen.ink, atoms.line_px, shape), truth, areas


def pairs_of(names: list[str], dpi: float, *, tune: bool) -> list[tuple[str, Scene, I64, Scene, I64, F64]]:
    """Draw the movements that weights are chosen on, or the others; return the pairs of frames with their truth."""
    found = []
    for name, (draw, size, frames, mine) in MOVEMENTS.items():
        if mine == tune:
            shots = [seen(draw(k), size, dpi, names) for k in range(frames)]
            found += [(name, *old[:2], *new) for old, new in pairwise(shots)]
    return found


def measure(dpi: float, *, tune: bool) -> None:
    """Print a line a pair of frames, and the sum."""
    names: list[str] = []
    rows = []
    for name, old, before, new, truth, areas in pairs_of(names, dpi, tune=tune):
        start = time.perf_counter()
        carried = carry_kinds(old, new, before)
        took = time.perf_counter() - start
        right, there = carried.kind[1:] == truth[1:], truth[1:] != names.index("Paper")
        share, doubt = areas[1:][right].sum() / areas[1:].sum(), carried.sure[1:] < DOUBTFUL
        hand, left, caught = there.sum(), (~right & there).sum(), (~right & doubt).sum()
        rows.append((share, left, hand, doubt.sum(), caught, (~right).sum()))
        print(f"{name:13s} regions {right.mean():6.1%} area {share:7.2%} clicks {hand:4d} -> {left:3d};"
              f" doubted {doubt.sum():3d}, of the wrong {caught:3d}; {took:.2f} s")  # fmt: skip
    area, left, hand, doubted, caught, wrong = np.array(rows).T
    clicks = f"clicks {hand.sum():g} -> {left.sum():g}"
    print(f"{'tune' if tune else 'judge'}: area {area.mean():.2%} (least {area.min():.2%}), {clicks};"
          f" doubted {doubted.sum():g}, among them {caught.sum():g} of {wrong.sum():g} wrong")  # fmt: skip


def between(dpi: float, gap: int = 3) -> None:
    """Print how well frames between coloured ones are told: from the one before alone, and from both sides."""
    names: list[str] = []
    for name, (draw, size, frames, _) in MOVEMENTS.items():
        shots = [seen(draw(k), size, dpi, names) for k in range(frames)]
        rows = []
        for start in range(0, frames - gap - 1, gap + 1):
            run = shots[start : start + gap + 2]
            before = run[0][1]
            both = kinds_between([scene for scene, _, _ in run], before, run[-1][1])
            for (old, _, _), (new, truth, areas), told in zip(run, run[1:-1], both, strict=False):
                one = carry_kinds(old, new, before)
                before = one.kind
                right = [side.kind[1:] == truth[1:] for side in (one, told)]
                doubt = [(side.sure[1:] < DOUBTFUL) for side in (one, told)]
                rows.append([(areas[1:][ok].sum() / areas[1:].sum(), (~ok).sum(), (~ok & low).sum(), low.sum())
                             for ok, low in zip(right, doubt, strict=True)])  # fmt: skip
        if rows:
            told_by = np.array(rows, float)
            for place, way in enumerate(("one side", "both")):
                area, wrong, caught, doubted = told_by[:, place].mean(axis=0)
                print(f"{name:13s} {way:8s} area {area:7.2%} wrong {wrong:5.1f} a frame, doubted {doubted:5.1f},"
                      f" among them {caught:4.1f} wrong")  # fmt: skip


def fit(dpi: float) -> None:
    """Fit the weights of the evidence on the movements called 'tune', by how likely they make the truth."""
    names: list[str] = []
    cases, missed, every = [], 0, 0
    for _, old, before, new, truth, areas in pairs_of(names, dpi, tune=True):
        choices, told = evidence(old, new)
        right = (before[choices.old] == truth[1:, None]) & (choices.real > 0)
        there = right.any(axis=1)
        missed, every = missed + int((~there).sum()), every + len(there)
        cases.append((told[there], choices.real[there] > 0, right[there], 1 + 20 * (areas[1:] / areas.sum())[there]))

    def loss(weights: F64) -> float:
        total = 0.02 * float(((weights - WEIGHTS) ** 2).sum())
        for told, real, right, weight in cases:
            score = np.where(real, told @ weights, -np.inf)
            total -= float(
                (weight * (logsumexp(np.where(right, score, -np.inf), axis=1) - logsumexp(score, axis=1))).sum()
            )
        return total

    print(f"no right choice for {missed} of {every} regions")
    best = minimize(loss, np.array(WEIGHTS), method="L-BFGS-B")
    print(f"loss {loss(np.array(WEIGHTS)):.1f} -> {best.fun:.1f}")
    print("WEIGHTS = (" + ", ".join(f"{w:.2f}" for w in best.x) + ")")


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--dpi", type=float, default=300)
    parser.add_argument("--tune", action="store_true", help="only the movements that weights were chosen on")
    parser.add_argument("--fit", action="store_true", help="fit the weights on them and print them")
    parser.add_argument("--between", action="store_true", help="three empty frames between coloured ones")
    told = parser.parse_args()
    if told.between:
        between(told.dpi)
        return
    if told.fit:
        fit(told.dpi)
        return
    measure(told.dpi, tune=True)
    if not told.tune:
        measure(told.dpi, tune=False)


if __name__ == "__main__":
    main()
