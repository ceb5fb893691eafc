"""What the press makes of a page: traps and the register test. Knows what is painted and plates.

traps       shown, shade, plates, trap width
register    traps, tolerance
"""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from drip_pot.book.derive.graph import Graph
from drip_pot.book.derive.painted import Shown
from drip_pot.book.model import PageSources
from drip_pot.core.arrays import I64, U8, U16, Report, no_report
from drip_pot.core.press import Plates, Traps, bare_paper, color_ids, find_traps
from drip_pot.core.strips import Strip, strips

_MM = 25.4
Separated = Callable[[slice, U16 | None], U8]


@dataclass(frozen=True)
class Register:
    """Bare paper, in pixels, when plates stray: the worst arrangement, without and with traps."""

    untrapped_px: int
    trapped_px: int
    shift_px: int


class Press:
    """Traps and register of one page."""

    def __init__(self, graph: Graph) -> None:
        self.graph = graph

    def traps(
        self, sources: PageSources, tone: U8 | None, version: object, shown: Shown, plates: Plates, width_mm: float
    ) -> Traps:
        """Return the traps of the page for a width in mm; `tone` tells plain shadow colours, `version` its state."""
        width = width_mm / _MM * sources.page.dpi
        needs = (sources.line, sources.over, version, self.graph.needs("line atoms"), *_marks(plates), width)

        def work() -> Traps:
            ids, black = color_ids(shown.labels, tone, shown.ink, shown.line, plates)
            return find_traps(ids, black, plates.inks, width)

        return self.graph.once("traps", needs, work)

    def register(
        self, sources: PageSources, separated: Separated, plates: Plates, traps: Traps, report: Report = no_report
    ) -> Register:
        """Count bare paper when plates stray by the tolerance, with and without traps.

        `separated` is called with rows of the page and traps for them, or None, and returns their plates.
        """
        shift = max(1, round(sources.press.tolerance_mm / _MM * sources.page.dpi))
        needs = (shift, self.graph.needs("traps"), *_marks(plates))

        def work() -> Register:
            rows = len(traps.spread)
            counts = np.zeros((2, 4 * (plates.inks.shape[1] - 1)), np.int64)
            halo = 2 * shift + 2
            for strip in strips(rows, halo):
                report(strip.rows.start / rows, "Straying plates")
                cut = strip.around
                for place, spread in enumerate((None, traps.spread[cut])):
                    counts[place] += _counted(separated(cut, spread), shift, strip, halo)
            return Register(int(counts[0].max()), int(counts[1].max()), shift)

        return self.graph.once("register", needs, work)


def _marks(plates: Plates) -> tuple[bytes, ...]:
    return tuple(table.tobytes() for table in (plates.inks, plates.flat, plates.line, plates.is_black))


def _counted(cmyk: U8, shift: int, strip: Strip, halo: int) -> I64:
    """Count in a strip; where it lies at the page's edge, the edge is taken to go on."""
    above = halo - strip.inside.start
    below = halo - (len(cmyk) - strip.inside.stop)
    padded = np.pad(cmyk, ((above, below), (0, 0), (0, 0)), mode="edge")
    return np.array(bare_paper(padded, shift, halo), np.int64)
