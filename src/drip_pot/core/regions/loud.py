# SPDX-License-Identifier: GPL-3.0-or-later
"""Loud working colours: neighbours always clearly different. Knows only the region graph."""

import heapq

import numpy as np

from drip_pot.core.arrays import I64, U8

LOUD: U8 = np.array(
    [
        [224, 114, 39],
        [20, 163, 213],
        [253, 206, 62],
        [177, 23, 118],
        [80, 190, 52],
        [99, 253, 244],
        [52, 71, 200],
        [44, 107, 28],
        [199, 119, 253],
    ],
    np.uint8,
)
"""Nine colours, (9, 3) sRGB, each two at least 22 apart (OKLab × 100), light enough for black line to read on them."""

_FEW = 0.05  # of the regions


def loud_colors(regions: I64, pairs: I64, previous: dict[int, int] | None = None) -> dict[int, int]:
    """Give every region one of the loud colours.

    Parameters
    ----------
    regions : (R,) ndarray of int64
        Region numbers.
    pairs : (K, 2) ndarray of int64
        Regions that share a border.
    previous : dict, optional
        Index into `LOUD` that regions had before; kept wherever neighbours allow.

    Returns
    -------
    dict
        Index into `LOUD` for every region; neighbours differ, and neighbours of neighbours wherever that can be, so
        that a colour which has leaked into the next region but one is seen.

    Notes
    -----
    Smallest-last order (Matula and Beck, "Smallest-last ordering and clustering and graph coloring algorithms",
    Journal of the ACM 30, 1983, doi:10.1145/2402.322385) needs at most six colours on a planar map, so nine
    leave room for those beyond the neighbours and for keeping what was there.
    """
    kept = keep_loud(regions, pairs, previous or {})
    if kept is not None:
        return kept
    near: dict[int, set[int]] = {r: set() for r in regions.tolist()}
    for a, b in pairs.tolist():
        if a != b:
            near[a].add(b)
            near[b].add(a)
    before = previous or {}
    chosen: dict[int, int] = {}
    round_it = {region: [0] * len(LOUD) for region in near}  # how many neighbours have each colour
    for region in reversed(_smallest_last(near)):
        others = near[region]
        taken, counts = {chosen[other] for other in others if other in chosen}, [round_it[other] for other in others]
        beyond = [sum(colors) for colors in zip(*counts, strict=True)] or [0] * len(LOUD)
        wish = before.get(region, (region * 3) % len(LOUD))
        turn = [(wish + step) % len(LOUD) for step in range(len(LOUD))]
        color = min((c for c in turn if c not in taken), key=beyond.__getitem__, default=wish)
        chosen[region] = color
        for count in counts:
            count[color] += 1
    return chosen


def keep_loud(regions: I64, pairs: I64, previous: dict[int, int]) -> dict[int, int] | None:
    """Colour only what is new, and what has come to match a neighbour: `loud_colors` within some milliseconds.

    `regions` are (R,) int64 numbers, `pairs` (P, 2) int64 of those that touch. None where too much is new, or it would
    push too many others.
    """
    table = np.full(int(regions.max(initial=0)) + 1, -1, np.int64)
    known = [r for r in regions.tolist() if r in previous]
    table[known] = [previous[r] for r in known]
    ends = pairs[pairs[:, 0] != pairs[:, 1]]
    colors = table[ends]
    table[ends[(colors[:, 0] == colors[:, 1]) & (colors[:, 0] >= 0)].max(axis=1)] = -1
    fresh = regions[table[regions] < 0]
    if len(fresh) > _FEW * len(regions):
        return None
    waiting = fresh.tolist()
    for _ in range(3 * len(waiting) + 60):
        if not waiting:
            return dict(zip(regions.tolist(), table[regions].tolist(), strict=True))
        region = waiting.pop()
        mine = ends[(ends == region).any(axis=1)]
        near = np.unique(mine[mine != region])
        count = np.bincount(table[near][table[near] >= 0], minlength=len(LOUD))
        wish = (region * 3 + np.arange(len(LOUD))) % len(LOUD)
        table[region] = wish[np.argmin(count[wish])]
        pushed = near[table[near] == table[region]]
        table[pushed] = -1
        waiting += pushed.tolist()
    return None


def _smallest_last(near: dict[int, set[int]]) -> list[int]:
    degree = {region: len(others) for region, others in near.items()}
    heap = [(count, region) for region, count in degree.items()]
    heapq.heapify(heap)
    order: list[int] = []
    done: set[int] = set()
    while heap:
        count, region = heapq.heappop(heap)
        if region in done or count != degree[region]:
            continue
        done.add(region)
        order.append(region)
        for other in near[region]:
            if other not in done:
                degree[other] -= 1
                heapq.heappush(heap, (degree[other], other))
    return order
