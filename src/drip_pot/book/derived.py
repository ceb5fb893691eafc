"""All that follows from a page's sources, worked out when asked for and kept until a need changes.

The graph, each line naming what it needs:

    gray        a sheet's original (without its coloured pencil), place
    evened      original, paper light, pencil, place
    raw         evened, white, black, weight, threshold
    pieces      raw, evened
    specks      pieces, speck settings, specks erased and kept by hand
    sheet ink   raw, specks, hole size
    contour     sheet inks, strokes that are detail, tones, repair sheet
    atoms       contour, dams and cut-outs
    facts       atoms (areas, boxes, borders)
    partition   facts, gap width, bridges decided by hand, doors
    loud        partition, facts
    over        detail, lettering and effect sheets, effect lines
    shown       atoms, contour, over, holds, pours
    traps       shown, shade, plates, trap width
    register    traps, tolerance

Knows core and the model; image decoding, the repair sheet and the cache are given in. Safe to call from several
threads.
"""

import hashlib
import threading
from collections.abc import Callable, Iterable
from dataclasses import dataclass
from typing import Any, Protocol, TypeVar

import msgspec
import numpy as np
from scipy.spatial import cKDTree

from drip_pot.book.atoms_kept import pack_atoms, unpack_atoms
from drip_pot.book.model import InkState, LineState, OverState, PageSources, SheetLine
from drip_pot.core.arrays import I32, I64, U8, Bool, Gray, Report, no_report
from drip_pot.core.errors import BadInput
from drip_pot.core.holds import line_atoms
from drip_pot.core.inks import (
    CROWD,
    Pieces,
    Place,
    Speck,
    Texture,
    Tone,
    balloon_paper,
    coverage,
    draw_effect,
    erase_specks,
    estimate_paper,
    fill_holes,
    find_pieces,
    find_textures,
    find_tones,
    lay,
    lone_specks,
    mended,
    remove_paper,
    remove_pencil,
    split_strokes,
    vanishing,
    without_tone,
)
from drip_pot.core.press import Plates, Traps, bare_paper, color_ids, find_traps, separate
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
    draw_barrier,
    find_atoms,
    find_fringe,
    find_panels,
    join_links,
    line_width,
    loud_colors,
    regions_of,
    undivided,
)
from drip_pot.core.strips import Strip, strips

T = TypeVar("T")
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


@dataclass(frozen=True)
class Picture:
    """A decoded original.

    Attributes
    ----------
    gray : (M, N) ndarray of uint8 or uint16
        0 black, 255 or 65535 white; transparent pixels lie on white.
    rgb : (M, N, 3) ndarray of uint8, or None
        Its colours where it has more than a tint.
    opacity : (M, N) ndarray of uint8, or None
        Where it came with transparency.
    """

    gray: Gray
    rgb: U8 | None = None
    opacity: U8 | None = None


@dataclass(frozen=True)
class Over:
    """What lies over the contour: `ink` (M, N) uint8, and `owner` (M, N) uint8.

    An owner of 0 is contour or detail, 1 is lettering, 2 and up effect colours; 128 is added where lettering covers
    what lies under it with white.
    """

    ink: U8
    owner: U8


@dataclass(frozen=True)
class Shown:
    """What is painted: atoms (0 is paper), line coverage, and the row of the line colours for every pixel."""

    labels: I32
    ink: U8
    line: I32


