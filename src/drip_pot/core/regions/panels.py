# SPDX-License-Identifier: GPL-3.0-or-later
"""Panels and gutters of a page, told from how regions touch its edge, and by hand. Knows planes and areas only."""

from collections.abc import Iterable
from dataclasses import dataclass

import cv2
import numpy as np

from drip_pot.core.arrays import I32, I64, U8, Bool, Rect
from drip_pot.core.regions.hand import Path

_ACROSS = 520
_LEAST_SHARE, _LEAST_FILL = 0.012, 0.82
_NECKS = (0.012, 0.05, 0.1, 0.16)
_KEPT = 0.85
_STRAY, _WIDE_GUTTER = 0.004, 0.4
_MOST, _STRAIGHT = 250, 0.02
_ALL_ROUND, _STRIP, _BY_LINES, _LONG = 0.6, 0.05, 0.8, 0.08
_LEAST_OPEN = 0.04


@dataclass(frozen=True)
class Panels:
    """The panels of a page in reading order.

    Attributes
    ----------
    rects : tuple of Rect
        Where they lie.
    panel : (A + 1,) ndarray of int64
        Panel of every atom, counted from 1; 0 is the gutter.
    plane : (m, n) ndarray of uint8
        The same on a smaller page.
    step : int
        Page pixels for each pixel of `plane`.
    framed : bool
        False where the page has no gutter and is one panel.
    corners : tuple of path
        Corners of every panel in turn, (row, col): as they were drawn by hand, else as they are seen; the four of
        `rects` where a panel has others than four.
    """

    rects: tuple[Rect, ...]
    panel: I64
    plane: U8
    step: int
    framed: bool
    corners: tuple[Path, ...] = ()

    def at(self, row: float, col: float) -> int:
        """Return the panel at a page position; 0 in the gutter and beside the page."""
        r, c = int(row) // self.step, int(col) // self.step
        inside = 0 <= r < self.plane.shape[0] and 0 <= c < self.plane.shape[1]
        return int(self.plane[r, c]) if inside else 0


def panels_near(panels: Panels, row: float, col: float, reach_px: float) -> set[int]:
    """Return the panels, and 0 for the gutter, that lie so near a page position."""
    reach = max(2, round(reach_px / panels.step))
    r, c = int(row) // panels.step, int(col) // panels.step
    around = panels.plane[max(0, r - reach) : max(0, r + reach + 1), max(0, c - reach) : max(0, c + reach + 1)]
    return set(np.unique(around).tolist())


def runs_over(panels: Panels, atoms: set[int], areas: I64) -> list[int]:
    """Return the panels that a region reaches into, where that is more than one region should.

    Parameters
    ----------
    panels : Panels
        Of the page.
    atoms : set of int
        The region.
    areas : (A + 1,) ndarray of int64
        Pixels of every atom.

    Returns
    -------
    list of int
        (K) panels by number, 0 for the gutter; empty for a region that lies in one panel, or is a gutter of usual size.
        On a page without panels it is [1] for a region that is a great part of it.
    """
    own = [a for a in atoms if a < len(panels.panel)]
    if not own:
        return []
    if not panels.framed:
        return [1] if areas[own].sum() > _WIDE_GUTTER * areas.sum() else []
    share = np.bincount(panels.panel[own], weights=areas[own], minlength=1)
    met = np.flatnonzero(share > _STRAY * areas.sum()).tolist()
    if len([p for p in met if p]) > 1:
        return [int(p) for p in met]
    return [0] if met == [0] and share[0] > _WIDE_GUTTER * areas.sum() else []


