# SPDX-License-Identifier: GPL-3.0-or-later
"""A page as it is shown: one moment of it, never changed. Knows core and the book's tables; nothing of drawing it.

It is made of what becomes known in turn: the drawing, its regions with their colours, what the press makes of them.
"""

from dataclasses import dataclass, field, replace
from functools import cache, cached_property

import cv2
import numpy as np

from drip_pot.book import (
    Book,
    Facts,
    InkState,
    LineState,
    PageSources,
    Register,
    SheetLine,
    Tables,
    TilePlane,
    build_tables,
)
from drip_pot.book.derive import (
    PIECES,
    Derived,
    Shown,
    facts_of,
    loud_kept,
    loud_of,
    over_rows,
    panels_of,
    partition_of,
)
from drip_pot.book.leftovers import leftovers
from drip_pot.book.proof import proof
from drip_pot.book.ready import Ready
from drip_pot.book.rubbed import NOTHING_RUBBED, RubbedOut
from drip_pot.book.scope import Ground
from drip_pot.book.values import COVER, FLATS, INKS, PASSES, SHEETS
from drip_pot.core.arrays import I32, I64, U8, U32, Bool, Gray, Rect, Report, no_report
from drip_pot.core.holds import LinePieces
from drip_pot.core.inks import Pieces
from drip_pot.core.press import Traps
from drip_pot.core.regions import LOUD, Atoms, Divided, Panels, Partition, auto_gap, changed_rect
from drip_pot.core.render import label_pyramid, level_for, patched_pyramid, plane_pyramid


@dataclass(frozen=True)
class Drawing:
    """The line of the page and the sheet in hand; pyramids are lists of planes, each half the size of the one before.

    Attributes
    ----------
    line : LineState
        What it was made from.
    sheet : SheetLine
        The sheet in hand; `gray`, `evened`, `own` and `pieces` belong to it.
    rest : pyramid or None
        The other sheets, where there are any.
    repair : pyramid or None
        The repair sheet, where something is on it.
    ink : pyramid
        What bounds colour.
    thumbs : dict
        Small pictures of the sheets by number.
    """

    line: LineState
    sheet: SheetLine
    gray: list[U8]
    evened: list[Gray]
    own: list[U8]
    rest: list[U8] | None
    repair: list[U8] | None
    ink: list[U8]
    pieces: Pieces
    is_colored: bool = False
    thumbs: dict[int, U8] = field(default_factory=dict)


@dataclass(frozen=True)
class PaintedPage:
    """What is painted, as pyramids: atoms (0 is paper), line coverage, rows of the line colours.

    Where there are holds, `pieces` are the stroke pieces among those rows, and `feathers` what fades in.
    """

    labels: list[I32]
    ink: list[U8]
    line: list[I32]
    pieces: LinePieces | None = None
    feathers: dict[int, TilePlane] = field(default_factory=dict)


@dataclass(frozen=True)
class Flatted:
    """The regions of the page and their colours, all of one moment.

    Attributes
    ----------
    line : LineState
        The line they were found in, cuts and all.
    labels : pyramid
        Atoms.
    painted, flatting : Painted
        The whole page; the same without lettering, where there is any.
    gap_px : float
        The gap width in use.
    loud : (A + 1,) ndarray of int64, or None
        Loud colour of every atom, where it is wanted.
    panels : Panels or None
        Of this partition, once they are known.
    """

    line: LineState
    divided: Divided
    labels: list[I32]
    partition: Partition
    tables: Tables
    painted: PaintedPage
    flatting: PaintedPage | None = None
    gap_px: float = 0.0
    loud: I64 | None = None
    panels: Panels | None = None

    @property
    def atoms(self) -> Atoms:
        """The finest division."""
        return self.divided.atoms

    @property
    def facts(self) -> Facts:
        """Areas, boxes and borders of the atoms."""
        return facts_of(self.divided)

    @cached_property
    def leftovers(self) -> Bool:
        """Which atoms nobody poured."""
        return leftovers(self.atoms.areas, self.tables.is_left, self.panels)

    def region(self, atom: int) -> list[int]:
        """Return all atoms of the region an atom belongs to; none for 0."""
        region = self.partition.region
        return [] if atom == 0 else [int(a) for a in np.flatnonzero(region == region[atom]) if a]

    def boxes(self, atoms: list[int]) -> list[Rect]:
        """Return where atoms lie on the page."""
        rows = self.divided.boxes[[a for a in atoms if a < len(self.divided.boxes)]]
        return [(int(a), int(b), int(c), int(d)) for a, b, c, d in rows]


