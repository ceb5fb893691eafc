# SPDX-License-Identifier: GPL-3.0-or-later
"""What is painted: atoms, line and whose it is, lettering and effects over it. Knows line and regions.

pieces      atoms, partition, contour, detail
shown       atoms, contour, over, pieces where there are holds
feather     pieces, which of them a hold has, how far it fades in
"""

from collections.abc import Mapping
from dataclasses import dataclass, field

import cv2
import numpy as np

from drip_pot.book.derive.graph import Graph, node
from drip_pot.book.derive.inks import BALLOON_LINE, Inks
from drip_pot.book.derive.regions import Regions, partition_needs
from drip_pot.book.sources import PageSources
from drip_pot.book.store import TilePlane
from drip_pot.book.values import HOLDS
from drip_pot.core.arrays import I32, U8
from drip_pot.core.holds import LinePieces, find_line_pieces
from drip_pot.core.render import LineWash

LETTERS, PIECES = 1, 128
"""Rows of the line's colours beyond those of atoms: letters, then effects, outlines of balloons, stroke pieces."""


DRAWN = ("Line", "Line of props", "Detail", "Effects", "Letters")
"""What line can be that lies over the colours; in layered files each has a layer, the lowest first."""


@dataclass(frozen=True)
class Shown:
    """What is painted: atoms (0 is paper), line coverage, and the row of the line colours for every pixel.

    Where there are holds, rows of the line are `over_rows` + `PIECES` and the number in `pieces`; `feathers` are what
    is taken out of holds where they fade in, by number.
    """

    labels: I32
    ink: U8
    line: I32
    pieces: LinePieces | None = None
    feathers: Mapping[int, TilePlane] = field(default_factory=dict)


class Painted:
    """What is painted of one page."""

    def __init__(self, graph: Graph, inks: Inks, regions: Regions) -> None:
        self.graph = graph
        self._inks, self._regions = inks, regions

    @node("line pieces", lambda self, sources: (partition_needs(self._regions, sources), sources.over))
    def pieces(self, sources: PageSources) -> LinePieces:
        """Return the stroke pieces of the page."""
        atoms, region = self._regions.atoms(sources.line), self._regions.partition(sources).region
        contour, over = self._inks.contour(sources.line), self._inks.over(sources.line, sources.over)
        detail = None
        if over is not None:
            detail = np.where((over.owner == 0) & (over.ink > contour), over.ink, 0).astype(np.uint8)
        usual = self._inks.line_px(sources.line.by_hand)  # a prop's finer line makes no joint a solid black
        return find_line_pieces(atoms.labels, region, atoms.areas, contour, usual or atoms.line_px, detail)

    def drawn(self, sources: PageSources) -> U8:
        """Return which of `DRAWN` the line of every pixel is, by its place there, (rows, cols) uint8."""
        contour, over = self._inks.contour(sources.line), self._inks.over(sources.line, sources.over)
        out, hidden = np.zeros(contour.shape, np.uint8), self._inks.hidden(sources.line)
        if hidden is not None:
            out[hidden] = DRAWN.index("Line of props")
        if over is None:
            return out
        above, owner = (over.owner > 0) & (over.ink >= contour), over.owner & 127
        letters = (owner == LETTERS) | (owner == BALLOON_LINE)
        out[(over.owner == 0) & (over.ink > contour)] = DRAWN.index("Detail")
        out[above & ~letters] = DRAWN.index("Effects")
        out[(above & letters) | (over.owner >= 128)] = DRAWN.index("Letters")
        return out

    def shown(self, sources: PageSources, *, lettering: bool = True, pieces: bool = False) -> Shown:
        """Return what is painted; with stroke pieces where there are holds, or they are wanted."""
        over = self._inks.over(sources.line, sources.over, lettering=lettering)
        wanted = bool(sources[HOLDS]) or pieces
        if over is None and not wanted:
            labels = self._regions.atoms(sources.line).labels
            return Shown(labels, self._inks.contour(sources.line), labels)
        return self._shown(sources, lettering, wanted)

    @node("shown {2}", lambda self, sources, lettering, pieces: (
        sources.line, sources.over, pieces and partition_needs(self._regions, sources)))  # fmt: skip
    def _shown(self, sources: PageSources, lettering: bool, pieces: bool) -> Shown:
        atoms, contour = self._regions.atoms(sources.line), self._inks.contour(sources.line)
        labels, ink, rows, first = atoms.labels, contour, atoms.labels, over_rows(atoms.count)
        found = self.pieces(sources) if pieces else None
        if found is not None:
            rows = np.where(found.plane > 0, found.plane + np.int32(first + PIECES), rows)
        over = self._inks.over(sources.line, sources.over, lettering=lettering)
        if over is None:
            return Shown(labels, ink, rows, found)
        paper, above = over.owner >= 128, (over.owner > 0) & (over.ink >= contour)
        labels = np.where(paper, 0, labels) if paper.any() else labels
        ink = np.where(paper, over.ink, np.maximum(contour, over.ink))
        rows = np.where(paper | above, first + (over.owner & 127).astype(np.int32), rows)
        return Shown(labels, ink, rows.astype(np.int32, copy=False), found)

    def feathers(self, sources: PageSources, shown: Shown, washes: tuple[LineWash, ...]) -> dict[int, TilePlane]:
        """Return what is taken out of holds where they fade in, by number."""
        return {wash.number: self._feather(sources, shown, wash) for wash in washes
                if wash.feather_px > 0 and shown.pieces is not None}  # fmt: skip

    @node("feather {2.number}", lambda self, sources, shown, wash: (
        partition_needs(self._regions, sources), sources.over, wash.alpha.tobytes(), wash.feather_px))  # fmt: skip
    def _feather(self, sources: PageSources, shown: Shown, wash: LineWash) -> TilePlane:
        return feather(shown, wash)


def feather(shown: Shown, wash: LineWash) -> TilePlane:
    """Return how much of a wash is taken out near line that it does not colour: all of it there, none further off."""
    held = np.take(wash.alpha, shown.line, mode="clip") > 0
    line = shown.ink > 0
    other = (line & ~held).view(np.uint8)
    plane = TilePlane((shown.ink.shape[0], shown.ink.shape[1]))
    if not other.any():
        return plane
    away = cv2.distanceTransform(1 - other, cv2.DIST_L2, 5)
    gone = np.clip(255 - away * (255 / max(wash.feather_px, 1e-6)), 0, 255).astype(np.uint8)
    gone[~(line & held)] = 0
    for change in plane.replaced("", (0, 0, *plane.shape), gone):
        plane.put(change)
    return plane


def over_rows(count: int) -> int:
    """Return the row of the line colours before those of lettering and effects, for a page of `count` atoms.

    It stays the same while a page is cut a little more, so that planes made before can still be painted.
    """
    return -(-(count + 1) // 4096) * 4096
