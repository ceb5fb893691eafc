# SPDX-License-Identifier: GPL-3.0-or-later
"""Which bridges count: from atoms and edges to regions, without touching a pixel."""

from collections.abc import Sequence

import msgspec
import numpy as np

from drip_pot.core.arrays import F64, I64, Bool
from drip_pot.core.errors import BadInput
from drip_pot.core.regions.atoms import Atoms
from drip_pot.core.regions.gaps import Bridges
from drip_pot.core.regions.graph import Borders
from drip_pot.core.regions.judge import MEANT, components
from drip_pot.core.regions.weights import likeliness

_CRUMB_LINES, _CRUMB_GAPS = 12.0, 0.25


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
    atoms: Atoms,
    *,
    gap_px: float,
    least_px: int | None = None,
    choices: Sequence[BridgeChoice] = (),
    links: I64 | None = None,
) -> Partition:
    """Join atoms into regions.

    Parameters
    ----------
    atoms : Atoms
        The page as it was divided.
    gap_px : float
        Bridges up to this width are shut, 0..; 0 shuts none but those kept by hand.
    least_px : int, optional
        A region smaller than this is joined to the neighbour it is least likely parted from, again and again; worked
        out from the line width when not given. So is a bit of a gap: smaller than 12 line widths squared, a quarter
        of its border or more bridges. When given, one that ink parts from all others is joined as well.
    choices : sequence of BridgeChoice
        Decisions by hand; they outrank everything.
    links : (L, 2) ndarray of int64, optional
        Atoms joined by doors.

    Raises
    ------
    BadInput
        If `gap_px` or `least_px` is negative.
    """
    areas, bridges, edges, verdict = atoms.areas, atoms.bridges, atoms.edges, atoms.verdict
    asked, least_px = least_px, least_region_px(atoms.line_px) if least_px is None else least_px
    if not gap_px >= 0 or least_px < 0:
        raise BadInput("Gap width and smallest region cannot be negative; they are {0:g} and {1} px.", gap_px, least_px)
    shut = (bridges.width_px[edges[:, 2]] <= gap_px) & (verdict >= MEANT)
    by_hand = np.zeros(len(bridges), bool)
    for index, keep in _matched(bridges, choices):
        shut[edges[:, 2] == index], by_hand[index] = keep, True
    region = _components(areas, edges, shut, links)
    for _ in range(12):
        reopened = _weakest_of_small(atoms, region, shut & ~by_hand[edges[:, 2]], least_px)
        if len(reopened) == 0:
            break
        shut[reopened] = False
        region = _components(areas, edges, shut, links)
    if asked is not None:
        region = absorb_small(region, areas, atoms.borders, asked)
    separates, closed = np.zeros(len(bridges), bool), np.zeros(len(bridges), bool)
    separates[edges[:, 2]] = True
    closed[edges[region[edges[:, 0]] != region[edges[:, 1]], 2]] = True
    return Partition(region, closed, separates)


def regions_of(region: I64, areas: I64) -> I64:
    """List the regions that have pixels, (R,), for the region of every atom and the atoms' areas.

    Both are (A + 1,) int64.
    """
    return np.unique(region[areas > 0])


def auto_gap(atoms: Atoms) -> float:
    """Work out the closing width from the page: the widest bridge that is likely meant.

    Returns
    -------
    float
        Width in whole pixels, at least 4.
    """
    meant = np.unique(atoms.edges[atoms.verdict >= MEANT, 2])
    return float(np.ceil(max(4.0, atoms.bridges.width_px[meant].max(initial=0.0))))


def bridge_verdicts(atoms: Atoms) -> F64:
    """Return how likely each bridge is a border that was meant, (B,) float64 0..1; 0 where it parts nothing.

    Of bridges told at 0.3, three in ten parted two things in drawings the judge was not fitted on.
    """
    best = np.full(len(atoms.bridges), -1.0)
    np.maximum.at(best, atoms.edges[:, 2], atoms.verdict)
    return np.where(best < 0, 0.0, likeliness(best))


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


def _components(areas: I64, edges: I64, shut: Bool, links: I64 | None) -> I64:
    way = edges[~shut, :2]
    way = way if links is None else np.concatenate([way, links])
    return components(len(areas), way[:, 0], way[:, 1])


def _weakest_of_small(atoms: Atoms, region: I64, openable: Bool, least_px: int) -> I64:
    """For every region that is too small, or a bit of a gap, the shut edge that is least likely meant."""
    areas, edges, verdict = atoms.areas, atoms.edges, atoms.verdict
    size = np.bincount(region, weights=areas, minlength=len(areas))
    a, b = region[edges[:, 0]], region[edges[:, 1]]
    small = (size < least_px) | _crumbs(atoms, region, size, a, b)
    smaller = np.where(small[a] & (~small[b] | (size[a] <= size[b])), a, b)
    use = np.flatnonzero((a != b) & openable & small[smaller])
    order = use[np.lexsort((verdict[use], smaller[use]))]
    _, first = np.unique(smaller[order], return_index=True)
    return np.asarray(order[first])


def _crumbs(atoms: Atoms, region: I64, size: F64 | I64, a: I64, b: I64) -> Bool:
    """Which regions are bits of a gap: no larger than a few line widths, and much of their border is bridges."""
    ends = region[atoms.borders.pairs]
    apart = ends[:, 0] != ends[:, 1]
    length = np.tile(atoms.borders.length_px[apart], 2)
    around = np.bincount(ends[apart].T.ravel(), weights=length, minlength=len(size))
    shut = np.flatnonzero(a != b)
    sides = np.unique(np.stack([np.concatenate([a[shut], b[shut]]), np.tile(atoms.edges[shut, 2], 2)], axis=1), axis=0)
    gaps = np.bincount(sides[:, 0], weights=atoms.bridges.width_px[sides[:, 1]], minlength=len(size))
    return np.asarray((size < _CRUMB_LINES * atoms.line_px**2) & (gaps >= _CRUMB_GAPS * np.maximum(around, 1)))


def absorb_small(region: I64, areas: I64, borders: Borders, least_px: int) -> I64:
    """Give regions that are still too small to the neighbour they share the longest border with.

    Parameters
    ----------
    region : (A + 1,) ndarray of int64
        Region of every atom, as in `Partition`.
    areas, borders
        Of the atoms.
    least_px : int
        Regions of fewer pixels are absorbed, the smallest first.

    Returns
    -------
    (A + 1,) ndarray of int64
        Region of every atom; numbers are those of atoms still.
    """
    out = region.copy()
    for _ in range(64):
        size = np.bincount(out, weights=areas, minlength=len(areas))
        ends = out[borders.pairs]
        apart = ends[:, 0] != ends[:, 1]
        both = np.concatenate([ends[apart], ends[apart][:, ::-1]])
        length = np.tile(borders.length_px[apart], 2)
        use = (size[both[:, 0]] < least_px) & (size[both[:, 0]] <= size[both[:, 1]])
        if not use.any():
            break
        pairs, which = np.unique(both[use], axis=0, return_inverse=True)
        shared = np.bincount(which.reshape(-1), weights=length[use])
        order = np.lexsort((-shared, pairs[:, 0]))
        _, first = np.unique(pairs[order, 0], return_index=True)
        chosen = pairs[order][first]
        out = components(len(areas), chosen[:, 0], chosen[:, 1])[out]
    return out


def least_region_px(line_px: float) -> int:
    """Return the area, in pixels, under which a region is more likely an accident of bridging than meant."""
    return round(max(12.0, line_px**2))
