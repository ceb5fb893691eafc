"""Dams and doors: borders drawn without ink, and ways through a line. Knows atoms; touches only those it parts."""

from collections.abc import Sequence
from dataclasses import fields, replace
from itertools import pairwise

import cv2
import numpy as np

from drip_pot.core.arrays import F64, I32, I64, U8, Bool
from drip_pot.core.regions.atoms import Atoms, find_edges
from drip_pot.core.regions.barrier import draw_barrier
from drip_pot.core.regions.gaps import Bridges
from drip_pot.core.regions.graph import Borders, find_borders

Path = Sequence[tuple[float, float]]
"""A stroke: rows and columns in page pixels."""
_LEAST_PX = 4
_MARGIN = 2


def cut_atoms(atoms: Atoms, ink: U8, dam: Path) -> Atoms:
    """Cut the atoms under a dam.

    Parameters
    ----------
    atoms : Atoms
        The page as it is divided.
    ink : (M, N) ndarray of uint8
        The contour it was divided by.
    dam : sequence of (row, col)
        The stroke, one point or more; parts beside the page do nothing.

    Returns
    -------
    Atoms
        Where the dam parts an atom, its largest piece keeps the number and the others get numbers from `count` + 1
        on. Nothing else changes; `atoms` itself is returned where the dam parts nothing.
    """
    wall = _drawn(dam, ink.shape)
    under = [int(v) for v in np.unique(atoms.labels[wall]) if v not in atoms.solids]
    labels, count = atoms.labels, atoms.count
    fresh: list[int] = []
    for atom in under:
        piece = _parted(labels, atom, wall, ink)
        if piece is None:
            continue
        cut, parts, found = piece
        if labels is atoms.labels:
            labels = atoms.labels.copy()
        view = labels[cut]
        for number in range(1, found):
            count += 1
            fresh.append(count)
            view[parts == number] = count
    if not fresh:
        return atoms
    return _updated(atoms, labels, count, under, ink)


def _drawn(path: Path, shape: tuple[int, ...]) -> Bool:
    plane = np.zeros(shape, np.uint8)
    points = np.rint(np.array(path, np.float64).reshape(-1, 2)[:, ::-1]).astype(np.int32)
    cv2.polylines(plane, [points], False, 1, 1, cv2.LINE_8)
    return plane.view(bool)


def _parted(labels: I32, atom: int, wall: Bool, ink: U8) -> tuple[tuple[slice, slice], I32, int] | None:
    """Pieces of an atom beside the wall: where they lie, which (0 the largest, -1 other atoms), how many; or None."""
    cut = _box(labels == atom)
    own = labels[cut] == atom
    white = own & ~wall[cut] & (draw_barrier(np.ascontiguousarray(ink[cut])) == 0)
    found, pieces, stats, _ = cv2.connectedComponentsWithStats(white.view(np.uint8), connectivity=4, ltype=cv2.CV_32S)
    large = np.flatnonzero(stats[1:, cv2.CC_STAT_AREA] >= _LEAST_PX) + 1
    if len(large) < 2:
        return None
    order = large[np.argsort(-stats[large, cv2.CC_STAT_AREA], kind="stable")]
    rank = np.full(found, -1, np.int32)
    rank[order] = np.arange(len(order))
    seeds = rank[pieces]
    _, nearest = cv2.distanceTransformWithLabels(
        (seeds < 0).view(np.uint8), cv2.DIST_L2, 5, labelType=cv2.DIST_LABEL_PIXEL
    )
    filled = seeds[seeds >= 0][nearest - 1]
    return cut, np.where(own, filled, -1).astype(np.int32), len(order)


def _box(where: Bool) -> tuple[slice, slice]:
    """Where a mask lies, with a margin."""
    rows, cols = np.flatnonzero(where.any(axis=1)), np.flatnonzero(where.any(axis=0))
    return (
        slice(max(0, int(rows[0]) - _MARGIN), int(rows[-1]) + 1 + _MARGIN),
        slice(max(0, int(cols[0]) - _MARGIN), int(cols[-1]) + 1 + _MARGIN),
    )


def _updated(atoms: Atoms, labels: I32, count: int, under: list[int], ink: U8) -> Atoms:
    """Count areas, borders and edges anew where the atoms under a dam lay."""
    mine = np.zeros(atoms.count + 1, bool)
    mine[under] = True
    box = _box(mine[atoms.labels])
    before, after = (np.ascontiguousarray(plane[box]) for plane in (atoms.labels, labels))
    areas = np.concatenate([atoms.areas, np.zeros(count - atoms.count, np.int64)])
    areas += np.bincount(after.ravel(), minlength=count + 1) - np.bincount(before.ravel(), minlength=count + 1)
    pairs = np.concatenate([atoms.borders.pairs, find_borders(before).pairs, find_borders(after).pairs])
    lengths = [atoms.borders.length_px, -find_borders(before).length_px, find_borders(after).length_px]
    unique, which = np.unique(pairs, axis=0, return_inverse=True)
    total = np.bincount(which.reshape(-1), weights=np.concatenate(lengths)).astype(np.int64)
    borders = Borders(unique[total > 0], total[total > 0])
    feet = atoms.bridges.feet
    low, high = np.minimum(feet[:, :2], feet[:, 2:]), np.maximum(feet[:, :2], feet[:, 2:])
    near = (high[:, 0] >= box[0].start) & (low[:, 0] < box[0].stop)
    near &= (high[:, 1] >= box[1].start) & (low[:, 1] < box[1].stop)
    chosen = np.flatnonzero(near)
    judged = np.zeros(len(atoms.bridges))
    np.maximum.at(judged, atoms.edges[:, 2], atoms.verdict)
    again = find_edges(labels, draw_barrier(ink), _some(atoms.bridges, near)) if len(chosen) else atoms.edges[:0]
    again = again.copy()
    again[:, 2] = chosen[again[:, 2]] if len(chosen) else again[:, 2]
    kept = ~near[atoms.edges[:, 2]]
    edges = np.concatenate([atoms.edges[kept], again])
    verdict = np.concatenate([atoms.verdict[kept], judged[again[:, 2]]])
    return replace(atoms, labels=labels, count=count, areas=areas, borders=borders, edges=edges, verdict=verdict)


def _some(bridges: Bridges, use: Bool) -> Bridges:
    return Bridges(*(getattr(bridges, field.name)[use] for field in fields(bridges)))


def door_links(labels: I32, door: Path) -> I64:
    """List which atoms a door joins: (L, 2), those that follow one another along the stroke."""
    points: F64 = np.array(door, np.float64).reshape(-1, 2)
    at = [points[:1]]
    for a, b in pairwise(points):
        steps = int(np.abs(b - a).max()) + 1
        at.append(a + (b - a) * np.linspace(0, 1, steps + 1)[1:, None])
    spots = np.rint(np.concatenate(at)).astype(np.int64)
    inside = ((spots >= 0) & (spots < np.array(labels.shape))).all(axis=1)
    met = labels[spots[inside, 0], spots[inside, 1]].astype(np.int64)
    links = np.stack([met[:-1], met[1:]], axis=1) if len(met) > 1 else np.zeros((0, 2), np.int64)
    return np.unique(np.sort(links[links[:, 0] != links[:, 1]], axis=1), axis=0)
