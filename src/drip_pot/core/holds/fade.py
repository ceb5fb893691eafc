# SPDX-License-Identifier: GPL-3.0-or-later
"""How far along a drawn way places lie. Knows numbers only."""

import numpy as np
import scipy

from drip_pot.core.arrays import F64, I64
from drip_pot.core.errors import BadInput

_FINE_PX = 2.0


def along(way: list[tuple[float, float]], rows: I64, cols: I64) -> F64:
    """Return how far along a way of (row, col) points the nearest point of it lies for each place.

    Parameters
    ----------
    way : list of (row, col)
        At least two different points.
    rows, cols : (K,) ndarrays of int64
        Places.

    Returns
    -------
    (K,) ndarray of float64
        0 at its beginning and before it, 1 at its end and beyond.

    Raises
    ------
    BadInput
        If the way has no length, or is not finite.
    """
    points = np.array(way, np.float64).reshape(-1, 2)
    if not np.isfinite(points).all():
        raise BadInput("A stroke needs points on the page.")
    steps = np.hypot(*np.diff(points, axis=0).T) if len(points) > 1 else np.zeros(0)
    if steps.sum() < 1:
        raise BadInput("Drag along the stroke to fade it; a click has no length.")
    run = np.concatenate([[0.0], np.cumsum(steps)])
    fine = np.linspace(0, run[-1], int(run[-1] / _FINE_PX) + 2)
    line = np.column_stack([np.interp(fine, run, points[:, k]) for k in (0, 1)])
    _, nearest = scipy.spatial.cKDTree(line).query(np.column_stack([rows, cols]).astype(np.float64), workers=2)
    return np.asarray(nearest / (len(fine) - 1))
