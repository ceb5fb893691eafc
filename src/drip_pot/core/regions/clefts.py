# SPDX-License-Identifier: GPL-3.0-or-later
"""Clefts: narrow places of the white where two walls face each other. Knows nothing of stroke ends or labels."""

import cv2
import numpy as np

from drip_pot.core.arrays import F64, I16, I64, U8, Bool, check_plane
from drip_pot.core.near import close_pairs
from drip_pot.core.regions.barrier import Chain, Outline
from drip_pot.core.regions.rivals import greedy
from drip_pot.core.strips import Strip, at_once, in_pieces, in_strips

DEPTH_SCALE = 8.0
_FAR = 63.5
_CORNER_ARC = 5
_CORNER_CHORD = 0.82
_ALIKE = 0.8
_NEAR_PX = 9.0
_WIDER, _WIDER_PX = 1.3, 0.8
_AWAY = (0.4, 0.7, 1.0, 1.5, 2.0)


def find_clefts(barrier: U8, outline: Outline, widest_px: float, line_px: float) -> tuple[I64, I64, I16]:
    """Find places where two walls face each other, and how far every pixel lies from the edge of the ink.

    Parameters
    ----------
    barrier : (M, N) ndarray of uint8
        1 where there is line.
    outline : Outline
        Of the same barrier.
    widest_px : float
        Widest cleft reported.
    line_px : float
        Usual line width.

    Returns
    -------
    feet : (P, 4) ndarray of int64
        Row, column of the nearest ink pixel on each side.
    corners : (P,) ndarray of int64
        How many of the two feet are corners of the ink, 0..2.
    depth : (M, N) ndarray of int16
        Distance to the nearest ink of white pixels, less than zero in ink to the nearest white, in eighths of a
        pixel; what lies farther than about 70 pixels may be given as nearer.

    Raises
    ------
    BadInput
        If an array has another shape or type.

    Notes
    -----
    On the ridge of the distance transform of the white, the nearest ink to the two sides lies in opposite
    directions where the white is at its narrowest. A cleft counts where one of its feet is a corner or where the
    white widens to both sides, as it does between the round ends of a broken stroke. Of clefts side by side the
    narrowest is kept, then the narrowest of those that it does not suppress, and so on.
    """
    check_plane(barrier, np.uint8, "barrier")
    halo, depth = int(_FAR) + 8, np.empty(barrier.shape, np.int16)
    corner, found = at_once(
        lambda: corner_mask(barrier, outline),
        lambda: in_strips(lambda strip: _clefts_in(strip, barrier, widest_px, depth[strip.rows]), len(barrier), halo),
    )
    ends, span, ridge = (np.concatenate([part[k] for part in found]) for k in range(3))
    if len(ends) == 0:
        return np.zeros((0, 4), np.int64), np.zeros(0, np.int64), depth
    is_corner = corner.ravel()
    corners = is_corner[ends[:, 0]].astype(np.int64) + is_corner[ends[:, 1]]
    width = barrier.shape[1]
    feet = np.stack([ends[:, 0] // width, ends[:, 0] % width, ends[:, 1] // width, ends[:, 1] % width], axis=1)
    unsure = np.flatnonzero(corners == 0)
    wide = in_pieces(
        lambda k: _widens(depth, feet[unsure[k]], span[unsure[k]], ridge[unsure[k]], line_px), len(unsure), 1 << 16
    )
    chosen = np.sort(np.concatenate([np.flatnonzero(corners), unsure[np.concatenate(wide)]]))
    chosen = chosen[_narrowest(feet[chosen], span[chosen])]
    return feet[chosen], corners[chosen], depth


def _clefts_in(strip: Strip, barrier: U8, widest_px: float, depth: I16) -> tuple[I64, F64, F64]:
    """Work out the depth of a strip; return its ridge points: page indices of the feet, span, distance at the ridge."""
    piece = np.ascontiguousarray(barrier[strip.around])
    rows, width = strip.inside, piece.shape[1]
    none = np.zeros((0, 2), np.int64), np.zeros(0), np.zeros(0)
    ink = np.flatnonzero(piece.view(bool))
    if len(ink) in (0, piece.size):
        depth.fill(int(_FAR * DEPTH_SCALE) * (1 if len(ink) == 0 else -1))
        return none
    ink_row, ink_col = np.divmod(ink.astype(np.int32), np.int32(width))
    distance, nearest = cv2.distanceTransformWithLabels(1 - piece, cv2.DIST_L2, 5, labelType=cv2.DIST_LABEL_PIXEL)
    inner = cv2.distanceTransform(piece, cv2.DIST_L2, 5)[rows]
    cv2.addWeighted(distance[rows], DEPTH_SCALE, inner, -DEPTH_SCALE, 0, dst=depth, dtype=cv2.CV_16S)
    del inner
    if min(piece.shape) < 3:
        return none
    near = (distance <= widest_px / 2 + 1).view(np.uint8) & (1 - piece)
    near[: rows.start], near[rows.stop :] = 0, 0
    near[[0, -1]], near[:, [0, -1]] = 0, 0
    feet, length, ridge = [none[0]], [none[1]], [none[2]]
    flat, spread, allowed = nearest.ravel(), distance.ravel(), near.ravel().view(bool)
    for step in (1, width):
        here = spread[step:-step]
        peak = here >= spread[: -2 * step]
        peak &= here >= spread[2 * step :]
        peak &= allowed[step:-step]
        at = np.flatnonzero(peak) + step
        one, two = flat.take(at - step) - 1, flat.take(at + step) - 1
        square = (ink_row.take(one) - ink_row.take(two)) ** 2 + (ink_col.take(one) - ink_col.take(two)) ** 2
        wide = np.flatnonzero((square > 2.5**2) & (square <= (widest_px + 1) ** 2))
        at, one, two, span = at[wide], one[wide], two[wide], np.sqrt(square[wide].astype(np.float64))
        use = span >= 0.93 * (spread.take(at - step) + spread.take(at + step))
        feet.append(np.sort(np.stack([ink[one[use]], ink[two[use]]], axis=1), axis=1))
        length.append(span[use])
        ridge.append(spread[at[use]].astype(np.float64))
    ends, span, high = np.concatenate(feet), np.concatenate(length), np.concatenate(ridge)
    ends, first = np.unique(ends[:, 0] * piece.size + ends[:, 1], return_index=True)
    pair = np.stack(np.divmod(ends, piece.size), axis=1) + strip.around.start * width
    return pair, span[first], high[first]


def _widens(depth: I16, feet: I64, span: F64, ridge: F64, line_px: float) -> Bool:
    """Whether the white is clearly wider to both sides of the line between the feet."""
    a, b = feet[:, :2].astype(np.float64), feet[:, 2:].astype(np.float64)
    middle, way = (a + b) / 2, (b - a) / np.maximum(span, 1e-9)[:, None]
    across = np.stack([-way[:, 1], way[:, 0]], axis=1)
    unit = 0.5 * span + 0.6 * line_px + 2
    wide = np.ones(len(feet), bool)
    for side in (-1, 1):
        most = np.full(len(feet), -_FAR)
        for away in _AWAY:
            at = np.rint(middle + side * away * unit[:, None] * across).astype(np.int64)
            row, col = np.clip(at[:, 0], 0, depth.shape[0] - 1), np.clip(at[:, 1], 0, depth.shape[1] - 1)
            most = np.maximum(most, depth.ravel().take(row * depth.shape[1] + col) / DEPTH_SCALE)
        wide &= most >= _WIDER * ridge + _WIDER_PX
    return wide


def corner_mask(barrier: U8, outline: Outline) -> U8:
    """Mark, with a margin of two pixels, where the outline of the ink turns sharply outwards.

    The mask is (M, N) uint8, 1 there, else 0.
    """
    mask = np.zeros_like(barrier)
    chain = Chain(outline)
    every = np.flatnonzero(chain.size > 4 * _CORNER_ARC)
    if len(every) == 0:
        return mask
    row, col = chain.along(every, 0)
    (r0, c0), (r1, c1) = chain.along(every, -_CORNER_ARC), chain.along(every, _CORNER_ARC)
    arms = np.hypot(row - r0, col - c0) + np.hypot(row - r1, col - c1)
    sharp = np.flatnonzero(np.hypot(r1 - r0, c1 - c0) <= _CORNER_CHORD * arms)
    middle = ((r0 + r1)[sharp] // 2).astype(np.int64), ((c0 + c1)[sharp] // 2).astype(np.int64)
    sharp = sharp[barrier[middle] > 0]
    mask[row[sharp].astype(np.int64), col[sharp].astype(np.int64)] = 1
    return np.asarray(cv2.dilate(mask, np.ones((5, 5), np.uint8)))


def _narrowest(feet: I64, span: F64) -> I64:
    """Of clefts side by side keep the narrowest, again and again: indices in order of their number."""
    if len(feet) == 0:
        return np.zeros(0, np.int64)
    middle = (feet[:, :2] + feet[:, 2:]) / 2
    way = (feet[:, 2:] - feet[:, :2]) / np.maximum(span, 1e-9)[:, None]
    pairs = close_pairs(middle, _NEAR_PX)
    pairs = pairs[np.abs((way[pairs[:, 0]] * way[pairs[:, 1]]).sum(axis=1)) > _ALIKE]
    rank = np.empty(len(feet), np.int64)
    rank[np.lexsort((feet[:, 1], feet[:, 0], span))] = np.arange(len(feet))
    return np.flatnonzero(greedy(pairs, rank))
