# SPDX-License-Identifier: GPL-3.0-or-later
"""How likely each bridge is to be a border that was meant: judged from the line and from what it parts.

Knows bridges, edges and the areas and borders of atoms; no pixels.
"""

from collections.abc import Callable

import numpy as np

from drip_pot.core.arrays import F32, F64, I64
from drip_pot.core.regions.company import COMPANY, company
from drip_pot.core.regions.gaps import EVIDENCE, Bridges
from drip_pot.core.regions.graph import Borders
from drip_pot.core.regions.weights import answer

MEANT = 0.4
"""From this verdict on a border is taken for meant: a needless split is healed by one pour, a leak must be found.

By `likeliness` that is one in twenty: a leak is held worth some nineteen needless splits, most of which are small.
"""
_SURE, _STEP, _MOST_STEPS = 0.97, 0.06, 48
_JOIN = 1 - MEANT
_FLOOR = MEANT + 0.01
PAIR = 34 + len(EVIDENCE) + COMPANY
"""How many numbers describe a pair."""


def judge(
    areas: I64,
    borders: Borders,
    bridges: Bridges,
    edges: I64,
    line_px: float,
    watch: Callable[[I64], None] | None = None,
) -> F64:
    """Judge every edge.

    Parameters
    ----------
    areas : (A + 1,) ndarray of int64
        Pixels of every atom.
    borders : Borders
        Which atoms touch, and along how many pixel sides.
    bridges : Bridges
        The bridges that were drawn.
    edges : (E, 3) ndarray of int64
        Atom, other atom, bridge.
    line_px : float
        Usual line width.
    watch : callable, optional
        Called before every step with the region of every atom, for those who fit weights.

    Returns
    -------
    (E,) ndarray of float64
        0..1; from `MEANT` on the edge parts two regions. What a verdict is worth, `likeliness` tells.

    Notes
    -----
    Regions are joined step by step, the likeliest pairs first (P. Arbeláez, M. Maire, C. Fowlkes, J. Malik, "Contour
    Detection and Hierarchical Image Segmentation", 2011, merge a region graph in the same way); after every step
    what is known of a region (its size, how much of its border is line) is worked out anew. The likeliness of a pair
    is what the pair judge says, see `weights`. Good continuation is a floor: where two ends lie in line the border
    stands, whatever the judges say, so that no manner of running out that they were not fitted on is turned down.
    """
    verdict = np.ones(len(edges))
    if len(edges) == 0:
        return verdict
    region, others = np.arange(len(areas)), company(bridges, line_px, len(areas) - 1)
    level = _SURE
    for _ in range(_MOST_STEPS):
        if watch is not None:
            watch(region)
        one, two, known, pair_of_edge, alive = pair_features(region, areas, borders, bridges, others, edges, line_px)
        if len(one) == 0:
            break
        same = 1 - answer("pair", known)
        verdict[alive] = 1 - same[pair_of_edge]
        while not (likely := same >= max(_JOIN, level)).any() and level > _JOIN:
            level -= _STEP
        if not likely.any():
            break
        best = np.zeros(len(areas))
        np.maximum.at(best, one, same)
        np.maximum.at(best, two, same)
        mutual = likely & (same >= best[one] - 1e-9) & (same >= best[two] - 1e-9)
        chosen = mutual if mutual.any() else likely
        joined = chosen[pair_of_edge]
        verdict[alive[joined]] = np.minimum(verdict[alive[joined]], MEANT - 0.01)
        region = components(len(areas), one[chosen], two[chosen])[region]
        level -= _STEP
    apart = region[edges[:, 0]] != region[edges[:, 1]]
    verdict[apart] = np.maximum(verdict[apart], MEANT)
    aligned = bridges.aligned[edges[:, 2]]
    verdict[aligned] = np.maximum(verdict[aligned], _FLOOR)
    return verdict


