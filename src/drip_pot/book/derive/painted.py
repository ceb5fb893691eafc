"""What is painted: atoms, line and whose colour it takes, lettering and effects over it. Knows line and regions.

line atoms  atoms, contour, which atoms have a hold, panels
shown       atoms, contour, over, line atoms
"""

from dataclasses import dataclass

import numpy as np

from drip_pot.book.derive.graph import Graph, node
from drip_pot.book.derive.inks import Inks
from drip_pot.book.derive.regions import Regions, partition_needs
from drip_pot.book.model import PageSources
from drip_pot.core.arrays import I32, U8, Bool
from drip_pot.core.holds import frame_line, line_atoms


@dataclass(frozen=True)
class Shown:
    """What is painted: atoms (0 is paper), line coverage, and the row of the line colours for every pixel."""

    labels: I32
    ink: U8
    line: I32


def _line_needs(self: "Painted", sources: PageSources, held: Bool) -> tuple[object, ...]:
    return sources.line, held.tobytes(), partition_needs(self._regions, sources) if held.any() else None


class Painted:
    """What is painted of one page."""

    def __init__(self, graph: Graph, inks: Inks, regions: Regions) -> None:
        self.graph = graph
        self._inks, self._regions = inks, regions

    @node("line atoms", _line_needs)
    def line_atoms(self, sources: PageSources, held: Bool) -> I32:
        """Return the row of the line colours of every pixel; `held` (A + 1,) tells atoms with a hold.

        Panel frames and solid blacks take no hold.
        """
        atoms = self._regions.atoms(sources.line)
        if not held.any():
            return atoms.labels
        panels = self._regions.panels(sources)
        frames = frame_line(atoms.labels, panels.panel == 0, atoms.line_px) if panels.framed else None
        return line_atoms(
            atoms.labels, self._inks.contour(sources.line), held, atoms.line_px, over_rows(atoms.count), frames
        )

    def shown(self, sources: PageSources, held: Bool, *, lettering: bool = True) -> Shown:
        """Return what is painted; `held` (A + 1,) tells atoms with a hold."""
        line = self.line_atoms(sources, held)
        if self._inks.over(sources.line, sources.over, lettering=lettering) is None:
            return Shown(self._regions.atoms(sources.line).labels, self._inks.contour(sources.line), line)
        return self._shown(sources, held, lettering)

    @node("shown {2}", lambda self, sources, held, lettering: (*_line_needs(self, sources, held), sources.over))
    def _shown(self, sources: PageSources, held: Bool, lettering: bool) -> Shown:
        atoms, contour = self._regions.atoms(sources.line), self._inks.contour(sources.line)
        line, over = self.line_atoms(sources, held), self._inks.over(sources.line, sources.over, lettering=lettering)
        assert over is not None
        paper, above = over.owner >= 128, (over.owner > 0) & (over.ink >= contour)
        labels = np.where(paper, 0, atoms.labels) if paper.any() else atoms.labels
        ink = np.where(paper, over.ink, np.maximum(contour, over.ink))
        rows = np.where(paper | above, over_rows(atoms.count) + (over.owner & 127).astype(np.int32), line)
        return Shown(labels, ink, rows.astype(np.int32, copy=False))


def over_rows(count: int) -> int:
    """Return the row of the line colours before those of lettering and effects, for a page of `count` atoms.

    It stays the same while a page is cut a little more, so that planes made before can still be painted.
    """
    return -(-(count + 1) // 4096) * 4096
