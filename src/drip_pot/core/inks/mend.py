# SPDX-License-Identifier: GPL-3.0-or-later
"""The repair sheet: ink laid and scraped by hand over what the scan gave. Knows nothing of scans or windows.

A repair plane holds, for every pixel, 0 where nothing was mended, else 1 (bare) to 255 (full ink).
"""

import math
from collections.abc import Callable, Sequence

import cv2
import numpy as np

from drip_pot.core.arrays import F64, I64, U8, Bool, Rect, check_plane
from drip_pot.core.errors import BadInput

Points = list[tuple[float, float, float]]
"""A stroke: rows, columns and pen pressures (0..1)."""
_HAIR, _FAR = 0.5, 2**24
_BEYOND_DISC, _BEYOND_SIDE, _THINNEST = 0.6, 0.68, 1.45
"""How far OpenCV draws soft shapes beyond their edge, and the width it gives to one of none, in pixels; measured."""


def tapered(points: Points, share: float) -> Points:
    """Let a stroke run out at both ends.

    Parameters
    ----------
    points : list of (row, col, pressure)
        As drawn.
    share : float
        How much of its way it tapers on, 0..1, half of that at each end.

    Returns
    -------
    list
        Points about 2 px apart, the pressure eased down to none at the ends.
    """
    if share <= 0 or len(points) < 2:
        return points
    line = np.array(points, np.float64)
    way = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(line[:, :2], axis=0).T))])
    steps = np.linspace(0, way[-1], max(3, int(way[-1] / 2)))
    even = np.stack([np.interp(steps, way, line[:, k]) for k in range(3)], axis=1)
    left = np.clip(np.minimum(steps, way[-1] - steps) / max(way[-1] * share / 2, 1e-6), 0, 1)
    even[:, 2] *= left * (2 - left)
    return [(r, c, p) for r, c, p in even.tolist()]


def matched_to(points: Points, ink: U8, width_px: float) -> Points:
    """Let a stroke be as wide as the line it begins and ends on.

    Parameters
    ----------
    points : list of (row, col, pressure)
        As drawn.
    ink : (M, N) ndarray of uint8
        The line.
    width_px : float
        How wide full pressure is.

    Returns
    -------
    list
        The points with the pressure that gives the width of the line at the ends, evenly between them; as drawn where
        there is no line at either end.
    """
    ends = [_width_at(ink, row, col, width_px) for row, col, _ in (points[0], points[-1])]
    known = [wide for wide in ends if wide > 0]
    if not known:
        return points
    first, last = (wide or known[0] for wide in ends)
    shares = np.linspace(first / width_px, last / width_px, len(points)).tolist()
    return [(row, col, share) for (row, col, _), share in zip(points, shares, strict=True)]


def _width_at(ink: U8, row: float, col: float, reach_px: float) -> float:
    """Return how wide the line at a place, or within a reach of it, is in pixels; 0 where there is none."""
    reach = math.ceil(max(reach_px, 4.0))
    around = 4 * reach
    r, c = round(row), round(col)
    top, left = max(r - around, 0), max(c - around, 0)
    near = ink[top : max(r + around + 1, 0), left : max(c + around + 1, 0)]
    if not near.size or not (near > 127).any():
        return 0.0
    padded = cv2.copyMakeBorder((near > 127).view(np.uint8), 1, 1, 1, 1, cv2.BORDER_REPLICATE)
    depth = cv2.distanceTransform(padded, cv2.DIST_L2, 5)[1:-1, 1:-1]
    rows, cols = np.ogrid[: near.shape[0], : near.shape[1]]
    depth[(rows - (r - top)) ** 2 + (cols - (c - left)) ** 2 > reach**2] = 0
    deepest = float(depth.max())
    return 2 * deepest - 1 if deepest > 0 else 0.0


def stroke_ink(points: Points, width_px: float, shape: tuple[int, int]) -> tuple[Rect, U8]:
    """Draw a stroke of the pen.

    Parameters
    ----------
    points : list of (row, col, pressure)
        Page pixels; pressure 0 is taken as a hair of 0.6 px, 1 as the full width.
    width_px : float
        Full width, 0.5..400.
    shape : tuple of int
        Rows and columns of the page.

    Returns
    -------
    rect : Rect
        Where it lies, within the page.
    ink : ndarray of uint8
        Anti-aliased coverage in that rectangle.

    Raises
    ------
    BadInput
        If no part of it lies on the page, or the width is out of range.
    """
    if not _HAIR <= width_px <= 400:
        raise BadInput("A pen is 0.5 to 400 px wide, not {0:g} px.", width_px)
    line = np.array(points, np.float64).reshape(-1, 3)
    line = line[np.isfinite(line).all(axis=1)]
    if len(line) == 0:
        raise BadInput("The stroke has no points.")
    half = np.maximum(np.clip(line[:, 2], 0, 1) * width_px, 0.6) / 2
    rect = _around(line[:, :2], float(half.max()) + 2, shape)
    top, left = rect[0], rect[1]
    ink = np.zeros((rect[2] - top, rect[3] - left), np.uint8)
    at = line[:, :2] - [top, left]
    for k in range(len(at)):
        _disc(ink, at[k], half[k])
        if k:
            _quad(ink, at[k - 1], at[k], half[k - 1], half[k])
    return rect, ink


