# SPDX-License-Identifier: GPL-3.0-or-later
"""The forms of regions, and who bites into whom. Knows a plane of regions, seen small; no line, no colour."""

from dataclasses import dataclass

import cv2
import numpy as np

from drip_pot.core.arrays import F64, I32, I64, U8
from drip_pot.core.regions.graph import label_boxes

_LONG_PX, _MOST_POINTS = 900, 1 << 14


@dataclass(frozen=True)
class RegionForms:
    """The forms of regions, and of pairs that touch.

    Attributes
    ----------
    boxes : (A + 1, 4) ndarray of float64
        Top, left, bottom, right as shares of the page's rows and columns; 0 for regions too small to be seen.
    middle : (A + 1,) ndarray of float64
        The middle row, as a share of the page's rows.
    full : (A + 1,) ndarray of float64
        How much of its convex hull a region fills, 0..1; 1 for regions too small to be seen.
    keys : (K,) ndarray of int64
        Pairs of regions, ascending: one number times the count of regions, and the other number.
    in_hull, in_outline : (K,) ndarrays of float64
        How much of the second region of a pair lies in the convex hull of the first, and inside its outline, 0..1.
    """

    boxes: F64
    middle: F64
    full: F64
    keys: I64
    in_hull: F64
    in_outline: F64

    def of(self, one: I64, two: I64) -> tuple[F64, F64]:
        """Return how much of regions `two`, (N,), lies in the hulls and in the outlines of regions `one`, (N,)."""
        if not len(self.keys):
            return np.zeros(len(one)), np.zeros(len(one))
        wanted = one * len(self.full) + two
        place = np.minimum(np.searchsorted(self.keys, wanted), len(self.keys) - 1)
        known = self.keys[place] == wanted
        return np.where(known, self.in_hull[place], 0.0), np.where(known, self.in_outline[place], 0.0)


def region_forms(plane: I32, sides: I64, count: int) -> RegionForms:
    """Look at the regions of a page, seen at no more than some 900 px.

    Parameters
    ----------
    plane : (M, N) ndarray of int32
        Region of every pixel, 0..A.
    sides : (P + 1, 2) ndarray of int64
        Pairs of regions that are asked for.
    count : int
        The highest number of a region.

    Raises
    ------
    BadInput
        If the plane is of another kind.
    """
    step = max(1, -(-max(plane.shape) // _LONG_PX))
    small = np.ascontiguousarray(plane[step // 2 :: step, step // 2 :: step])
    boxes = label_boxes(small, count)
    size = np.bincount(small.reshape(-1), minlength=count + 1).astype(np.float64)
    pairs = np.unique(np.concatenate([sides, sides[:, ::-1]]), axis=0)
    pairs = pairs[(pairs[:, 0] != pairs[:, 1]) & (size[pairs] > 0).all(axis=1)]
    full, place = np.ones(count + 1), np.zeros(count + 1, np.int64)
    hull_of, outline_of = np.zeros(len(pairs)), np.zeros(len(pairs))
    starts = np.searchsorted(pairs[:, 0], np.arange(count + 2))
    for region in np.unique(pairs[:, 0]).tolist():
        top, left, bottom, right = boxes[region].tolist()
        near = small[top:bottom, left:right]
        hull, outline = _filled((near == region).view(np.uint8))
        others = pairs[starts[region] : starts[region + 1], 1]
        place[others] = np.arange(1, len(others) + 1)
        for mask, out in ((hull, hull_of), (outline, outline_of)):
            inside = np.bincount(place[near[mask > 0]], minlength=len(others) + 1)[1:]
            out[starts[region] : starts[region + 1]] = inside / size[others]
        place[others] = 0
        full[region] = size[region] / max(int(np.count_nonzero(hull)), 1)
    seen = size > 0
    scale = np.array([small.shape[0], small.shape[1]] * 2, np.float64)
    shares = np.where(seen[:, None], boxes / scale, 0.0)
    middle = np.bincount(small.reshape(-1), np.repeat(np.arange(small.shape[0]), small.shape[1]), count + 1)
    return RegionForms(shares, middle / np.maximum(size, 1) / small.shape[0], np.minimum(full, 1.0),
                       pairs[:, 0] * (count + 1) + pairs[:, 1], hull_of, outline_of)  # fmt: skip


def _filled(mask: U8) -> tuple[U8, U8]:
    """Return the convex hull of a region and what lies inside its outline, both with the region itself."""
    edges, _ = cv2.findContours(mask, cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_NONE)
    outline = cv2.drawContours(mask.copy(), edges, -1, 1, cv2.FILLED)
    hull = cv2.fillConvexPoly(mask.copy(), cv2.convexHull(np.concatenate(edges)), 1)
    return np.asarray(hull, np.uint8), np.asarray(outline, np.uint8)