@dataclass(frozen=True)
class Proved:
    """What the press makes of the page."""

    traps: Traps
    levels: list[U32]
    register: Register


@dataclass(frozen=True)
class SmallPlates:
    """The plates of the whole page made small.

    Attributes
    ----------
    inks : (m, n, P) ndarray of uint8
        Cyan, magenta, yellow, black, then those beside them.
    proofs : tuple of (m, n, 3) ndarrays of uint8
        As ink on paper: all plates, then each alone.
    shares : tuple of float
        How much of the page each plate covers, 0..1.
    beside : tuple of str
        Names of the inks beside the four.
    """

    inks: U8
    proofs: tuple[U8, ...]
    shares: tuple[float, ...]
    beside: tuple[str, ...] = ()


@dataclass(frozen=True)
class PageView:
    """One moment of the page; what is not known yet is None.

    Attributes
    ----------
    covers : tuple of TilePlane
        Coverage of the passes in their order.
    preview : InkState or None
        Other ink settings, while a slider moves.
    plates : SmallPlates or None
        The plates of the whole page made small, where they are looked at.
    marks : dict
        What was marked in holds, by number.
    rubbed : RubbedOut
        What was rubbed out of plates and of wear.
    """

    drawing: Drawing
    covers: tuple[TilePlane, ...]
    flat: Flatted | None = None
    proved: Proved | None = None
    preview: InkState | None = None
    plates: SmallPlates | None = None
    marks: dict[int, TilePlane] = field(default_factory=dict)
    rubbed: RubbedOut = NOTHING_RUBBED

    @property
    def inks(self) -> InkState:
        """Ink of the sheet in hand."""
        return self.drawing.sheet.inks

    @property
    def shape(self) -> tuple[int, int]:
        """Rows and columns of the page."""
        return self.drawing.gray[0].shape[0], self.drawing.gray[0].shape[1]

    @property
    def levels(self) -> int:
        """How many levels the pyramids have."""
        return len(self.drawing.gray)

    def level(self, zoom: float) -> int:
        """Pyramid level for a zoom."""
        return level_for(zoom, self.levels)


def drawing_of(derived: Derived, sources: PageSources, number: int, repair: TilePlane | None) -> Drawing:
    """Work out the drawing of a page with one of its sheets in hand; `repair` is its repair sheet, if it has one."""
    inks, line = derived.inks, sources.line
    role, sheet = sources[SHEETS][number].role, made_from(sources, number)
    contour, above = inks.contour(line), inks.over(line, sources.over)
    every = contour if above is None else np.maximum(contour, above.ink)
    own = contour if role == "contour" else inks.sheet_ink(line, sheet)
    levels = plane_pyramid(contour)
    return Drawing(
        line, sheet, plane_pyramid(inks.gray(line, sheet)), plane_pyramid(inks.evened(line, sheet)),
        levels if own is contour else plane_pyramid(own), None if every is own else plane_pyramid(every),
        label_pyramid(repair.whole()) if repair is not None and role == "contour" else None,
        levels, inks.pieces(line, sheet), inks.is_colored(sheet),
        {n: thumbnail(inks.sheet_ink(line, made_from(sources, n))) for n in sources[SHEETS]},
    )  # fmt: skip


def made_from(sources: PageSources, number: int) -> SheetLine:
    """Return what a sheet is made from."""
    sheet = sources[SHEETS][number]
    inks = sources[INKS][number]
    return SheetLine(sheet.original, sheet.picture, sheet.place, inks, sheet.covers, sheet.view)


def thumbnail(ink: U8) -> U8:
    """Return coverage reduced to 160 rows, as dark as its line, (160, N) uint8."""
    size = max(1, round(ink.shape[1] * 160 / ink.shape[0])), 160
    small = cv2.resize(ink, size, interpolation=cv2.INTER_AREA)
    return np.asarray(cv2.convertScaleAbs(small, alpha=1.6), np.uint8)


def flatted(book: Book, sources: PageSources, divided: Divided, drawing: Drawing) -> Flatted:
    """Decide the regions of a divided page and put their colours together; its lines are plain until `painted_of`."""
    labels = label_pyramid(divided.atoms.labels)
    gap = gap_of(sources, divided.atoms)
    part = partition_of(divided.atoms, sources, gap)
    tables = build_tables(book, sources, divided.atoms.count, _ground(divided, part, sources))
    painted = PaintedPage(labels, drawing.ink, labels)
    return Flatted(sources.line, divided, labels, part, tables, painted, gap_px=gap)


