# SPDX-License-Identifier: GPL-3.0-or-later
"""One order of depth for all regions of a page, from what is said of each two that meet. Knows numbers only."""

import numpy as np
import scipy.sparse as sp
from scipy.sparse.linalg import spsolve

from drip_pot.core.arrays import F64, I64

_LEVEL = 1e-3


def depth_order(sides: I64, front: F64, length_px: F64, count: int) -> F64:
    """Put regions in one order of depth that goes against as little line as can be.

    Parameters
    ----------
    sides : (P, 2) ndarray of int64
        The two regions of every piece.
    front : (P,) ndarray of float64
        How clearly the first lies in front, -1..1.
    length_px : (P,) ndarray of float64
        How much each piece weighs.
    count : int
        How many regions there are; their numbers are 0..count - 1.

    Returns
    -------
    (count,) ndarray of float64
        0..1, 1 is foremost; regions that no piece speaks of lie in the middle.

    Notes
    -----
    Heights whose differences are as near to `front` as can be, by least squares; as in X. Jiang, L.-H. Lim, Y. Yao,
    Y. Ye, "Statistical ranking and combinatorial Hodge theory", Mathematical Programming 127, 2011.
    """
    told = (front != 0) & (length_px > 0) & (sides[:, 0] != sides[:, 1])
    one, two = sides[told].T
    weight = length_px[told] / max(float(length_px[told].sum()), 1e-9)
    found = np.full(count, 0.5)
    used, where = np.unique(np.concatenate([one, two]), return_inverse=True)
    if not len(used):
        return found
    a, b = where.reshape(2, -1)
    size = len(used)
    tied = sp.coo_matrix((np.tile(-weight, 2), (np.concatenate([a, b]), np.concatenate([b, a]))), (size, size)).tocsc()
    degree = np.bincount(where.reshape(-1), np.tile(weight, 2), size)
    pull = np.bincount(a, weight * front[told], size) - np.bincount(b, weight * front[told], size)
    heights = spsolve((tied + sp.diags(degree * (1 + _LEVEL))).tocsc(), pull)
    found[used[np.argsort(heights, kind="stable")]] = (np.arange(size) + 0.5) / size
    return found
