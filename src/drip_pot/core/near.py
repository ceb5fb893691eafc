# SPDX-License-Identifier: GPL-3.0-or-later
"""Points of a plane that lie close together. Knows positions only.

Reading `scipy.spatial` takes longer than dividing a small drawing, and pairs within a reach are all the regions ask of
it.
"""

import numpy as np

from drip_pot.core.arrays import F64, I64

_AHEAD = ((0, 0), (0, 1), (1, -1), (1, 0), (1, 1))
"""Cells whose pairs with a cell are looked at: itself, and half of those around it."""


def close_pairs(points: F64 | I64, reach: float) -> I64:
    """List the pairs of points at most so far apart.

    Parameters
    ----------
    points : (N, 2) ndarray
        Positions of any sign.
    reach : float
        More than 0, in the same unit; the area of the points over its square is the work at least.

    Returns
    -------
    (K, 2) ndarray of int64
        The smaller index first; sorted.
    """
    if len(points) < 2:
        return np.zeros((0, 2), np.int64)
    cell = np.floor(points / reach).astype(np.int64)
    cell -= cell.min(axis=0) - 1
    wide = np.int64(cell[:, 1].max() + 2)
    key = cell[:, 0] * wide + cell[:, 1]
    order = np.argsort(key, kind="stable")
    key = key[order]
    row, col = points[order].astype(np.float64).T.copy()
    every = np.arange(len(key))
    found = []
    for down, right in _AHEAD:
        other = key + (down * wide + right)
        last = np.searchsorted(key, other, side="right")
        first = np.searchsorted(key, other) if down or right else every + 1
        many = last - first
        one = np.repeat(every, many)
        two = np.arange(len(one)) + np.repeat(first - np.cumsum(many) + many, many)
        near = np.flatnonzero((row[one] - row[two]) ** 2 + (col[one] - col[two]) ** 2 <= reach**2)
        found.append((order[one[near]], order[two[near]]))
    a, b = (np.concatenate(ends) for ends in zip(*found, strict=True))
    key = np.minimum(a, b) * len(points) + np.maximum(a, b)
    key.sort()
    return np.stack(np.divmod(key, len(points)), axis=1)
