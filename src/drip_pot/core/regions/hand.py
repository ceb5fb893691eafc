# SPDX-License-Identifier: GPL-3.0-or-later
"""What a hand does to the division of a page: dams, cut-outs, doors, joins. Knows atoms; touches only what it parts.

Cuts are laid in the order they were made, each on a known number of atoms; what a cut covered is kept with it, so that
taking it back costs as little as making it. The result depends on the cuts alone, not on the way there.
"""

import zlib
from collections.abc import Sequence
from dataclasses import dataclass, replace
from itertools import pairwise

import cv2
import msgspec
import numpy as np

from drip_pot.core.arrays import F64, I32, I64, U8, Bool, Rect, copied
from drip_pot.core.errors import BadInput
from drip_pot.core.regions.atoms import Atoms, find_edges
from drip_pot.core.regions.barrier import barrier_floor, draw_barrier
from drip_pot.core.regions.gaps import bridge_paths
from drip_pot.core.regions.graph import Borders, find_borders, label_boxes
from drip_pot.core.regions.judge import components

Path = tuple[tuple[float, float], ...]
"""A stroke: rows and columns in page pixels."""
_LEAST_PX = 4
_MARGIN = 2
_HALO = 3
_SHARE_PX = 48


class Stencil(msgspec.Struct, frozen=True):
    """A hard-edged area cut out by hand.

    Attributes
    ----------
    top, left, rows, cols : int
        Where it lies on the page, in pixels.
    bits : bytes
        Its mask, packed row by row and deflated; see `mask`.
    back : bool
        Whether it gives what was cut out back to the regions it was taken from, instead of making a region.
    """

    top: int
    left: int
    rows: int
    cols: int
    bits: bytes
    back: bool = False

    @property
    def rect(self) -> Rect:
        """Where it lies."""
        return self.top, self.left, self.top + self.rows, self.left + self.cols

    def mask(self) -> Bool:
        """Return its mask, (rows, cols) bool; raises `BadInput` if its bits are damaged."""
        try:
            raw = zlib.decompressobj().decompress(self.bits, max(1, -(-self.rows * self.cols // 8)))
            bits = np.unpackbits(np.frombuffer(raw, np.uint8), count=self.rows * self.cols)
        except (zlib.error, ValueError) as error:
            raise BadInput("The shape of a cut-out is damaged; it was left out.") from error
        return bits.reshape(self.rows, self.cols).view(bool)


def make_stencil(rect: Rect, mask: Bool, *, back: bool = False) -> Stencil | None:
    """Make a cut-out from an (m, n) bool mask that covers `rect`, trimmed to what it marks; None for an empty mask."""
    rows, cols = np.flatnonzero(mask.any(axis=1)), np.flatnonzero(mask.any(axis=0))
    if len(rows) == 0:
        return None
    piece = mask[rows[0] : rows[-1] + 1, cols[0] : cols[-1] + 1]
    bits = zlib.compress(np.packbits(piece).tobytes(), 6)
    return Stencil(rect[0] + int(rows[0]), rect[1] + int(cols[0]), piece.shape[0], piece.shape[1], bits, back)


Cut = Path | Stencil
"""A dam is a path; a cut-out is a stencil."""


@dataclass(frozen=True)
class CutStep:
    """A cut that was laid.

    Attributes
    ----------
    cut : Path or Stencil
        What was laid.
    rect : Rect
        The pixels it may have changed; all 0 where it parted nothing.
    before : bytes
        The labels in `rect` before it, int32, deflated; see `patch`.
    count : int
        The number of atoms before it.
    """

    cut: Cut
    rect: Rect
    before: bytes
    count: int

    def patch(self) -> I32:
        """Return the labels in `rect` before it, (m, n) int32."""
        shape = self.rect[2] - self.rect[0], self.rect[3] - self.rect[1]
        return np.frombuffer(zlib.decompress(self.before), np.int32).reshape(shape)


@dataclass(frozen=True)
class Divided:
    """A page divided by its line and by hand.

    Attributes
    ----------
    found : Atoms
        The page as its line divides it.
    atoms : Atoms
        The page as it is.
    boxes : (A + 1, 4) ndarray of int64
        Top, left, bottom, right of a rectangle that holds every atom.
    roots : (A + 1,) ndarray of int64
        The found atom every atom is a piece of; for one that was cut out (or a piece of it) the number it was made by.
    steps : tuple of Step
        The cuts in the order they were laid.
    """

    found: Atoms
    atoms: Atoms
    boxes: I64
    roots: I64
    steps: tuple[CutStep, ...] = ()


def undivided(found: Atoms) -> Divided:
    """Return a page without cuts."""
    return Divided(found, found, label_boxes(found.labels, found.count), np.arange(found.count + 1))


def divide(before: Divided, ink: U8, cuts: Sequence[Cut]) -> Divided:
    """Cut a page.

    Parameters
    ----------
    before : Divided
        The same page with other cuts, or none; the more of them it shares from the start, the less there is to do.
    ink : (M, N) ndarray of uint8
        The contour it was divided by.
    cuts : sequence of paths and stencils
        In the order they were made. Where a dam parts an atom, its largest piece keeps the number and the others get
        the next ones. A cut-out is one new atom, however many pieces it has, or gives back what earlier ones took.

    Returns
    -------
    Divided
        Numbers, areas, borders and edges are those that the cuts would give on the page as it was found.
    """
    shared = _shared(before.steps, cuts)
    if shared == len(before.steps) == len(cuts):
        return before
    laying = _Laying(before, ink, shared)
    for cut in cuts[shared:]:
        laying.lay(cut)
    return laying.result()


def _shared(steps: Sequence[CutStep], cuts: Sequence[Cut]) -> int:
    """How many cuts from the start are the same."""
    for place, (step, cut) in enumerate(zip(steps, cuts, strict=False)):
        if step.cut is not cut and step.cut != cut:
            return place
    return min(len(steps), len(cuts))


def changed_rect(before: Divided, after: Divided) -> Rect | None:
    """Return the rectangle in which two divisions of a page can differ; None if they are the same."""
    if before.found is not after.found:
        rows, cols = after.found.labels.shape
        return 0, 0, rows, cols
    shared = _shared(before.steps, [step.cut for step in after.steps])
    return _around([step.rect for step in (*before.steps[shared:], *after.steps[shared:])])


def carry_pots(before: Divided, after: Divided, pots: dict[int, int]) -> dict[int, int | None]:
    """Say which atoms' pots change when a page is cut otherwise.

    Parameters
    ----------
    before, after : Divided
        The same page.
    pots : dict
        Pot by atom, in `before`.

    Returns
    -------
    dict
        Pot (None for paper) of every atom whose pot is not what it was: new atoms take the pot they lie on most. One
        that is covered wholly keeps its pot, for when it comes to light again.
    """
    rect = changed_rect(before, after)
    if rect is None:
        return {}
    cut = slice(rect[0], rect[2]), slice(rect[1], rect[3])
    old, new = before.atoms.labels[cut], after.atoms.labels[cut]
    shared = _shared(before.steps, [step.cut for step in after.steps])
    lasting = min(s.steps[shared].count if shared < len(s.steps) else s.atoms.count for s in (before, after))
    here = np.flatnonzero(np.bincount(new.ravel(), minlength=1))
    here = here[here > lasting]
    wanted: dict[int, int | None] = {atom: None for atom in pots if atom > lasting}
    if len(here):
        mine = np.isin(new, here)
        keys, size = np.unique((new[mine].astype(np.int64) << 32) | old[mine], return_counts=True)
        weight: dict[int, dict[int | None, int]] = {}
        for atom, was, px in zip((keys >> 32).tolist(), (keys & 0xFFFFFFFF).tolist(), size.tolist(), strict=True):
            share = weight.setdefault(atom, {})
            share[pots.get(was)] = share.get(pots.get(was), 0) + px
        for atom, share in weight.items():
            wanted[atom] = max(share, key=lambda pot: (share[pot], pot is not None, pot or 0))
    return {atom: pot for atom, pot in wanted.items() if pots.get(atom) != pot}


def _around(rects: Sequence[Rect]) -> Rect | None:
    real = np.array([r for r in rects if r[2] > r[0]], np.int64).reshape(-1, 4)
    if len(real) == 0:
        return None
    top, left = real[:, :2].min(axis=0).tolist()
    bottom, right = real[:, 2:].max(axis=0).tolist()
    return top, left, bottom, right


class _Laying:
    """A division in the making: a copy of the labels that cuts are taken off and laid on."""

    def __init__(self, before: Divided, ink: U8, shared: int) -> None:
        self.before, self.ink, self.floor = before, ink, barrier_floor(ink)
        self.labels = copied(before.atoms.labels)
        self.steps = list(before.steps[:shared])
        self.rects: list[Rect] = []
        count = before.atoms.count
        for step in reversed(before.steps[shared:]):
            if step.rect[2] > step.rect[0]:
                self.labels[_slices(step.rect)] = step.patch()
            self.rects.append(step.rect)
            count = step.count
        self.boxes = [before.boxes[: count + 1].copy()]
        self.roots = before.roots[: count + 1].tolist()

    @property
    def count(self) -> int:
        return len(self.roots) - 1

    def lay(self, cut: Cut) -> None:
        laid = self._stencil(cut) if isinstance(cut, Stencil) else self._dam(cut)
        count = self.count
        rect, patch = (0, 0, 0, 0), b""
        if laid is not None:
            rect, after, roots, boxes = laid
            patch = zlib.compress(self.labels[_slices(rect)].tobytes(), 1)
            self.labels[_slices(rect)] = after
            self.roots += roots
            self.boxes.append(boxes)
            self.rects.append(rect)
        self.steps.append(CutStep(cut, rect, patch, count))

    def _stencil(self, cut: Stencil) -> tuple[Rect, I32, list[int], I64] | None:
        rect, mask = self._clipped(cut)
        if not mask.any():
            return None
        after = self.labels[_slices(rect)].copy()
        fresh = self.count + 1
        if not cut.back:
            after[mask] = fresh
            return rect, after, [fresh], np.array([rect], np.int64)
        for step in reversed(self.steps):
            if isinstance(step.cut, Stencil) and not step.cut.back and step.rect[2] > step.rect[0]:
                self._give_back(after, mask, rect, step)
        if (after == self.labels[_slices(rect)]).all():
            return None
        known = np.concatenate(self.boxes)
        grown = np.unique(after[mask])
        known[grown, :2] = np.minimum(known[grown, :2], rect[:2])
        known[grown, 2:] = np.maximum(known[grown, 2:], rect[2:])
        self.boxes = [known]
        return rect, after, [], np.zeros((0, 4), np.int64)

    def _give_back(self, after: I32, mask: Bool, rect: Rect, step: CutStep) -> None:
        """Put back, inside a mask, what a cut-out covered."""
        top, left = max(rect[0], step.rect[0]), max(rect[1], step.rect[1])
        bottom, right = min(rect[2], step.rect[2]), min(rect[3], step.rect[3])
        if bottom <= top or right <= left:
            return
        made = step.count + 1
        family = [atom for atom, root in enumerate(self.roots[made:], made) if root == made]
        own = slice(top - rect[0], bottom - rect[0]), slice(left - rect[1], right - rect[1])
        theirs = slice(top - step.rect[0], bottom - step.rect[0]), slice(left - step.rect[1], right - step.rect[1])
        where = mask[own] & np.isin(after[own], family)
        after[own][where] = step.patch()[theirs][where]

    def _clipped(self, cut: Stencil) -> tuple[Rect, Bool]:
        rows, cols = self.labels.shape
        top, left, bottom, right = cut.rect
        rect = max(top, 0), max(left, 0), min(bottom, rows), min(right, cols)
        if rect[2] <= rect[0] or rect[3] <= rect[1]:
            return (0, 0, 0, 0), np.zeros((0, 0), bool)
        return rect, cut.mask()[rect[0] - top : rect[2] - top, rect[1] - left : rect[3] - left]

    def _dam(self, dam: Path) -> tuple[Rect, I32, list[int], I64] | None:
        wall_rect, wall = _drawn(dam, self.labels.shape)
        if not wall.any():
            return None
        met = np.unique(self.labels[_slices(wall_rect)][wall])
        solid = set(self.before.found.solids.tolist())
        under = [atom for atom in met.tolist() if self.roots[atom] not in solid]
        rect = _around([_grown(tuple(np.concatenate(self.boxes)[atom].tolist()), self.labels.shape) for atom in under])
        if rect is None:
            return None
        after = self.labels[_slices(rect)].copy()
        line = draw_barrier(self.ink[_slices(rect)], self.floor)
        dammed = np.zeros(after.shape, bool)
        inside = _meet(wall_rect, rect)
        dammed[_local(inside, rect)] = wall[_local(inside, wall_rect)]
        fresh, boxes = self.count, []
        roots: list[int] = []
        for atom in under:
            own = self.labels[_slices(rect)] == atom
            white = own if self.roots[atom] > self.before.found.count else own & (line == 0)
            for place, piece in _parted(own, white, dammed):
                fresh += 1
                after[_slices(place)][piece] = fresh
                roots.append(self.roots[atom])
                boxes.append(_placed(piece, (place[0] + rect[0], place[1] + rect[1], 0, 0)))
        small = _around(boxes)
        if small is None:
            return None
        return small, after[_local(small, rect)], roots, np.array(boxes, np.int64)

    def result(self) -> Divided:
        boxes, roots = np.concatenate(self.boxes), np.array(self.roots, np.int64)
        rect = _around(self.rects)
        atoms = self.before.atoms
        if rect is not None:
            rect = _grown(rect, self.labels.shape)
            atoms = _counted(self.before, self.labels, roots, rect, self.ink)
        return Divided(self.before.found, atoms, boxes, roots, tuple(self.steps))


def _slices(rect: Rect) -> tuple[slice, slice]:
    return slice(rect[0], rect[2]), slice(rect[1], rect[3])


def _local(rect: Rect, outer: Rect) -> tuple[slice, slice]:
    return (slice(rect[0] - outer[0], rect[2] - outer[0]), slice(rect[1] - outer[1], rect[3] - outer[1]))


def _meet(one: Rect, two: Rect) -> Rect:
    top, left = max(one[0], two[0]), max(one[1], two[1])
    return top, left, max(top, min(one[2], two[2])), max(left, min(one[3], two[3]))


def _grown(rect: Sequence[int], shape: tuple[int, ...], by: int = _MARGIN) -> Rect:
    return max(0, rect[0] - by), max(0, rect[1] - by), min(shape[0], rect[2] + by), min(shape[1], rect[3] + by)


def _placed(piece: Bool, rect: Rect) -> Rect:
    rows, cols = np.flatnonzero(piece.any(axis=1)), np.flatnonzero(piece.any(axis=0))
    top, left = rect[0], rect[1]
    return top + int(rows[0]), left + int(cols[0]), top + int(rows[-1]) + 1, left + int(cols[-1]) + 1


def _drawn(path: Path, shape: tuple[int, ...]) -> tuple[Rect, Bool]:
    """Draw a stroke one pixel wide: where it lies on the page, and its mask there."""
    points = np.rint(np.clip(np.array(path, np.float64).reshape(-1, 2), -1e6, 1e6)).astype(np.int64)
    low, high = points.min(axis=0), points.max(axis=0) + 1
    rect = _meet((int(low[0]), int(low[1]), int(high[0]), int(high[1])), (0, 0, shape[0], shape[1]))
    plane = np.zeros((rect[2] - rect[0], rect[3] - rect[1]), np.uint8)
    if plane.size:
        cv2.polylines(plane, [(points - rect[:2])[:, ::-1].astype(np.int32)], False, 1, 1, cv2.LINE_8)
    return rect, plane.view(bool)


def _parted(own: Bool, white: Bool, dammed: Bool) -> list[tuple[Rect, Bool]]:
    """Return where the pieces lie that a wall cuts off an atom, and their masks, its line shared out to the middle.

    Of pieces that only the wall holds apart the largest is left out; what was apart before is not touched.
    """
    wall = white & dammed
    if not wall.any():
        return []
    found, pieces, stats, _ = cv2.connectedComponentsWithStats(
        (white & ~dammed).view(np.uint8), connectivity=4, ltype=cv2.CV_32S
    )
    area = stats[:, cv2.CC_STAT_AREA]
    cut_off: list[int] = []
    for group in _beside(wall, pieces):
        large = [piece for piece in group if area[piece] >= _LEAST_PX]
        large.sort(key=lambda piece: (-area[piece], piece))
        cut_off += large[1:]
    if not cut_off:
        return []
    rank = np.zeros(found, np.int32)
    rank[0], rank[cut_off] = -1, np.arange(1, len(cut_off) + 1)
    boxes = [(top, left, top + high, left + wide) for left, top, wide, high in stats[cut_off][:, :4].tolist()]
    around = _around(boxes)
    assert around is not None
    place = _grown(around, own.shape, _SHARE_PX)
    seeds = rank[pieces[_slices(place)]]
    _, nearest = cv2.distanceTransformWithLabels(
        (seeds < 0).view(np.uint8), cv2.DIST_L2, 5, labelType=cv2.DIST_LABEL_PIXEL
    )
    filled = seeds[seeds >= 0][nearest - 1]
    return [(place, own[_slices(place)] & (filled == number)) for number in range(1, len(cut_off) + 1)]


def _beside(wall: Bool, pieces: I32) -> list[list[int]]:
    """Group the pieces that touch the same stretch of a wall, or stretches that share a piece."""
    rows, cols = np.nonzero(wall)
    rect = _grown((int(rows.min()), int(cols.min()), int(rows.max()) + 1, int(cols.max()) + 1), wall.shape, 1)
    near = pieces[_slices(rect)]
    count, stretch = cv2.connectedComponents(wall[_slices(rect)].view(np.uint8), connectivity=8, ltype=cv2.CV_32S)
    links = []
    for one, two in ((np.s_[1:], np.s_[:-1]), (np.s_[:-1], np.s_[1:]), (np.s_[:, 1:], np.s_[:, :-1]),
                     (np.s_[:, :-1], np.s_[:, 1:])):  # fmt: skip
        both = (stretch[one] > 0) & (near[two] > 0)
        links.append(np.stack([stretch[one][both], near[two][both]], axis=1))
    pairs = np.unique(np.concatenate(links), axis=0).astype(np.int64)
    known, number = np.unique(pairs[:, 1], return_inverse=True)
    root = components(count + len(known), pairs[:, 0], count + number)[count:]
    return [known[root == r].tolist() for r in np.unique(root)]


def _counted(before: Divided, labels: I32, roots: I64, rect: Rect, ink: U8) -> Atoms:
    """Count areas, borders and edges anew in the rectangle where labels changed."""
    atoms, found = before.atoms, before.found
    count = len(roots) - 1
    old, new = (np.ascontiguousarray(plane[_slices(rect)]) for plane in (atoms.labels, labels))
    most = max(count, atoms.count) + 1
    areas = np.zeros(most, np.int64)
    areas[: atoms.count + 1] = atoms.areas
    areas += np.bincount(new.ravel(), minlength=most) - np.bincount(old.ravel(), minlength=most)
    less, more = find_borders(old), find_borders(new)
    pairs = np.concatenate([atoms.borders.pairs, less.pairs, more.pairs])
    unique, which = np.unique(pairs, axis=0, return_inverse=True)
    lengths = np.concatenate([atoms.borders.length_px, -less.length_px, more.length_px])
    total = np.bincount(which.reshape(-1), weights=lengths).astype(np.int64)
    borders = Borders(unique[total > 0], total[total > 0])
    edges, verdict = _edges(before, labels, roots, rect, ink)
    return replace(
        found, labels=labels, count=count, areas=areas[: count + 1], borders=borders, edges=edges, verdict=verdict
    )


def _edges(before: Divided, labels: I32, roots: I64, rect: Rect, ink: U8) -> tuple[I64, F64]:
    """Find the edges of the bridges near a rectangle anew; an atom that was cut out has none."""
    bridges, found = before.found.bridges, before.found
    spots = np.concatenate([bridges.feet, np.rint(bridges.bend)], axis=1)
    low = np.minimum(np.minimum(spots[:, :2], spots[:, 2:4]), spots[:, 4:]).astype(np.int64)
    high = np.maximum(np.maximum(spots[:, :2], spots[:, 2:4]), spots[:, 4:]).astype(np.int64) + 1
    near = (high >= rect[:2]).all(axis=1) & (low <= rect[2:]).all(axis=1)
    kept = ~near[before.atoms.edges[:, 2]]
    chosen = np.flatnonzero(near)
    if len(chosen) == 0:
        return before.atoms.edges, before.atoms.verdict
    box = _grown((*low[near].min(axis=0).tolist(), *high[near].max(axis=0).tolist()), labels.shape, _HALO)
    some = bridges.some(near)
    box = box[0] & ~1, box[1] & ~1, box[2], box[3]  # halves are rounded to even, so that evenness has to stay
    corner = np.array(box[:2])
    some = replace(some, feet=some.feet - np.tile(corner, 2), bend=some.bend - corner)
    piece = np.ascontiguousarray(labels[_slices(box)])
    barrier = draw_barrier(np.ascontiguousarray(ink[_slices(box)]), barrier_floor(ink))
    again = find_edges(piece, barrier, *bridge_paths(some, piece.shape))
    again = again[(roots[again[:, :2]] <= found.count).all(axis=1)]
    again = np.column_stack([again[:, :2], chosen[again[:, 2]]]) if len(again) else again.reshape(-1, 3)
    judged = {tuple(edge): value for edge, value in zip(found.edges.tolist(), found.verdict.tolist(), strict=True)}
    best = np.zeros(len(bridges))
    np.maximum.at(best, found.edges[:, 2], found.verdict)
    ends = np.sort(roots[again[:, :2]], axis=1)
    verdict = [
        judged.get((a, b, bridge), float(best[bridge]))
        for (a, b), bridge in zip(ends.tolist(), again[:, 2].tolist(), strict=True)
    ]
    edges = np.concatenate([before.atoms.edges[kept], again])
    values = np.concatenate([before.atoms.verdict[kept], np.array(verdict, np.float64)])
    order = np.lexsort((edges[:, 2], edges[:, 1], edges[:, 0]))
    return edges[order], values[order]


def stroke_pixels(path: Path, shape: tuple[int, ...]) -> I64:
    """Return the pixels along a stroke, in order, (K, 2) int64 rows and columns; those beside the page are left out."""
    points: F64 = np.array(path, np.float64).reshape(-1, 2)
    at = [points[:1]]
    for a, b in pairwise(points):
        steps = int(np.abs(b - a).max()) + 1
        at.append(a + (b - a) * np.linspace(0, 1, steps + 1)[1:, None])
    spots = np.rint(np.concatenate(at)).astype(np.int64)
    return spots[((spots >= 0) & (spots < np.array(shape))).all(axis=1)]


def door_links(labels: I32, door: Path) -> I64:
    """List which atoms a door joins: (L, 2) int64, those that follow one another along the stroke."""
    return _links(labels, stroke_pixels(door, labels.shape))


def join_links(labels: I32, spots: Path) -> I64:
    """List which atoms are joined by naming a pixel of each: (L, 2) int64; spots beside the page join nothing."""
    at = np.rint(np.array(spots, np.float64).reshape(-1, 2)).astype(np.int64)
    return _links(labels, at[((at >= 0) & (at < np.array(labels.shape))).all(axis=1)])


def _links(labels: I32, spots: I64) -> I64:
    met = labels[spots[:, 0], spots[:, 1]].astype(np.int64)
    links = np.stack([met[:-1], met[1:]], axis=1) if len(met) > 1 else np.zeros((0, 2), np.int64)
    return np.unique(np.sort(links[links[:, 0] != links[:, 1]], axis=1), axis=0)
