# SPDX-License-Identifier: GPL-3.0-or-later
"""How many gestures lead from the automatic regions of each demo page to its true flats, by kind.

Run `python benchmarks/gestures.py [--dpi N] [page …]`. The gestures are played in the real window: bridges kept where
things of different pots run together, cut-outs where nothing but a hand can part them, then, from the rarest pot to the
commonest of a panel, a click for a lone region, a drag across those that touch, a loop that fills what is empty for
many, and one panel pour.
Told is what was played, per 100 regions, and how much of the page then has its true pot.
"""

import argparse
import os
from collections import Counter
from pathlib import Path
from tempfile import TemporaryDirectory

import cv2
import numpy as np

from drip_pot.book.values import POURS

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from PyQt6.QtCore import QSettings
from PyQt6.QtTest import QTest

from drip_pot.book import verbs
from drip_pot.book.verbs.cutting import cut_mask
from drip_pot.demo.build import build_book, majority
from drip_pot.demo.works import WORKS, DemoDrawing, draw
from drip_pot.desk.app import make_app
from drip_pot.desk.session.easel import Easel
from drip_pot.desk.stages.flats.flatting import Flatting
from drip_pot.desk.window import Window

_IMPURE_PX, _IMPURE_SHARE, _LOOP_FROM = 60, 0.04, 8


def settle(easel: Easel) -> None:
    """Wait until the page is known."""
    while easel.hands.busy() or not easel.deriving.is_settled():
        QTest.qWait(3)


def play(easel: Easel, drawing: DemoDrawing) -> tuple[Counter[str], int, float]:
    """Play a page; return gestures by kind, how many regions it has, and the share of pixels with their true pot."""
    names = {pot.name: number for number, pot in easel.book.pots().items()}  # type: ignore[union-attr]
    wanted = np.array([names.get(name, 0) for name in drawing.pots])
    easel.do(lambda book, page: verbs.pour(book, page, list(easel.sources()[POURS]), None))  # type: ignore[union-attr]
    settle(easel)
    played: Counter[str] = Counter()
    bridge(easel, drawing, wanted, played)
    cut_out(easel, drawing, wanted, played)
    pour(easel, drawing, wanted, played)
    view, sources = easel.view, easel.sources()
    assert view is not None
    assert view.flat.atoms is not None
    assert view.flat.partition is not None
    assert sources is not None
    table = np.zeros(view.flat.atoms.count + 1, np.int64)
    for atom, pot in sources[POURS].items():
        table[atom] = pot
    bare = drawing.ink < 128
    right = (table[view.flat.atoms.labels] == wanted[drawing.pot])[bare].mean()
    return played, len(np.unique(view.flat.partition.region[view.flat.atoms.areas > 0])), float(right)


def best_pots(easel: Easel, drawing: DemoDrawing, wanted: np.ndarray) -> np.ndarray:
    """Return the true pot of every atom; 0 is paper."""
    atoms = easel.view.flat.atoms  # type: ignore[union-attr]
    assert atoms is not None
    return wanted[majority(atoms.labels, atoms.count, drawing.pot, len(drawing.pots))]


def bridge(easel: Easel, drawing: DemoDrawing, wanted: np.ndarray, played: Counter[str]) -> None:
    """Keep every open bridge between things of different pots."""
    view = easel.view
    assert view is not None
    assert view.flat.atoms is not None
    assert view.flat.partition is not None
    best, region, feet = best_pots(easel, drawing, wanted), view.flat.partition.region, view.flat.atoms.bridges.feet
    a, b, index = view.flat.atoms.edges.T
    mixed = (
        (region[a] == region[b])
        & (best[a] != best[b])
        & (view.flat.atoms.areas[a] > 60)
        & (view.flat.atoms.areas[b] > 60)
    )
    for number in np.unique(index[mixed]).tolist():
        row, col = ((feet[number, :2] + feet[number, 2:]) / 2).tolist()
        easel.do(lambda book, page, r=row, c=col: verbs.choose_bridge(book, page, r, c, True))
        played["bridge"] += 1


def cut_out(easel: Easel, drawing: DemoDrawing, wanted: np.ndarray, played: Counter[str]) -> None:
    """Cut out what shares a region with things of another pot still."""
    view = easel.view
    assert view is not None
    assert view.flat.atoms is not None
    assert view.flat.partition is not None
    region = view.flat.partition.region[view.flat.atoms.labels]
    truth = wanted[drawing.pot]
    for root in np.unique(region).tolist():
        own = (region == root) & (drawing.ink < 128)
        pots, size = np.unique(truth[own], return_counts=True)
        for pot, area in zip(pots.tolist(), size.tolist(), strict=True):
            if area == size.max() or area < max(_IMPURE_PX, _IMPURE_SHARE * own.sum()):
                continue
            pieces = cv2.connectedComponents((own & (truth == pot)).view(np.uint8), connectivity=8)[1]
            for piece in range(1, int(pieces.max()) + 1):
                mask = pieces == piece
                if mask.sum() >= _IMPURE_PX:
                    box = (0, 0, *mask.shape)
                    easel.hands.start(lambda hand, m=mask, r=box, p=pot: cut_mask(hand, r, m, p or None))
                    played["cut-out"] += 1


