# SPDX-License-Identifier: GPL-3.0-or-later
"""The regions of a page, worked out from its contour. Knows core, the model and the line; nothing of colour.

atoms       contour, dams and cut-outs
facts       atoms (areas, boxes, borders)
partition   facts, gap width, bridges decided by hand, doors
panels      partition
loud        partition, facts
fringe      atoms, contour, what has colour
"""

import hashlib
from collections.abc import Iterable
from dataclasses import dataclass
from typing import Protocol

import msgspec
import numpy as np

from drip_pot.book.derive.atoms_kept import pack_atoms, unpack_atoms
from drip_pot.book.derive.graph import Graph, node
from drip_pot.book.derive.inks import Inks
from drip_pot.book.sources import PageSources
from drip_pot.book.values import BENEATH, DOORS, FLATS, JOINS, PANELS, POURS, SOWN, Beneath, LineState
from drip_pot.core.arrays import I32, I64, Bool, Report, no_report
from drip_pot.core.errors import BadInput
from drip_pot.core.inks import Place, lay
from drip_pot.core.regions import (
    Atoms,
    Borders,
    BridgeChoice,
    Divided,
    Fringe,
    Panels,
    Partition,
    Path,
    auto_gap,
    carry_identity,
    decide,
    divide,
    door_links,
    find_atoms,
    find_fringe,
    find_panels,
    join_links,
    keep_loud,
    loud_colors,
    regions_of,
    undivided,
)


class Cache(Protocol):
    """Keeps derived bytes between sessions; losing them costs time only, but for the cut of poured pages."""

    def recall(self, key: str) -> bytes | None:
        """Return what was kept under `key`."""

    def keep(self, key: str, data: bytes) -> None:
        """Keep `data`."""


@dataclass(frozen=True)
class Facts:
    """What is known of atoms 0..A (0 unused): areas (A + 1,), boxes (A + 1, 4) top, left, bottom, right, borders."""

    areas: I64
    boxes: I64
    borders: Borders


def partition_needs(self: "Regions", sources: PageSources) -> object:
    """Return what follows from the regions of a page depends on, to be compared."""
    return sources.line, self.partition(sources).region.tobytes()


