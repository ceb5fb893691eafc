"""All that follows from a page's sources, worked out when asked for and kept until a need changes.

The graph, each line naming what it needs:

    gray        original
    paper       gray, even_paper
    evened      gray, paper
    raw         evened, white, black, weight
    pieces      raw
    specks      pieces, speck size, specks erased by hand
    ink         raw, specks
    atoms       ink
    facts       atoms (areas, boxes, borders)
    partition   facts, gap width, bridges decided by hand
    loud        partition, facts
    line_atoms  atoms, ink, holds, pours
    traps       atoms, line_atoms, shade, plates, trap width
    register    traps, tolerance

Knows core and the model; image decoding and the cache are given in. Safe to call from several threads.
"""

import hashlib
import threading
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, Protocol, TypeVar

import msgspec
import numpy as np
import zstandard
from scipy.spatial import cKDTree

from drip_pot.book.model import InkState, PageSources
from drip_pot.core.arrays import F32, I32, I64, U8, Bool, Report, no_report
from drip_pot.core.holds import line_atoms
from drip_pot.core.inks import (
    CROWD,
    Pieces,
    Speck,
    coverage,
    erase_specks,
    estimate_paper,
    find_pieces,
    lone_specks,
    remove_paper,
)
from drip_pot.core.press import Plates, Traps, bare_paper, color_ids, find_traps, separate
from drip_pot.core.regions import (
    Atoms,
    Borders,
    BridgeChoice,
    Bridges,
    Partition,
    auto_gap,
    carry_identity,
    decide,
    find_atoms,
    find_borders,
    label_areas,
    label_boxes,
    least_region_px,
    loud_colors,
)
from drip_pot.core.strips import Strip, strips

T = TypeVar("T")
_VERSION = 1
MOST_SPECK_PX = 600
_NEAR_PX = 4.0


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


@dataclass(frozen=True)
class Register:
    """Bare paper, in pixels, when plates stray: the worst arrangement, without and with traps."""

    untrapped_px: int
    trapped_px: int
    shift_px: int