class Derived:
    """Derived planes of one page.

    Parameters
    ----------
    load : callable
        Returns picture number p of original number o as a `Picture`: load(o, p).
    cache : Cache, optional
        Where atoms are kept.
    repair : callable, optional
        Returns the repair sheet, (rows, cols) uint8, that has a checksum.
    """

    def __init__(
        self,
        load: Callable[[int, int], Picture],
        cache: Cache | None = None,
        repair: Callable[[int], U8] | None = None,
    ) -> None:
        self._load = load
        self._cache = cache
        self._repair = repair
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

    def _picture(self, sheet: SheetLine) -> Gray:
        """Return a sheet's original as grey, without its coloured pencil, as it came."""
        pencil = sheet.inks.settings.pencil

        def work() -> Gray:
            picture = self._load(sheet.original, sheet.picture)
            self._kept[f"colored {sheet.original} {sheet.picture}"] = ((), picture.rgb is not None)
            return picture.gray if pencil is None or picture.rgb is None else remove_pencil(picture.rgb, pencil)

        return self._keep(f"picture {sheet.original} {sheet.picture}", pencil, work)

    def is_colored(self, sheet: SheetLine) -> bool:
        """Whether a sheet's original has colours, so that there may be pencil to take out."""
        name = f"colored {sheet.original} {sheet.picture}"
        return self._keep(name, (), lambda: self._load(*_file(sheet)).rgb is not None)

    def gray(self, line: LineState, sheet: SheetLine) -> U8:
        """Return a sheet's original as grey on the page, (rows, cols) uint8, its pencil still there."""

        def work() -> U8:
            gray = self._picture(sheet) if sheet.inks.settings.pencil is None else self._load(*_file(sheet)).gray
            flat = gray if gray.dtype == np.uint8 else np.asarray(gray >> 8, np.uint8)
            return np.asarray(lay(flat, *_laid(line, sheet), 255, hard=False), np.uint8)

        return self._keep(f"gray {sheet.original} {sheet.picture}", _laid(line, sheet), work)

    def evened(self, line: LineState, sheet: SheetLine) -> Gray:
        """Return a sheet on the page with its paper light divided out, (rows, cols) uint8 or uint16."""
        settings = sheet.inks.settings
        key = (settings.even_paper, settings.pencil, _laid(line, sheet))

        def work() -> Gray:
            gray = self._picture(sheet)
            even = remove_paper(gray, estimate_paper(gray) if settings.even_paper else None)
            return lay(even, *_laid(line, sheet), int(np.iinfo(gray.dtype).max), hard=False)

        return self._keep(f"evened {sheet.original} {sheet.picture}", key, work)

    def raw(self, line: LineState, sheet: SheetLine) -> U8:
        """Return a sheet's coverage before specks are removed, (rows, cols) uint8."""
        key = _raw_key(line, sheet)
        name = f"raw {sheet.original} {sheet.picture}"
        return self._keep(name, key, lambda: coverage(self.evened(line, sheet), sheet.inks.settings))

    def pieces(self, line: LineState, sheet: SheetLine) -> Pieces:
        """Return all pieces of ink of a sheet small enough to matter for specks of any size that can be set."""

        def work() -> Pieces:
            return find_pieces(self.raw(line, sheet), CROWD * MOST_SPECK_PX, self.evened(line, sheet))

        return self._keep(f"pieces {sheet.original} {sheet.picture}", _raw_key(line, sheet), work)

    def suspects(self, line: LineState, sheet: SheetLine) -> list[Speck]:
        """List lone specks that stay but may be dust: up to five times the size removed, smallest first."""
        settings, pieces = sheet.inks.settings, self.pieces(line, sheet)
        wide = msgspec.structs.replace(settings, speck_px=min(5 * settings.speck_px, MOST_SPECK_PX))
        gone = {(s.row, s.col) for s in chosen_specks(pieces, sheet.inks)}
        return [s for s in lone_specks(pieces, wide) if (s.row, s.col) not in gone and not _is_kept(s, sheet.inks)]

    def sheet_ink(self, line: LineState, sheet: SheetLine) -> U8:
        """Return a sheet's final coverage, (rows, cols) uint8."""
        settings = sheet.inks.settings

        def work() -> U8:
            raw = self.raw(line, sheet)
            by_rule = settings.speck_px > 0 or sheet.inks.erased
            gone = chosen_specks(self.pieces(line, sheet), sheet.inks) if by_rule else []
            ink = erase_specks(raw, gone) if gone else raw
            return fill_holes(ink, settings.hole_px) if settings.hole_px else ink

        return self._keep(f"ink {sheet.original} {sheet.picture}", (_laid(line, sheet), sheet.inks), work)

    def vanishing(self, line: LineState, sheet: SheetLine) -> U8:
        """Mark line of a sheet that a two-level result loses; with a soft edge, line that is fainter than a third."""
        settings = sheet.inks.settings
        hard = settings if settings.threshold is not None else msgspec.structs.replace(settings, threshold=100)
        key = (_raw_key(line, sheet), sheet.inks)

        def work() -> U8:
            lost = vanishing(self.evened(line, sheet), hard)
            lost[self.sheet_ink(line, sheet) < 40] = 0
            return lost

        return self._keep("vanishing", key, work)

    def old_contour(self, line: LineState) -> U8:
        """Return the contour of an earlier line of this page, kept apart from the present one."""

        def work() -> U8:
            earlier = Derived(self._load, None, self._repair)
            return earlier.contour(line)

        return self._keep("old contour", line.uncut, work)

    def bare(self, line: LineState) -> U8:
        """Return the contour sheets together, before detail, tone and mending are told apart."""

        def work() -> U8:
            inks = [self.sheet_ink(line, sheet) for sheet in line.sheets]
            if not inks:
                return np.zeros((line.rows, line.cols), np.uint8)
            out = inks[0]
            for ink in inks[1:]:
                out = np.maximum(out, ink)
            return out

        return self._keep("bare", line.plain, work)

    def tones(self, line: LineState) -> list[Tone]:
        """List the areas of tone on the first contour sheet; empty where there is none."""
        if not line.sheets:
            return []
        sheet = line.sheets[0]
        key = _raw_key(line, sheet)
        return self._keep(
            "tones", key, lambda: find_tones(self.raw(line, sheet), self.evened(line, sheet), self.line_px(line))
        )

    def textures(self, line: LineState) -> list[Texture]:
        """List the groups of strokes that look like detail and are contour still."""
        return self._keep("textures", line.uncut, lambda: find_textures(self.contour(line), self.line_px(line)))

    def line_px(self, line: LineState) -> float:
        """Return the usual line width of the contour sheets."""
        key = line.plain
        return self._keep("line width", key, lambda: line_width(draw_barrier(self.bare(line))))

    def _parted(self, line: LineState) -> tuple[U8, U8]:
        """Return contour, and the detail and tint that were taken out of it."""

        def work() -> tuple[U8, U8]:
            ink, detail = self.bare(line), np.zeros(0, np.uint8)
            if line.tones:
                chosen = [t for t in self.tones(line) if any(_holds(t, spot) for spot in line.tones)]
                ink, detail = without_tone(ink, chosen, self.line_px(line))
            if line.strokes:
                ink, strokes = split_strokes(ink, line.strokes)
                detail = np.maximum(detail, strokes) if detail.size else strokes
            return ink, detail

        return self._keep("parted", msgspec.structs.replace(line, repair=0, cuts=()), work)

    def contour(self, line: LineState) -> U8:
        """Return what bounds colour, (rows, cols) uint8."""

        def work() -> U8:
            ink = self._parted(line)[0]
            plane = self._repair(line.repair) if line.repair and self._repair is not None else None
            return mended(ink, plane) if plane is not None and plane.shape == ink.shape else ink

        return self._keep("contour", line.uncut, work)

    def over(self, line: LineState, state: OverState, *, lettering: bool = True) -> Over | None:
        """Return what lies over the contour; None where nothing does."""
        state = state if lettering else msgspec.structs.replace(state, lettering=())
        key = (msgspec.structs.replace(line, repair=0, cuts=()), state)
        if state == OverState() and not (line.strokes or line.tones):
            return None

        def work() -> Over:
            ink, owner = np.zeros((line.rows, line.cols), np.uint8), np.zeros((line.rows, line.cols), np.uint8)
            colors = state.colors
            layers = [(self.sheet_ink(line, s), colors.index(c) + 2) for s, c in state.effects]
            layers += [(draw_effect(e, ink.shape), colors.index(e.color) + 2) for e in state.drawn]
            layers += [(self._parted(line)[1], 0), *((self.sheet_ink(line, s), 0) for s in state.details)]
            for layer, number in layers:
                if layer.size:
                    top = layer > ink
                    ink[top], owner[top] = layer[top], number
            for sheet in state.lettering:
                letters = self.sheet_ink(line, sheet)
                opacity = self._load(*_file(sheet)).opacity
                laid = None if opacity is None else lay(opacity, *_laid(line, sheet), 0, hard=True)
                paper = balloon_paper(letters, laid) > 0
                ink[paper], owner[paper] = letters[paper], 129
                beside = ~paper & (letters > 0)
                ink[beside] = np.maximum(ink[beside], letters[beside])
                owner[beside] = 1
            return Over(ink, owner)

        return self._keep(f"over {lettering}", key, work)

    def shown(self, sources: PageSources, held: Bool, *, lettering: bool = True) -> Shown:
        """Return what is painted; `held` (A + 1,) tells atoms with a hold."""
        atoms, contour = self.atoms(sources.line), self.contour(sources.line)
        line = self.line_atoms(sources, held)
        over = self.over(sources.line, sources.over, lettering=lettering)
        if over is None:
            return Shown(atoms.labels, contour, line)
        key = (sources.line, sources.over, held.tobytes(), self._key("line_atoms"))

        def work() -> Shown:
            paper, above = over.owner >= 128, (over.owner > 0) & (over.ink >= contour)
            labels = np.where(paper, 0, atoms.labels) if paper.any() else atoms.labels
            ink = np.where(paper, over.ink, np.maximum(contour, over.ink))
            rows = np.where(paper | above, over_rows(atoms.count) + (over.owner & 127).astype(np.int32), line)
            return Shown(labels, ink, rows.astype(np.int32, copy=False))

        return self._keep(f"shown {lettering}", key, work)

    def hand_over(self) -> None:
        """Forget the planes that are painted, so that who has them may change them."""
        for name in ("shown True", "shown False", "line_atoms"):
            self._kept.pop(name, None)

    def atoms(self, line: LineState, report: Report = no_report) -> Atoms:
        """Return the finest division of the page for this line, cuts and all."""
        return self.divided(line, report).atoms

    def divided(self, line: LineState, report: Report = no_report) -> Divided:
        """Return the page divided by its line and by hand."""
        uncut = line.uncut
        plain = self._keep("found", uncut, lambda: undivided(self._atoms(uncut, report)))
        if not line.cuts:
            return plain
        known = self._kept.get("divided")
        before = known[1] if known is not None and known[1].found is plain.found else plain
        return self._keep("divided", line, lambda: divide(before, self.contour(line), line.cuts))

    def adopt(self, line: LineState, divided: Divided) -> None:
        """Keep a division that was worked out elsewhere; waits for nothing, as it replaces one entry at a stroke."""
        self._kept["divided" if line.cuts else "found"] = (line, divided)

    def _atoms(self, line: LineState, report: Report) -> Atoms:
        key = _atoms_key(line)
        for place in (key, f"kept/{key}"):
            stored = self._cache.recall(place) if self._cache else None
            if stored is not None and (found := unpack_atoms(stored)) is not None:
                return found
        report(0.01, "Reading the line")
        atoms = find_atoms(self.contour(line), report=report)
        if self._cache:
            self._cache.keep(key, pack_atoms(atoms))
        return atoms

    def facts(self, line: LineState, report: Report = no_report) -> Facts:
        """Return areas, boxes and borders of the atoms."""
        return facts_of(self.divided(line, report))

    def partition(self, sources: PageSources, report: Report = no_report) -> Partition:
        """Return the regions as sets of atoms."""
        atoms, flats = self.atoms(sources.line, report), sources.flats
        key = (sources.line, flats, sources.choices, *map(tuple, _ways(sources)))
        return self._keep("partition", key, lambda: partition_of(atoms, sources))

    def panels(self, sources: PageSources) -> Panels:
        """Return the panels of the page."""
        part, divided = self.partition(sources), self.divided(sources.line)
        key = (sources.line, part.region.tobytes())
        return self._keep("panels", key, lambda: find_panels(divided.atoms.labels, part.region, divided.boxes))

    def fringe(self, sources: PageSources, filled: Bool) -> Fringe:
        """Return the paper that would show between flat and line; `filled` (A + 1,) tells atoms with colour."""
        atoms = self.atoms(sources.line)
        key = (sources.line, filled.tobytes())
        ink = self.contour(sources.line)
        return self._keep("fringe", key, lambda: find_fringe(atoms.labels, ink, filled, atoms.line_px))

    def loud(self, sources: PageSources) -> I64:
        """Return an index into the loud colours for every atom, (A + 1,)."""
        part = self.partition(sources)

        def work() -> I64:
            pairs = part.region[self.facts(sources.line).borders.pairs]
            before = self._kept.get("loud before", (None, {}))[1]
            chosen = loud_colors(regions_of(part.region, self.atoms(sources.line).areas), pairs, before)
            self._kept["loud before"] = (None, chosen)
            return np.array([chosen.get(r, 0) for r in part.region.tolist()], np.int64)

        return self._keep("loud", (sources.line, part.region.tobytes()), work)

    def carried(self, sources: PageSources, report: Report = no_report) -> tuple[dict[int, int], dict[int, int]]:
        """Return pours, and what is sown, renumbered from the line they were made in to the present one.

        Every new atom takes the pot of the old one it lies on most; a page that was cropped, grown or turned in
        between is laid over its old self first.
        """
        line, cut = sources.line, sources.cut
        try:
            old = self.atoms(cut, report).labels
        except BadInput:  # what was mended then is lost; the present mending comes nearest
            old = self.atoms(msgspec.structs.replace(cut, repair=line.repair), report).labels
        moved = cut.frame.inverse().then(line.frame)
        old = lay(old, moved, (line.rows, line.cols), 0, hard=True)
        new = self.atoms(line, report).labels
        _, parents = carry_identity(new, old, int(old.max()) + 1)
        pours, sown = (
            {label: of[was] for label, was in enumerate(parents.tolist()) if label and was in of}
            for of in (sources.pours, sources.sown)
        )
        return pours, sown

    def line_atoms(self, sources: PageSources, held: Bool) -> I32:
        """Return the atom each line pixel takes its colour from; `held` (A + 1,) tells atoms with a hold."""
        atoms = self.atoms(sources.line)
        return self._keep(
            "line_atoms",
            (sources.line, held.tobytes()),
            lambda: line_atoms(atoms.labels, self.contour(sources.line), held, atoms.line_px),
        )

    def traps(
        self, sources: PageSources, shade: U8, shade_version: int, shown: Shown, plates: Plates, width_mm: float
    ) -> Traps:
        """Return the traps of the page for a width in mm."""
        width = width_mm / 25.4 * sources.page.dpi
        key = (sources.line, sources.over, shade_version, self._key("line_atoms"), *_marks(plates), width)

        def work() -> Traps:
            ids, black = color_ids(shown.labels, shade, shown.ink, shown.line, plates)
            return find_traps(ids, black, plates.spread.view(np.uint8).reshape(-1, 4), width)

        return self._keep("traps", key, work)

    def register(
        self, sources: PageSources, shade: U8, shown: Shown, plates: Plates, traps: Traps, report: Report = no_report
    ) -> Register:
        """Count bare paper when plates stray by the tolerance, with and without traps."""
        shift = max(1, round(sources.press.tolerance_mm / 25.4 * sources.page.dpi))
        key = (shift, self._key("traps"), *_marks(plates))

        def work() -> Register:
            labels, ink, line = shown.labels, shown.ink, shown.line
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