def _ground(divided: Divided, part: Partition, sources: PageSources) -> Ground:
    """Return what scopes are laid on; panels are found once, where they are asked for."""
    labels, boxes = divided.atoms.labels, divided.boxes
    return Ground(labels, cache(lambda: panels_of(labels, part.region, boxes, sources)))


def gap_of(sources: PageSources, atoms: Atoms) -> float:
    """Return the gap width in use on a page."""
    kept = sources[FLATS].gap_px
    return auto_gap(atoms) if kept is None else kept


def decided(flat: Flatted, sources: PageSources, gap_px: float | None = None) -> Flatted:
    """Decide the regions anew; `gap_px` tries a width."""
    gap = gap_of(sources, flat.atoms) if gap_px is None else gap_px
    return replace(flat, partition=partition_of(flat.atoms, sources, gap), gap_px=gap, loud=None, panels=None)


def loudly(flat: Flatted, before: dict[int, int]) -> dict[int, int]:
    """Choose loud colours; regions keep those they had before where they can."""
    return loud_of(flat.partition.region, flat.facts, before)


def loudly_at_once(flat: Flatted, before: dict[int, int]) -> dict[int, int] | None:
    """Choose loud colours where few are new; None where that would take long."""
    return loud_kept(flat.partition.region, flat.facts, before)


def with_loud(flat: Flatted, chosen: dict[int, int]) -> Flatted:
    """Return regions in the colours chosen; those that have none yet in any."""
    found = [chosen.get(r, r % len(LOUD)) for r in flat.partition.region.tolist()]
    return replace(flat, loud=np.array(found, np.int64))


def with_panels(flat: Flatted, sources: PageSources) -> Flatted:
    """Find the panels."""
    return replace(flat, panels=panels_of(flat.labels[0], flat.partition.region, flat.divided.boxes, sources))


def painted_of(
    derived: Derived, sources: PageSources, tables: Tables, *, pieces: bool, report: Report = no_report
) -> tuple[PaintedPage, PaintedPage | None]:  # fmt: skip
    """Lay out what is painted, and the same without lettering, where there is any; `pieces` wants stroke pieces."""
    found: list[PaintedPage] = []
    for lettering in (True, False) if sources.over.lettering else (True,):
        report(0.2, "Drawing the line")
        shown = derived.painted.shown(sources, lettering=lettering, pieces=pieces)
        report(0.8, "Drawing the line")
        labels = label_pyramid(shown.labels)
        line = labels if shown.line is shown.labels else label_pyramid(shown.line)
        feathers = found[0].feathers if found else derived.painted.feathers(sources, shown, tables.washes)
        found.append(PaintedPage(labels, plane_pyramid(shown.ink), line, shown.pieces, feathers))
    return found[0], found[1] if len(found) > 1 else None


def ready_of(view: PageView, flat: Flatted, level: int = 0, *, lettering: bool = True) -> Ready:
    """Return what the page is painted from at a level of its pyramids."""
    painted = flat.flatting if not lettering and flat.flatting is not None else flat.painted
    shown = Shown(painted.labels[level], painted.ink[level], painted.line[level], painted.pieces, painted.feathers)
    covers = view.covers if len(view.covers) == len(flat.tables.stack) else ()
    ready = Ready(shown, covers, flat.tables, 1 << level, view.marks, view.rubbed)
    return ready if view.proved is None else ready.trapped_by(view.proved.traps)


