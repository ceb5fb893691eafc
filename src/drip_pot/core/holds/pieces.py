# SPDX-License-Identifier: GPL-3.0-or-later
"""The ink of a page divided into stroke pieces. Knows label planes and coverage only; nothing of pots or holds.

A piece of a border runs along two regions, from where a third one meets them to where the next one does: regions grow
to the middle of the line, so that the places where they meet are its centre-line. What hangs off it (a crease, a
whisker, hatching) are free strokes; what is much thicker than line is a solid black.
"""

from dataclasses import dataclass, field
from typing import Any

import cv2
import numpy as np
import scipy

from drip_pot.core.arrays import F64, I32, I64, U8, Bool, check_plane
from drip_pot.core.holds.forms import RegionForms, region_forms
from drip_pot.core.holds.junctions import Junctions, Meeting, bent_round, find_junctions

BORDER, STROKE, SOLID, DETAIL = range(4)
"""The forms of pieces."""
_REACH, _SLACK_PX, _CRUMB, _END = 1.35, 1.5, 1.5, 1.15
_SOLID = 1.5
_AHEAD = ((0, 1), (1, -1), (1, 0), (1, 1))


@dataclass(frozen=True)
class LinePieces:
    """The stroke pieces of a page.

    Attributes
    ----------
    plane : (M, N) ndarray of int32
        Piece of every pixel of ink, from 1; 0 elsewhere.
    form : (P + 1,) ndarray of uint8
        `BORDER`, `STROKE`, `SOLID` or `DETAIL`.
    sides : (P + 1, 2) ndarray of int64
        The regions to both sides of a border, the lower number first; twice the region that any other piece lies in.
    boxes : (P + 1, 4) ndarray of int64
        Top, left, bottom, right.
    width_px : (P + 1,) ndarray of float64
        Usual width.
    length_px : (P + 1,) ndarray of float64
        How long borders are, about; 0 for other pieces.
    bent : (P + 1,) ndarray of float64
        Which side a border is bent round, as `bent_round` tells.
    junctions : Junctions
        Where borders meet in a T.
    areas : (A + 1,) ndarray of float64
        Pixels of every region.
    region : (A + 1,) ndarray of int64
        Region of every atom.
    edge : (A + 1,) ndarray of bool
        Regions that reach the edge of the page.
    forms : RegionForms
        Of the regions that borders part.
    asked : dict
        What judges were told of the pieces last, and what they said.
    """

    plane: I32
    form: U8
    sides: I64
    boxes: I64
    width_px: F64
    length_px: F64
    bent: F64
    junctions: Junctions
    areas: F64
    region: I64
    edge: Bool
    forms: RegionForms
    asked: dict[str, tuple[Any, F64]] = field(default_factory=dict, repr=False, compare=False)

    @property
    def count(self) -> int:
        """How many pieces there are."""
        return len(self.form) - 1

    def at(self, row: float, col: float, reach_px: float = 0.0) -> int:
        """Return the piece at a page position, or the nearest within a reach; 0 where there is none."""
        rows, cols = self.plane.shape
        r, c, away = int(row), int(col), int(np.ceil(reach_px))
        top, left = max(0, r - away), max(0, c - away)
        near = self.plane[top : min(rows, r + away + 1), left : min(cols, c + away + 1)]
        found = np.argwhere(near > 0)
        if not len(found):
            return 0
        far = ((found + np.array([top - r, left - c])) ** 2).sum(axis=1)
        best = int(far.argmin())
        return int(near[tuple(found[best])]) if far[best] <= max(reach_px, 0.5) ** 2 else 0


