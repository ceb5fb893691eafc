# SPDX-License-Identifier: GPL-3.0-or-later
"""Free ends of strokes, found where the outline of the ink turns back on itself. Knows nothing of gaps."""

from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, replace

import cv2
import numpy as np

from drip_pot.core.arrays import F64, I64, U8, check_plane
from drip_pot.core.near import close_pairs
from drip_pot.core.regions.barrier import Chain, Outline
from drip_pot.core.regions.rivals import greedy

_SCALES = (4, 6, 9, 13, 20, 30, 44)
_SLENDER = 0.95
_TURNS, _BENT = (4, 7), 0.907


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

    Raises
    ------
    BadInput
        If an array has another shape or type.

    Notes
    -----
    Along the outline of the ink, point i is a tip at scale s when the points s before and s after it lie close
    together (chord) while i itself lies far out from the middle of that chord (reach), with ink between them.
    Of several scales the most slender wins.
    """
    check_plane(barrier, np.uint8, "barrier")
    if len(outline.points) == 0:
        return Tips(np.zeros((0, 2), np.int64), np.zeros((0, 2)), np.zeros(0), np.zeros(0))
    chain = Chain(outline)
    bent = _bent(chain)
    with ThreadPoolExecutor(2) as pool:
        found = list(pool.map(lambda scale: _tips_at_scale(barrier, chain, bent, scale), _SCALES))
    at, direction, width, slender = (np.concatenate(parts) for parts in zip(*found, strict=True))
    height, width_px = barrier.shape
    inside = (at[:, 0] > 1) & (at[:, 1] > 1) & (at[:, 0] < height - 2) & (at[:, 1] < width_px - 2)
    tips = _strongest(Tips(at[inside], direction[inside], width[inside], slender[inside]))
    return replace(tips, at=_outermost(barrier, tips))


def _outermost(barrier: U8, tips: Tips) -> I64:
    """Go on from every tip while there is ink, no farther than its stroke is wide: an end may be forked."""
    at, going = tips.at.copy(), np.arange(len(tips))
    most = np.array(barrier.shape) - 1
    for step in range(1, int(tips.width.max(initial=0)) + 1):
        ahead = np.rint(tips.at[going] + step * tips.direction[going]).astype(np.int64)
        on = ((ahead >= 0) & (ahead <= most)).all(axis=1) & (step <= tips.width[going])
        going, ahead = going[on], ahead[on]
        on = barrier[ahead[:, 0], ahead[:, 1]] != 0
        going = going[on]
        at[going] = ahead[on]
    return at


def _bent(chain: Chain) -> I64:
    """Points near which the outline turns by more than about 30 degrees: tips can only be there.

    That is looked for over two lengths, since a round end of a broad stroke turns slowly.
    """
    every = np.arange(len(chain.row))
    sharp = np.zeros((1, len(every)), np.uint8)
    for reach in _TURNS:
        (r0, c0), (r1, c1) = chain.along(every, -reach), chain.along(every, reach)
        here = ((r1 - r0) ** 2 + (c1 - c0) ** 2 < _BENT * (2 * reach) ** 2).astype(np.uint8)
        sharp |= cv2.dilate(here[None], np.ones((1, 3 * reach + 1), np.uint8))
    return np.flatnonzero(sharp)


def _tips_at_scale(barrier: U8, chain: Chain, bent: I64, scale: int) -> tuple[I64, F64, F64, F64]:
    usable = bent[chain.size.take(bent) > 3 * scale]
    row, col = chain.row.take(usable), chain.col.take(usable)
    (r0, c0), (r1, c1) = chain.along(usable, -scale), chain.along(usable, scale)
    chord = np.hypot(r1 - r0, c1 - c0)
    out_row, out_col = row - (r0 + r1) / 2, col - (c0 + c1) / 2
    reach = np.hypot(out_row, out_col)
    lowest = chord - np.float32(0.7) * reach
    beside = np.ones((1, 2 * (scale // 2) + 1), np.uint8)
    peak = lowest <= (cv2.erode(lowest[None], beside)[0] if len(lowest) else 0)
    hit = np.flatnonzero(peak & (reach > _SLENDER * np.maximum(chord, 1.0)) & (reach > 0.55 * scale))
    inner_row = np.rint(row[hit] - 0.4 * out_row[hit]).astype(np.int64)
    inner_col = np.rint(col[hit] - 0.4 * out_col[hit]).astype(np.int64)
    hit = hit[barrier[inner_row, inner_col] != 0]
    out = np.stack([out_row[hit], out_col[hit]], axis=1)
    return (
        np.stack([row[hit], col[hit]], axis=1).astype(np.int64),
        (out / reach[hit, None]).astype(np.float64),
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
    pairs = close_pairs(tips.at, 8.0)
    alike = (tips.direction[pairs[:, 0]] * tips.direction[pairs[:, 1]]).sum(axis=1) > 0.3
    gap = np.hypot(*(tips.at[pairs[:, 0]] - tips.at[pairs[:, 1]]).T)
    reach = np.maximum(tips.width[pairs[:, 0]], tips.width[pairs[:, 1]]) * 0.7 + 2.5
    pairs = pairs[alike & (gap <= reach)]
    chosen = np.flatnonzero(greedy(pairs, rank))
    chosen = chosen[np.lexsort((tips.at[chosen, 1], tips.at[chosen, 0]))]
    return Tips(tips.at[chosen], tips.direction[chosen], tips.width[chosen], tips.slender[chosen])
