# SPDX-License-Identifier: GPL-3.0-or-later
"""Marks that lie on a drawing, taken along to another drawing of the same thing. Knows scenes and flow, no colour.

A mark keeps its shape: it is moved by one affine map, that of the region it lies on. That begins as what the flow says
about the mark (random sampling: Fischler and Bolles, 1981) and is fitted border on border (iterated closest points:
Besl and McKay, 'A method for registration of 3-D shapes', 1992; the farthest fifth left out). Where that does not lie
well, it is begun again from other turns, and what lies best is taken.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import cv2
import numpy as np
import scipy

from drip_pot.core.arrays import F64, I64, Bool
from drip_pot.core.carry.flow import Flow, flow_between
from drip_pot.core.carry.scene import Scene

LIES_WELL = 0.7
"""What slid by less, in small pixels, lies where it belongs; a line is four of them wide."""
_AROUND, _LEAST_AROUND, _TRUST, _SAMPLES, _BORDER = 1.5, 56.0, 0.5, 12, 24
_ENOUGH, _TURNS = 500, (0.12, -0.12, 0.24, -0.24)  # radians
_ROUNDS, _RIGID_ROUNDS, _KEPT, _NEAREST, _STILL = 40, 12, 0.8, 40.0, 0.02
_MOST_STRETCH, _LEAST_SCALE, _MOST_SCALE, _GROUND, _JUDGED = 1.5, 0.6, 1.6, 0.2, 0.7


@dataclass(frozen=True)
class MovedMark:
    """Where a mark lies in the other drawing.

    Attributes
    ----------
    map : (2, 3) ndarray of float64
        Takes x, y, 1 of the old drawing to x, y of the new one, in small pixels.
    slid : float
        How far the borders about it, and that of what it lies on, are from those of the other drawing after the move,
        in small pixels: seven of ten are nearer. Infinity where nothing about it could be told.
    """

    map: F64
    slid: float

    def place(self, points: F64) -> F64:
        """Return where points x, y, (K, 2) float64 small pixels, lie in the other drawing."""
        return _apply(self.map, points)


def follow_marks(old: Scene, new: Scene, marks: Sequence[F64]) -> list[MovedMark]:
    """Return where marks of an old drawing are in a new one; both scenes are of one size.

    Each is (K, 2) float64 of x, y in small pixels, K ≥ 1: the points of an outline or a path.
    """
    if not marks:
        return []
    _, ahead = flow_between(old, new)
    borders = _border(old), _border(new)
    return [_moved(old, new, ahead, borders, np.asarray(mark, np.float64)) for mark in marks]


def _border(scene: Scene) -> Bool:
    """Return the pixels of a scene that lie at another region, (m, n) bool."""
    labels, found = scene.labels, np.zeros(scene.labels.shape, bool)
    across, down = labels[:, 1:] != labels[:, :-1], labels[1:] != labels[:-1]
    found[:, 1:] |= across
    found[:, :-1] |= across
    found[1:] |= down
    found[:-1] |= down
    return found


def _moved(old: Scene, new: Scene, ahead: Flow, borders: tuple[Bool, Bool], mark: F64) -> MovedMark:
    window = _window(old, mark)
    region = _region_under(old, mark)
    spots = _near(old, borders[0], region, window)
    start = _first(spots, mark, ahead)
    about, every = _within(_spots_of(borders[0]), window).astype(np.float64), _spots_of(borders[1])
    if len(about) < _BORDER or len(every) < _BORDER:
        return MovedMark(start, np.inf)
    there = scipy.spatial.cKDTree(every)
    own = _spots_of(borders[1] & (new.labels == _region_there(old, new, region, ahead, window)))
    best, best_left, slid = start, np.inf, np.inf
    own_about = _within(spots.astype(np.int64), window).astype(np.float64)
    for one in _tried(start, mark, [(spots, own), (about, every)]):
        left = _apart(there, one, about)
        if left < best_left:
            best, best_left, slid = one, left, max(left, _apart(there, one, own_about))
        if slid < LIES_WELL:
            break
    return MovedMark(best, slid)


def _apart(there: scipy.spatial.cKDTree, fitted: F64, spots: F64) -> float:
    """Return how far from the borders there some places come to lie, seven of ten of them; 0 where there are none."""
    return float(np.quantile(there.query(_apply(fitted, spots))[0], _JUDGED)) if len(spots) else 0.0


def _tried(start: F64, mark: F64, pairs: list[tuple[F64, I64]]) -> Iterator[F64]:
    """Go through the maps that may be right, the likeliest first: as the flow tells, borders fitted, then turned."""
    yield start
    fitted = [
        (mine[:: max(1, len(mine) // _ENOUGH)], scipy.spatial.cKDTree(goal))
        for mine, goal in pairs if min(len(mine), len(goal)) >= _BORDER
    ]  # fmt: skip
    for turn in (0.0, *_TURNS):
        for mine, goal in fitted:
            yield _fitted(mine, goal, _turned(start, mark, turn))


def _within(spots: I64, window: tuple[int, int, int, int]) -> I64:
    left, top, right, bottom = window
    return spots[((spots >= [left, top]) & (spots < [right, bottom])).all(axis=1)]


def _window(scene: Scene, mark: F64) -> tuple[int, int, int, int]:
    """Return what is looked at about a mark: left, top, right, bottom."""
    low, high = mark.min(axis=0), mark.max(axis=0)
    around = max(_LEAST_AROUND, _AROUND * float((high - low).max()))
    rows, cols = scene.labels.shape
    left, top = np.clip(np.floor(low - around), 0, [cols - 1, rows - 1]).astype(int).tolist()
    right, bottom = np.clip(np.ceil(high + around) + 1, 1, [cols, rows]).astype(int).tolist()
    return left, top, right, bottom


def _pixels(points: F64, shape: tuple[int, ...]) -> tuple[I64, I64]:
    """Return rows and columns of points x, y, the nearest on the page."""
    cols, rows = (np.clip(np.rint(points[..., k]), 0, shape[1 - k] - 1).astype(np.int64) for k in range(2))
    return rows, cols


def _region_under(scene: Scene, mark: F64) -> int:
    """Return the region that most of a mark's inside lies on."""
    inner = mark.mean(axis=0) + (mark - mark.mean(axis=0)) * np.linspace(0.2, 0.9, 4)[:, None, None]
    return int(np.bincount(scene.labels[_pixels(inner, scene.labels.shape)].ravel()).argmax())