def find_line_pieces(
    labels: I32, region: I64, areas: I64, ink: U8, line_px: float, detail: U8 | None = None
) -> LinePieces:
    """Divide the ink of a page into stroke pieces.

    Parameters
    ----------
    labels : (M, N) ndarray of int32
        Atom of every pixel; the line is absorbed to its middle.
    region : (A + 1,) ndarray of int64
        Region of every atom.
    areas : (A + 1,) ndarray of int64
        Pixels of every atom.
    ink : (M, N) ndarray of uint8
        Coverage of what bounds colour.
    line_px : float
        Usual line width in pixels.
    detail : (M, N) ndarray of uint8, optional
        Coverage of line that lies over it and bounds nothing; every stroke of it is a piece of its own.

    Raises
    ------
    BadInput
        If a plane is of another kind.
    """
    check_plane(labels, np.int32, "labels")
    check_plane(ink, np.uint8, "ink")
    meeting = _meeting(labels, region)
    plane = np.zeros(labels.shape, np.int32)
    comp, count = _joined(meeting, plane)
    where = np.flatnonzero(ink)
    depth = cv2.distanceTransform((ink > 127).view(np.uint8), cv2.DIST_L2, 5)
    own, away, reach = _nearest(meeting, comp, count, depth, where)
    solid = _solids(depth, where, line_px)
    flat, at_depth = plane.reshape(-1), depth.reshape(-1)[where]
    flat[where] = own
    free = _numbered(plane.shape, where[(away > reach) & ~solid])
    crumb = np.flatnonzero(free.areas < _CRUMB * line_px**2)
    free = _without(free, crumb[crumb > 0]) if count else free
    blots = _numbered(plane.shape, where[solid])
    shown = np.flatnonzero(detail) if detail is not None else np.zeros(0, np.int64)
    layers = [(free, STROKE), (blots, SOLID), (_numbered(plane.shape, shown), DETAIL)]
    form, boxes = [np.full(count + 1, BORDER, np.uint8)], [_boxes(meeting, comp, count, line_px)]
    sides = np.zeros((count + 1, 2), np.int64)
    sides[comp] = np.column_stack(meeting.pair)
    every, first = [sides], count
    for layer, kind in layers:
        flat[layer.at] = first + layer.number
        inside = region[labels.reshape(-1)[layer.middle]]
        every.append(np.column_stack([inside, inside]))
        form.append(np.full(layer.count, kind, np.uint8))
        boxes.append(layer.boxes)
        first += layer.count
    thick = np.concatenate([where, shown])
    depths = np.concatenate([at_depth, np.full(len(shown), (line_px + 2) / 4)])
    mine = flat[thick]
    total = np.bincount(mine, minlength=first + 1)
    # a line of width w is (w + 2) / 4 px deep on average
    width = np.maximum(4 * np.bincount(mine, depths, first + 1) / np.maximum(total, 1) - 2, 1)
    bent = np.concatenate([bent_round(meeting, comp, count), np.zeros(first - count)])
    long = np.bincount(comp, minlength=first + 1).astype(np.float64)
    whole: F64 = np.bincount(region, areas, len(areas)).astype(np.float64)
    edge = np.zeros(len(region), bool)
    for side in (labels[0], labels[-1], labels[:, 0], labels[:, -1]):
        edge[region[side]] = True
    junctions = find_junctions(meeting, comp, line_px)
    _end_at_bars(plane, junctions, width)
    return LinePieces(plane, np.concatenate(form), np.concatenate(every), np.concatenate(boxes), width, long, bent,
                      junctions, whole, region, edge, region_forms(meeting.plane, sides, len(areas) - 1))  # fmt: skip


def _meeting(labels: I32, region: I64) -> Meeting:
    """Find where regions meet: pixels whose neighbour to the right or below is of another one."""
    plane = np.take(region.astype(np.int32), labels)
    cols = labels.shape[1]
    edge = np.zeros(plane.shape, np.uint8)
    edge[:, :-1] = plane[:, 1:] != plane[:, :-1]
    edge[:-1] |= (plane[1:] != plane[:-1]).view(np.uint8)
    at = np.flatnonzero(edge)
    flat, last = plane.reshape(-1), plane.size - 1
    right = ((at % cols) < cols - 1) & (flat[np.minimum(at + 1, last)] != flat[at])
    other = np.where(right, at + 1, np.minimum(at + cols, last))
    return Meeting(plane, at, other)


def _joined(meeting: Meeting, scratch: I32) -> tuple[I64, int]:
    """Join neighbouring places where the same two regions meet; return the piece of each, from 1, and how many."""
    at, flat = meeting.at, scratch.reshape(-1)
    if not len(at):
        return np.zeros(0, np.int64), 0
    rows, cols = scratch.shape
    keys = meeting.keys
    flat[at] = np.arange(1, len(at) + 1)
    r, c = np.divmod(at, cols)
    ones, twos = [], []
    for down, over in _AHEAD:
        inside = np.flatnonzero((r + down < rows) & (c + over >= 0) & (c + over < cols))
        there = flat[at[inside] + down * cols + over] - 1
        same = (there >= 0) & (keys[there] == keys[inside])
        ones.append(inside[same])
        twos.append(there[same])
    one, two = np.concatenate(ones), np.concatenate(twos)
    graph = scipy.sparse.coo_array((np.ones(len(one), bool), (one, two)), shape=(len(at), len(at)))
    count, comp = scipy.sparse.csgraph.connected_components(graph, directed=False)
    flat[at] = 0
    return comp.astype(np.int64) + 1, int(count)


