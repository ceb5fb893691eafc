# SPDX-License-Identifier: GPL-3.0-or-later
"""The forms that flat shapes stand for: what goes on behind what covers it, and how round it is. Knows labels."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import cached_property

import cv2
import numpy as np

from drip_pot.core.arrays import F32, F64, I32, I64, U8, Bool, Rect
from drip_pot.core.shade.light.order import Neighbors, in_front, neighbors

_HOST, _ISLAND = 0.93, 0.35
_SWEEPS, _SMALLEST = 40, 12
_BEYOND = 0.7


@dataclass(frozen=True)
class LitScene:
    """Regions at a scale at which the line is 3 to 4 px wide.

    Attributes
    ----------
    labels : (M, N) ndarray of int32
        Region of every pixel, 0 for none.
    part, panel : (R + 1,) ndarrays of int
        What each region is part of (-1: nothing, it takes no shadow), and the panel it lies in (0: none).
    calm : (R + 1,) ndarray of bool
        Regions that are left alone: grounds, whites of eyes.
    line_px : float
        Width of the line.
    """

    labels: I32
    part: I32
    panel: I32
    calm: Bool
    line_px: float

    @property
    def count(self) -> int:
        """How many regions there are."""
        return len(self.part) - 1

    @cached_property
    def areas(self) -> F64:
        """Pixels of every region."""
        return np.bincount(self.labels.ravel(), minlength=self.count + 1).astype(np.float64)

    @cached_property
    def neighbors(self) -> Neighbors:
        """Which regions touch."""
        return neighbors(self.labels, self.count)

    @cached_property
    def fronts(self) -> set[tuple[int, int]]:
        """Pairs where the first lies in front of the second."""
        return in_front(self.labels, self.neighbors, self.line_px)

    @cached_property
    def coverers(self) -> dict[int, list[int]]:
        """What lies in front of each region."""
        found: dict[int, list[int]] = {}
        for a, b in self.fronts:
            found.setdefault(b, []).append(a)
        return found

    @cached_property
    def boxes(self) -> I32:
        """Return top, left, bottom and right of every region, (R + 1, 4)."""
        found = np.zeros((self.count + 1, 4), np.int32)
        found[:, :2] = max(self.labels.shape)
        rows, cols = np.indices(self.labels.shape, np.int32)
        flat = self.labels.ravel()
        for place, plane in ((0, rows), (1, cols)):
            np.minimum.at(found[:, place], flat, plane.ravel())
            np.maximum.at(found[:, place + 2], flat, plane.ravel() + 1)
        return found

    @cached_property
    def hosts(self) -> I32:
        """The region that each lies on as an island does; 0 for most."""
        found = np.zeros(self.count + 1, np.int32)
        for (a, b), n in self.neighbors.sides.items():
            if a and b and n > _HOST * self.neighbors.total[a] and self.areas[a] < _ISLAND * self.areas[b]:
                found[a] = b
        return found

    @cached_property
    def bodies(self) -> I32:
        """A number for every group of touching regions of one part, (R + 1,); 0 for regions of none."""
        root = np.arange(self.count + 1)

        def top(k: int) -> int:
            while root[k] != k:
                k = int(root[k])
            return k

        for a, b in self.neighbors.sides:
            if a < b and self.part[a] >= 0 and self.part[a] == self.part[b]:
                root[top(a)] = top(b)
        return np.array([top(k) if self.part[k] >= 0 else 0 for k in range(self.count + 1)], np.int32)


@dataclass(frozen=True)
class Form:
    """A form that regions stand for.

    Attributes
    ----------
    reach : Rect
        Where it lies in the scene; it may go beyond.
    inside : (M, N) ndarray of uint8
        1 in the form, in that rectangle.
    rect : Rect
        The part of it that the regions themselves take up, and a little around.
    down, right : (K, L) ndarrays of float32
        How steeply it rises there downwards and to the right, by its height: lit where it falls towards a lamp.
    radius : float
        Of the widest circle in it, in pixels.
    middle : tuple of float
        Row and column of its middle.
    """

    reach: Rect
    inside: U8
    rect: Rect
    down: F32
    right: F32
    radius: float
    middle: tuple[float, float]


def forms_of(scene: LitScene, regions: list[list[int]], stop: Callable[[], object] = lambda: None) -> list[Form]:
    """Return the form of each group of regions; `stop` is called between them and may raise."""
    found = []
    for group in regions:
        stop()
        found.append(_form(scene, group))
    return found


def _form(scene: LitScene, group: list[int]) -> Form:
    boxes = scene.boxes[group]
    top, left = boxes[:, :2].min(axis=0).tolist()
    bottom, right = boxes[:, 2:].max(axis=0).tolist()
    pad = int(_BEYOND * max(1.0, np.sqrt(scene.areas[group].sum()) / 2)) + 3
    high, wide = scene.labels.shape
    rect = top - pad, left - pad, bottom + pad, right + pad
    cut = slice(max(top, 0), min(bottom, high)), slice(max(left, 0), min(right, wide))
    labels = scene.labels[cut]
    own = _among(scene, labels, group)
    wanted = own | _among(scene, labels, np.flatnonzero(np.isin(scene.hosts, group)))
    covering = {a for b in group for a in scene.coverers.get(b, ())} - set(group)
    if covering:
        hull = np.zeros(labels.shape, np.uint8)
        spots = cv2.findNonZero(own.view(np.uint8))
        cv2.fillConvexPoly(hull, cv2.convexHull(spots), 1)
        wanted |= _among(scene, labels, list(covering)) & (hull > 0)
    inside = _filled(np.pad(wanted, pad))
    inside = _grown_at_frame(scene, inside, rect, group)
    area = float(np.count_nonzero(inside))
    height = _blurred(_bulge(inside), float(np.clip(0.03 * np.sqrt(area), 0.6 * scene.line_px, 5 * scene.line_px)))
    around = min(pad, int(4 * scene.line_px))
    inset = pad - around
    part = slice(inset, inside.shape[0] - inset), slice(inset, inside.shape[1] - inset)
    root = np.sqrt(np.maximum(height[part], 1e-3))
    down, right = (np.asarray(slope / root, np.float32) for slope in np.gradient(height[part]))
    own_rect = rect[0] + inset, rect[1] + inset, rect[2] - inset, rect[3] - inset
    depth = cv2.distanceTransform(inside.view(np.uint8), cv2.DIST_L2, 3)
    moments = cv2.moments(inside.view(np.uint8), binaryImage=True)
    middle = rect[0] + moments["m01"] / max(area, 1), rect[1] + moments["m10"] / max(area, 1)
    return Form(rect, inside.view(np.uint8), own_rect, down, right, float(depth.max()), middle)


def _blurred(plane: F32, sigma: float) -> F32:
    """Blur a plane, a wide blur on a smaller one."""
    factor = max(1, int(sigma / 3))
    if factor == 1:
        return np.asarray(cv2.GaussianBlur(plane, (0, 0), sigma), np.float32)
    size = plane.shape[1], plane.shape[0]
    small = cv2.resize(plane, (max(1, size[0] // factor), max(1, size[1] // factor)), interpolation=cv2.INTER_AREA)
    small = cv2.GaussianBlur(small, (0, 0), sigma / factor)
    return np.asarray(cv2.resize(small, size, interpolation=cv2.INTER_CUBIC), np.float32)


def _among(scene: LitScene, labels: I32, regions: Sequence[int] | I64) -> Bool:
    table = np.zeros(scene.count + 1, bool)
    table[regions] = True
    return np.asarray(table[labels])


def _filled(mask: Bool) -> Bool:
    """Fill the holes of a mask whose edge is empty."""
    around = (~mask).view(np.uint8).copy()
    cv2.floodFill(around, None, (0, 0), 2)
    return np.asarray(around != 2)


def _grown_at_frame(scene: LitScene, inside: Bool, rect: Rect, group: list[int]) -> Bool:
    """Let a form that is cut by the frame of its panel go on beyond it, as its edge does."""
    near: dict[int, int] = {}
    for region in group:
        for other, n in scene.neighbors.of(region).items():
            if scene.panel[other] == 0:
                near[region] = near.get(region, 0) + n
    if sum(near.values()) < 2 * scene.line_px:
        return inside
    out = inside.copy()
    rows, cols = np.flatnonzero(inside.any(axis=1)), np.flatnonzero(inside.any(axis=0))
    top, bottom, left, right = rows[0], rows[-1], cols[0], cols[-1]
    labels, (high, wide) = scene.labels, scene.labels.shape
    for edge, outward in ((top, -1), (bottom, 1)):
        beyond = rect[0] + edge + outward * int(1.5 * scene.line_px)
        touched = np.flatnonzero(inside[edge])
        columns = np.clip(rect[1] + touched, 0, wide - 1)
        if not 0 <= beyond < high or (scene.panel[labels[beyond, columns]] == 0).mean() > 0.5:
            flat = inside[edge - outward * min(2, bottom - top)]
            out[(slice(0, edge) if outward < 0 else slice(edge + 1, None))] |= flat
    for edge, outward in ((left, -1), (right, 1)):
        beyond = rect[1] + edge + outward * int(1.5 * scene.line_px)
        touched = np.flatnonzero(inside[:, edge])
        lines = np.clip(rect[0] + touched, 0, high - 1)
        if not 0 <= beyond < wide or (scene.panel[labels[lines, beyond]] == 0).mean() > 0.5:
            flat = inside[:, edge - outward * min(2, right - left), None]
            out[:, (slice(0, edge) if outward < 0 else slice(edge + 1, None))] |= flat
    out[[0, -1]], out[:, [0, -1]] = False, False
    return out


def _bulge(inside: Bool) -> F32:
    """Solve Poisson's equation with 1 on the right and 0 outside, from coarse to fine, (M, N) float32."""
    sizes = [inside]
    while min(sizes[-1].shape) > 2 * _SMALLEST:
        half = cv2.resize(sizes[-1].view(np.uint8) * 255, None, fx=0.5, fy=0.5, interpolation=cv2.INTER_AREA)
        sizes.append(half > 127)
    height = np.zeros(sizes[-1].shape, np.float32)
    kernel = np.array([[0, 0.25, 0], [0.25, 0, 0.25], [0, 0.25, 0]], np.float32)
    for mask in reversed(sizes):
        if height.shape != mask.shape:
            size = mask.shape[1], mask.shape[0]
            height = 4 * cv2.resize(height, size, interpolation=cv2.INTER_LINEAR)
        share = mask.astype(np.float32)
        for _ in range(_SWEEPS):
            height = (cv2.filter2D(height, -1, kernel, borderType=cv2.BORDER_CONSTANT) + 0.25) * share
    return height