class Derived:
    """Derived planes of one page.

    Parameters
    ----------
    load_gray : callable
        Returns the page's original as (M, N) uint8, 255 white.
    cache : Cache, optional
        Where atoms are kept.
    identity : str
        Tells this original from others in the cache.
    """

    def __init__(self, load_gray: Callable[[], U8], cache: Cache | None = None, identity: str = "") -> None:
        self._load_gray = load_gray
        self._cache = cache
        self._identity = identity
        self._lock = threading.RLock()
        self._kept: dict[str, tuple[Any, Any]] = {}

    def _keep(self, name: str, key: Any, work: Callable[[], T]) -> T:
        with self._lock:
            kept = self._kept.get(name)
            if kept is None or kept[0] != key:
                self._kept.pop(name, None)
                kept = (key, work())
                self._kept[name] = kept
            result: T = kept[1]
            return result

    def _key(self, name: str) -> Any:
        """Return what a node was worked out from; an object's address would not do, as it can be used again."""
        kept = self._kept.get(name)
        return None if kept is None else kept[0]

    def gray(self) -> U8:
        """Return the original as grey, (M, N) uint8."""
        return self._keep("gray", (), self._load_gray)

    def paper(self, inks: InkState) -> F32 | None:
        """Return the paper light, or None for even paper."""
        even = inks.settings.even_paper
        return self._keep("paper", even, lambda: estimate_paper(self.gray()) if even else None)

    def evened(self, inks: InkState) -> U8:
        """Return the page with its paper light divided out, (M, N) uint8."""
        return self._keep("evened", inks.settings.even_paper, lambda: remove_paper(self.gray(), self.paper(inks)))

    def raw(self, inks: InkState) -> U8:
        """Return coverage before specks are removed, (M, N) uint8."""
        s = inks.settings
        key = (s.even_paper, s.white, s.black, s.weight_px)
        return self._keep("raw", key, lambda: coverage(self.evened(inks), s))

    def pieces(self, inks: InkState) -> Pieces:
        """Return all pieces of ink small enough to matter for specks of any size that can be set."""
        s = inks.settings
        key = (s.even_paper, s.white, s.black, s.weight_px)
        return self._keep("pieces", key, lambda: find_pieces(self.raw(inks), CROWD * MOST_SPECK_PX))

    def specks(self, inks: InkState) -> list[Speck]:
        """List the specks that are removed, by size or by hand, smallest first."""
        return self._keep("specks", inks, lambda: chosen_specks(self.pieces(inks), inks))

    def suspects(self, inks: InkState) -> list[Speck]:
        """List lone specks that stay but may be dust: up to five times the size removed, smallest first."""
        limit = inks.settings.speck_px
        wider = lone_specks(self.pieces(inks), min(5 * limit, MOST_SPECK_PX))
        gone = {(s.row, s.col) for s in self.specks(inks)}
        return [s for s in wider if (s.row, s.col) not in gone]

    def ink(self, inks: InkState) -> U8:
        """Return final coverage, (M, N) uint8."""

        def work() -> U8:
            gone = self.specks(inks)
            return erase_specks(self.raw(inks), gone) if gone else self.raw(inks)

        return self._keep("ink", inks, work)

    def atoms(self, inks: InkState, report: Report = no_report) -> Atoms:
        """Return the finest division of the page for these inks."""
        return self._keep("atoms", inks, lambda: self._atoms(inks, report))

    def _atoms(self, inks: InkState, report: Report) -> Atoms:
        known = msgspec.json.encode([_VERSION, self._identity, inks])
        key = "atoms/" + hashlib.sha256(known).hexdigest()[:32]
        stored = self._cache.recall(key) if self._cache else None
        if stored is not None and (found := _unpack(stored)) is not None:
            return found
        report(0.01, "Reading the line")
        atoms = find_atoms(self.ink(inks), report=report)
        if self._cache:
            self._cache.keep(key, _pack(atoms))
        return atoms

    def facts(self, inks: InkState, report: Report = no_report) -> Facts:
        """Return areas, boxes and borders of the atoms."""
        return self._keep("facts", inks, lambda: _facts(self.atoms(inks, report)))

    def partition(self, sources: PageSources, report: Report = no_report) -> Partition:
        """Return the regions as sets of atoms."""
        gap = self.gap_px(sources, report)
        key = (sources.inks, gap, sources.choices)

        def work() -> Partition:
            atoms = self.atoms(sources.inks)
            return decide(
                self.facts(sources.inks).areas,
                atoms.bridges,
                atoms.edges,
                gap_px=gap,
                least_px=least_region_px(atoms.line_px),
                choices=[BridgeChoice(r, c, k) for r, c, k in sources.choices],
            )

        return self._keep("partition", key, work)

    def gap_px(self, sources: PageSources, report: Report = no_report) -> float:
        """Return the width up to which gaps are closed."""
        atoms = self.atoms(sources.inks, report)
        return auto_gap(atoms.bridges, atoms.line_px) if sources.flats.gap_px is None else sources.flats.gap_px

    def loud(self, sources: PageSources) -> I64:
        """Return an index into the loud colours for every atom, (A + 1,)."""
        part = self.partition(sources)

        def work() -> I64:
            pairs = part.region[self.facts(sources.inks).borders.pairs]
            before = self._kept.get("loud before", (None, {}))[1]
            chosen = loud_colors(np.unique(part.region[1:]), pairs, before)
            self._kept["loud before"] = (None, chosen)
            return np.array([0, *(chosen[int(r)] for r in part.region[1:])], np.int64)

        return self._keep("loud", (sources.inks, part.region.tobytes()), work)

    def carried(self, sources: PageSources, report: Report = no_report) -> dict[int, int]:
        """Return the pours renumbered from the ink they were made in to the present ink.

        Every new atom takes the pot of the old one it lies on most.
        """
        old = self.atoms(sources.cut, report).labels
        new = self.atoms(sources.inks, report).labels
        _, parents = carry_identity(new, old, int(old.max()) + 1)
        pots = {label: sources.pours.get(int(was)) for label, was in enumerate(parents.tolist()) if label}
        return {label: pot for label, pot in pots.items() if pot is not None}

    def line_atoms(self, sources: PageSources, held: Bool) -> I32:
        """Return the atom each line pixel takes its colour from; `held` (A + 1,) tells atoms with a hold."""
        atoms = self.atoms(sources.inks)
        return self._keep(
            "line_atoms",
            (sources.inks, held.tobytes()),
            lambda: line_atoms(atoms.labels, self.ink(sources.inks), held, atoms.line_px),
        )

    def traps(
        self, sources: PageSources, shade: U8, shade_version: int, line: I32, plates: Plates, width_mm: float
    ) -> Traps:
        """Return the traps of the page for a width in mm."""
        width = width_mm / 25.4 * sources.page.dpi
        key = (sources.inks, shade_version, self._key("line_atoms"), *_marks(plates), width)

        def work() -> Traps:
            labels = self.atoms(sources.inks).labels
            ids, black = color_ids(labels, shade, self.ink(sources.inks), line, plates)
            return find_traps(ids, black, plates.spread.view(np.uint8).reshape(-1, 4), width)

        return self._keep("traps", key, work)

    def register(
        self, sources: PageSources, shade: U8, line: I32, plates: Plates, traps: Traps, report: Report = no_report
    ) -> Register:
        """Count bare paper when plates stray by the tolerance, with and without traps."""
        shift = max(1, round(sources.press.tolerance_mm / 25.4 * sources.page.dpi))
        key = (shift, self._key("traps"), *_marks(plates))

        def work() -> Register:
            labels, ink = self.atoms(sources.inks).labels, self.ink(sources.inks)
            counts = np.zeros((2, 12), np.int64)
            halo = 2 * shift + 2
            for strip in strips(len(labels), halo):
                report(strip.rows.start / len(labels), "Straying plates")
                cut = strip.around
                for place, spread in enumerate((None, traps.spread[cut])):
                    cmyk = separate(labels[cut], shade[cut], ink[cut], line[cut], plates, spread)
                    counts[place] += _counted(cmyk, shift, strip, halo)
            return Register(int(counts[0].max()), int(counts[1].max()), shift)

        return self._keep("register", key, work)


