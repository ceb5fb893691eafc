# SPDX-License-Identifier: GPL-3.0-or-later
"""All that follows from a page's sources, worked out when asked for and kept until a need changes.

One module a subject; each lists its nodes with what they need. Knows core and the model; image decoding, the repair
sheet and the cache are given in. Safe to call from several threads.
"""

from collections.abc import Callable

from drip_pot.book.derive.graph import Graph
from drip_pot.book.derive.inks import BALLOON_LINE, MOST_SPECK_PX, Inks, Over, chosen_specks
from drip_pot.book.derive.painted import LETTERS, PIECES, Painted, Shown, over_rows
from drip_pot.book.derive.press import Press, Register, stride
from drip_pot.book.derive.regions import (
    Cache,
    Facts,
    Regions,
    facts_of,
    links_of,
    loud_kept,
    loud_of,
    panels_of,
    partition_of,
)
from drip_pot.book.picture import Picture
from drip_pot.book.scope import Ground, no_pieces
from drip_pot.book.sources import PageSources
from drip_pot.book.values import HOLDS, SheetLine
from drip_pot.core.arrays import U8

__all__ = [
    "BALLOON_LINE",
    "LETTERS",
    "MOST_SPECK_PX",
    "PIECES",
    "Cache",
    "Derived",
    "Facts",
    "Over",
    "Register",
    "Shown",
    "chosen_specks",
    "facts_of",
    "links_of",
    "loud_kept",
    "loud_of",
    "over_rows",
    "panels_of",
    "partition_of",
    "stride",
]


class Derived:
    """What follows from one page, by subject: `inks`, `regions`, `painted`, `press`.

    Parameters
    ----------
    load : callable
        Returns a sheet's original, or what is drawn from it, as a `Picture`.
    cache : Cache, optional
        Where atoms are kept between sessions.
    repair : callable, optional
        Returns the repair sheet, (rows, cols) uint8, that has a checksum.
    """

    def __init__(
        self,
        load: Callable[[SheetLine], Picture],
        cache: Cache | None = None,
        repair: Callable[[int], U8] | None = None,
    ) -> None:
        graph = Graph()
        self.inks = Inks(graph, load, repair)
        self.regions = Regions(graph, self.inks, cache)
        self.painted = Painted(graph, self.inks, self.regions)
        self.press = Press(graph)

    def ground(self, sources: PageSources) -> Ground:
        """Return what scopes and holds are laid on."""
        labels = self.regions.atoms(sources.line).labels
        pieces = (lambda: self.painted.pieces(sources)) if sources[HOLDS] else no_pieces
        return Ground(labels, lambda: self.regions.panels(sources), pieces)