def pair_features(
    region: I64, areas: I64, borders: Borders, bridges: Bridges, others: F64, edges: I64, line_px: float
) -> tuple[I64, I64, F64, I64, I64]:
    """Describe every pair of regions that bridges part.

    Returns
    -------
    one, two : (P,) ndarrays of int64
        The regions, the smaller number first.
    known : (P, PAIR) ndarray of float64
        Lengths in line widths; what `local_judge` said of the bridges between the two and round either; the `company`
        of the weakest of them.
    pair_of_edge, alive : (K,) ndarrays of int64
        For every edge that still parts two regions its pair and its index.
    """
    count, line = np.int64(len(areas)), max(line_px, 1.0)
    a, b = region[edges[:, 0]], region[edges[:, 1]]
    alive = np.flatnonzero(a != b)
    if len(alive) == 0:
        return alive, alive, np.zeros((0, PAIR)), alive, alive
    key = np.minimum(a, b)[alive] * count + np.maximum(a, b)[alive]
    both = np.unique(key * np.int64(len(bridges)) + edges[alive, 2])
    pairs, pair_of_edge = np.unique(key, return_inverse=True)
    key_of, bridge = both // len(bridges), both % len(bridges)
    owner = np.searchsorted(pairs, key_of)
    one, two = pairs // count, pairs % count
    number = np.bincount(owner, minlength=len(pairs))
    start = np.concatenate([[0], np.cumsum(number)[:-1]]).astype(np.int64)
    size = np.bincount(region, weights=areas, minlength=count)
    ends = region[borders.pairs]
    apart = ends[:, 0] != ends[:, 1]
    length = borders.length_px[apart].astype(np.float64)
    round_px = np.bincount(ends[apart].T.ravel(), weights=np.tile(length, 2), minlength=count)
    edge_key = ends[apart].min(axis=1) * count + ends[apart].max(axis=1)
    shared_keys, which = np.unique(edge_key, return_inverse=True)
    shared = np.bincount(which, weights=length)
    width, sure = bridges.width_px[bridge], bridges.confidence[bridge]
    logit = np.log(np.clip(sure, 1e-4, 1 - 1e-4) / np.clip(1 - sure, 1e-4, 1))
    sides = np.concatenate([one[owner], two[owner]])
    gaps = np.bincount(sides, weights=np.tile(width, 2), minlength=count)
    unsure = np.bincount(sides, weights=np.tile(width * (1 - sure), 2), minlength=count)
    doors = np.bincount(sides, minlength=count)
    trust = np.bincount(sides, weights=np.tile(logit, 2), minlength=count) / np.maximum(doors, 1)
    least = np.full(count, 10.0)
    np.minimum.at(least, sides, np.tile(logit, 2))
    total, weighed = np.add.reduceat(width, start), np.add.reduceat(width * logit, start)
    widest, narrowest = np.maximum.reduceat(width, start), np.minimum.reduceat(width, start)
    order = np.lexsort((logit, owner))
    weakest = bridge[order][start]
    smaller = size[one] <= size[two]
    small, large = np.where(smaller, one, two), np.where(smaller, two, one)
    around = np.maximum(round_px, 1)
    thick = 2 * size / around
    spot = np.minimum(np.searchsorted(shared_keys, pairs), max(len(shared_keys) - 1, 0))
    border = np.where(shared_keys[spot] == pairs, shared[spot], 0.0)
    columns = [
        number, total / line, widest / line, narrowest / line,
        np.minimum.reduceat(logit, start), np.maximum.reduceat(logit, start), np.add.reduceat(logit, start),
        np.add.reduceat(logit, start) / number, weighed / total,
        np.log(size[small] / line**2), np.log(size[large] / line**2), np.full(len(pairs), np.log(line)),
        np.log(thick[small] / line + 0.01), np.log(thick[large] / line + 0.01), widest / np.maximum(thick[small], 0.5),
        gaps[small] / around[small], total / around[small], gaps[large] / around[large], total / around[large],
        unsure[small] / around[small], unsure[large] / around[large], (unsure[small] / np.maximum(gaps[small], 1)),
        doors[small], np.log1p(doors[large]), trust[small], trust[large], least[small], least[large],
        border / around[small], border / around[large], total / np.maximum(border, 1),
        round_px[small] ** 2 / np.maximum(size[small], 1) / 12.6,
        np.log(np.maximum(size[small], 1) / np.maximum(total, 1) ** 2), np.log(around[small] / total),
    ]  # fmt: skip
    known = np.hstack([np.stack(columns, axis=1).astype(np.float64), bridges.evidence[weakest], others[weakest]])
    return one, two, known, pair_of_edge, alive


def components(count: int, one: I64, two: I64) -> I64:
    """Return, for every number below `count`, the smallest it is joined to by links `one`, `two`, (L,) int64.

    (count,) int64.
    """
    root = np.arange(count)
    while True:
        a, b = root[one], root[two]
        if (apart := np.flatnonzero(a != b)).size == 0:
            return root
        np.minimum.at(root, np.maximum(a, b)[apart], np.minimum(a, b)[apart])
        while not np.array_equal(further := root[root], root):
            root = further
        one, two = one[apart], two[apart]


def local_judge(evidence: F32) -> F64:
    """Return how likely each bridge parts two things by what the line says there, (B,) float64 0..1.

    What the line says is (B, F) float32, from `local_evidence`.
    """
    return answer("local", evidence)