def stroke_mask(points: Sequence[tuple[float, float]], width_px: float, shape: tuple[int, int]) -> tuple[Rect, Bool]:
    """Cover a hard-edged stroke, at least a pixel wide.

    Parameters and errors are those of `stroke_ink`, without pressures; the mask is (m, n) bool in the
    rectangle. Raises `BadInput` as that does.
    """
    wide = max(width_px, 1.0) if width_px >= _HAIR else width_px
    rect, ink = stroke_ink([(row, col, 1.0) for row, col in points], wide, shape)
    return rect, ink > 127


def mended(ink: U8, repair: U8) -> U8:
    """Return `ink` with the repair plane laid over it, both (M, N) uint8."""
    if not repair.any():
        return ink
    table = np.concatenate([[0], np.rint((np.arange(1, 256) - 1) * 255 / 254)]).astype(np.uint8)
    return np.where(repair > 0, table[repair], ink)


def lay_ink(repair: U8, ink: U8, stroke: U8) -> U8:
    """Return a repair plane with a stroke of the pen laid over what is there (`ink`), all (M, N) uint8."""
    seen = np.maximum(mended(ink, repair), stroke)
    return np.where(stroke > 0, _coded(seen), repair)


def scrape(repair: U8, ink: U8, stroke: U8) -> U8:
    """Return a repair plane with ink scraped away under a stroke, all (M, N) uint8."""
    seen = np.minimum(mended(ink, repair), 255 - stroke)
    return np.where(stroke > 0, _coded(seen), repair)


def mirrored(ink: U8, mask: U8, axis_col: float) -> tuple[int, U8, U8]:
    """Mirror what lies in a mask about an upright axis.

    Parameters
    ----------
    ink, mask : (M, N) ndarrays of uint8
        Line of a piece of the page, and 1 where it was lifted.
    axis_col : float
        Column of the axis in the piece; may lie outside it.

    Returns
    -------
    left : int
        Column, in the piece, at which the mirrored piece begins.
    ink, mask : (M, N) ndarrays of uint8
        The mirrored piece.

    Raises
    ------
    BadInput
        If an array has another shape or type.
    """
    check_plane(ink, np.uint8, "ink")
    left = round(2 * axis_col) - (ink.shape[1] - 1)
    return left, np.ascontiguousarray((ink * (mask > 0))[:, ::-1]), np.ascontiguousarray(mask[:, ::-1])


def covered(repair: U8, ink: U8, mask: U8) -> U8:
    """Return a repair plane that shows `ink` within `mask` and is as it was elsewhere, all (M, N) uint8."""
    return np.where(mask > 0, _coded(ink), repair)


def _coded(ink: U8) -> U8:
    return np.asarray(np.rint(ink * np.float32(254 / 255)) + 1, np.uint8)


def _around(at: F64, margin: float, shape: tuple[int, int]) -> Rect:
    low = np.maximum(np.floor(at.min(axis=0) - margin), 0).astype(int)
    high = np.minimum(np.ceil(at.max(axis=0) + margin) + 1, shape).astype(int)
    if (high <= low).any():
        raise BadInput("The stroke lies beside the page.")
    return int(low[0]), int(low[1]), int(high[0]), int(high[1])


def _disc(ink: U8, at: F64, half: float) -> None:
    def draw(layer: U8, low: I64) -> None:
        center = np.rint((at[::-1] - low) * 16).astype(int).tolist()
        cv2.circle(layer, center, max(1, round((half - _BEYOND_DISC) * 16)), _value(half), -1, cv2.LINE_AA, 4)

    _darken(ink, at - half, at + half, draw)


def _quad(ink: U8, a: F64, b: F64, wide_a: float, wide_b: float) -> None:
    """Fill between two discs."""
    along = b - a
    length = float(np.hypot(*along))
    if length < 1e-6:
        return
    side = np.array([-along[1], along[0]]) / length
    one, two = side * max(wide_a - _BEYOND_SIDE, 0), side * max(wide_b - _BEYOND_SIDE, 0)
    corners = np.array([a + one, b + two, b - two, a - one])

    def draw(layer: U8, low: I64) -> None:
        outline = np.rint(np.clip((corners[:, ::-1] - low) * 16, -_FAR, _FAR)).astype(np.int32)
        cv2.fillConvexPoly(layer, outline, _value((wide_a + wide_b) / 2), cv2.LINE_AA, 4)

    _darken(ink, corners.min(axis=0), corners.max(axis=0), draw)


def _value(half: float) -> int:
    """How dark a stroke is that is thinner than the thinnest that can be drawn."""
    return round(255 * min(1.0, 2 * half / _THINNEST))


def _darken(ink: U8, low: F64, high: F64, draw: Callable[[U8, I64], None]) -> None:
    """Draw on a layer of its own between two corners (row, col), so that no soft edge overwrites what is darker."""
    first = np.maximum(np.floor(low).astype(np.int64) - 2, 0)
    last = np.minimum(np.ceil(high).astype(np.int64) + 3, ink.shape)
    if (last <= first).any():
        return
    layer = np.zeros(last - first, np.uint8)
    draw(layer, first[::-1])
    piece = ink[first[0] : last[0], first[1] : last[1]]
    np.maximum(piece, layer, out=piece)