class Regions:
    """The regions of one page.

    Parameters
    ----------
    graph : Graph
        Where they are kept.
    inks : Inks
        The line.
    cache : Cache, optional
        Where atoms are kept between sessions.
    """

    def __init__(self, graph: Graph, inks: Inks, cache: Cache | None = None) -> None:
        self.graph = graph
        self._inks, self._cache = inks, cache

    def atoms(self, line: LineState, report: Report = no_report) -> Atoms:
        """Return the finest division of the page for this line, cuts and all."""
        return self.divided(line, report).atoms

    def divided(self, line: LineState, report: Report = no_report) -> Divided:
        """Return the page divided by its line and by hand."""
        uncut = line.uncut
        plain = self.graph.once("found", uncut, lambda: undivided(self._atoms(uncut, report)))
        if not line.cuts:
            return plain
        known = self.graph.value("divided")
        before = known if known is not None and known.found is plain.found else plain
        return self.graph.once("divided", line, lambda: divide(before, self._inks.contour(line), line.cuts))

    def adopt(self, line: LineState, divided: Divided) -> None:
        """Keep a division that was worked out elsewhere."""
        self.graph.put("divided" if line.cuts else "found", line, divided)

    def _atoms(self, line: LineState, report: Report) -> Atoms:
        key = atoms_key(line)
        for place in (key, f"kept/{key}"):
            stored = self._cache.recall(place) if self._cache else None
            if stored is not None and (found := unpack_atoms(stored)) is not None:
                return found
        report(0.01, "Reading the line")
        atoms = find_atoms(self._inks.contour(line), report=report)
        if self._cache:
            self._cache.keep(key, pack_atoms(atoms))
        return atoms

    def facts(self, line: LineState, report: Report = no_report) -> Facts:
        """Return areas, boxes and borders of the atoms."""
        return facts_of(self.divided(line, report))

    @node("partition", lambda _, s: (s.line, s[FLATS], s.choices, *map(tuple, _ways(s))))
    def partition(self, sources: PageSources) -> Partition:
        """Return the regions as sets of atoms."""
        return partition_of(self.atoms(sources.line), sources)

    @node("panels", lambda self, sources: (partition_needs(self, sources), tuple(sources[PANELS].values())))
    def panels(self, sources: PageSources) -> Panels:
        """Return the panels of the page."""
        divided = self.divided(sources.line)
        region = self.partition(sources).region
        return panels_of(divided.atoms.labels, region, divided.boxes, sources)

    @node("fringe", lambda _, sources, filled: (sources.line, filled.tobytes()))
    def fringe(self, sources: PageSources, filled: Bool) -> Fringe:
        """Return the paper that would show between flat and line; `filled` (A + 1,) tells atoms with colour."""
        atoms = self.atoms(sources.line)
        return find_fringe(atoms.labels, self._inks.contour(sources.line), filled, atoms.line_px)

    @node("loud", partition_needs)
    def loud(self, sources: PageSources) -> I64:
        """Return an index into the loud colours for every atom, (A + 1,)."""
        region = self.partition(sources).region
        chosen = loud_of(region, self.facts(sources.line), self.graph.value("loud before", {}))
        self.graph.put("loud before", (), chosen)
        return np.array([chosen.get(r, 0) for r in region.tolist()], np.int64)

    def carried(
        self, sources: PageSources, report: Report = no_report
    ) -> tuple[dict[int, int], dict[int, int], Beneath | None]:
        """Return pours, and what is sown, renumbered from the line they were made in to the present one.

        Every new atom takes the pot of the old one it lies on most; a page that was cropped, grown or turned in
        between is laid over its old self first. What a sheet hides keeps its colours, which are returned as well: they
        come back where it is moved away, and the sheet takes its own along.
        """
        line, cut = sources.line, sources.cut
        try:
            old = self.atoms(cut, report).labels
        except BadInput:  # what was mended then is lost; the present mending comes nearest
            old = self.atoms(msgspec.structs.replace(cut, repair=line.repair), report).labels
        shape, moved = (line.rows, line.cols), cut.frame.inverse().then(line.frame)
        hid, hides = self._inks.hidden(cut), self._inks.hidden(line)
        at, under = lay(old, moved, shape, 0, hard=True), self._under(sources, old, hid)
        pours, beneath = dict(sources[POURS]), None
        if hid is not None and under is not None:
            first = int(old.max()) + 1
            back = under.line.frame.inverse().then(line.frame)
            plane = lay(self.atoms(under.line, report).labels, back, shape, 0, hard=True)
            was = lay(hid.view(np.uint8), moved, shape, 0, hard=True) > 0
            at = np.where(was, plane + np.int32(first), at).astype(np.int32)
            pours |= {first + atom: pot for atom, pot in under.pours.items()}
            if hides is not None:
                down, right = _shift(cut, line)
                at = np.where(hides, lay(old, moved.then(Place(0.0, 1.0, down, right)), shape, 0, hard=True), at)
        if hides is not None:
            beneath = under if hid is not None else Beneath(cut, dict(sources[POURS]))
        new = self.atoms(line, report).labels
        _, parents = carry_identity(new, np.ascontiguousarray(at), int(at.max()) + 1)
        carried, sown = (
            {label: of[was] for label, was in enumerate(parents.tolist()) if label and was in of}
            for of in (pours, sources[SOWN])
        )
        return carried, sown, beneath

    def _under(self, sources: PageSources, old: I32, hid: Bool | None) -> Beneath | None:
        """Return what lies under hiding sheets, with what was poured beside them since."""
        kept = sources[BENEATH]
        if kept is None or hid is None:
            return kept
        below = self.atoms(kept.line).labels
        back = kept.line.frame.inverse().then(sources.cut.frame)
        below = lay(below, back, (sources.cut.rows, sources.cut.cols), 0, hard=True)
        seen = ~hid
        key = below[seen].astype(np.int64) * (int(old.max()) + 1) + old[seen]
        pairs, count = np.unique(key, return_counts=True)
        pours = dict(kept.pours)
        for pair in pairs[np.argsort(count, kind="stable")].tolist():  # the most of each atom comes last
            atom, now = divmod(pair, int(old.max()) + 1)
            if atom and now in sources[POURS]:
                pours[atom] = sources[POURS][now]
            elif atom:
                pours.pop(atom, None)
        return Beneath(kept.line, pours)