def _near(scene: Scene, border: Bool, region: int, window: tuple[int, int, int, int]) -> F64:
    """Return the pixels x, y of a region's border: all of it, of a large one what lies within a window."""
    every = _spots_of(border & (scene.labels == region))
    inside = _within(every, window)
    whole = scene.areas[region] < _GROUND * scene.labels.size or len(inside) < _BORDER
    return (every if whole else inside).astype(np.float64)


def _spots_of(where: Bool) -> I64:
    return np.argwhere(where)[:, ::-1].astype(np.int64)


def _region_there(old: Scene, new: Scene, region: int, ahead: Flow, window: tuple[int, int, int, int]) -> int:
    """Return the region that most of an old one falls on, of what lies within a window."""
    left, top, right, bottom = window
    mine = old.labels[top:bottom, left:right] == region
    there = np.stack([plane[top:bottom, left:right][mine] for plane in (ahead.x, ahead.y)], axis=-1)
    return (
        int(np.bincount(new.labels[_pixels(there.astype(np.float64), new.labels.shape)]).argmax()) if len(there) else 0
    )


def _first(spots: F64, mark: F64, ahead: Flow) -> F64:
    """Return the map, (2, 3), that the flow tells of places, or of the mark's own where they are too few."""
    at = _pixels(spots, ahead.x.shape)
    sure = ahead.trust[at] >= _TRUST
    there = np.stack([ahead.x[at], ahead.y[at]], axis=1)[sure].astype(np.float64)
    found = None
    if len(there) >= _SAMPLES:
        found, _ = cv2.estimateAffinePartial2D(spots[sure], there, method=cv2.RANSAC, ransacReprojThreshold=2.0)
    if found is not None and _is_likely(found):
        return np.asarray(found, np.float64)
    at = _pixels(mark, ahead.x.shape)
    away = np.stack([ahead.x[at], ahead.y[at]], axis=1) - mark
    return np.concatenate([np.eye(2), np.median(away, axis=0)[:, None]], axis=1)


def _turned(start: F64, mark: F64, turn: float) -> F64:
    """Turn a map about where it takes the middle of a mark, by radians."""
    spin = np.array([[np.cos(turn), -np.sin(turn)], [np.sin(turn), np.cos(turn)]])
    middle = _apply(start, mark.mean(axis=0)[None])[0]
    return np.concatenate([spin @ start[:, :2], (spin @ (start[:, 2] - middle) + middle)[:, None]], axis=1)


def _fitted(spots: F64, goals: scipy.spatial.cKDTree, start: F64) -> F64:
    """Fit a map border on border: first a similarity, then all that is affine."""
    fitted = start
    for step in range(_ROUNDS):
        apart, nearest = goals.query(_apply(fitted, spots), distance_upper_bound=_NEAREST)
        there = np.isfinite(apart)
        if there.sum() < _BORDER:
            return start
        kept = there & (apart <= np.quantile(apart[there], _KEPT))
        matched = goals.data[nearest[kept]]
        fresh = _rigid(spots[kept], matched) if step < _RIGID_ROUNDS else _affine(spots[kept], matched)
        if not _is_likely(fresh):
            break
        before, fitted = fitted, fresh
        if step > _RIGID_ROUNDS and np.abs(_apply(fitted, spots) - _apply(before, spots)).max() < _STILL:
            break
    return fitted


def _is_likely(fitted: F64) -> bool:
    """Whether a drawing of the same thing may be stretched and scaled so."""
    most, least = np.linalg.svd(fitted[:, :2], compute_uv=False).tolist()
    return bool(most <= _MOST_STRETCH * least) and _LEAST_SCALE < (most * least) ** 0.5 < _MOST_SCALE


def _rigid(one: F64, two: F64) -> F64:
    """Return the similarity, (2, 3), that takes one set of places to another (Umeyama 1991, without reflection)."""
    middle, goal = one.mean(axis=0), two.mean(axis=0)
    a, b = (one - middle) @ [1, 1j], (two - goal) @ [1, 1j]
    turn = (np.conj(a) @ b) / max(float((np.abs(a) ** 2).sum()), 1e-9)
    matrix = np.array([[turn.real, -turn.imag], [turn.imag, turn.real]])
    return np.concatenate([matrix, (goal - matrix @ middle)[:, None]], axis=1)


def _affine(one: F64, two: F64) -> F64:
    """Return the affine map, (2, 3), of least squares."""
    found, *_ = np.linalg.lstsq(np.concatenate([one, np.ones((len(one), 1))], axis=1), two, rcond=None)
    return np.asarray(found.T, np.float64)


def _apply(fitted: F64, points: F64) -> F64:
    return np.asarray(points @ fitted[:, :2].T + fitted[:, 2], np.float64)
