# SPDX-License-Identifier: GPL-3.0-or-later
"""Whose line it is: stroke pieces held against what the demo's pen knows, and what they cost in F.

Run `python benchmarks/holds.py [--dpi N] [--works page-3,...]`. The pen tells which shape drew every bit of
line, and which of it is frame. A bit of outline counts as right when its piece has the part of that shape in front, or
on both sides; a bit of frame when it is found to be frame. F is connectedComponents + distanceTransform +
distanceTransformWithLabels of the page in the same run. `--changes` prints what a
change of a hold costs.
"""

import argparse
import time
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any

import cv2
import numpy as np

from drip_pot.book import Hold, build_tables, verbs
from drip_pot.book.hand import hand_at
from drip_pot.book.values import HOLDS
from drip_pot.core.arrays import F64, I32, I64, U8, Bool
from drip_pot.core.holds import BORDER, LinePieces, Outlines, find_line_pieces, in_front
from drip_pot.core.regions import auto_gap, decide, find_atoms, find_panels
from drip_pot.core.regions.graph import label_boxes
from drip_pot.demo.build import build_book, majority
from drip_pot.demo.pen import Pen
from drip_pot.demo.scheme import SCHEME
from drip_pot.demo.works import draw, work_named
from drip_pot.files import derive, open_book
from drip_pot.files.delivery.export import prepared

FRAME, OTHER = 255, 254


class TellingPen(Pen):
    """A pen that keeps which pot drew every bit of line: its place in `pots`, FRAME, or OTHER."""

    owner: U8 | None = None
    who = OTHER

    def shape(self, *args: Any, **more: Any) -> None:
        """Draw a shape, and know whose it is."""
        self.who = self._pot
        super().shape(*args, **more)
        self.who = OTHER

    def end_panel(self, width: float = 4.6) -> None:
        """Draw the border of a panel, and know it for that."""
        self.who = FRAME
        super().end_panel(width)
        self.who = OTHER

    def _line(self, path: F64, width: float, taper: tuple[float, float], sheet: Any, outward: float = 0.0) -> None:
        plane = self.sheets[sheet]
        before = plane.copy()
        super()._line(path, width, taper, sheet, outward)
        if self.owner is None:
            self.owner = np.full(plane.shape, OTHER, np.uint8)
        self.owner[plane > before] = self.who


@dataclass
class Case:
    """A work with its pieces and who drew them."""

    name: str
    pieces: LinePieces
    pot: I64
    part: I64
    frame: Bool
    truth: U8
    mine: I32
    cost: float

    def given(self) -> Outlines:
        """Return what tells which side is in front."""
        p = self.pieces
        ground = p.edge.copy()
        ground[p.sides[self.frame].reshape(-1)] = True
        return Outlines(p, self.pot, self.part, ground)


def case_of(name: str, dpi: float) -> Case:
    """Work a demo page out."""
    drawing = draw(name, dpi)
    ink, work = drawing.broken, work_named(name)
    atoms = find_atoms(ink)
    region = decide(atoms, gap_px=auto_gap(atoms)).region
    start = time.perf_counter()
    pieces = find_line_pieces(atoms.labels, region, atoms.areas, ink, atoms.line_px)
    took = time.perf_counter() - start
    pots = np.array(majority(atoms.labels, atoms.count, drawing.pot, len(drawing.pots))).astype(np.int64)
    of = {pot: place for place, names in enumerate(SCHEME.values(), 1) for pot in names}
    parts = np.array([of.get(pot, 1000 + k) for k, pot in enumerate(drawing.pots)])
    panels = find_panels(atoms.labels, region, label_boxes(atoms.labels, atoms.count))
    gutter = (panels.panel[pieces.sides] == 0).any(axis=1) & panels.framed
    pen = TellingPen(dpi, work.seed, work.size)
    work.draw(pen)
    assert pen.owner is not None
    strong = (ink > 127) & (drawing.lettering == 0)
    return Case(name, pieces, pots, parts[pots], gutter & (pieces.form == BORDER), pen.owner[strong],
                pieces.plane[strong], took / unit_of(ink))  # fmt: skip