def _shift(cut: LineState, line: LineState) -> tuple[float, float]:
    """Return how far the sheet that hides others was moved, in pixels of the page, down and right."""
    was, now = ({s.original: s for s in one.sheets if s.covers} for one in (cut, line))
    for original in was.keys() & now.keys():
        one, two = was[original].place, now[original].place
        if one != two:
            size = (s.view.size_px if s.view is not None else 0 for s in (was[original], now[original]))
            half = [s / 2 for s in size]
            return two.down_px + half[1] - one.down_px - half[0], two.right_px + half[1] - one.right_px - half[0]
    return 0.0, 0.0


def facts_of(divided: Divided) -> Facts:
    """Return areas, boxes and borders of a divided page."""
    return Facts(divided.atoms.areas, divided.boxes, divided.atoms.borders)


def loud_of(region: I64, facts: Facts, before: dict[int, int]) -> dict[int, int]:
    """Choose a loud colour for every region; those that had one keep it where they can."""
    return loud_colors(regions_of(region, facts.areas), region[facts.borders.pairs], before)


def loud_kept(region: I64, facts: Facts, before: dict[int, int]) -> dict[int, int] | None:
    """As `loud_of`, within some milliseconds; None where too much is new for that."""
    return keep_loud(regions_of(region, facts.areas), region[facts.borders.pairs], before)


def partition_of(atoms: Atoms, sources: PageSources, gap_px: float | None = None) -> Partition:
    """Decide the regions of a page; `gap_px` tries another width."""
    gap = sources[FLATS].gap_px if gap_px is None else gap_px
    return decide(
        atoms, gap_px=auto_gap(atoms) if gap is None else gap, choices=[BridgeChoice(*c) for c in sources.choices],
        links=links_of(atoms, sources), least_px=sources[FLATS].least_px,
    )  # fmt: skip


def panels_of(labels: I32, region: I64, boxes: I64, sources: PageSources) -> Panels:
    """Find the panels of a divided page, those drawn and taken away by hand among them; see `find_panels`."""
    return find_panels(labels, region, boxes, [(p.corners, p.is_panel) for p in sources[PANELS].values()])


def links_of(atoms: Atoms, sources: PageSources) -> I64:
    """Return the atoms that the page's doors and joins put together, (L, 2)."""
    doors, joins = _ways(sources)
    found = [*(door_links(atoms.labels, d) for d in doors), *(join_links(atoms.labels, j) for j in joins)]
    return np.concatenate([np.zeros((0, 2), np.int64), *found])


def _ways(sources: PageSources) -> tuple[Iterable[Path], Iterable[Path]]:
    return sources[DOORS].values(), sources[JOINS].values()


def atoms_key(line: LineState) -> str:
    """Return where the cache keeps the atoms of a line, in the writing of the engine that made them."""
    told = msgspec.to_builtins(line)
    engine = told.pop("engine")
    for sheet in told["sheets"]:  # as books wrote them that knew no more
        for holder, field, usual in (
            (sheet, "covers", False), (sheet, "view", None), (sheet["inks"]["settings"], "turned", False),
            (sheet["inks"]["settings"], "square", None),
        ):  # fmt: skip
            if holder[field] == usual:
                del holder[field]
    return "atoms/" + hashlib.sha256(msgspec.json.encode([engine, told])).hexdigest()[:32]
