# SPDX-License-Identifier: GPL-3.0-or-later
"""Stable identity: new atoms take over the numbers of the old ones they lie on. Knows only label planes."""

import numpy as np

from drip_pot.core.arrays import I32, I64, check_plane
from drip_pot.core.errors import BadInput


def carry_identity(new: I32, old: I32, next_id: int) -> tuple[I64, I64]:
    """Match a new division of the page to the one before.

    Parameters
    ----------
    new, old : (M, N) ndarrays of int32
        Label planes of the same size, labels from 1.
    next_id : int
        First number never used before.

    Returns
    -------
    ids : (max(new) + 1,) ndarray of int64
        The lasting number of every new label: each old number goes to the new piece that covers most of it
        (and lies mostly on it or not); the others get numbers from `next_id` on.
    parents : (max(new) + 1,) ndarray of int64
        The old label under most of every new one, from which a pot is inherited.

    Raises
    ------
    BadInput
        If the planes differ in shape, or are no (M, N) planes of int32.
    """
    check_plane(new, np.int32, "new")
    check_plane(old, np.int32, "old")
    if new.shape != old.shape:
        raise BadInput("The planes differ in size: {0} and {1}.", new.shape, old.shape)
    key = new.ravel().astype(np.int64) << 32
    key |= old.ravel()
    runs = np.flatnonzero(np.concatenate([[True], key[1:] != key[:-1]]))
    lengths = np.diff(np.append(runs, key.size))
    pairs, inverse = np.unique(key[runs], return_inverse=True)
    overlap = np.bincount(inverse, weights=lengths).astype(np.int64)
    fresh, former = pairs >> 32, pairs & 0xFFFFFFFF
    count = int(new.max()) + 1
    order = np.lexsort((former, -overlap))
    fresh, former = fresh[order], former[order]
    parents = np.zeros(count, np.int64)
    ids = np.zeros(count, np.int64)
    seen, first = np.unique(fresh, return_index=True)
    parents[seen] = former[first]
    taken: set[int] = set()
    for label, was in zip(fresh.tolist(), former.tolist(), strict=True):
        if ids[label] == 0 and was not in taken:
            ids[label] = was
            taken.add(was)
    orphans = seen[ids[seen] == 0]
    ids[orphans] = np.arange(next_id, next_id + len(orphans))
    return ids, parents
