# SPDX-License-Identifier: GPL-3.0-or-later
"""Shapes of shade whose points can be pulled: outline, cover, and the shape that a hand's loop amounts to.

Knows points and planes; nothing of passes.
"""

from functools import lru_cache

import cv2
import numpy as np
import numpy.typing as npt

from drip_pot.core.arrays import F64, U8, Rect
from drip_pot.core.errors import BadInput

Knot = tuple[float, float, bool]
"""Row, column, and whether the outline runs smoothly through it; else it has a corner there."""

_SUBPIXEL = 4  # bits
_SHARP_DEG = 52.0
_MOST_KNOTS = 5000


def outline(knots: npt.ArrayLike) -> F64:
    """Return the closed outline of a shape, (K, 2) rows and columns, without the first point again at its end.

    Parameters
    ----------
    knots : (N, 3) array_like of float
        Row, column, and 1 where the outline runs smoothly, 0 at a corner; N at least 3.

    Raises
    ------
    BadInput
        For fewer than three knots, more than 5000, or one that is not finite.

    Notes
    -----
    Between two corners the outline is straight; else a cubic with the tangents of a Catmull-Rom spline over chord
    lengths. See E. Catmull and R. Rom, "A class of local interpolating splines", Computer Aided Geometric Design,
    1974.
    """
    spots = np.asarray(knots, np.float64).reshape(-1, 3)
    if not 3 <= len(spots) <= _MOST_KNOTS or not np.isfinite(spots).all():
        raise BadInput("A shape needs 3 to {0} points.", _MOST_KNOTS)
    at, smooth = spots[:, :2], spots[:, 2] > 0.5
    after, before = np.roll(at, -1, axis=0), np.roll(at, 1, axis=0)
    length = np.maximum(np.hypot(*(after - at).T), 1e-6)
    slope = (after - before) / (length + np.roll(length, 1))[:, None]
    chord, long = after - at, length[:, None]
    leave = np.where(smooth[:, None], slope * long, chord)
    reach = np.where(np.roll(smooth, -1)[:, None], np.roll(slope, -1, axis=0) * long, chord)
    curved = smooth | np.roll(smooth, -1)
    steps = np.where(curved, np.clip(np.ceil(length / 4), 3, 64), 1).astype(int)
    piece = np.repeat(np.arange(len(at)), steps)
    t = ((np.arange(len(piece)) - np.repeat(np.cumsum(steps) - steps, steps)) / steps[piece])[:, None]
    return np.asarray(
        (2 * t**3 - 3 * t**2 + 1) * at[piece]
        + (t**3 - 2 * t**2 + t) * leave[piece]
        + (3 * t**2 - 2 * t**3) * after[piece]
        + (t**3 - t**2) * reach[piece]
    )


def fitted(points: npt.ArrayLike, within_px: float) -> tuple[Knot, ...]:
    """Return the shape of few points that a loop drawn by hand amounts to, within some pixels.

    Parameters
    ----------
    points : (K, 2) array_like of float
        Row, column, K at least 3.
    within_px : float
        How far the outline may leave the hand's, above 0.

    Raises
    ------
    BadInput
        For fewer than three points, or one that is not finite.

    Notes
    -----
    Points are chosen by the method of Ramer, Douglas and Peucker; those with a sharp turn are corners.
    """
    loop = np.asarray(points, np.float64).reshape(-1, 2)
    if len(loop) < 3 or not np.isfinite(loop).all():
        raise BadInput("A loop needs at least three points.")
    few = cv2.approxPolyDP(loop[:, None].astype(np.float32), within_px, True)[:, 0].astype(np.float64)
    if len(few) < 3:
        few = loop[np.linspace(0, len(loop) - 1, 3).astype(int)]
    few = few[:_MOST_KNOTS]
    into, out = few - np.roll(few, 1, axis=0), np.roll(few, -1, axis=0) - few
    turn = np.abs(np.degrees(np.arctan2(into[:, 0] * out[:, 1] - into[:, 1] * out[:, 0], (into * out).sum(axis=1))))
    longest = np.maximum(np.hypot(*into.T), np.hypot(*out.T))
    shortest = np.minimum(np.hypot(*into.T), np.hypot(*out.T))
    smooth = (turn < _SHARP_DEG) & (longest < 6 * np.maximum(shortest, 1e-6))
    return tuple((round(float(r), 2), round(float(c), 2), bool(s)) for (r, c), s in zip(few, smooth, strict=True))


