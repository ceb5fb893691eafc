# SPDX-License-Identifier: GPL-3.0-or-later
"""A drawing seen at a fixed line scale: regions, outlines, neighbours. Knows planes; nothing of colour or matching.

Every drawing is made small until its line is three pixels wide, so that what is found does not depend on the
resolution that it was scanned in.
"""

from dataclasses import dataclass

import cv2
import numpy as np

from drip_pot.core.arrays import C128, F64, I32, I64, U8, check_plane
from drip_pot.core.errors import BadInput
from drip_pot.core.regions.graph import Borders, find_borders, label_boxes

LINE_PX, MOST_PX = 4.0, 1400
POINTS = 64


@dataclass(frozen=True)
class Scene:
    """A drawing made small; places are x, y in its small pixels.

    Attributes
    ----------
    labels : (m, n) ndarray of int32
        Region of every pixel, 1..R; every region has a pixel at least.
    line : (m, n) ndarray of uint8
        Nearness to the line, 255 on it, falling off over three line widths.
    areas : (R + 1,) ndarray of float64
        Area of every region in small pixels, from its true area.
    middles : (R + 1, 2) ndarray of float64
        Centroids.
    outlines : (R + 1, 64) ndarray of complex128
        Points evenly along the outline about its centroid, of norm 1; zeros where there is too little of it.
    holes : (R + 1,) ndarray of int64
        How many holes each has.
    edge : (R + 1,) ndarray of float64
        Share of the page's edge that each touches.
    borders : Borders
        Who touches whom.
    """

    labels: I32
    line: U8
    areas: F64
    middles: F64
    outlines: C128
    holes: I64
    edge: F64
    borders: Borders

    @property
    def count(self) -> int:
        """How many regions there are."""
        return len(self.areas) - 1


def see(labels: I32, ink: U8, line_px: float, shape: tuple[int, int] | None = None) -> Scene:
    """Make a drawing small and measure its regions.

    Parameters
    ----------
    labels : (M, N) ndarray of int32
        Regions 1..R; none may be missing.
    ink : (M, N) ndarray of uint8
        Line coverage.
    line_px : float
        Usual width of the line.
    shape : tuple of int, optional
        How large the small drawing is to be; worked out from the line where not given.

    Raises
    ------
    BadInput
        If the planes are not of those types, or differ in size.
    """
    check_plane(labels, np.int32, "labels")
    check_plane(ink, np.uint8, "ink")
    if labels.shape != ink.shape:
        raise BadInput("Regions {0} and line {1} differ in size.", labels.shape, ink.shape)
    high, wide = shape or small_shape(labels.shape, line_px)
    small = _small_labels(labels, high, wide)
    count = int(labels.max())
    near = cv2.resize(ink, (wide, high), interpolation=cv2.INTER_AREA)
    bare = (near < 96).view(np.uint8)
    away = np.full(near.shape, np.inf) if bare.all() else cv2.distanceTransform(bare, cv2.DIST_L2, 5)
    line = np.rint(255 * np.exp(-away / (3 * LINE_PX))).astype(np.uint8)
    middles = middles_of(small, count)
    true = np.bincount(labels.ravel(), minlength=count + 1) * (high * wide / labels.size)
    outlines, holes = _outlines(small, count)
    rim = np.concatenate([small[0], small[-1], small[:, 0], small[:, -1]])
    edge = np.bincount(rim, minlength=count + 1) / len(rim)
    return Scene(small, line, np.maximum(true, 1e-6), middles, outlines, holes, edge, find_borders(small))


def small_shape(shape: tuple[int, ...], line_px: float) -> tuple[int, int]:
    """Return rows and columns at which a drawing is looked at."""
    scale = min(1.0, LINE_PX / max(line_px, 1e-6), MOST_PX / max(shape))
    scale = max(scale, min(1.0, 300 / max(shape)))
    return max(2, round(shape[0] * scale)), max(2, round(shape[1] * scale))