def pour(easel: Easel, drawing: DemoDrawing, wanted: np.ndarray, played: Counter[str]) -> None:
    """Pour the page panel by panel, from the rarest pot to the commonest."""
    view, panels = easel.view, easel.view.flat.panels
    assert view is not None
    assert view.flat.atoms is not None
    assert view.flat.partition is not None
    assert panels is not None
    labels, region, areas = view.flat.atoms.labels, view.flat.partition.region, view.flat.atoms.areas
    votes = np.zeros((len(region), int(wanted.max()) + 1))
    np.add.at(votes, (region[labels].ravel()[::3], wanted[drawing.pot].ravel()[::3]), 1)
    best = votes.argmax(axis=1)[region]  # the true pot of every atom's region
    done = np.isin(np.arange(len(region)), list(easel.sources()[POURS]))  # type: ignore[union-attr]
    for panel in range(1, len(panels.rects) + 1):
        inside = (panels.panel == panel) & (areas > 0)
        regions = Counter(best[np.unique(region[inside])].tolist())
        order = sorted((pot for pot in regions if pot), key=lambda pot: regions[pot])
        for place, pot in enumerate(order):
            mine = inside & (best == pot) & ~done
            if not mine.any():
                continue
            easel.choose_pot(pot)
            if place == len(order) - 1 and not (inside & ~done & ~mine).any():
                easel.within = 0
                top, left, bottom, right = panels.rects[panel - 1]
                easel.own(Flatting).pour_panel((top + bottom) / 2, (left + right) / 2, everything=False)
                played["panel"] += 1
            else:
                _fill(easel, mine, inside & (mine | done), played)
            done |= mine
    rest = (best > 0) & ~np.isin(np.arange(len(region)), list(easel.sources()[POURS])) & (areas > 0)  # type: ignore[union-attr]
    for pot in np.unique(best[rest]).tolist():
        easel.choose_pot(pot)
        for group in _touching(easel, set(region[rest & (best == pot)].tolist())):
            easel.own(Flatting).pour({a for root in group for a in easel.region_atoms(root)})
            played["drag" if len(group) > 1 else "click"] += 1


def _fill(easel: Easel, mine: np.ndarray, allowed: np.ndarray, played: Counter[str]) -> None:
    """Fill regions: a loop round each cluster of many, a drag across those that touch, a click for a lone one."""
    view = easel.view
    assert view is not None
    assert view.flat.atoms is not None
    assert view.flat.partition is not None
    labels, region = view.flat.atoms.labels, view.flat.partition.region
    clusters = cv2.connectedComponents(allowed[labels].view(np.uint8), connectivity=4)[1]
    for cluster in np.unique(clusters[mine[labels]]).tolist():
        where = clusters == cluster
        atoms = np.unique(labels[where & mine[labels]])
        roots = np.unique(region[atoms]).tolist()
        outline = max(cv2.findContours(where.view(np.uint8), cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_NONE)[0], key=len)
        filled = np.zeros(labels.shape, np.uint8)
        cv2.drawContours(filled, [outline], -1, 1, -1)
        hole = np.unique(labels[(filled > 0) & ~where])
        if len(roots) > _LOOP_FROM and not (~allowed[hole]).any():
            loop = outline[:, 0, ::-1].astype(float)
            grown = loop + 1.5 * np.sign(loop - loop.mean(axis=0))
            easel.own(Flatting).corral([(float(r), float(c)) for r, c in grown], only_empty=True)
            played["corral"] += 1
        for group in _touching(easel, {r for r in roots if r not in _poured(easel)}):
            easel.own(Flatting).pour({a for root in group for a in easel.region_atoms(root)})
            played["drag" if len(group) > 1 else "click"] += 1


def _poured(easel: Easel) -> set[int]:
    part, sources = easel.view.flat.partition, easel.sources()  # type: ignore[union-attr]
    assert part is not None
    assert sources is not None
    return {int(part.region[a]) for a in sources[POURS]}


def _touching(easel: Easel, roots: set[int]) -> list[set[int]]:
    """Group regions that touch, so that one stroke can go through all of them."""
    view = easel.view
    assert view is not None
    assert view.flat.atoms is not None
    assert view.flat.partition is not None
    ends = view.flat.partition.region[view.flat.atoms.borders.pairs]
    inside = np.isin(ends, list(roots)).all(axis=1) & (ends[:, 0] != ends[:, 1])
    group = {root: {root} for root in roots}
    for a, b in ends[inside].tolist():
        if group[a] is not group[b]:
            group[a] |= group[b]
            for member in group[b]:
                group[member] = group[a]
    return list({id(g): g for g in group.values()}.values())


def main() -> None:
    words = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    words.add_argument("pages", nargs="*")
    words.add_argument("--dpi", type=float, default=200)
    asked = words.parse_args()
    app = make_app(["bench"])
    works = [w for w in WORKS if not asked.pages or w.name in asked.pages]
    with TemporaryDirectory() as folder:
        for work in works:
            path = Path(folder) / f"{work.name}.drip"
            build_book(path, asked.dpi, works=(work,), finished=False)
            window = Window(QSettings(str(Path(folder) / "s.ini"), QSettings.Format.IniFormat))
            window.easel.opening.open(path)
            settle(window.easel)
            played, regions, right = play(window.easel, draw(work.name, asked.dpi))
            total = sum(played.values())
            kinds = ", ".join(f"{kind} {100 * count / regions:.1f}" for kind, count in played.most_common())
            print(f"{work.title:18} {regions:5} regions, {100 * total / regions:5.1f} gestures per 100: {kinds}; "
                  f"{right:.2%} of the page right")  # fmt: skip
            window.close()
    app.processEvents()


if __name__ == "__main__":
    main()
