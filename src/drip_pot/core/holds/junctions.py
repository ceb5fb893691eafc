# SPDX-License-Identifier: GPL-3.0-or-later
"""Where border pieces meet, and what they are bent round. Knows where regions meet; no colour."""

from dataclasses import dataclass
from functools import cached_property

import numpy as np
import scipy

from drip_pot.core.arrays import F64, I32, I64

_NEAR, _FAR, _MEETS_PX = 0.4, 3.0, 2.5
_STRAIGHT, _CLEAR, _STRAIGHT_ON = 0.5, 0.15, 0.85


@dataclass(frozen=True)
class Meeting:
    """Where regions meet.

    Attributes
    ----------
    plane : (M, N) ndarray of int32
        Region of every pixel.
    at, other : (K,) ndarrays of int64
        Flat places of pixels, ascending, and of a neighbour to the right or below that is of another region.
    """

    plane: I32
    at: I64
    other: I64

    @cached_property
    def pair(self) -> tuple[I64, I64]:
        """The two regions of every place, the lower number first."""
        flat = self.plane.reshape(-1)
        one, two = flat[self.at].astype(np.int64), flat[self.other].astype(np.int64)
        return np.minimum(one, two), np.maximum(one, two)

    @cached_property
    def keys(self) -> I64:
        """One number for every pair."""
        low, high = self.pair
        return low * (int(self.plane.max()) + 1) + high


@dataclass(frozen=True)
class Junctions:
    """Where border pieces meet.

    Attributes
    ----------
    bars : (J, 2) ndarray of int64
        The two pieces of the bar of every T.
    stem : (J,) ndarray of int64
        Its stem.
    clear : (J,) ndarray of float64
        How clear it is.
    crossing : (X, 2) ndarray of int64
        Pieces that go straight on into each other where four meet.
    at : (J, 2) ndarray of float64
        Row and column of every T.
    """

    bars: I64
    stem: I64
    clear: F64
    crossing: I64
    at: F64


def bent_round(meeting: Meeting, comp: I64, count: int) -> F64:
    """Tell which side pieces are bent round, (count + 1,) float64.

    1 is the first side wholly, -1 the second, 0 neither.
    """
    cols = meeting.plane.shape[1]
    rows, at_col = np.divmod(meeting.at, cols)
    down = (meeting.other - meeting.at == cols).astype(np.float64)
    flat = meeting.plane.reshape(-1)
    outward = np.where(flat[meeting.at] < flat[meeting.other], 1.0, -1.0)  # from the first side to the second
    size = np.maximum(np.bincount(comp, minlength=count + 1), 1)
    middle = [np.bincount(comp, place, count + 1) / size for place in (rows, at_col)]
    away = rows - middle[0][comp], at_col - middle[1][comp]
    along = (away[0] * down + away[1] * (1 - down)) * outward
    far = np.bincount(comp, np.hypot(*away), count + 1)
    return np.asarray(np.bincount(comp, along, count + 1) / np.maximum(far, 1e-9))


def find_junctions(meeting: Meeting, comp: I64, line_px: float) -> Junctions:
    """Find the T-junctions of a page; `comp` (K,) int64 is the piece of every place of `meeting`."""
    rows, cols = meeting.plane.shape
    at = meeting.at[(meeting.at // cols < rows - 1) & (meeting.at % cols < cols - 1)]
    flat = meeting.plane.reshape(-1)
    four = np.sort(np.stack([flat[at], flat[at + 1], flat[at + cols], flat[at + cols + 1]]), axis=0)
    spots = at[(np.diff(four, axis=0) != 0).sum(axis=0) == 2]
    none = np.zeros(0, np.int64)
    if not len(spots):
        return Junctions(none.reshape(0, 2), none, np.zeros(0), none.reshape(0, 2), np.zeros((0, 2)))
    places = np.column_stack(np.divmod(meeting.at, cols)).astype(np.float64)
    middles = np.column_stack(np.divmod(spots, cols)) + 0.5
    reach = _FAR * line_px + 2
    near = scipy.spatial.cKDTree(places).query_ball_point(middles, reach, workers=2)
    lengths = np.array([len(some) for some in near])
    chosen, spot = np.concatenate(near).astype(np.int64), np.repeat(np.arange(len(spots)), lengths)
    away = places[chosen] - middles[spot]
    far = np.hypot(*away.T)
    base = int(comp.max()) + 1
    keys, group = np.unique(spot * base + comp[chosen], return_inverse=True)
    least = np.full(len(keys), np.inf)
    np.minimum.at(least, group, far)
    ring = far >= _NEAR * reach
    ways = np.column_stack([np.bincount(group[ring], away[ring, k], len(keys)) for k in (0, 1)])
    length = np.hypot(*ways.T)
    way = ways / np.maximum(length, 1e-9)[:, None]

    def near_by(px: float) -> tuple[I64, I64, F64]:
        keep = (least < px) & (length > 0)
        return keys[keep] // base, keys[keep] % base, way[keep]

    tees, crossings = near_by(_MEETS_PX), near_by(_MEETS_PX + line_px)  # the middles of a crossing lie a line apart
    bars, stem, clear, spot_of = _tees(*tees)
    return Junctions(bars, stem, clear, _crossings(*crossings), middles[spot_of])


def _crossings(spot: I64, piece: I64, way: F64) -> I64:
    """Return the pieces that go straight on into each other where four meet, (X, 2)."""
    starts = np.flatnonzero(np.diff(spot, prepend=-1))
    four = starts[np.diff(np.append(starts, len(spot))) == 4]
    quad, ways = piece[four[:, None] + np.arange(4)], way[four[:, None] + np.arange(4)]
    found = [np.zeros((0, 2), np.int64)]
    for i, j in ((0, 1), (0, 2), (0, 3), (1, 2), (1, 3), (2, 3)):
        straight = (ways[:, i] * ways[:, j]).sum(axis=1) < -_STRAIGHT_ON
        found.append(quad[straight][:, [i, j]])
    return np.unique(np.concatenate(found), axis=0)


def _tees(spot: I64, piece: I64, way: F64) -> tuple[I64, I64, F64, I64]:
    """Return bars, stems, clearness and spots of the junctions of three pieces of which two go straight on."""
    starts = np.flatnonzero(np.diff(spot, prepend=-1))
    three = starts[np.diff(np.append(starts, len(spot))) == 3]
    trio, ways = piece[three[:, None] + np.arange(3)], way[three[:, None] + np.arange(3)]
    bends = np.stack([(ways[:, i] * ways[:, j]).sum(axis=1) for i, j in ((0, 1), (0, 2), (1, 2))], axis=1)
    order = np.argsort(bends, axis=1)
    every = np.arange(len(trio))
    best, second = bends[every, order[:, 0]], bends[every, order[:, 1]]
    clear = second - best
    told = (best < -_STRAIGHT) & (clear > _CLEAR)
    bars = np.array([[0, 1], [0, 2], [1, 2]])[order[told, 0]]
    stem = np.array([2, 1, 0])[order[told, 0]]
    rows = np.arange(int(told.sum()))
    both = np.stack([trio[told][rows, bars[:, k]] for k in (0, 1)], axis=1)
    return both, trio[told][rows, stem], clear[told], spot[three][told]
