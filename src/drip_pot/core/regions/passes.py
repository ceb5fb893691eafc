"""Narrow passes of the white space that begin at a corner of the ink. Knows nothing of tips or labels."""

import cv2
import numpy as np
from scipy.spatial import cKDTree

from drip_pot.core.arrays import I64, U8, check_plane

_CORNER_ARC = 5
_CORNER_CHORD = 8.0


def find_passes(barrier: U8, widest_px: float) -> tuple[I64, I64]:
    """Find places where two walls face each other, at least one of them with a corner there.

    Parameters
    ----------
    barrier : (M, N) ndarray of uint8
        1 where there is line.
    widest_px : float
        Widest pass reported.

    Returns
    -------
    feet : (P, 4) ndarray of int64
        Row, column of the nearest ink pixel on each side.
    corners : (P,) ndarray of int64
        How many of the two feet are corners, 1 or 2.

    Notes
    -----
    On the ridge of the distance transform of the white, the nearest ink to the two sides lies in opposite
    directions where the pass is at its narrowest. Of the passes at one corner only the narrowest is kept.
    """
    check_plane(barrier, np.uint8, "barrier")
    corner = corner_mask(barrier)
    if not corner.any():
        return np.zeros((0, 4), np.int64), np.zeros(0, np.int64)
    white = 1 - barrier
    distance, nearest = cv2.distanceTransformWithLabels(white, cv2.DIST_L2, 5, labelType=cv2.DIST_LABEL_PIXEL)
    ink = np.flatnonzero(barrier)
    width = barrier.shape[1]
    near = cv2.compare(distance, widest_px / 2 + 1, cv2.CMP_LE)
    cv2.bitwise_and(near, white, near)
    feet, length = [], []
    for step, kernel in ((1, np.ones((1, 3), np.uint8)), (width, np.ones((3, 1), np.uint8))):
        ridge = cv2.compare(distance, cv2.dilate(distance, kernel), cv2.CMP_GE)
        at = np.flatnonzero(cv2.bitwise_and(ridge, near))
        at = at[(at >= width) & (at < distance.size - width) & (at % width > 0) & (at % width < width - 1)]
        one = ink[nearest.ravel()[at - step] - 1]
        two = ink[nearest.ravel()[at + step] - 1]
        use = corner.ravel()[one] + corner.ravel()[two] > 0
        at, one, two = at[use], one[use], two[use]
        span = np.hypot(one // width - two // width, one % width - two % width)
        reach = distance.ravel()[at - step] + distance.ravel()[at + step]
        use = (span >= 0.93 * reach) & (span > 2.5) & (span <= widest_px + 1)
        feet.append(np.stack([one[use], two[use]], axis=1))
        length.append(span[use])
    ends, span = np.concatenate(feet), np.concatenate(length)
    ends, first = np.unique(np.sort(ends, axis=1), axis=0, return_index=True)
    return _narrowest(ends, span[first], corner, width)


def corner_mask(barrier: U8) -> U8:
    """Mark, with a margin of two pixels, where the outline of the ink turns sharply outwards (1, else 0)."""
    contours, _ = cv2.findContours(barrier, cv2.RETR_LIST, cv2.CHAIN_APPROX_NONE)
    contours = [c for c in contours if len(c) > 4 * _CORNER_ARC]
    mask = np.zeros_like(barrier)
    if not contours:
        return mask
    sizes = np.array([len(c) for c in contours])
    points = np.concatenate(contours).reshape(-1, 2)[:, ::-1]
    starts = np.repeat(np.cumsum(sizes) - sizes, sizes)
    place, size = np.arange(len(points)) - starts, np.repeat(sizes, sizes)
    before = points[starts + (place - _CORNER_ARC) % size]
    after = points[starts + (place + _CORNER_ARC) % size]
    sharp = np.hypot(*(after - before).T) <= _CORNER_CHORD
    sharp &= barrier[tuple(((before + after) // 2).T)] > 0
    mask[tuple(points[sharp].T)] = 1
    return np.asarray(cv2.dilate(mask, np.ones((5, 5), np.uint8)))


def _narrowest(ends: I64, span: I64, corner: U8, width: int) -> tuple[I64, I64]:
    feet = np.stack([ends[:, 0] // width, ends[:, 0] % width, ends[:, 1] // width, ends[:, 1] % width], axis=1)
    if len(feet) == 0:
        return feet, np.zeros(0, np.int64)
    middle = (feet[:, :2] + feet[:, 2:]) / 2
    rank = np.empty(len(feet), np.int64)
    rank[np.lexsort((ends[:, 0], span))] = np.arange(len(feet))
    pairs = cKDTree(middle).query_pairs(9.0, output_type="ndarray")
    keep = np.ones(len(feet), bool)
    keep[np.where(rank[pairs[:, 0]] > rank[pairs[:, 1]], pairs[:, 0], pairs[:, 1])] = False
    corners = corner.ravel()[ends[keep]].astype(np.int64).sum(axis=1)
    return feet[keep].astype(np.int64), corners
