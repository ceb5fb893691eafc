"""Narrow passes of the white space that begin at a corner of the ink. Knows nothing of tips or labels."""

import cv2
import numpy as np
from scipy.spatial import cKDTree

from drip_pot.core.arrays import F64, I64, U8, check_plane
from drip_pot.core.regions.barrier import Outline
from drip_pot.core.strips import Strip, in_strips

_CORNER_ARC = 5
_CORNER_CHORD = 0.82
_ALIKE = 0.8
_TILE = 768


def find_passes(barrier: U8, outline: Outline, widest_px: float) -> tuple[I64, I64]:
    """Find places where two walls face each other, at least one of them with a corner there.

    Parameters
    ----------
    barrier : (M, N) ndarray of uint8
        1 where there is line.
    outline : Outline
        Of the same barrier.
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
    corner = corner_mask(barrier, outline)
    if not corner.any():
        return np.zeros((0, 4), np.int64), np.zeros(0, np.int64)
    width = barrier.shape[1]
    halo = int(widest_px / 2) + 8
    found = in_strips(lambda strip: _passes_in(strip, barrier, corner, widest_px, halo), len(barrier), halo)
    ends, span = (np.concatenate(parts) for parts in zip(*found, strict=True))
    ends, first = np.unique(np.sort(ends, axis=1), axis=0, return_index=True)
    return _narrowest(ends, span[first], corner, width)


def _passes_in(strip: Strip, barrier: U8, corner: U8, widest_px: float, halo: int) -> tuple[I64, F64]:
    """Find the passes whose ridge lies in one strip: page indices of the feet, and the span between them."""
    page_width = barrier.shape[1]
    feet, length = [np.zeros((0, 2), np.int64)], [np.zeros(0)]
    for left in range(0, page_width, _TILE):
        right = min(left + _TILE, page_width)
        cols = slice(max(0, left - halo), min(page_width, right + halo))
        bent = corner[strip.around, cols]
        if bent.any():
            inside = slice(left - cols.start, right - cols.start)
            piece = np.ascontiguousarray(barrier[strip.around, cols])
            ends, span = _passes_of(piece, np.ascontiguousarray(bent), strip.inside, inside, widest_px)
            rows, across = np.divmod(ends, piece.shape[1])
            feet.append((rows + strip.around.start) * page_width + across + cols.start)
            length.append(span)
    return np.concatenate(feet), np.concatenate(length)


def _passes_of(piece: U8, bent: U8, rows: slice, cols: slice, widest_px: float) -> tuple[I64, F64]:
    """Find the passes of a piece whose ridge lies in its inner rows and columns: indices of the feet, and spans."""
    white = 1 - piece
    ink = np.flatnonzero(piece)
    feet, length = [np.zeros((0, 2), np.int64)], [np.zeros(0)]
    if len(ink) == 0:
        return feet[0], length[0]
    distance, nearest = cv2.distanceTransformWithLabels(white, cv2.DIST_L2, 5, labelType=cv2.DIST_LABEL_PIXEL)
    reach_px = 2 * (int(widest_px / 2) + 3) + 1
    near = (distance <= widest_px / 2 + 1).view(np.uint8) & white & cv2.dilate(bent, np.ones((reach_px,) * 2, np.uint8))
    near[: rows.start], near[rows.stop :] = 0, 0
    near[:, : cols.start], near[:, cols.stop :] = 0, 0
    near[[0, -1]], near[:, [0, -1]] = 0, 0
    width, is_bent = piece.shape[1], bent.ravel()
    for step, kernel in ((1, np.ones((1, 3), np.uint8)), (width, np.ones((3, 1), np.uint8))):
        at = np.flatnonzero((distance >= cv2.dilate(distance, kernel)).view(np.uint8) & near)
        one, two = ink[nearest.ravel()[at - step] - 1], ink[nearest.ravel()[at + step] - 1]
        use = is_bent[one] + is_bent[two] > 0
        at, one, two = at[use], one[use], two[use]
        span = np.hypot(one // width - two // width, one % width - two % width)
        reach = distance.ravel()[at - step] + distance.ravel()[at + step]
        use = (span >= 0.93 * reach) & (span > 2.5) & (span <= widest_px + 1)
        feet.append(np.stack([one[use], two[use]], axis=1))
        length.append(span[use])
    return np.concatenate(feet), np.concatenate(length)


def corner_mask(barrier: U8, outline: Outline) -> U8:
    """Mark, with a margin of two pixels, where the outline of the ink turns sharply outwards (1, else 0)."""
    mask = np.zeros_like(barrier)
    long = outline.size > 4 * _CORNER_ARC
    if not long.any():
        return mask
    points, starts, size = outline.points, outline.start, outline.size
    place = np.arange(len(points)) - starts
    before = points[starts + (place - _CORNER_ARC) % size]
    after = points[starts + (place + _CORNER_ARC) % size]
    arms = np.hypot(*(points - before).T) + np.hypot(*(points - after).T)
    sharp = long & (np.hypot(*(after - before).T) <= _CORNER_CHORD * arms)
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
    way = (feet[:, 2:] - feet[:, :2]) / np.maximum(span, 1e-9)[:, None]
    pairs = cKDTree(middle).query_pairs(9.0, output_type="ndarray")
    pairs = pairs[np.abs((way[pairs[:, 0]] * way[pairs[:, 1]]).sum(axis=1)) > _ALIKE]
    keep = np.ones(len(feet), bool)
    keep[np.where(rank[pairs[:, 0]] > rank[pairs[:, 1]], pairs[:, 0], pairs[:, 1])] = False
    corners = corner.ravel()[ends[keep]].astype(np.int64).sum(axis=1)
    return feet[keep].astype(np.int64), corners