def middles_of(labels: I32, count: int) -> F64:
    """Return the centroid x, y of every label 0..count, (count + 1, 2) float64 pixels."""
    rows, cols = np.indices(labels.shape, np.float64)
    flat = labels.ravel()
    seen = np.maximum(np.bincount(flat, minlength=count + 1), 1)
    return np.stack([np.bincount(flat, plane.ravel(), count + 1) / seen for plane in (cols, rows)], axis=1)


def _small_labels(labels: I32, high: int, wide: int) -> I32:
    """Take every pixel nearest to a small one; regions lost so are put back at a pixel of theirs."""
    rows = np.minimum(((np.arange(high) + 0.5) * labels.shape[0] / high).astype(int), labels.shape[0] - 1)
    cols = np.minimum(((np.arange(wide) + 0.5) * labels.shape[1] / wide).astype(int), labels.shape[1] - 1)
    small = np.ascontiguousarray(labels[np.ix_(rows, cols)])
    seen = np.bincount(small.ravel(), minlength=int(labels.max()) + 1)
    lost = np.flatnonzero(seen[1:] == 0) + 1
    if len(lost):
        at = _a_pixel_of(labels, lost)
        r = np.minimum(at[:, 0] * high // labels.shape[0], high - 1)
        c = np.minimum(at[:, 1] * wide // labels.shape[1], wide - 1)
        for label, row, col in zip(lost.tolist(), r.tolist(), c.tolist(), strict=True):
            _put(small, seen, label, row, col)
    return small


def _put(small: I32, seen: I64, label: int, row: int, col: int) -> None:
    """Give a lost region the nearest small pixel that its owner can spare."""
    for reach in range(6):
        box = slice(max(0, row - reach), row + reach + 1), slice(max(0, col - reach), col + reach + 1)
        spare = np.argwhere(seen[small[box]] > 1)
        if len(spare):
            r, c = spare[0] + [box[0].start, box[1].start]
            seen[small[r, c]] -= 1
            small[r, c] = label
            seen[label] += 1
            return


def _a_pixel_of(labels: I32, wanted: I64) -> I64:
    """Return row and column of a middle pixel of each of some labels, (K, 2)."""
    table = np.zeros(int(labels.max()) + 1, bool)
    table[wanted] = True
    rows, cols = np.nonzero(table[labels])
    mine = labels[rows, cols]
    order = np.argsort(mine, kind="stable")
    first = np.searchsorted(mine[order], wanted)
    last = np.searchsorted(mine[order], wanted, "right")
    pick = order[(first + last) // 2]
    return np.stack([rows[pick], cols[pick]], axis=1).astype(np.int64)


def _outlines(labels: I32, count: int) -> tuple[C128, I64]:
    """Return points along the outer outline of every region, and how many holes each has."""
    outlines = np.zeros((count + 1, POINTS), np.complex128)
    holes = np.zeros(count + 1, np.int64)
    boxes = label_boxes(labels, count).tolist()
    for label in range(1, count + 1):
        top, left, bottom, right = boxes[label]
        mask = (labels[top:bottom, left:right] == label).view(np.uint8)
        found, tree = cv2.findContours(np.pad(mask, 1), cv2.RETR_CCOMP, cv2.CHAIN_APPROX_NONE)
        outer = [k for k in range(len(found)) if tree[0, k, 3] < 0]
        holes[label] = len(found) - len(outer)
        if outer:
            outlines[label] = _even(found[max(outer, key=lambda k: len(found[k]))][:, 0].astype(np.float64))
    return outlines, holes


def _even(path: F64) -> C128:
    """Return 64 points evenly along a closed path about their middle, of norm 1; zeros for fewer than six points."""
    if len(path) < 6:
        return np.zeros(POINTS, np.complex128)
    around = np.vstack([path, path[:1]])
    run = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(around, axis=0).T))])
    at = np.linspace(0, run[-1], POINTS, endpoint=False)
    points = np.interp(at, run, around[:, 0]) + 1j * np.interp(at, run, around[:, 1])
    points -= points.mean()
    return np.asarray(points / max(float(np.linalg.norm(points)), 1e-9), np.complex128)
