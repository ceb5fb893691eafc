"""How likely each bridge is to be a border that was meant: judged from the line and from what it parts.

Knows bridges, edges and the areas and borders of atoms; no pixels. The weights in judge.npz were fitted on drawings
made by script, with `benchmarks/fit_judge.py`; nothing is learned while the program runs.
"""

from functools import lru_cache
from importlib.resources import files

import numpy as np
from scipy.sparse import coo_array
from scipy.sparse.csgraph import connected_components

from drip_pot.core.arrays import F64, I64
from drip_pot.core.regions.gaps import EVIDENCE, Bridges
from drip_pot.core.regions.graph import Borders

_SURE, _STEP = 0.97, 0.06
_JOIN, _JOIN_SMALL, _SMALL = 0.5, 0.32, 20.0
FEATURES = 19 + len(EVIDENCE)


def judge(areas: I64, borders: Borders, bridges: Bridges, edges: I64, line_px: float) -> F64:
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

    Returns
    -------
    (E,) ndarray of float64
        0..1; from 0.5 on the edge parts two regions.

    Notes
    -----
    Regions are joined step by step, the likeliest pairs first (P. Arbeláez, M. Maire, C. Fowlkes, J. Malik, "Contour
    Detection and Hierarchical Image Segmentation", 2011, merge a region graph in the same way); after every step
    what is known of a region (its size, how much of its border is line) is worked out anew. The likeliness of a pair
    is the mean of small networks of two hidden layers.
    """
    verdict = np.ones(len(edges))
    if len(edges) == 0:
        return verdict
    region = np.arange(len(areas))
    size: F64 = np.asarray(areas, np.float64)
    for step in range(int((_SURE - _JOIN_SMALL) / _STEP) + 24):
        one, two, known, pair_of_edge, alive = pair_features(region, areas, borders, bridges, edges, line_px)
        if len(one) == 0:
            break
        same = _likeness(known)
        verdict[alive] = 1 - same[pair_of_edge]
        small = np.minimum(size[one], size[two]) < _SMALL * max(line_px, 1.0) ** 2
        limit = np.maximum(np.where(small, _JOIN_SMALL, _JOIN), _SURE - _STEP * step)
        likely = same >= limit
        if not likely.any():
            if _SURE - _STEP * step <= _JOIN_SMALL:
                break
            continue
        best = np.zeros(len(areas))
        np.maximum.at(best, one, same)
        np.maximum.at(best, two, same)
        mutual = likely & (same >= best[one] - 1e-9) & (same >= best[two] - 1e-9)
        chosen = mutual if mutual.any() else likely
        joined = chosen[pair_of_edge]
        verdict[alive[joined]] = np.minimum(verdict[alive[joined]], 0.49)
        region = components(len(areas), one[chosen], two[chosen])[region]
        size = np.asarray(np.bincount(region, weights=areas, minlength=len(areas)), np.float64)
    apart = region[edges[:, 0]] != region[edges[:, 1]]
    verdict[apart] = np.maximum(verdict[apart], 0.5)
    return verdict


def pair_features(
    region: I64, areas: I64, borders: Borders, bridges: Bridges, edges: I64, line_px: float
) -> tuple[I64, I64, F64, I64, I64]:
    """Describe every pair of regions that bridges part.

    Returns
    -------
    one, two : (P,) ndarrays of int64
        The regions, the smaller number first.
    known : (P, FEATURES) ndarray of float64
        Lengths in line widths.
    pair_of_edge, alive : (K,) ndarrays of int64
        For every edge that still parts two regions its pair and its index.
    """
    count, line = np.int64(len(areas)), max(line_px, 1.0)
    a, b = region[edges[:, 0]], region[edges[:, 1]]
    alive = np.flatnonzero(a != b)
    key = np.minimum(a, b)[alive] * count + np.maximum(a, b)[alive]
    both, first = np.unique(np.stack([key, edges[alive, 2]], axis=1), axis=0, return_index=True)
    pairs, pair_of_edge = np.unique(key, return_inverse=True)
    owner, bridge = pair_of_edge[first], both[:, 1]
    one, two = pairs // count, pairs % count
    size = np.bincount(region, weights=areas, minlength=count)
    ends = region[borders.pairs]
    apart = ends[:, 0] != ends[:, 1]
    length = borders.length_px[apart].astype(np.float64)
    round_px = np.bincount(ends[apart].T.ravel(), weights=np.tile(length, 2), minlength=count)
    edge_key = ends[apart].min(axis=1) * count + ends[apart].max(axis=1)
    shared_keys, which = np.unique(edge_key, return_inverse=True)
    shared = np.bincount(which, weights=length)
    width, sure = bridges.width_px[bridge], bridges.confidence[bridge]
    pair = bridges.is_tip_pair[bridge].astype(np.float64)
    sides = np.concatenate([one[owner], two[owner]])
    gaps = np.bincount(sides, weights=np.tile(width, 2), minlength=count)
    number = np.bincount(sides, minlength=count)
    widest, narrowest = _most(owner, width, len(pairs)), -_most(owner, -width, len(pairs))
    total = np.bincount(owner, weights=width, minlength=len(pairs))
    order = np.lexsort((sure, owner))
    weakest = bridge[order][np.searchsorted(owner[order], np.arange(len(pairs)))]
    small, large = np.where(size[one] <= size[two], one, two), np.where(size[one] <= size[two], two, one)
    around = np.maximum(round_px, 1)
    thick = 2 * size / around
    spot = np.minimum(np.searchsorted(shared_keys, pairs), max(len(shared_keys) - 1, 0))
    border = np.where(shared_keys[spot] == pairs, shared[spot], 0.0)
    columns = [
        np.bincount(owner, minlength=len(pairs)), total / line, widest / line, narrowest / line,
        -_most(owner, -sure, len(pairs)), _most(owner, sure, len(pairs)), _most(owner, pair, len(pairs)),
        -_most(owner, -pair, len(pairs)), np.log(size[small] / line**2), np.log(size[large] / line**2),
        np.log(thick[small] / line + 0.01), widest / np.maximum(thick[small], 0.5), gaps[small] / around[small],
        total / around[small], gaps[large] / around[large], number[small], border / around[small],
        np.log(thick[large] / line + 0.01), round_px[small] ** 2 / np.maximum(size[small], 1) / 12.6,
    ]  # fmt: skip
    known = np.hstack([np.stack(columns, axis=1).astype(np.float64), bridges.evidence[weakest]])
    return one, two, known, pair_of_edge, alive


def _most(owner: I64, value: F64, count: int) -> F64:
    out = np.full(count, -np.inf)
    np.maximum.at(out, owner, value)
    return out


def components(count: int, one: I64, two: I64) -> I64:
    """Return, for every number below `count`, the smallest it is joined to by the given links."""
    graph = coo_array((np.ones(len(one), np.int8), (one, two)), shape=(count, count))
    _, group = connected_components(graph, directed=False)
    first = np.full(int(group.max()) + 1, count, np.int64)
    np.minimum.at(first, group, np.arange(count))
    return np.asarray(first[group])


def _likeness(known: F64) -> F64:
    """How likely the two regions of each pair are one, 0..1."""
    total = np.zeros(len(known))
    networks = _networks()
    for mean, spread, layers in networks:
        out = np.clip((known - mean) / spread, -5, 5)
        for place, (weight, bias) in enumerate(layers):
            out = out @ weight + bias
            if place < len(layers) - 1:
                np.maximum(out, 0, out=out)
        total += 1 / (1 + np.exp(-out[:, 0]))
    return total / len(networks)


@lru_cache(maxsize=1)
def _networks() -> list[tuple[F64, F64, list[tuple[F64, F64]]]]:
    with (files("drip_pot.core.regions") / "judge.npz").open("rb") as file, np.load(file) as stored:
        kept = {name: stored[name].astype(np.float64) for name in stored.files}
    found = []
    for k in range(int(kept["count"])):
        layers = [(kept[f"{k}.weight.{j}"], kept[f"{k}.bias.{j}"]) for j in range(3)]
        found.append((kept[f"{k}.mean"], kept[f"{k}.spread"], layers))
    return found