def _ways(sources: PageSources) -> tuple[Iterable[Path], Iterable[Path]]:
    return sources.doors.values(), sources.joins.values()


def _atoms_key(line: LineState) -> str:
    """Return where the cache keeps the atoms of a line, in the writing of the engine that made them."""
    told = msgspec.to_builtins(line)
    engine = told.pop("engine")
    return "atoms/" + hashlib.sha256(msgspec.json.encode([engine, told])).hexdigest()[:32]


def over_rows(count: int) -> int:
    """Return the row of the line colours before those of lettering and effects, for a page of `count` atoms.

    It stays the same while a page is cut a little more, so that planes made before can still be painted.
    """
    return -(-(count + 1) // 4096) * 4096


def partition_of(atoms: Atoms, sources: PageSources, gap_px: float | None = None) -> Partition:
    """Decide the regions of a page; `gap_px` tries another width."""
    gap = sources.flats.gap_px if gap_px is None else gap_px
    return decide(
        atoms, gap_px=auto_gap(atoms) if gap is None else gap, choices=[BridgeChoice(*c) for c in sources.choices],
        links=links_of(atoms, sources), least_px=sources.flats.least_px,
    )  # fmt: skip


def links_of(atoms: Atoms, sources: PageSources) -> I64:
    """Return the atoms that the page's doors and joins put together, (L, 2)."""
    doors, joins = _ways(sources)
    found = [*(door_links(atoms.labels, d) for d in doors), *(join_links(atoms.labels, j) for j in joins)]
    return np.concatenate([np.zeros((0, 2), np.int64), *found])


def chosen_specks(pieces: Pieces, inks: InkState) -> list[Speck]:
    """List the specks that ink settings and decisions by hand remove, smallest first."""
    found = [s for s in lone_specks(pieces, inks.settings) if not _is_kept(s, inks)]
    if not inks.erased or len(pieces.areas) == 0:
        return found
    away, nearest = cKDTree(pieces.centers).query(np.array(inks.erased, np.float64))
    seen = {(s.row, s.col) for s in found}
    by_hand = [pieces.speck(int(k)) for k in np.unique(nearest[away <= _NEAR_PX])]
    return found + [s for s in by_hand if (s.row, s.col) not in seen]


def _is_kept(speck: Speck, inks: InkState) -> bool:
    return any(abs(r - speck.row) + abs(c - speck.col) <= 2 * _NEAR_PX for r, c in inks.kept)


def _file(sheet: SheetLine) -> tuple[int, int]:
    return sheet.original, sheet.picture


def _laid(line: LineState, sheet: SheetLine) -> tuple[Place, tuple[int, int]]:
    """Where a sheet lies on the page as it is now, and the page's rows and columns."""
    return sheet.place.then(line.frame), (line.rows, line.cols)


def _raw_key(line: LineState, sheet: SheetLine) -> Any:
    s = sheet.inks.settings
    return (*_file(sheet), _laid(line, sheet), s.even_paper, s.pencil, s.white, s.black, s.weight_px, s.threshold)


def _holds(tone: Tone, spot: tuple[int, int]) -> bool:
    """Whether an area of tone contains a pixel."""
    row, col = spot[0] - tone.rect[0], spot[1] - tone.rect[1]
    inside = 0 <= row < tone.mask.shape[0] and 0 <= col < tone.mask.shape[1]
    return bool(inside and tone.mask[row, col])


def _marks(plates: Plates) -> tuple[bytes, bytes, bytes]:
    return plates.colors.flat.tobytes(), plates.colors.line.tobytes(), plates.is_black.tobytes()


def _counted(cmyk: U8, shift: int, strip: Strip, halo: int) -> I64:
    """Count in a strip; where it lies at the page's edge, the edge is taken to go on."""
    above = halo - strip.inside.start
    below = halo - (len(cmyk) - strip.inside.stop)
    padded = np.pad(cmyk, ((above, below), (0, 0), (0, 0)), mode="edge")
    return np.array(bare_paper(padded, shift, halo), np.int64)


def facts_of(divided: Divided) -> Facts:
    """Return areas, boxes and borders of a divided page."""
    return Facts(divided.atoms.areas, divided.boxes, divided.atoms.borders)
