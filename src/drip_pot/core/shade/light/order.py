# SPDX-License-Identifier: GPL-3.0-or-later
"""Which regions touch, and which lie in front of which. Knows labels only."""

from dataclasses import dataclass
from functools import cached_property

import numpy as np

from drip_pot.core.arrays import F64, I32

_RING = (1.5, 3.0)  # line widths
_FRONT = (0.43, 0.62)
_OTHER, _THIRD = 0.42, 0.08
_ENCLOSED, _ENCLOSED_VOTES = 0.93, 5


@dataclass(frozen=True)
class Neighbors:
    """How long regions border each other.

    Attributes
    ----------
    sides : dict
        Pixel sides by (a, b) and (b, a).
    total : (R + 1,) ndarray of float64
        All sides of each region.
    """

    sides: dict[tuple[int, int], int]
    total: F64

    @cached_property
    def _by_region(self) -> dict[int, dict[int, int]]:
        found: dict[int, dict[int, int]] = {}
        for (a, b), n in self.sides.items():
            found.setdefault(a, {})[b] = n
        return found

    def of(self, region: int) -> dict[int, int]:
        """Return the neighbours of a region with the sides they share."""
        return self._by_region.get(region, {})


def neighbors(labels: I32, count: int) -> Neighbors:
    """Count the pixel sides at which regions 0..`count` of (M, N) int32 `labels` meet."""
    codes = []
    for one, two in ((labels[:, :-1], labels[:, 1:]), (labels[:-1], labels[1:])):
        apart = one != two
        a, b = one[apart].astype(np.int64), two[apart].astype(np.int64)
        codes += [a * (count + 1) + b, b * (count + 1) + a]
    found, times = np.unique(np.concatenate(codes), return_counts=True)
    pairs = zip((found // (count + 1)).tolist(), (found % (count + 1)).tolist(), strict=True)
    sides = dict(zip(pairs, times.tolist(), strict=True))
    total = np.zeros(count + 1)
    for (a, _), n in sides.items():
        total[a] += n
    return Neighbors(sides, total)


def in_front(labels: I32, known: Neighbors, line_px: float) -> set[tuple[int, int]]:
    """Return the pairs (a, b) of neighbours where a lies in front of b.

    Parameters
    ----------
    labels : (M, N) ndarray of int32
        Region of every pixel.
    known : Neighbors
        Of the same labels.
    line_px : float
        Width of the line.

    Notes
    -----
    Where three regions meet, the one that takes about half of a ring round that place runs on, and is taken to lie in
    front of the other two; one that is enclosed lies in front of what encloses it.
    """
    votes: dict[tuple[int, int], int] = {}

    def vote(a: int, b: int, n: int) -> None:
        votes[a, b] = votes.get((a, b), 0) + n

    reach = int(np.ceil(_RING[1] * line_px))
    grid = np.hypot(*np.mgrid[-reach : reach + 1, -reach : reach + 1])
    ring = (grid >= _RING[0] * line_px) & (grid <= _RING[1] * line_px)
    for row, col in _meetings(labels, line_px):
        if not (reach <= row < labels.shape[0] - reach and reach <= col < labels.shape[1] - reach):
            continue
        near = labels[row - reach : row + reach + 1, col - reach : col + reach + 1][ring]
        names, counts = np.unique(near, return_counts=True)
        by_share = np.argsort(-counts)
        share = counts[by_share] / counts.sum()
        if len(names) < 3 or not _FRONT[0] <= share[0] <= _FRONT[1] or share[1] >= _OTHER or share[2] <= _THIRD:
            continue
        front, *behind = names[by_share[:3]].tolist()
        for other in behind:
            vote(front, other, 1)
    for (a, b), n in known.sides.items():
        if n > _ENCLOSED * known.total[a]:
            vote(a, b, _ENCLOSED_VOTES)
    return {(a, b) for (a, b), n in votes.items() if n > votes.get((b, a), 0) and (a, b) in known.sides}


def _meetings(labels: I32, line_px: float) -> list[tuple[int, int]]:
    """Return places where three regions meet, one of each cluster."""
    corners = np.sort(np.stack([labels[:-1, :-1], labels[:-1, 1:], labels[1:, :-1], labels[1:, 1:]]), axis=0)
    kinds = (np.diff(corners, axis=0) != 0).sum(axis=0)
    spots = np.argwhere(kinds >= 2)
    seen: set[tuple[int, int]] = set()
    found = []
    cell = max(1.0, line_px)
    for row, col in spots.tolist():
        at = int(row / cell), int(col / cell)
        if at not in seen:
            seen.add(at)
            found.append((row, col))
    return found
