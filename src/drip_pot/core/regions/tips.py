"""Free ends of strokes, found where the outline of the ink turns back on itself. Knows nothing of gaps."""

from dataclasses import dataclass

import numpy as np
from scipy.ndimage import maximum_filter1d, minimum_filter1d
from scipy.spatial import cKDTree

from drip_pot.core.arrays import F32, F64, I64, U8, Bool, check_plane
from drip_pot.core.regions.barrier import Outline
from drip_pot.core.regions.rivals import greedy

_SCALES = (4, 6, 9, 13, 20, 30, 44)
_SLENDER = 0.95


@dataclass(frozen=True)
class Tips:
    """Free stroke ends.

    Attributes
    ----------
    at : (T, 2) ndarray of int64
        Row, column of the outermost ink pixel.
    direction : (T, 2) ndarray of float64
        Unit vector (row, column) in which the stroke would go on.
    width : (T,) ndarray of float64
        Width of the stroke a little before its end, in pixels.
    slender : (T,) ndarray of float64
        Length of the end over its width, 0.95 and up; large for a clear stroke, small for a blunt corner.
    """

    at: I64
    direction: F64
    width: F64
    slender: F64

    def __len__(self) -> int:
        return len(self.at)


def find_tips(barrier: U8, outline: Outline) -> Tips:
    """Find the free ends of strokes.

    Parameters
    ----------
    barrier : (M, N) ndarray of uint8
        1 where there is line.
    outline : Outline
        Of the same barrier.

    Notes
    -----
    Along the outline of the ink, point i is a tip at scale s when the points s before and s after it lie close
    together (chord) while i itself lies far out from the middle of that chord (reach), with ink between them.
    Of several scales the most slender wins.
    """
    check_plane(barrier, np.uint8, "barrier")
    if len(outline.points) == 0:
        return Tips(np.zeros((0, 2), np.int64), np.zeros((0, 2)), np.zeros(0), np.zeros(0))
    points = outline.points.astype(np.float32)
    starts, length = outline.start, outline.size
    place = np.arange(len(points)) - starts
    bent = _bent(points, starts, length, place)
    found = [_tips_at_scale(barrier, points, starts, length, place, bent, scale) for scale in _SCALES]
    at, direction, width, slender = (np.concatenate(parts) for parts in zip(*found, strict=True))
    height, width_px = barrier.shape
    inside = (at[:, 0] > 1) & (at[:, 1] > 1) & (at[:, 0] < height - 2) & (at[:, 1] < width_px - 2)
    return _strongest(Tips(at[inside], direction[inside], width[inside], slender[inside]))


def _bent(points: F32, starts: I64, length: I64, place: I64) -> Bool:
    """Whether the outline turns by more than about 30 degrees near a point: tips can only be there."""
    before = points[starts + (place - 4) % length]
    after = points[starts + (place + 4) % length]
    square = ((after - before) ** 2).sum(axis=1)
    return np.asarray(maximum_filter1d((square < 58).astype(np.uint8), 13, mode="nearest") > 0)


def _tips_at_scale(
    barrier: U8, points: F32, starts: I64, length: I64, place: I64, bent: Bool, scale: int
) -> tuple[I64, F64, F64, F64]:
    usable = np.flatnonzero((length > 3 * scale) & bent)
    start, size, here = starts[usable], length[usable], place[usable]
    point = points[usable]
    before = points[start + (here - scale) % size]
    after = points[start + (here + scale) % size]
    chord = np.hypot(*(after - before).T)
    middle = (before + after) / 2
    out = point - middle
    reach = np.hypot(*out.T)
    lowest = chord - 0.7 * reach
    peak = lowest <= minimum_filter1d(lowest, 2 * (scale // 2) + 1, mode="nearest")
    hit = np.flatnonzero(peak & (reach > _SLENDER * np.maximum(chord, 1.0)) & (reach > 0.55 * scale))
    within = np.rint(middle[hit] * 0.4 + point[hit] * 0.6).astype(np.int64)
    hit = hit[barrier[within[:, 0], within[:, 1]] != 0]
    return (
        point[hit].astype(np.int64),
        (out[hit] / reach[hit, None]).astype(np.float64),
        chord[hit].astype(np.float64),
        (reach[hit] / np.maximum(chord[hit], 1.0)).astype(np.float64),
    )


def _strongest(tips: Tips) -> Tips:
    """Keep one tip where several scales saw the same end."""
    if len(tips) == 0:
        return tips
    order = np.argsort(-tips.slender, kind="stable")
    rank = np.empty(len(order), np.int64)
    rank[order] = np.arange(len(order))
    pairs = cKDTree(tips.at).query_pairs(8.0, output_type="ndarray")
    alike = (tips.direction[pairs[:, 0]] * tips.direction[pairs[:, 1]]).sum(axis=1) > 0.3
    gap = np.hypot(*(tips.at[pairs[:, 0]] - tips.at[pairs[:, 1]]).T)
    reach = np.maximum(tips.width[pairs[:, 0]], tips.width[pairs[:, 1]]) * 0.7 + 2.5
    pairs = pairs[alike & (gap <= reach)]
    chosen = np.flatnonzero(greedy(pairs, rank))
    chosen = chosen[np.lexsort((tips.at[chosen, 1], tips.at[chosen, 0]))]
    return Tips(tips.at[chosen], tips.direction[chosen], tips.width[chosen], tips.slender[chosen])