def chosen_specks(pieces: Pieces, inks: InkState) -> list[Speck]:
    """List the specks that ink settings and decisions by hand remove, smallest first."""
    found = lone_specks(pieces, inks.settings.speck_px)
    if not inks.erased or len(pieces.areas) == 0:
        return found
    away, nearest = cKDTree(pieces.centers).query(np.array(inks.erased, np.float64))
    seen = {(s.row, s.col) for s in found}
    by_hand = [pieces.speck(int(k)) for k in np.unique(nearest[away <= _NEAR_PX])]
    return found + [s for s in by_hand if (s.row, s.col) not in seen]


def _marks(plates: Plates) -> tuple[bytes, bytes, bytes]:
    return plates.colors.flat.tobytes(), plates.colors.line.tobytes(), plates.is_black.tobytes()


def _counted(cmyk: U8, shift: int, strip: Strip, halo: int) -> I64:
    """Count in a strip; where it lies at the page's edge, the edge is taken to go on."""
    above = halo - strip.inside.start
    below = halo - (len(cmyk) - strip.inside.stop)
    padded = np.pad(cmyk, ((above, below), (0, 0), (0, 0)), mode="edge")
    return np.array(bare_paper(padded, shift, halo), np.int64)


def _facts(atoms: Atoms) -> Facts:
    labels, count = atoms.labels, atoms.count
    return Facts(label_areas(labels, count), label_boxes(labels, count), find_borders(labels))


class _Stored(msgspec.Struct):
    shape: tuple[int, int]
    labels: bytes
    count: int
    feet: bytes
    width: bytes
    confidence: bytes
    pair: bytes
    edges: bytes
    line_px: float
    solids: bytes


def _pack(atoms: Atoms) -> bytes:
    b = atoms.bridges
    stored = _Stored(
        (atoms.labels.shape[0], atoms.labels.shape[1]), atoms.labels.tobytes(), atoms.count,
        b.feet.tobytes(), b.width_px.tobytes(), b.confidence.tobytes(), b.is_tip_pair.tobytes(),
        atoms.edges.tobytes(), atoms.line_px, atoms.solids.tobytes(),
    )  # fmt: skip
    return zstandard.ZstdCompressor(level=1).compress(msgspec.msgpack.encode(stored))


def _unpack(data: bytes) -> Atoms | None:
    """Undo `_pack`; None for damaged data, which is then worked out again."""
    try:
        s = msgspec.msgpack.decode(zstandard.ZstdDecompressor().decompress(data), type=_Stored)
        bridges = Bridges(
            np.frombuffer(s.feet, np.int64).reshape(-1, 4),
            np.frombuffer(s.width, np.float64),
            np.frombuffer(s.confidence, np.float64),
            np.frombuffer(s.pair, bool),
        )
        labels = np.frombuffer(s.labels, np.int32).reshape(s.shape)
        edges = np.frombuffer(s.edges, np.int64).reshape(-1, 3)
        return Atoms(labels, s.count, bridges, edges, s.line_px, np.frombuffer(s.solids, np.int64))
    except (zstandard.ZstdError, msgspec.MsgspecError, ValueError):
        return None