def small_plates(view: PageView, flat: Flatted) -> SmallPlates:
    """Return the whole page's plates made small, averaged from the level before the smallest."""
    inks, spots = ready_of(view, flat, max(0, len(flat.labels) - 2)).plates(), flat.tables.spots
    rows, cols, count = inks.shape
    size = max(1, cols // 4), max(1, rows // 4)
    planes = [cv2.resize(np.ascontiguousarray(inks[..., k]), size, interpolation=cv2.INTER_AREA) for k in range(count)]
    small = np.stack(planes, axis=-1).astype(np.uint8)
    alone = [tuple(k == plate for k in range(count)) for plate in range(count)]
    condition = flat.tables.press.condition
    proofs = tuple(proof(small, shown, condition, spots=spots) for shown in ((True,) * count, *alone))
    names = tuple(spot.name for spot in spots)
    return SmallPlates(small, proofs, tuple((small.reshape(-1, count).mean(axis=0) / 255).tolist()), names)


def recut(flat: Flatted, after: Divided, book: Book, sources: PageSources) -> tuple[Flatted, Rect | None]:
    """Return the page cut otherwise by hand, and where it differs; None where it does not.

    Balloons stay paper, and lettering and effects keep their colours; lines take the colour of the atom they lie on
    until their holds are known again.
    """
    rect = changed_rect(flat.divided, after)
    part = partition_of(after.atoms, sources, gap_of(sources, after.atoms))
    tables = build_tables(book, sources, after.atoms.count, _ground(after, part, sources))
    if rect is None:
        return replace(flat, line=sources.line, divided=after, tables=tables), None
    labels = patched_pyramid(flat.labels, after.atoms.labels, rect)
    painted = _repainted(flat.painted, flat.labels, labels, rect, flat.atoms.count)
    bare = None if flat.flatting is None else _repainted(flat.flatting, flat.labels, labels, rect, flat.atoms.count)
    cut = replace(
        flat, line=sources.line, divided=after, labels=labels, partition=part, tables=tables, painted=painted,
        flatting=bare, loud=None, panels=None,
    )  # fmt: skip
    return cut, rect


def _repainted(painted: PaintedPage, old: list[I32], new: list[I32], rect: Rect, count: int) -> PaintedPage:
    """Put other atoms into what is painted, within a rectangle; `count` is how many atoms there were."""
    labels = new if painted.labels[0] is old[0] else [plane.copy() for plane in painted.labels]
    line = new if painted.line[0] is old[0] else labels if painted.line is painted.labels else None
    line = [plane.copy() for plane in painted.line] if line is None else line
    top, left, bottom, right = rect
    for level, plane in enumerate(new):
        step = 1 << level
        cut = slice(top // step, -(-bottom // step)), slice(left // step, -(-right // step))
        if line is not new and line is not labels:
            np.copyto(line[level][cut], plane[cut], where=line[level][cut] <= count)
        if labels is not new:
            np.copyto(labels[level][cut], plane[cut], where=labels[level][cut] > 0)
    return PaintedPage(labels, painted.ink, line, painted.pieces, painted.feathers)


def covers_of(book: Book, page: int) -> tuple[TilePlane, ...]:
    """Return the coverage of a page's passes as it is now, in their order."""
    return tuple(book.plane(COVER.key(page, number)).copy() for number in book.sources(page)[PASSES])


def recolored(flat: Flatted, before: Tables, now: Tables, most: int) -> list[Rect] | None:
    """Return where tables draw other colours; None for everywhere, or for more than so many places."""
    count = min(len(before.is_poured), len(now.is_poured))
    old, new = before.screen, now.screen
    if (
        (before.press, before.wear, before.spots) != (now.press, now.wear, now.spots)
        or [one for one, _ in before.own] != [one for one, _ in now.own]
        or [a.key for a in before.stack] != [b.key for b in now.stack]
        or [a.key for a in before.washes] != [b.key for b in now.washes]
        or old.line.shape != new.line.shape
        or not np.array_equal(old.flat[0], new.flat[0])
    ):
        return None
    first = over_rows(len(now.is_poured) - 1)
    lines = _differ(old.lines, new.lines)
    if lines[first : first + PIECES].any():
        return None
    changed = _differ(old.flat, new.flat, count)[:count] | lines[:count]
    atoms = np.flatnonzero(changed).tolist()
    strokes = np.flatnonzero(lines[first + PIECES :])
    if len(atoms) + len(strokes) > most:
        return None
    pieces = flat.painted.pieces
    boxes = [] if pieces is None else [tuple(box) for box in pieces.boxes[strokes].tolist()]
    return [*flat.boxes(atoms), *boxes]


def _differ(one: U8, two: U8, count: int | None = None) -> Bool:
    """Tell which rows of tables of two halves differ, in either half; the first `count` of each."""
    halves = [(t[: len(t) // 2][:count], t[len(t) // 2 :][:count]) for t in (one, two)]
    return np.asarray((halves[0][0] != halves[1][0]).any(axis=1) | (halves[0][1] != halves[1][1]).any(axis=1))


def cut_from(picked: frozenset[int], before: Flatted, now: Flatted, rect: Rect) -> frozenset[int]:
    """Return the atoms that were cut out of what is picked, in a rectangle."""
    cut = slice(rect[0], rect[2]), slice(rect[1], rect[3])
    old, new = before.labels[0][cut], now.labels[0][cut]
    mine = np.isin(old, np.fromiter(picked, np.int32))
    count = now.atoms.count + 1
    inside, whole = np.bincount(new[mine], minlength=count), np.bincount(new.ravel(), minlength=count)
    fresh = np.flatnonzero((whole > 0) & (2 * inside > whole) & (np.arange(count) > before.divided.found.count))
    return frozenset(fresh.tolist())
