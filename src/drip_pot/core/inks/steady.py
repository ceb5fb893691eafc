# SPDX-License-Identifier: GPL-3.0-or-later
"""Strokes steadied: the shake of a hand taken out, corners and curves left. Knows points alone."""

import itertools
import math

import numpy as np

from drip_pot.core.arrays import F64
from drip_pot.core.inks.mend import Points

_STEP_PX, _MOST_PX = 2.0, 36.0
_NEAR_PX, _FAR_PX, _BEFORE_PX = 10.0, 22.0, 3.0
"""How far to both sides a corner is looked for, close by and further off, and how the stroke is steadied for that."""
_TURN_DEG, _SUDDEN = 45.0, 0.7
_WIDTHS = 3.5


def smoothed(points: Points, amount: float) -> Points:
    """Steady a stroke between its corners.

    A fourth-order Gaussian kernel (Wand and Schucany 1990) takes out the shake but does not draw curves inwards.
    Corners are places where the stroke turns as much within a short way as within a longer one (after Rosenfeld and
    Johnston 1973); they stay where they are.

    Parameters
    ----------
    points : list of (row, col, pressure)
        As drawn.
    amount : float
        0 leaves it; 1 steadies most, with a kernel of 36 px.

    Returns
    -------
    list
        Points about 2 px apart; ends and corners stay where they were.
    """
    if amount <= 0 or len(points) < 3:
        return points
    line = np.array(points, np.float64)
    way = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(line[:, :2], axis=0).T))])
    if way[-1] < 2 * _STEP_PX:
        return points
    steps = np.linspace(0, way[-1], max(3, int(way[-1] / _STEP_PX)))
    even = np.stack([np.interp(steps, way, line[:, k]) for k in range(3)], axis=1)
    stops = [0, *_corners(even[:, :2]), len(even) - 1]
    width = amount * _MOST_PX / (steps[1] - steps[0])
    pieces = [_steadied(even[a : b + 1], width) for a, b in itertools.pairwise(stops)]
    out = np.concatenate([pieces[0], *(piece[1:] for piece in pieces[1:])])
    out[:, 2] = np.clip(out[:, 2], 0, 1)
    return [(r, c, p) for r, c, p in out.tolist()]


def _steadied(even: F64, width: float) -> F64:
    """Steady evenly spaced points, (N, K), by a kernel of some points; both ends stay."""
    last = len(even) - 1
    width = min(width, last / (2 * _WIDTHS))
    if width < 0.5:
        return even
    reach = min(math.ceil(_WIDTHS * width), last)
    at = np.arange(-reach, reach + 1) / width
    weights = (1.5 - 0.5 * at**2) * np.exp(-0.5 * at**2)
    weights /= weights.sum()
    before, after = 2 * even[:1] - even[1 : reach + 1][::-1], 2 * even[-1:] - even[-reach - 1 : -1][::-1]
    padded = np.concatenate([before, even, after])
    out = np.stack([np.convolve(padded[:, k], weights, mode="valid") for k in range(even.shape[1])], axis=1)
    out[0], out[-1] = even[0], even[-1]
    return out


def _corners(even: F64) -> list[int]:
    """Return which of evenly spaced points, (N, 2), are corners, in order."""
    path = _steadied(even, _BEFORE_PX / _STEP_PX)
    near, far = (_turns(path, max(2, round(reach / _STEP_PX))) for reach in (_NEAR_PX, _FAR_PX))
    sharp = (near > _TURN_DEG) & (far > _TURN_DEG) & (near > _SUDDEN * far)
    apart, found = round(_FAR_PX / _STEP_PX) // 2, list[int]()
    for place in sorted(np.flatnonzero(sharp).tolist(), key=lambda at: -near[at]):
        if all(abs(place - other) > apart for other in found):
            found.append(place)
    return sorted(found)


def _turns(path: F64, reach: int) -> F64:
    """Return by how many degrees a path, (N, 2), turns at each point, between so many points before and after it."""
    out = np.zeros(len(path))
    if len(path) > 2 * reach:
        into, on = path[reach:-reach] - path[: -2 * reach], path[2 * reach :] - path[reach:-reach]
        across = into[:, 0] * on[:, 1] - into[:, 1] * on[:, 0]
        out[reach:-reach] = np.abs(np.degrees(np.arctan2(across, (into * on).sum(axis=1))))
    return out
