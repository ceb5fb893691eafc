# SPDX-License-Identifier: GPL-3.0-or-later
"""How far ink or white goes on from a place. Knows only the plane of distances to the edge of the ink."""

import numpy as np

from drip_pot.core.arrays import F32, F64, I16, U8
from drip_pot.core.regions.clefts import DEPTH_SCALE

_EIGHTHS = 3
"""Depths are in eighths of a pixel, so far to the right of the point."""


def depth_at(depth: I16, at: F64) -> F64:
    """Return the distance to the edge of the ink, less than zero in it, at positions (K, 2); the page's edge goes on.

    `depth` is (M, N) int16 from `find_clefts`.
    """
    return looked_up(depth, at[:, 0], at[:, 1]).astype(np.float64) / DEPTH_SCALE


def looked_up(plane: I16 | U8, row: F64 | F32, col: F64 | F32) -> I16 | U8:
    """Return the values of an (M, N) int16 or uint8 plane at the pixels nearest to positions, (K,) float.

    The edge goes on.
    """
    r = np.clip(np.rint(row), 0, plane.shape[0] - 1).astype(np.int32)
    c = np.clip(np.rint(col), 0, plane.shape[1] - 1).astype(np.int32)
    return plane.ravel().take(r * np.int32(plane.shape[1]) + c)


def turned(way: F64, degrees: float) -> F64:
    """Turn directions, (B, 2) float64 of row, column, by an angle in degrees."""
    c, s = np.cos(np.radians(degrees)), np.sin(np.radians(degrees))
    return np.stack([way[:, 0] * c - way[:, 1] * s, way[:, 0] * s + way[:, 1] * c], axis=1)


def cast(depth: I16, rays: list[tuple[F64, F64]], most: float, *, ink: bool) -> F64:
    """Return how far rays run in ink (or in white), in pixels up to `most`.

    Parameters
    ----------
    depth : (M, N) ndarray of int16
        From `find_clefts`.
    rays : list of (start, direction)
        Each (B, 2): row, column.
    most : float
        No ray is followed farther.
    ink : bool
        Whether they run in ink.

    Returns
    -------
    (len(rays), B) ndarray of float64
    """
    start, way = (np.concatenate(parts) for parts in zip(*rays, strict=True))
    return _ray(depth, start, way, most, ink=ink).reshape(len(rays), -1)


def _ray(depth: I16, start: F64, way: F64, most: float, *, ink: bool) -> F64:
    """Pixels from each start in its direction that are ink (or white); the page's edge ends a ray.

    A pixel that lies so far from the edge of the ink lets the ray leap as far.
    """
    (height, width), flat = depth.shape, depth.ravel()
    going, length = np.arange(len(start)), np.full(len(start), most)
    row, col, down, right = (side[:, k].astype(np.float32) for side in (start, way) for k in (0, 1))
    reached, leap = np.zeros(len(start), np.float32), np.ones(len(start), np.float32)
    sign = np.int16(-1 if ink else 1)
    while len(going):
        reached = reached + leap
        r, c = np.rint(row + down * reached).astype(np.int32), np.rint(col + right * reached).astype(np.int32)
        inside = (r.view(np.uint32) < height) & (c.view(np.uint32) < width)
        room = sign * flat.take(np.where(inside, r * np.int32(width) + c, 0))
        on = inside & (room > 0)
        ended = np.flatnonzero(~on)
        length[going[ended]] = np.minimum(reached[ended] - 1, most)
        on = np.flatnonzero(on & (reached < most))
        going, reached, leap = going[on], reached[on], np.maximum(1, (room[on] >> _EIGHTHS) - 1).astype(np.float32)
        row, col, down, right = row[on], col[on], down[on], right[on]
    return length