def find_panels(labels: I32, region: I64, boxes: I64, by_hand: Iterable[tuple[Path, bool]] = ()) -> Panels:
    """Find the panels of a page.

    Parameters
    ----------
    labels : (M, N) ndarray of int32
        Atoms.
    region : (A + 1,) ndarray of int64
        Region of every atom.
    boxes : (A + 1, 4) ndarray of int64
        Where every atom lies.
    by_hand : pairs of corners and bool
        Panels drawn (True) and taken away (False) by hand, one after another: each takes the place of those that lie
        at least half in it.

    Returns
    -------
    Panels
        The gutter is what reaches the page's edge, all the way round or as strips between straight lines; a panel
        whose drawing runs off the page is none. What the gutter leaves and is large and full enough is a panel, parted
        where figures or balloons bridge the gutter. Without a gutter the whole page is one panel.
    """
    rows, cols = labels.shape
    step = max(1, min(rows, cols) // _ACROSS)
    inside = (~_gutter(region[labels[::step, ::step]])).view(np.uint8)
    plane, drawn = _drawn_over(_numbered(inside), by_hand, step)
    framed = bool(plane.any())
    if not framed:
        plane = np.ones(inside.shape, np.uint8)
    count = int(plane.max())
    own = np.bincount(
        labels[::step, ::step].ravel().astype(np.int64) * (count + 1) + plane.ravel(),
        minlength=len(region) * (count + 1),
    ).reshape(len(region), count + 1)
    panel = own.argmax(axis=1)
    unseen = np.flatnonzero(own.sum(axis=1) == 0)
    middle = (boxes[unseen, :2] + boxes[unseen, 2:]) // 2 // step
    r, c = np.clip(middle[:, 0], 0, plane.shape[0] - 1), np.clip(middle[:, 1], 0, plane.shape[1] - 1)
    panel[unseen] = plane[r, c]
    rects: list[Rect] = []
    for number in range(1, count + 1):
        spots_r, spots_c = np.flatnonzero((plane == number).any(axis=1)), np.flatnonzero((plane == number).any(axis=0))
        rects.append((int(spots_r[0]) * step, int(spots_c[0]) * step,
                      min(rows, (int(spots_r[-1]) + 1) * step), min(cols, (int(spots_c[-1]) + 1) * step)))  # fmt: skip
    corners = tuple(drawn.get(k) or _corners(plane == k, rect, step) for k, rect in enumerate(rects, 1))
    return Panels(tuple(rects), panel.astype(np.int64), plane, step, framed, corners)


def _drawn_over(plane: U8, by_hand: Iterable[tuple[Path, bool]], step: int) -> tuple[U8, dict[int, Path]]:
    """Return panels with those drawn and taken away by hand, in reading order, and the corners of those drawn."""
    now, drawn = plane.astype(np.int32), {}
    by_hand = list(by_hand)
    for corners, is_panel in by_hand[-_MOST:]:
        mask = np.zeros(plane.shape, np.uint8)
        spots = np.clip(np.array(corners, np.float64)[:, ::-1] / step, -(2**14), 2**14)
        cv2.fillPoly(mask, [np.rint(spots).astype(np.int32)], 1)
        held = np.bincount(now.ravel(), weights=mask.ravel()) >= 0.5 * np.bincount(now.ravel())
        held[0] = False
        now[held[now]] = 0
        if is_panel and mask.any():
            number = int(now.max()) + 1
            now[mask > 0] = number
            drawn[number] = corners
    if not by_hand:
        return plane, {}
    kept = np.flatnonzero(np.bincount(now.ravel())[1:])[:_MOST] + 1
    boxes = np.array([cv2.boundingRect((now == k).astype(np.uint8)) for k in kept]).reshape(-1, 4)
    order = kept[_reading_order(boxes[:, 1], boxes[:, 0], boxes[:, 3])]
    table = np.zeros(int(now.max()) + 1, np.uint8)
    table[order] = np.arange(1, len(order) + 1)
    return table[now], {int(table[k]): corners for k, corners in drawn.items() if table[k]}


def _corners(mask: Bool, rect: Rect, step: int) -> Path:
    """Return the four corners of a panel as it is seen; of its rectangle, where it has others."""
    found, _ = cv2.findContours(mask.astype(np.uint8), cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_SIMPLE)
    outline = max(found, key=cv2.contourArea)
    line = cv2.approxPolyDP(outline, _STRAIGHT * cv2.arcLength(outline, True), True)[:, 0]
    if len(line) == 4:
        edge = line > line.mean(axis=0)  # the last pixels of a panel reach a step on
        return tuple((float(y) * step, float(x) * step) for x, y in (line + edge).tolist())
    top, left, bottom, right = map(float, rect)
    return (top, left), (top, right), (bottom, right), (bottom, left)


def _gutter(small: I64) -> Bool:
    """Tell what is gutter, on a small plane of regions.

    Of the regions at the page's edge it is those that take most of it, and those that are nowhere wide and have long
    straight borders.
    """
    border = np.zeros(small.shape, np.uint8)
    border[:, :-1] |= small[:, :-1] != small[:, 1:]
    border[:-1] |= small[:-1] != small[1:]
    edge = np.zeros(small.shape, bool)
    edge[[0, -1]], edge[:, [0, -1]] = True, True
    numbers, count = np.unique(small[edge], return_counts=True)
    table = np.full(int(small.max()) + 1, len(numbers))
    table[numbers] = np.arange(len(numbers))
    place = table[small]
    free = ((place < len(numbers)) & (border == 0)).view(np.uint8)
    depth = cv2.distanceTransform(cv2.copyMakeBorder(free, 1, 1, 1, 1, cv2.BORDER_CONSTANT), cv2.DIST_L2, 3)[1:-1, 1:-1]
    deepest = np.zeros(len(numbers) + 1)
    np.maximum.at(deepest, place.ravel(), depth.ravel())
    bounds = (free > 0) & (depth <= 1) & ~edge
    by_line = cv2.dilate(_long_straight(border), np.ones((3, 3), np.uint8)) > 0
    lined, every = (np.bincount(place[spots], minlength=len(numbers) + 1) for spots in (bounds & by_line, bounds))
    strip = (deepest <= _STRIP * min(small.shape)) & (lined >= _BY_LINES * every)
    strip[:-1] |= count > _ALL_ROUND * edge.sum()
    strip[-1] = False
    return np.asarray(strip[place])


def _long_straight(border: U8) -> U8:
    """Leave of a plane of borders those that run level or upright for long, but for a little tilt."""
    long = max(9, round(min(border.shape) * _LONG)) | 1
    kept = np.zeros_like(border)
    for wide, high in ((1, 3), (3, 1)):
        thick = cv2.dilate(border, np.ones((high, wide), np.uint8))
        line = np.ones((1, long) if high > 1 else (long, 1), np.uint8)
        kept |= cv2.morphologyEx(thick, cv2.MORPH_OPEN, line) & border
    return kept


def _numbered(inside: U8) -> U8:
    """Give what lies inside the gutter panel numbers in reading order."""
    plane = _opened(inside, _NECKS[0])
    found, pieces, stats, _ = cv2.connectedComponentsWithStats(plane, connectivity=4, ltype=cv2.CV_32S)
    for neck in _NECKS[1:]:  # what figures and balloons join is parted where narrower than a panel
        wider = _opened(inside, neck)
        for number in range(1, found):
            left, top, wide, high, area = stats[number].tolist()
            box = slice(top, top + high), slice(left, left + wide)
            mine = pieces[box] == number
            own = mine & (wider[box] > 0)
            if own.sum() in (0, area):
                continue
            _, _, parts, _ = cv2.connectedComponentsWithStats(own.view(np.uint8), connectivity=4, ltype=cv2.CV_32S)
            good = _panel_like(parts, inside.size)
            if good.sum() > 1 and parts[good, cv2.CC_STAT_AREA].sum() >= _KEPT * area:
                plane[box][mine & ~own] = 0
        found, pieces, stats, _ = cv2.connectedComponentsWithStats(plane, connectivity=4, ltype=cv2.CV_32S)
    good = _panel_like(stats, inside.size)
    if not good.any() or inside.all():  # a picture that runs off the page on all sides has no gutter
        return np.zeros(inside.shape, np.uint8)
    good[1:] |= stats[1:, cv2.CC_STAT_AREA] >= _LEAST_OPEN * inside.size  # panels of another shape, or not parted
    kept = np.flatnonzero(good)[:_MOST]
    top, left, high = (stats[kept, k] for k in (cv2.CC_STAT_TOP, cv2.CC_STAT_LEFT, cv2.CC_STAT_HEIGHT))
    table = np.zeros(found, np.uint8)
    table[kept[_reading_order(top, left, high)]] = np.arange(1, len(kept) + 1)
    plane = table[pieces]
    _, nearest = cv2.distanceTransformWithLabels((plane == 0).view(np.uint8), cv2.DIST_L2, 5,
                                                 labelType=cv2.DIST_LABEL_PIXEL)  # fmt: skip
    return np.asarray(np.where(inside > 0, plane[plane > 0][nearest - 1], 0), np.uint8)


def _reading_order(top: I64, left: I64, high: I64) -> I64:
    """Return places of boxes in the order they are read; whose tops lie within half a height of the first's, a tier."""
    tier = np.zeros(len(top), np.int64)
    for place in np.argsort(top, kind="stable"):
        above = [t for t in range(len(top)) if tier[t] and top[t] + 0.5 * high[t] > top[place]]
        tier[place] = max((tier[t] for t in above), default=tier.max(initial=0) + 1)
    return np.lexsort((left, tier))


def _opened(inside: U8, share: float) -> U8:
    side = max(3, round(min(inside.shape) * share)) | 1
    return np.asarray(cv2.morphologyEx(inside, cv2.MORPH_OPEN, np.ones((side, side), np.uint8)), np.uint8)


def _panel_like(stats: I32, page_px: int) -> Bool:
    """Tell which pieces are large and full enough, given their statistics; the first is the ground."""
    box = stats[:, cv2.CC_STAT_WIDTH] * stats[:, cv2.CC_STAT_HEIGHT]
    good = (box >= _LEAST_SHARE * page_px) & (stats[:, cv2.CC_STAT_AREA] >= _LEAST_FILL * box)
    good[0] = False
    return np.asarray(good)
