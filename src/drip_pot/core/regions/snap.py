# SPDX-License-Identifier: GPL-3.0-or-later
"""Ends of strokes drawn by hand brought to the border they were meant to meet. Knows planes only; nothing of atoms."""

from itertools import pairwise

import numpy as np

from drip_pot.core.arrays import I32, U8, Bool
from drip_pot.core.regions.hand import Path

_LINE = 128


def snapped(path: Path, ink: U8, labels: I32, reach_px: float) -> Path:
    """Return a stroke whose ends go on to the nearest border.

    Parameters
    ----------
    path : tuple of (row, col)
        The stroke, in page pixels.
    ink : (M, N) ndarray of uint8
        Line coverage.
    labels : (M, N) ndarray of int32
        Region of every pixel; where it changes beside the line, something else parts colour.
    reach_px : float
        How far an end is looked after, 0 and up.

    Returns
    -------
    tuple of (row, col)
        The stroke, a point longer at every end that did not lie on a border and has one within reach: line, another
        label or the edge of the page. A stroke that comes back to where it began within reach is closed.
    """
    if len(path) < 2:
        return path
    round_about = sum(float(np.hypot(a[0] - b[0], a[1] - b[1])) for a, b in pairwise(path))
    first, last = path[0], path[-1]
    if np.hypot(first[0] - last[0], first[1] - last[1]) <= reach_px < round_about / 4:
        return (*path, first)
    head, tail = (_nearest(end, ink, labels, reach_px) for end in (first, last))
    return (*([head] if head else []), *path, *([tail] if tail else []))


def _nearest(end: tuple[float, float], ink: U8, labels: I32, reach_px: float) -> tuple[float, float] | None:
    """Return the nearest border of an end within reach; None where it lies on one, beside the page or too far."""
    row, col, reach = int(end[0]), int(end[1]), int(np.ceil(reach_px))
    rows, cols = ink.shape
    if not (0 <= row < rows and 0 <= col < cols) or ink[row, col] >= _LINE:
        return None
    top, left = max(0, row - reach), max(0, col - reach)
    cut = slice(top, min(rows, row + reach + 1)), slice(left, min(cols, col + reach + 1))
    border: Bool = (ink[cut] >= _LINE) | (labels[cut] != labels[row, col])
    at = np.argwhere(border) + np.array([top, left])
    edges = np.array([(-1, col), (rows, col), (row, -1), (row, cols)])
    spots = np.concatenate([at, edges])
    away = np.hypot(spots[:, 0] - row, spots[:, 1] - col)
    place = int(away.argmin())
    return None if away[place] > reach_px else (float(spots[place, 0]), float(spots[place, 1]))