def _nearest(
    meeting: Meeting, comp: I64, count: int, depth: np.ndarray[tuple[int, int], np.dtype[np.float32]], where: I64
) -> tuple[I64, F64, F64]:
    """Return the border piece nearest to pixels, how far its middle is, and how far it reaches."""
    if not count:
        none = np.zeros(len(where))
        return np.zeros(len(where), np.int64), none + 1, none
    seeds = np.ones(depth.shape, np.uint8)
    seeds.reshape(-1)[meeting.at] = 0
    away, nearest = cv2.distanceTransformWithLabels(seeds, cv2.DIST_L2, 5, labelType=cv2.DIST_LABEL_PIXEL)
    place = nearest.reshape(-1)[where] - 1
    half = np.maximum(depth.reshape(-1)[meeting.at], depth.reshape(-1)[meeting.other]).astype(np.float64)
    inked = half > 0
    size = np.maximum(np.bincount(comp[inked], minlength=count + 1), 1)
    usual = np.bincount(comp[inked], half[inked], count + 1) / size
    half = np.maximum(half, usual[comp])
    return comp[place], away.reshape(-1)[where].astype(np.float64), _REACH * half[place] + _SLACK_PX


def _solids(depth: np.ndarray[tuple[int, int], np.dtype[np.float32]], where: I64, line_px: float) -> Bool:
    """Tell which pixels of ink belong to solid blacks: more than three line widths thick."""
    core = depth > _SOLID * line_px + 1
    if not core.any():
        return np.zeros(len(where), bool)
    away = cv2.distanceTransform(1 - core.view(np.uint8), cv2.DIST_L2, 5)
    return np.asarray(away.reshape(-1)[where] <= _SOLID * line_px + 2)


def _end_at_bars(plane: I32, junctions: Junctions, width_px: F64) -> None:
    """Give the bar of every T its whole width: its stem ends at it, not in it."""
    if not len(junctions.stem):
        return
    rows, cols = plane.shape
    _, first = np.unique(np.column_stack([junctions.bars, junctions.stem]), axis=0, return_index=True)
    bars, stems, at = junctions.bars[first], junctions.stem[first], junctions.at[first]
    half = _END * width_px[bars].max(axis=1) / 2 + 1
    for (row, col), bar, stem, reach in zip(
        at.tolist(), bars[:, 0].tolist(), stems.tolist(), half.tolist(), strict=True
    ):
        top, left = max(0, int(row - reach)), max(0, int(col - reach))
        near = plane[top : min(rows, int(row + reach) + 2), left : min(cols, int(col + reach) + 2)]
        r, c = np.nonzero(near == stem)
        inside = (r + top - row) ** 2 + (c + left - col) ** 2 <= reach**2
        near[r[inside], c[inside]] = bar


@dataclass(frozen=True)
class _Layer:
    """Connected pixels: where they are, the number of each from 1, and area, box and a pixel of every number."""

    at: I64
    number: I64
    count: int
    areas: I64
    boxes: I64
    middle: I64


def _numbered(shape: tuple[int, ...], at: I64) -> _Layer:
    """Give numbers to connected pixels."""
    if not len(at):
        return _Layer(at, at, 0, np.zeros(1, np.int64), np.zeros((0, 4), np.int64), at)
    mask = np.zeros(shape, np.uint8)
    mask.reshape(-1)[at] = 1
    count, found, stats, _ = cv2.connectedComponentsWithStats(mask, connectivity=8, ltype=cv2.CV_32S)
    number = found.reshape(-1)[at].astype(np.int64)
    middle = np.zeros(count, np.int64)
    middle[number[::-1]] = at[::-1]
    left, top, wide, high, area = stats[1:].astype(np.int64).T
    boxes = np.stack([top, left, top + high, left + wide], axis=1)
    return _Layer(at, number, count - 1, np.concatenate([[0], area]), boxes, middle[1:])


def _without(layer: _Layer, gone: I64) -> _Layer:
    """Leave some numbers out."""
    keep = np.ones(layer.count + 1, bool)
    keep[gone] = False
    number = np.cumsum(keep) - 1
    mine = keep[layer.number]
    inside = keep[1:]
    return _Layer(layer.at[mine], number[layer.number[mine]], int(keep[1:].sum()), layer.areas[keep],
                  layer.boxes[inside], layer.middle[inside])  # fmt: skip


def _boxes(meeting: Meeting, comp: I64, count: int, line_px: float) -> I64:
    """Return the boxes of border pieces, (count + 1, 4), a line width around their middles."""
    rows, cols = meeting.plane.shape
    out = np.zeros((count + 1, 4), np.int64)
    if not count:
        return out
    order = np.argsort(comp, kind="stable")
    starts = np.searchsorted(comp[order], np.arange(1, count + 1))
    margin = int(np.ceil(line_px)) + 1
    for axis, place in enumerate(np.divmod(meeting.at[order], cols)):
        most = (rows, cols)[axis]
        out[1:, axis] = np.maximum(np.minimum.reduceat(place, starts) - margin, 0)
        out[1:, axis + 2] = np.minimum(np.maximum.reduceat(place, starts) + margin + 1, most)
    return out
