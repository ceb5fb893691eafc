# SPDX-License-Identifier: GPL-3.0-or-later
"""What the press makes of a page: traps and the register test. Knows what is painted and plates.

traps       what is painted, plates, trap width
register    traps, tolerance
"""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from drip_pot.book.derive.graph import Graph
from drip_pot.book.sources import PageSources
from drip_pot.book.values import PRESS, TRAPS
from drip_pot.core.arrays import I32, I64, U8, U32, Report, no_report
from drip_pot.core.press import (
    CELL,
    OnTop,
    Overrule,
    Plates,
    Traps,
    arrangements,
    find_traps,
    large_black,
    line_under_black,
    strayed,
)
from drip_pot.core.render import LineWash, Piece
from drip_pot.core.strips import strips
from drip_pot.words import listed, tr

_MM, _LARGE_MM, _STRIP = 25.4, 0.5, 512
_NAMES = ("Cyan", "magenta", "yellow", "black")
_WAYS = {
    (0, 1): "{0} to the right", (1, 1): "{0} down right", (1, 0): "{0} down", (1, -1): "{0} down left",
    (0, -1): "{0} to the left", (-1, -1): "{0} up left", (-1, 0): "{0} up", (-1, 1): "{0} up right",
}  # fmt: skip

Separated = Callable[[slice, tuple[U32 | None, U32]], list[U8]]


@dataclass(frozen=True)
class Composing:
    """What traps are worked out from.

    Attributes
    ----------
    top : callable
        Returns what is on top of the whole page; called only where traps are worked out anew.
    piece : Piece
        The whole page, without its passes.
    plates, washes
        Its ink tables, and what lies over the line.
    """

    top: Callable[[], OnTop]
    piece: Piece
    plates: Plates
    washes: tuple[LineWash, ...] = ()


@dataclass(frozen=True)
class Register:
    """What shows when plates stray from each other, in the worst arrangement, without and with traps.

    Attributes
    ----------
    gap_mm, halo_mm : tuple of float
        Length of edge that opens, or shows a dark rim: untrapped, trapped.
    worst : str
        Which plates strayed, and which way, where most opens with traps.
    map : (m, n) ndarray of uint8
        Where it opens with traps, in cells of `cell_px` a side.
    shift_px, cell_px : int
        How far plates strayed; see `map`.
    """

    gap_mm: tuple[float, float]
    halo_mm: tuple[float, float]
    worst: str
    map: U8
    shift_px: int
    cell_px: int


def stride(sources: PageSources) -> int:
    """Return how many pixels plates may stray by on a page, at least one."""
    return max(1, round(sources[PRESS].tolerance_mm / _MM * sources.page.dpi))


class Press:
    """Traps and register of one page."""

    def __init__(self, graph: Graph) -> None:
        self.graph = graph

    def traps(self, sources: PageSources, made: Composing, version: object, region: I64) -> Traps:
        """Return the traps of the page; `region` (A + 1,) is the region of every atom.

        `version` is the state of its passes and of what lies over the line. Where large blacks are enriched, the traps
        hold the number of their mixture as well.
        """
        dpi, press, plates = sources.page.dpi, sources[PRESS], made.plates
        width = press.trap_mm / _MM * dpi
        labels = made.piece.labels
        by_hand = overrules(sources, labels, region, width)
        needs = (sources.line, sources.over, version, self.graph.needs("line pieces"), *_marks(plates), width,
                 press.tolerance_mm, press.condition, sources[TRAPS], region.tobytes() if by_hand else b"")  # fmt: skip

        def work() -> Traps:
            top = made.top()
            found = find_traps(top, width, labels, by_hand, len(plates.inks))
            meeting = line_under_black(made.piece, top.tone, plates, top.black, width, made.washes)
            np.copyto(found.spread, meeting, where=(found.spread == 0) & (meeting > 0))
            if plates.rich:
                back = press.tolerance_mm / _MM * dpi + 1
                found.spread[large_black(top.black, max(_LARGE_MM / _MM * dpi, back + 1), back)] = plates.rich
            return found

        return self.graph.once("traps", needs, work)

    def register(
        self, sources: PageSources, separated: Separated, plates: Plates, traps: Traps, report: Report = no_report
    ) -> Register:
        """Find what shows when plates stray from each other by the tolerance, with and without traps.

        The page is looked at with every `stride`-th pixel, so that plates stray by one. `separated` is called with rows
        of such a page and the traps to try on them, and returns their plates with each.
        """
        press, dpi = sources[PRESS], sources.page.dpi
        shift = stride(sources)
        spread_there = traps.spread[::shift, ::shift]
        needs = (shift, self.graph.needs("traps"), *_marks(plates))
        rows, cols = spread_there.shape
        count = plates.inks.shape[1]
        ways = arrangements(count)

        def work() -> Register:
            gaps, halos = np.zeros((2, len(ways)), np.int64), np.zeros((2, len(ways)), np.int64)
            worst = np.zeros((rows // CELL + 1, cols // CELL + 1), np.uint8)
            halo = CELL
            for strip in strips(rows, halo, _STRIP):
                report(strip.rows.start / rows, "Straying plates")
                cut = strip.around
                above, below = halo - strip.inside.start, halo - (cut.stop - cut.start - strip.inside.stop)
                for place, made in enumerate(separated(cut, (None, spread_there[cut]))):
                    inks = np.pad(made, ((above, below), (0, 0), (0, 0)), mode="edge")
                    told = strayed(inks, 1, press.condition, halo, plates.solids)
                    gaps[place] += told.gaps
                    halos[place] += told.halos
                first = strip.rows.start // CELL
                cells = told.worst[halo // CELL :][: len(worst) - first]
                worst[first : first + len(cells)] = np.maximum(worst[first : first + len(cells)], cells)
            some, way = ways[int(gaps[1].argmax())]
            moved = listed([tr(_NAMES[k]) if k < 4 else tr("ink {0}", k + 1) for k in some])
            told_worst = tr(_WAYS[way], moved) if gaps[1].any() else ""
            length = [[float(n.max()) * shift / dpi * _MM for n in both] for both in (gaps, halos)]
            return Register((length[0][0], length[0][1]), (length[1][0], length[1][1]), told_worst, worst, shift,
                            CELL * shift)  # fmt: skip

        return self.graph.once("register", needs, work)


def overrules(sources: PageSources, labels: I32, region: I64, width_px: float) -> list[Overrule]:
    """Return the edges trapped by hand on a page; those whose regions are one by now are left out."""
    found = []
    for trap in sources[TRAPS].values():
        spots = [(int(r), int(c)) for r, c in (trap.one, trap.two)]
        if not all(0 <= r < labels.shape[0] and 0 <= c < labels.shape[1] for r, c in spots):
            continue
        one, two = (region == region[labels[at]] for at in spots)
        if not (one & two).any():
            wide = trap.width_mm / _MM * sources.page.dpi or width_px
            found.append(Overrule(one, two, trap.way in ("into", "both"), trap.way in ("back", "both"), wide))
    return found


def _marks(plates: Plates) -> tuple[object, ...]:
    tables = (plates.inks, plates.flat, plates.line, plates.is_black)
    return (*(table.tobytes() for table in tables), plates.limit, plates.rich)
