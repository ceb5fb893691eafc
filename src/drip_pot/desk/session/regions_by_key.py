# SPDX-License-Identifier: GPL-3.0-or-later
"""Regions gone to one after another, without the mouse: by where they lie, or by their size. Knows the snapshot."""

from collections.abc import Callable
from dataclasses import dataclass

import cv2
import numpy as np

from drip_pot.core.arrays import F64, I64
from drip_pot.core.regions import Partition
from drip_pot.desk.session.page_view import Flatted

_CONE, _COARSE_PX = 0.5, 300


@dataclass(frozen=True)
class RegionMap:
    """The regions of a page: their numbers (R,), the largest first, middles (R, 2), areas (R,), and who is beside whom.

    `beside` (K, 2) holds places in that order.
    """

    numbers: I64
    middles: F64
    areas: I64
    beside: I64

    def place(self, region: int) -> int | None:
        """Return the place of a region in the order of size, from 0; None for one that is not here."""
        found = np.flatnonzero(self.numbers == region)
        return int(found[0]) if len(found) else None

    def next(self, region: int, step: int) -> int:
        """Return the region that many places on in the order of size, round and round; the largest from nowhere."""
        place = self.place(region)
        at = 0 if place is None else (place + step) % max(len(self.numbers), 1)
        return int(self.numbers[at]) if len(self.numbers) else 0

    def towards(self, region: int, down: int, right: int) -> int:
        """Return the nearest region in a direction: of those beside this one, else of all; the same if none is."""
        place = self.place(region)
        if place is None:
            return self.next(region, 0)
        near = self.beside[(self.beside == place).any(axis=1)].ravel()
        for among in (np.setdiff1d(near, [place]), np.setdiff1d(np.arange(len(self.numbers)), [place])):
            away = self.middles[among] - self.middles[place]
            far = np.maximum(np.hypot(*away.T), 1e-9)
            along = (away @ np.array([down, right], float)) / far
            ahead = np.flatnonzero(along > _CONE)
            if len(ahead):
                return int(self.numbers[among[ahead[(far[ahead] / along[ahead]).argmin()]]])
        return region


def map_of(flat: Flatted) -> RegionMap:
    """Return the regions of a page as they are decided now."""
    region, facts = flat.partition.region, flat.facts
    areas = np.bincount(region, weights=facts.areas, minlength=1).astype(np.int64)
    areas[0] = 0
    numbers = np.flatnonzero(areas)
    numbers = numbers[np.argsort(-areas[numbers], kind="stable")]
    boxes = np.full((len(areas), 4), (2**31, 2**31, -1, -1), np.int64)
    np.minimum.at(boxes[:, :2], region, facts.boxes[:, :2])
    np.maximum.at(boxes[:, 2:], region, facts.boxes[:, 2:])
    middles = (boxes[:, :2] + boxes[:, 2:]) / 2
    places = np.full(len(areas), -1, np.int64)
    places[numbers] = np.arange(len(numbers))
    pairs = places[region[facts.borders.pairs]]
    beside = np.unique(pairs[(pairs >= 0).all(axis=1) & (pairs[:, 0] != pairs[:, 1])], axis=0)
    return RegionMap(numbers, middles[numbers], areas[numbers], beside.reshape(-1, 2))


def inner_spot(flat: Flatted, region: int) -> tuple[float, float] | None:
    """Return a page pixel deep inside a region, where a click would meet it; None where it has no pixel."""
    atoms = np.flatnonzero(flat.partition.region == region)
    atoms = atoms[atoms > 0]
    boxes = flat.facts.boxes[atoms]
    boxes = boxes[boxes[:, 2] > boxes[:, 0]]
    if not len(boxes):
        return None
    (top, left), (bottom, right) = boxes[:, :2].min(axis=0).tolist(), boxes[:, 2:].max(axis=0).tolist()
    coarse = min(max(0, (max(bottom - top, right - left) // _COARSE_PX).bit_length()), len(flat.labels) - 1)
    for level in sorted({coarse, 0}, reverse=True):
        step = 1 << level
        cut = flat.labels[level][top // step : -(-bottom // step), left // step : -(-right // step)]
        inside = np.isin(cut, atoms)
        if inside.any():
            deep = cv2.distanceTransform(np.pad(inside.view(np.uint8), 1), cv2.DIST_L2, 3)[1:-1, 1:-1]
            row, col = np.unravel_index(int(deep.argmax()), deep.shape)
            spot = float((row + top // step) * step), float((col + left // step) * step)
            if flat.labels[0][int(spot[0]), int(spot[1])] in atoms:
                return spot
    return None


class RegionKeys:
    """The region that the keys are at, and the way to others.

    Parameters
    ----------
    flat : callable
        Returns the page as it is decided now, or None before that is known.
    """

    def __init__(self, flat: Callable[[], Flatted | None]) -> None:
        self._flat = flat
        self.region = 0
        self._map: tuple[Partition, RegionMap] | None = None
        self._spot: tuple[Partition, int, tuple[float, float] | None] | None = None

    def map(self) -> RegionMap | None:
        """Return the regions there are; None before they are known."""
        flat = self._flat()
        if flat is None:
            return None
        if self._map is None or self._map[0] is not flat.partition:
            self._map = flat.partition, map_of(flat)
        return self._map[1]

    def go(self, down: int, right: int) -> bool:
        """Go to the next region in a direction; the first time to the largest. Return whether there are any."""
        known = self.map()
        if known is not None and len(known.numbers):
            self.region = known.towards(self.region, down, right) if self.region else known.next(0, 0)
        return bool(self.region)

    def by_size(self, step: int) -> bool:
        """Go to a smaller region, or a larger one; return whether there are any."""
        known = self.map()
        if known is not None and len(known.numbers):
            self.region = known.next(self.region, step)
        return bool(self.region)

    def leave(self) -> bool:
        """Be at no region; return whether it was at one."""
        was, self.region = self.region, 0
        return bool(was)

    def at(self) -> tuple[Flatted, list[int], int, tuple[float, float]] | None:
        """Return the page, the atoms of the region, its place by size and a spot in it; None where it is at none."""
        flat, known = self._flat(), self.map()
        if flat is None or known is None or not self.region:
            return None
        if self._spot is None or self._spot[0] is not flat.partition or self._spot[1] != self.region:
            self._spot = flat.partition, self.region, inner_spot(flat, self.region)
        place, spot = known.place(self.region), self._spot[2]
        if place is None or spot is None:
            self.region = 0
            return None
        return flat, [int(a) for a in np.flatnonzero(flat.partition.region == self.region) if a], place, spot
