# SPDX-License-Identifier: GPL-3.0-or-later
"""What a stroke of a brush is made from. Knows points only."""

import numpy as np
import numpy.typing as npt

from drip_pot.core.arrays import F64
from drip_pot.core.errors import BadInput

_MOST_POINTS = 50_000


def stroke_of(points: npt.ArrayLike) -> tuple[F64, F64]:
    """Return the path, (K, 2) float64 rows and columns, and the pressure, (K,) float64 of 0.05..1, of a stroke.

    `points` are rows and columns, (K, 2), at full pressure, or with the pressure 0..1 behind them, (K, 3). Raises
    `BadInput` for no points, more than 50 000, or one that is not finite.
    """
    path = np.atleast_2d(np.asarray(points, np.float64))
    if path.size == 0 or path.shape[1] not in (2, 3) or len(path) > _MOST_POINTS or not np.isfinite(path).all():
        raise BadInput("A stroke needs 1 to {0} points on the page.", _MOST_POINTS)
    return path[:, :2], np.clip(path[:, 2], 0.05, 1) if path.shape[1] == 3 else np.ones(len(path))
