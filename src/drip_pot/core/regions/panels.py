"""Panels and gutters of a page, told from how regions touch its edge. Knows label planes and areas only."""

from dataclasses import dataclass

import cv2
import numpy as np

from drip_pot.core.arrays import I32, I64, U8, Bool, Rect

_ACROSS = 520
_LEAST_SHARE, _LEAST_FILL = 0.012, 0.82
_NECKS = (0.012, 0.05, 0.1, 0.16)
_KEPT = 0.85
_STRAY, _WIDE_GUTTER = 0.004, 0.4


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
    """

    rects: tuple[Rect, ...]
    panel: I64
    plane: U8
    step: int
    framed: bool

    def at(self, row: float, col: float) -> int:
        """Return the panel at a page position; 0 in the gutter and beside the page."""
        r, c = int(row) // self.step, int(col) // self.step
        inside = 0 <= r < self.plane.shape[0] and 0 <= c < self.plane.shape[1]
        return int(self.plane[r, c]) if inside else 0


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
        Panels by number, 0 for the gutter; empty for a region that lies in one panel, or is a gutter of usual size.
    """
    own = [a for a in atoms if a < len(panels.panel)]
    if not panels.framed or not own:
        return []
    share = np.bincount(panels.panel[own], weights=areas[own], minlength=1)
    met = np.flatnonzero(share > _STRAY * areas.sum()).tolist()
    if len([p for p in met if p]) > 1:
        return [int(p) for p in met]
    return [0] if met == [0] and share[0] > _WIDE_GUTTER * areas.sum() else []


def find_panels(labels: I32, region: I64, boxes: I64) -> Panels:
    """Find the panels of a page.

    Parameters
    ----------
    labels : (M, N) ndarray of int32
        Atoms.
    region : (A + 1,) ndarray of int64
        Region of every atom.
    boxes : (A + 1, 4) ndarray of int64
        Where every atom lies.

    Returns
    -------
    Panels
        The gutter is what reaches the page's edge; what it encloses and is large and full enough is a panel, parted
        where figures or balloons bridge the gutter. Without a gutter the whole page is one panel.
    """
    rows, cols = labels.shape
    step = max(1, min(rows, cols) // _ACROSS)
    small = region[labels[::step, ::step]]
    rim = np.concatenate([small[0], small[-1], small[:, 0], small[:, -1]])
    inside = (~np.isin(small, np.unique(rim))).view(np.uint8)
    plane = _numbered(inside)
    framed = bool(plane.any())
    if not framed:
        plane = np.ones(small.shape, np.uint8)
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
    rects = []
    for number in range(1, count + 1):
        spots_r, spots_c = np.flatnonzero((plane == number).any(axis=1)), np.flatnonzero((plane == number).any(axis=0))
        rects.append((int(spots_r[0]) * step, int(spots_c[0]) * step,
                      min(rows, (int(spots_r[-1]) + 1) * step), min(cols, (int(spots_c[-1]) + 1) * step)))  # fmt: skip
    return Panels(tuple(rects), panel.astype(np.int64), plane, step, framed)


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
    kept = np.flatnonzero(_panel_like(stats, inside.size))[:250]
    if len(kept) == 0:
        return np.zeros(inside.shape, np.uint8)
    top, left = stats[kept, cv2.CC_STAT_TOP], stats[kept, cv2.CC_STAT_LEFT]
    tier = np.zeros(len(kept), np.int64)  # panels whose tops lie within half the height of the first form a tier
    for place in np.argsort(top, kind="stable"):
        above = [
            t for t in range(len(kept)) if tier[t] and top[t] + 0.5 * stats[kept[t], cv2.CC_STAT_HEIGHT] > top[place]
        ]
        tier[place] = max((tier[t] for t in above), default=tier.max() + 1)
    table = np.zeros(found, np.uint8)
    table[kept[np.lexsort((left, tier))]] = np.arange(1, len(kept) + 1)
    plane = table[pieces]
    _, nearest = cv2.distanceTransformWithLabels((plane == 0).view(np.uint8), cv2.DIST_L2, 5,
                                                 labelType=cv2.DIST_LABEL_PIXEL)  # fmt: skip
    return np.asarray(np.where(inside > 0, plane[plane > 0][nearest - 1], 0), np.uint8)


def _opened(inside: U8, share: float) -> U8:
    side = max(3, round(min(inside.shape) * share)) | 1
    return np.asarray(cv2.morphologyEx(inside, cv2.MORPH_OPEN, np.ones((side, side), np.uint8)), np.uint8)


def _panel_like(stats: I32, page_px: int) -> Bool:
    """Tell which pieces are large and full enough, given their statistics; the first is the ground."""
    box = stats[:, cv2.CC_STAT_WIDTH] * stats[:, cv2.CC_STAT_HEIGHT]
    good = (box >= _LEAST_SHARE * page_px) & (stats[:, cv2.CC_STAT_AREA] >= _LEAST_FILL * box)
    good[0] = False
    return np.asarray(good)
