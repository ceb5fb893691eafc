# SPDX-License-Identifier: GPL-3.0-or-later
"""Choice among rivals, the best first. Knows numbers only."""

import numpy as np

from drip_pot.core.arrays import I64, Bool


def greedy(pairs: I64, rank: I64) -> Bool:
    """Take the lowest rank, drop its rivals, take the lowest of what is left, and so on.

    Parameters
    ----------
    pairs : (K, 2) ndarray of int64
        Rivals.
    rank : (C,) ndarray of int64
        Each rank once.

    Returns
    -------
    (C,) ndarray of bool
        Which are taken. Of two rivals at most one is; each that is not has a rival of lower rank that is.
    """
    taken, dropped = np.zeros(len(rank), bool), np.zeros(len(rank), bool)
    low = np.where(rank[pairs[:, 0]] < rank[pairs[:, 1]], pairs[:, 0], pairs[:, 1])
    high = pairs.sum(axis=1) - low
    while True:
        beaten = np.zeros(len(rank), bool)
        beaten[high] = True
        fresh = ~(beaten | dropped | taken)
        if not fresh.any():
            return taken
        taken |= fresh
        dropped[high[taken[low]]] = True
        alive = ~(dropped[low] | dropped[high])
        low, high = low[alive], high[alive]
