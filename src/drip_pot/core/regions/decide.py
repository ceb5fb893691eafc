"""Which bridges count: from atoms and edges to regions, without touching a pixel."""

from collections.abc import Sequence

import msgspec
import numpy as np
from scipy.sparse import coo_array
from scipy.sparse.csgraph import connected_components

from drip_pot.core.arrays import I64, Bool
from drip_pot.core.errors import BadInput
from drip_pot.core.regions.gaps import Bridges

LEAST_CONFIDENCE = 0.45
_SURE = 0.8


class BridgeChoice(msgspec.Struct, frozen=True):
    """A bridge kept or refused by hand, remembered by its middle (row, col in pixels)."""

    row: float
    col: float
    keep: bool


class Partition(msgspec.Struct, frozen=True):
    """Regions as sets of atoms.

    Attributes
    ----------
    region : (A + 1,) ndarray of int64
        For every atom (index 0 unused) its region: the smallest atom in it.
    closed : (B,) ndarray of bool
        Which bridges part something and are shut.
    separates : (B,) ndarray of bool
        Which bridges part two atoms at all.
    """

    region: I64
    closed: Bool
    separates: Bool


def decide(
    areas: I64,
    bridges: Bridges,
    edges: I64,
    *,
    gap_px: float,
    least_px: int = 0,
    choices: Sequence[BridgeChoice] = (),
) -> Partition:
    """Join atoms into regions.

    Parameters
    ----------
    areas : (A + 1,) ndarray of int64
        Pixels of every atom; index 0 unused.
    bridges : Bridges
        The bridges drawn.
    edges : (E, 3) ndarray of int64
        Atom, other atom, bridge.
    gap_px : float
        Bridges up to this width are shut, 0..; 0 shuts none but those kept by hand.
    least_px : int
        A region smaller than this reopens its least likely bridge, again and again.
    choices : sequence of BridgeChoice
        Decisions by hand; they outrank everything.

    Raises
    ------
    BadInput
        If `gap_px` or `least_px` is negative.
    """
    if not gap_px >= 0 or least_px < 0:
        raise BadInput(f"Gap width and smallest region cannot be negative; they are {gap_px:g} and {least_px} px.")
    shut = (bridges.width_px <= gap_px) & (bridges.confidence >= LEAST_CONFIDENCE)
    by_hand = np.zeros(len(bridges), bool)
    for index, keep in _matched(bridges, choices):
        shut[index], by_hand[index] = keep, True
    region = _components(areas, edges, shut)
    for _ in range(12):
        doubtful = shut & ~by_hand & (bridges.confidence < _SURE)
        reopened = _weakest_of_small(areas, region, edges, bridges, doubtful, least_px)
        if len(reopened) == 0:
            break
        shut[reopened] = False
        region = _components(areas, edges, shut)
    separates = np.zeros(len(bridges), bool)
    separates[edges[:, 2]] = True
    return Partition(region, shut & separates, separates)


def auto_gap(bridges: Bridges, line_px: float) -> float:
    """Work out the closing width from the page: line width, and the spread of the likely gaps.

    Returns
    -------
    float
        Width in pixels, at least 8 px, at most three line widths and 16 px more (and 60).
    """
    likely = bridges.width_px[bridges.is_tip_pair & (bridges.confidence > 0.45)]
    spread = float(np.percentile(likely, 94)) + 1.5 if likely.size >= 5 else 0.0
    return float(np.clip(np.ceil(max(spread, 4 * line_px)), 8, max(8.0, min(60.0, 3 * line_px + 16))))


def _matched(bridges: Bridges, choices: Sequence[BridgeChoice]) -> list[tuple[int, bool]]:
    if len(bridges) == 0:
        return []
    middle = (bridges.feet[:, :2] + bridges.feet[:, 2:]) / 2
    matched = []
    for choice in choices:
        away = np.hypot(middle[:, 0] - choice.row, middle[:, 1] - choice.col)
        nearest = int(away.argmin())
        if away[nearest] <= bridges.width_px[nearest] / 2 + 4:
            matched.append((nearest, choice.keep))
    return matched


def _components(areas: I64, edges: I64, shut: Bool) -> I64:
    count = len(areas)
    way = edges[~shut[edges[:, 2]]]
    graph = coo_array((np.ones(len(way), np.int8), (way[:, 0], way[:, 1])), shape=(count, count))
    _, group = connected_components(graph, directed=False)
    first = np.full(int(group.max()) + 1, count, np.int64)
    np.minimum.at(first, group, np.arange(count))
    return np.asarray(first[group])


def _weakest_of_small(areas: I64, region: I64, edges: I64, bridges: Bridges, openable: Bool, least_px: int) -> I64:
    size = np.bincount(region, weights=areas, minlength=len(areas))
    a, b = region[edges[:, 0]], region[edges[:, 1]]
    smaller = np.where(size[a] <= size[b], a, b)
    use = (a != b) & openable[edges[:, 2]] & (size[smaller] < least_px)
    if not use.any():
        return np.zeros(0, np.int64)
    bridge, owner = edges[use, 2], smaller[use]
    order = np.lexsort((bridges.confidence[bridge], owner))
    _, first = np.unique(owner[order], return_index=True)
    return np.unique(bridge[order][first])


def least_region_px(line_px: float) -> int:
    """Return the area, in pixels, under which a region is more likely an accident of bridging than meant."""
    return round(max(60.0, 6 * line_px**2))