def unit_of(ink: U8) -> float:
    """Return F in seconds, the best of three."""
    line = (ink < 128).view(np.uint8)

    def one() -> float:
        start = time.perf_counter()
        cv2.connectedComponents(line, connectivity=4)
        cv2.distanceTransform(line, cv2.DIST_L2, 5)
        cv2.distanceTransformWithLabels(line, cv2.DIST_L2, 5, labelType=cv2.DIST_LABEL_PIXEL)
        return time.perf_counter() - start

    return min(one() for _ in range(3))


def tell(case: Case) -> None:
    """Print what share of a work's line is right."""
    p = case.pieces
    first = in_front(case.given()) >= 0
    front = np.where(first, p.sides[:, 0], p.sides[:, 1])[case.mine]
    outline = (case.truth < OTHER) & (p.form[case.mine] == BORDER) & ~case.frame[case.mine]
    wanted = _parts_of(case)[case.truth.clip(0, 253)]
    sides = case.part[p.sides[case.mine]]
    known = outline & (sides == wanted[:, None]).any(axis=1)
    right = known & (case.part[front] == wanted)
    frame, called, shapes = case.truth == FRAME, case.frame[case.mine], case.truth < OTHER
    told, found = known.sum() / outline.sum(), called[frame].mean() if frame.any() else 1
    print(f"{case.name}: {p.count} pieces, {case.cost:.2f} F; outline {right.sum() / known.sum():.1%} right "
          f"({told:.1%} of it told by the pen); frame {found:.1%} found, {(called & shapes).sum() / shapes.sum():.2%} "
          "of shapes called frame")  # fmt: skip


def _parts_of(case: Case) -> I64:
    """Return the part of every pot by its place."""
    out = np.zeros(254, np.int64)
    out[case.pot] = case.part
    return out


def changes(dpi: float) -> None:
    """Print what a change of a hold costs, beside a view of 1600 × 1000 without holds, drawn in the same run."""
    with TemporaryDirectory() as folder:
        path = Path(folder) / "kites.drip"
        build_book(path, dpi, works=(work_named("page-1"),))
        file, kept = open_book(path)
        book, page = kept.still(), next(iter(kept.pages()))
        derived = derive(file, book, page)
        made = prepared(book, derived, page, traps=False).ready
        view = slice(1000, 2000), slice(900, 2500)
        spent: dict[str, float] = {}

        def took(name: str, work: Callable[[], object]) -> None:
            work()
            start = time.perf_counter()
            work()
            spent[name] = time.perf_counter() - start

        took("view without holds", lambda: made.screen(*view, held=False))
        took("view with holds", lambda: made.screen(*view))
        sources = book.sources(page)
        ground = derived.ground(sources)
        took("tables", lambda: build_tables(book, sources, len(made.tables.is_poured) - 1, ground))
        verbs.add_hold(book, page, Hold("Brushed", brushed=True, how="fixed"))
        number = max(book.sources(page)[HOLDS])
        hand = hand_at(book, page, derived)
        way = [(1200.0 + k, 1000.0 + 8 * k, 1.0) for k in range(100)]
        took("a brushed stroke of 800 px", lambda: verbs.brush_hold(hand, number, way, 60))
        first = spent["view without holds"]
        print("; ".join(f"{name} {1000 * s:.0f} ms, {s / first:.2f} views" for name, s in spent.items()))
        file.close()


def main() -> None:
    """Measure the works asked for."""
    asks = argparse.ArgumentParser(description=__doc__)
    asks.add_argument("--dpi", type=float, default=300)
    asks.add_argument("--works", default="page-3,page-2,sequence-1,page-1,page-4,cover")
    asks.add_argument("--changes", action="store_true")
    asked = asks.parse_args()
    if asked.changes:
        changes(asked.dpi)
        return
    cases = [case_of(name, asked.dpi) for name in asked.works.split(",")]
    for case in cases:
        tell(case)


if __name__ == "__main__":
    main()
