# SPDX-License-Identifier: GPL-3.0-or-later
"""Where cuts by hand come to lie on another drawing of the same thing. Knows how pages compare; makes no edit."""

from collections.abc import Iterable

import cv2
import numpy as np

from drip_pot.book.following import Marking
from drip_pot.book.values import BRIDGES, ShadeCut
from drip_pot.book.verbs.comparing import Drawn
from drip_pot.book.verbs.cutting import border_reach
from drip_pot.book.verbs.setting import thinned
from drip_pot.core.arrays import F64, Bool, Rect
from drip_pot.core.carry import MovedMark, follow
from drip_pot.core.regions import Path, Stencil, make_stencil, snapped

_SHARE, _TOUCH_PX, _HALF = 0.02, 2.0, 128
_ONE = 0.5
_BRIDGE_LINES, _BRIDGE_WIDER, _BRIDGE_TURN = 3.0, 2.0, 0.85


def points_of(value: Marking) -> F64:
    """Return the points x, y of a marking, (K, 2): of its outline, or of its path."""
    if isinstance(value, Stencil):
        found, _ = cv2.findContours(value.mask().view(np.uint8), cv2.RETR_LIST, cv2.CHAIN_APPROX_NONE)
        points: F64 = np.concatenate([*found])[:, 0] + np.array([value.left, value.top], np.float64)
        return points
    places = [knot[:2] for knot in value.knots] if isinstance(value, ShadeCut) else value
    return np.array([(c, r) for r, c in places], np.float64)


def in_page(at: MovedMark, there: Drawn, here: Drawn) -> F64:
    """Return a move as a map, (2, 3), from page pixels x, y, 1 to page pixels x, y."""
    scaled: F64 = here.scale[:, None] * at.map / np.array([*there.scale, 1.0])
    return scaled


def moved_path_of(path: Iterable[tuple[float, float]], move: F64, digits: int) -> Path:
    """Return a path of (row, col) after a move."""
    points = np.array([(c, r, 1.0) for r, c in path]) @ move.T
    return tuple((round(float(y), digits), round(float(x), digits)) for x, y in points)


def laid_there(
    value: Path | Stencil, move: F64, there: Drawn, here: Drawn, slid: float, *, to_line: bool
) -> Path | Stencil | None:  # fmt: skip
    """Return a cut where it lies on the other page, the ends of a path `to_line`; None if that is nowhere."""
    if isinstance(value, Stencil):
        return _laid_stencil(value, move, there, here, slid)
    path, hand = thinned(moved_path_of(value, move, 1)), here.hand
    rows, cols = np.array(path).T
    if rows.max() < 0 or cols.max() < 0 or rows.min() >= hand.shape[0] or cols.min() >= hand.shape[1]:
        return None
    return snapped(path, hand.ink, hand.divided.found.labels, border_reach(hand)) if to_line else path


def _laid_stencil(stencil: Stencil, move: F64, there: Drawn, here: Drawn, slid: float) -> Stencil | None:
    """Return a cut-out where it lies on the other page: in as many regions, up to their border where it was there."""
    mask, hand = stencil.mask(), here.hand
    reach = int(np.ceil(min(max(slid, 0.0), 4.0) * float(here.scale.max()))) + 2
    corners = np.array([(c, r, 1.0) for r in stencil.rect[::2] for c in stencil.rect[1::2]]) @ move.T
    low = np.maximum(np.floor(corners.min(axis=0)).astype(int) - reach - 2, 0)
    high = np.minimum(np.ceil(corners.max(axis=0)).astype(int) + reach + 2, hand.shape[::-1])
    if (high <= low).any():
        return None
    rect: Rect = (int(low[1]), int(low[0]), int(high[1]), int(high[0]))
    from_box = np.array([[1, 0, stencil.left], [0, 1, stencil.top], [0, 0, 1.0]])
    to_box = move @ from_box - [[0, 0, low[0]], [0, 0, low[1]]]
    size = int(high[0] - low[0]), int(high[1] - low[1])

    def warped(what: Bool) -> Bool:
        plane = np.where(what, np.uint8(255), np.uint8(0))
        return np.asarray(cv2.warpAffine(plane, to_box, size, flags=cv2.INTER_LINEAR) >= _HALF)

    was, now, laid = there.regions_in(stencil.rect), here.regions_in(rect), warped(mask)
    under, share = np.unique(was[mask], return_counts=True)
    own = under[share > _SHARE * mask.sum()]
    found, counts = np.unique(now[laid], return_counts=True)
    allowed = np.isin(now, found[np.argsort(-counts, kind="stable")[: len(own)]])
    outside = cv2.distanceTransform(np.pad(np.isin(was, own), 1).view(np.uint8), cv2.DIST_L2, 3)[1:-1, 1:-1]
    touching = warped(mask & (outside <= _TOUCH_PX))
    laid &= allowed
    return make_stencil(rect, laid | _slivers(laid, allowed, touching, reach), back=stencil.back)