def cornered(points: npt.ArrayLike, *, smooth: bool = False) -> tuple[Knot, ...]:
    """Return the shape with a knot at every point, (K, 2) float64 rows and columns, a corner unless `smooth`."""
    return tuple((round(float(r), 2), round(float(c), 2), smooth) for r, c in np.asarray(points).reshape(-1, 2))


def shape_bounds(knots: npt.ArrayLike, softness_px: float, shape: tuple[int, int]) -> Rect:
    """Return the part of a page of some rows and columns that a shape may touch; empty (all 0) beside the page.

    `knots` are (K, 3) float64 of row, column and whether the outline is smooth there.
    """
    if not isinstance(knots, tuple):
        knots = tuple(map(tuple, np.asarray(knots, np.float64).reshape(-1, 3).tolist()))
    return _bounds(knots, softness_px, shape)


@lru_cache(maxsize=4096)
def _bounds(knots: tuple[tuple[float, ...], ...], softness_px: float, shape: tuple[int, int]) -> Rect:
    line = outline(knots)
    low = np.clip(np.floor(line.min(axis=0) - softness_px - 1).astype(int), 0, shape)
    high = np.clip(np.ceil(line.max(axis=0) + softness_px + 1).astype(int) + 1, 0, shape)
    if (high <= low).any():
        return 0, 0, 0, 0
    return int(low[0]), int(low[1]), int(high[0]), int(high[1])


def shape_cover(knots: npt.ArrayLike, softness_px: float, shape: tuple[int, int]) -> tuple[Rect, U8]:
    """Return what a shape covers.

    Parameters
    ----------
    knots : (N, 3) array_like of float
        As `outline`.
    softness_px : float
        Over how many pixels to both sides of the outline it falls off, 0..2000; 0 is hard.
    shape : tuple of int
        Rows and columns of the page.

    Returns
    -------
    rect : Rect
        As `shape_bounds`.
    cover : (bottom - top, right - left) ndarray of uint8
        0..255; of a hard shape 0 and 255 alone (even-odd where it crosses itself).

    Raises
    ------
    BadInput
        As `outline`, and for a softness out of range.
    """
    if not 0 <= softness_px <= 2000:
        raise BadInput("The softness of a cut goes from 0 to 2000 px, not {0:g}.", softness_px)
    rect = shape_bounds(knots, softness_px, shape)
    size = rect[2] - rect[0], rect[3] - rect[1]
    if min(size) <= 0:
        return rect, np.zeros((0, 0), np.uint8)
    pad = int(np.ceil(softness_px)) + 2 if softness_px else 0
    mask = np.zeros((size[0] + 2 * pad, size[1] + 2 * pad), np.uint8)
    spots = (outline(knots)[:, ::-1] - (rect[1] - pad, rect[0] - pad)) * (1 << _SUBPIXEL)
    cv2.fillPoly(mask, [np.rint(spots).astype(np.int32)], 255, cv2.LINE_8, _SUBPIXEL)
    if softness_px:
        inside = cv2.distanceTransform(mask, cv2.DIST_L2, 5)
        outside = cv2.distanceTransform(cv2.bitwise_not(mask), cv2.DIST_L2, 5)
        share = np.clip((inside - outside) / (2 * softness_px) + 0.5, 0, 1)
        mask = np.rint(share * share * (3 - 2 * share) * 255).astype(np.uint8)
        mask = np.ascontiguousarray(mask[pad : pad + size[0], pad : pad + size[1]])
    return rect, mask