def _slivers(laid: Bool, allowed: Bool, touching: Bool, reach: int) -> Bool:
    """Return what is left between a cut-out and the border of its region where it touched it, (m, n) bool."""
    disc = cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (2 * reach + 1, 2 * reach + 1))
    rest = (allowed & ~laid).view(np.uint8)
    thin = rest & ~cv2.morphologyEx(rest, cv2.MORPH_OPEN, disc, borderValue=1)
    near = cv2.dilate(touching.view(np.uint8), disc)
    return np.asarray((thin & near) > 0)


def bridges_there(there: Drawn, here: Drawn) -> list[tuple[str, object]]:
    """Return what a hand decided of bridges of another page, for those here that lie and run alike."""
    decided = list(there.hand.sources[BRIDGES].items())
    mine, theirs = here.hand.divided.found.bridges, there.hand.divided.found.bridges
    if not decided or not len(mine) or not len(theirs):
        return []
    old, new = theirs.feet.astype(np.float64), mine.feet.astype(np.float64)
    middles, goals = (old[:, :2] + old[:, 2:]) / 2, (new[:, :2] + new[:, 2:]) / 2
    which = [int(np.hypot(*(middles - spot).T).argmin()) for spot, _ in decided]
    ends = np.concatenate([old[which][:, 1::-1], old[which][:, :1:-1]]) / there.scale
    moved = (follow(there.scene, here.scene, ends) * here.scale).reshape(2, -1, 2)[..., ::-1]
    pairs: list[tuple[str, object]] = []
    for place, (_, keep) in enumerate(decided):
        one, two = moved[:, place]
        apart = np.hypot(*(goals - (one + two) / 2).T)
        best = int(apart.argmin())
        run, own = two - one, new[best, 2:] - new[best, :2]
        wide, narrow = sorted([max(float(np.hypot(*run)), 1.0), max(float(np.hypot(*own)), 1.0)], reverse=True)
        along = abs(float(run @ own)) >= _BRIDGE_TURN * max(float(np.hypot(*run) * np.hypot(*own)), 1e-9)
        if apart[best] <= _BRIDGE_LINES * here.hand.divided.found.line_px and wide <= _BRIDGE_WIDER * narrow and along:
            spot = (float(goals[best, 0]), float(goals[best, 1]))
            if spot not in here.hand.sources[BRIDGES]:
                pairs.append((BRIDGES.key(here.hand.page, spot), keep))
    return pairs


def is_drawn(value: Marking, drawn: Iterable[object], reach: float) -> bool:
    """Whether a hand drew the same here already: half of both cut-outs or shapes is one, or strokes end together."""
    return any(_alike(value, other, reach) for other in drawn if type(other) is type(value))


def _alike(one: Marking, two: object, reach: float) -> bool:
    if isinstance(one, Stencil) and isinstance(two, Stencil):
        return one.back == two.back and _shared(one.rect, one.mask(), two.rect, two.mask()) >= _ONE
    if isinstance(one, ShadeCut) and isinstance(two, ShadeCut):
        return (one.into, one.light) == (two.into, two.light) and _shared(*_filled(one), *_filled(two)) >= _ONE
    if not isinstance(one, tuple) or not isinstance(two, tuple):
        return False
    ends = np.array([[path[0], path[-1]] for path in (one, two)])
    apart = min(float(np.hypot(*(ends[0] - way).T).max()) for way in (ends[1], ends[1][::-1]))
    return apart <= reach


def _filled(cut: ShadeCut) -> tuple[Rect, Bool]:
    """Return where a shape lies and what is inside its outline."""
    points = np.array([(c, r) for r, c, _ in cut.knots], np.float64)
    low, high = np.floor(points.min(axis=0)).astype(int), np.ceil(points.max(axis=0)).astype(int) + 1
    mask = np.zeros(np.maximum(high - low, 1)[::-1], np.uint8)
    cv2.fillPoly(mask, [np.rint(points - low).astype(np.int32)], 1)
    return (int(low[1]), int(low[0]), int(high[1]), int(high[0])), mask > 0


def _shared(one: Rect, mine: Bool, two: Rect, theirs: Bool) -> float:
    """Return the share of two masks that is covered by both."""
    top, left, bottom, right = max(one[0], two[0]), max(one[1], two[1]), min(one[2], two[2]), min(one[3], two[3])
    if bottom <= top or right <= left:
        return 0.0
    cut = [
        mask[top - rect[0] : bottom - rect[0], left - rect[1] : right - rect[1]]
        for rect, mask in ((one, mine), (two, theirs))
    ]
    both = int((cut[0] & cut[1]).sum())
    return both / max(1, int(mine.sum()) + int(theirs.sum()) - both)
