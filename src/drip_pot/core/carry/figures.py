# SPDX-License-Identifier: GPL-3.0-or-later
"""Figures that another drawing has stroke for stroke. Knows scenes; nothing of pots, pages or colour.

A shape that stands out says where a whole figure would lie: how far it is moved, turned, scaled, and whether it is
mirrored. What lies there must be what the figure has there, seen from either drawing; so the figure grows, and what was
found near by says more exactly where the next shape lies.
"""

from dataclasses import dataclass

import numpy as np
import scipy

from drip_pot.core.arrays import C128, F64, I64, Bool
from drip_pot.core.carry.scene import Scene
from drip_pot.core.errors import BadInput

_NONE = -1
_ALIKE, _NEAREST, _KEPT, _MOST, _FINEST = 0.93, 40, 8, 6000, 16
_SAYING, _FAR = 2, 12.0
_SAME, _OFTEN = 0.985, 8  # as many as that are alike with itself
_LEAST_PX, _SCALES = 60.0, (0.35, 2.9)
_SAMPLES, _AGREED, _NEAR = 24, 0.7, 6
_FEWEST, _TRIES, _REACH, _GROUND, _AT_FRAME = 4, 400, 0.4, 12.0, 0.2
_SAYING_LEAST, _WELL = 3, 2.0


@dataclass(frozen=True)
class Figure:
    """A figure found on both drawings.

    Attributes
    ----------
    new, old : (K,) ndarrays of int64
        Its regions on the new drawing, and on the old one.
    sure : (K,) ndarray of float64
        How well each lies where the old one has it, 0..1.
    mirrored : bool
        Whether left and right are exchanged.
    """

    new: I64
    old: I64
    sure: F64
    mirrored: bool


@dataclass(frozen=True)
class _Lie:
    """Where the new drawing's places lie on the old one: `by` × place + `to`; the place mirrored first if need be."""

    by: complex
    to: complex
    mirrored: bool

    def there(self, new: C128) -> C128:
        return np.asarray(self.by * (np.conj(new) if self.mirrored else new) + self.to)

    def back(self, old: C128) -> C128:
        place = (old - self.to) / self.by
        return np.asarray(np.conj(place) if self.mirrored else place)


@dataclass(frozen=True)
class _Seen:
    """A scene with pixels of every region, (R + 1, 24), and middles, as complex x + iy."""

    scene: Scene
    pixels: C128
    middles: C128

    def at(self, place: C128) -> I64:
        """Return the region at each of some places, 0 beside the drawing."""
        high, wide = self.scene.labels.shape
        x, y = np.rint(place.real).astype(np.int64), np.rint(place.imag).astype(np.int64)
        inside = (x >= 0) & (y >= 0) & (x < wide) & (y < high)
        found = self.scene.labels[np.clip(y, 0, high - 1), np.clip(x, 0, wide - 1)]
        return np.where(inside, found, 0).astype(np.int64)


def find_figures(old: Scene, new: Scene, kinds: I64) -> list[Figure]:
    """Find figures of a drawing that another one has again: moved, turned, scaled (0.35 to 2.9), mirrored.

    Parameters
    ----------
    old, new : Scene
        Two drawings, each at its own line scale.
    kinds : (R + 1,) ndarray of int64
        What every old region is; those of -1 are not looked for. Neither are grounds, which
        touch the page's edge or the gutter along much of their outline.

    Returns
    -------
    list of Figure
        The largest first; no region of the new drawing is in two of them.

    Raises
    ------
    BadInput
        If `kinds` is not as long as there are regions.
    """
    if len(kinds) != old.count + 1:
        raise BadInput("There are {0} regions, but {1} kinds.", old.count, len(kinds) - 1)
    one, two = _seen(old), _seen(new)
    plain = _plain(old)
    wanted, free = (kinds != _NONE) & ~_ground(old), ~_ground(new)
    found: list[Figure] = []
    tries = 0
    for region, lie in _seeds(one, two, wanted, free):
        if not free[region] or tries >= _TRIES:
            continue
        figure = _grown(one, two, region, lie, wanted, free)
        tries += 1
        if figure is not None and _stands(figure, plain):
            found.append(figure)
            free[figure.new] = False
            tries = 0
    return sorted(found, key=lambda figure: -float(new.areas[figure.new].sum()))


def _stands(figure: Figure, plain: Bool) -> bool:
    """Whether what was found says that a figure stands there: shapes that tell something, and lie well in all."""
    well = float(((figure.sure - _AGREED) / (1 - _AGREED)).sum())
    return int((~plain[figure.old]).sum()) >= _SAYING_LEAST and well >= _WELL


def _ground(scene: Scene) -> Bool:
    """Tell what is no figure: what touches the page's edge, or borders along much of it on what does (the gutter)."""
    ground = scene.edge > 0
    ground[0] = True
    one, two = scene.borders.pairs.T
    length, count = scene.borders.length_px, scene.count + 1
    every = np.bincount(one, length, count) + np.bincount(two, length, count)
    outer = np.bincount(one, length * ground[two], count) + np.bincount(two, length * ground[one], count)
    return np.asarray(ground | (outer > _AT_FRAME * np.maximum(every, 1)))


def _seen(scene: Scene) -> _Seen:
    flat = scene.labels.ravel()
    order = np.argsort(flat, kind="stable")
    ends = np.cumsum(np.bincount(flat, minlength=scene.count + 1))
    many = np.diff(np.concatenate([[0], ends]))
    step = (np.arange(_SAMPLES) + 0.5) / _SAMPLES
    place = (ends - many)[:, None] + (step * many[:, None]).astype(np.int64)
    row, col = np.divmod(order[np.minimum(place, len(order) - 1)], scene.labels.shape[1])
    return _Seen(scene, np.asarray(col + 1j * row), scene.middles[:, 0] + 1j * scene.middles[:, 1])


@dataclass(frozen=True)
class _Pairs:
    """Shapes of two drawings that look alike, (P,) each: which, how much, and where the drawing would lie."""

    new: I64
    old: I64
    alike: F64
    by: C128
    to: C128
    mirrored: Bool

    def lie(self, k: int) -> _Lie:
        return _Lie(complex(self.by[k]), complex(self.to[k]), bool(self.mirrored[k]))


def _seeds(old: _Seen, new: _Seen, wanted: Bool, free: Bool) -> list[tuple[int, _Lie]]:
    """Return regions of the new drawing with where it would lie if each were one of the old, best supported first."""
    pairs = _alike(old, new, wanted, free)
    support = _support(old, new, pairs)
    order = np.argsort(-support, kind="stable")
    return [(int(pairs.new[k]), pairs.lie(k)) for k in order[support[order] > 0].tolist()]


def _alike(old: _Seen, new: _Seen, wanted: Bool, free: Bool) -> _Pairs:
    """Pair every shape with those that look most like it, as they are and mirrored, the most alike first."""
    mine, theirs = (
        np.flatnonzero(keep & (s.scene.areas >= _LEAST_PX) & (np.abs(s.scene.outlines).sum(axis=1) > 0))
        for s, keep in ((new, free), (old, wanted))
    )
    target, outline = _waves(old.scene.outlines[theirs]), new.scene.outlines[mine]
    found = []
    for mirrored in (False, True):
        which, peak = _nearest(target, _waves(np.conj(outline)[:, ::-1] if mirrored else outline))
        row = np.repeat(mine, which.shape[1])
        found.append((row, theirs[which.ravel()], peak.ravel(), np.full(len(row), mirrored)))
    i, j, peak, flipped = (np.concatenate(plane) for plane in zip(*found, strict=True))
    scale = np.sqrt(old.scene.areas[j] / new.scene.areas[i])
    good = np.flatnonzero((np.abs(peak) > _ALIKE) & (scale > 1 / _SCALES[1]) & (scale < 1 / _SCALES[0]))
    good = good[np.argsort(-(np.abs(peak[good]) - _ALIKE) * new.scene.areas[i[good]] ** 0.25, kind="stable")][:_MOST]
    i, j, peak, flipped = i[good], j[good], peak[good], flipped[good]
    by = scale[good] * np.exp(1j * np.angle(peak))
    middle = np.where(flipped, np.conj(new.middles[i]), new.middles[i])
    return _Pairs(i, j, np.abs(peak), by, old.middles[j] - by * middle, flipped)


def _plain(scene: Scene) -> Bool:
    """Tell which regions have shapes that say nothing: too small, or one of several alike, as panes and bricks are."""
    rows = np.flatnonzero((np.abs(scene.outlines).sum(axis=1) > 0) & (scene.areas >= _LEAST_PX))
    waves = _waves(scene.outlines[rows])
    _, peak = _nearest(waves, waves)
    plain = np.ones(scene.count + 1, bool)
    plain[rows] = (np.abs(peak) > _SAME).sum(axis=1) > _OFTEN
    return plain


def _waves(outlines: C128) -> C128:
    """Return the spectra of (K, 64) outlines, with what is fine in them made stronger, of norm 1."""
    step = np.abs(np.fft.fftfreq(outlines.shape[1], 1 / outlines.shape[1]))
    waves = np.fft.fft(outlines, axis=1) * np.sqrt(step) * (step <= _FINEST)
    return np.asarray(waves / np.maximum(np.linalg.norm(waves, axis=1, keepdims=True), 1e-9))


def _nearest(target: C128, waves: C128) -> tuple[I64, C128]:
    """Return for every spectrum the most alike of others, (K, 8), and how they correlate at best."""
    few, near = min(_KEPT, len(target)), min(_NEAREST, len(target))
    if not len(waves) or not near:
        return np.zeros((len(waves), 0), np.int64), np.zeros((len(waves), 0), np.complex128)
    which = np.asarray(scipy.spatial.cKDTree(np.abs(target)).query(np.abs(waves), k=near)[1]).reshape(len(waves), near)
    product = np.fft.ifft(target[which] * np.conj(waves)[:, None], axis=2) * target.shape[1]
    at = np.abs(product).argmax(axis=2)[..., None]
    peak = np.take_along_axis(product, at, 2)[..., 0]
    best = np.argsort(-np.abs(peak), axis=1, kind="stable")[:, :few]
    return np.take_along_axis(which, best, 1), np.take_along_axis(peak, best, 1)


def _support(old: _Seen, new: _Seen, pairs: _Pairs) -> F64:
    """Tell how much of the drawing would lie right if a pair did: by the pairs near it that say the same."""
    support = np.zeros(len(pairs.new))
    there, weight = old.middles[pairs.old], pairs.alike * np.minimum(new.scene.areas[pairs.new], 4000.0) ** 0.5
    for flipped in (False, True):
        rows = np.flatnonzero(pairs.mirrored == flipped)
        here = new.middles[pairs.new[rows]]
        here = np.conj(here) if flipped else here
        for k, row in enumerate(rows.tolist()):
            by = pairs.by[row]
            away = np.abs(by * here + pairs.to[row] - there[rows])
            apart = np.abs(by) * np.abs(here - here[k])
            says = (away < 4 + 0.12 * apart) & (np.abs(pairs.by[rows] - by) < 0.2 * np.abs(by))
            says &= apart < _FAR * np.sqrt(old.scene.areas[pairs.old[row]]) + 40
            told, first = np.unique(pairs.new[rows[says]], return_index=True)
            if len(told) >= _SAYING:
                support[row] = float(weight[rows[says]][first].sum())
    return support


def _grown(old: _Seen, new: _Seen, seed: int, lie: _Lie, wanted: Bool, free: Bool) -> Figure | None:
    """Grow a figure from a region; None where too little of it is there."""
    pairs: dict[int, tuple[int, float]] = {}
    left = free.copy()
    fresh = np.array([seed])
    while len(fresh):
        theirs, sure = _agreement(old, new, fresh, lie, pairs)
        good = (sure >= _AGREED) & wanted[theirs]
        for i, j, s in zip(fresh[good].tolist(), theirs[good].tolist(), sure[good].tolist(), strict=True):
            pairs[i] = (j, s)
            left[i] = False
        if not good.any():
            break
        lie = _fitted(old, new, pairs, lie)
        fresh = _round_about(new, list(pairs), left)
    _drop_ground(new, pairs)
    if len(pairs) < _FEWEST:
        return None
    i, j = np.array(list(pairs)), np.array([pair[0] for pair in pairs.values()])
    return Figure(i, j, np.array([p[1] for p in pairs.values()]), lie.mirrored)


def _drop_ground(new: _Seen, pairs: dict[int, tuple[int, float]]) -> None:
    """Leave out what is much larger than all else of a figure together: it is what the figure stands on."""
    while pairs:
        areas = new.scene.areas[list(pairs)]
        if areas.max() <= _GROUND * (areas.sum() - areas.max()):
            return
        del pairs[list(pairs)[int(areas.argmax())]]


def _agreement(old: _Seen, new: _Seen, regions: I64, lie: _Lie, pairs: dict[int, tuple[int, float]]) -> tuple[I64, F64]:
    """Return for some new regions what lies there on the old drawing, and the share on which both drawings agree."""
    shift = _shift(old, new, regions, lie, pairs)[:, None]
    hit = np.sort(old.at(lie.there(new.pixels[regions]) + shift), axis=1)
    theirs = hit[:, _SAMPLES // 2]
    ahead = (hit == theirs[:, None]).mean(axis=1)
    back = (new.at(lie.back(old.pixels[theirs] - shift)) == regions[:, None]).mean(axis=1)
    return theirs, np.minimum(ahead, back) * (theirs > 0)


def _shift(old: _Seen, new: _Seen, regions: I64, lie: _Lie, pairs: dict[int, tuple[int, float]]) -> C128:
    """Return how far off what is found already lies, near each of some regions."""
    if not pairs:
        return np.zeros(len(regions), np.complex128)
    mine, theirs = np.array(list(pairs)), np.array([pair[0] for pair in pairs.values()])
    off = old.middles[theirs] - lie.there(new.middles[mine])
    where = np.stack([new.middles.real, new.middles.imag], axis=1)
    many = min(_NEAR, len(mine))
    away, which = scipy.spatial.cKDTree(where[mine]).query(where[regions], k=many)
    pull = 1 / (4.0 + np.asarray(away).reshape(len(regions), many))
    near = off[np.asarray(which).reshape(len(regions), many)]
    return np.asarray((near * pull).sum(axis=1) / pull.sum(axis=1))


def _fitted(old: _Seen, new: _Seen, pairs: dict[int, tuple[int, float]], lie: _Lie) -> _Lie:
    """Lay the drawing anew by all that is found, large regions before small ones."""
    mine, theirs = np.array(list(pairs)), np.array([pair[0] for pair in pairs.values()])
    if len(mine) < 3:
        return lie
    weight = np.sqrt(new.scene.areas[mine])
    weight /= weight.sum()
    here, there = new.middles[mine], old.middles[theirs]
    here = np.conj(here) if lie.mirrored else here
    a, b = here - (here * weight).sum(), there - (there * weight).sum()
    by = complex((b * np.conj(a) * weight).sum() / max(float((np.abs(a) ** 2 * weight).sum()), 1e-9))
    return _Lie(by, complex((there * weight).sum() - by * (here * weight).sum()), lie.mirrored)


def _round_about(new: _Seen, found: list[int], left: Bool) -> I64:
    """Return the regions not yet found in and round the box of those that are."""
    x, y = new.middles.real, new.middles.imag
    reach = max(
        _REACH * max(float(np.ptp(x[found])), float(np.ptp(y[found]))), 3 * float(np.sqrt(new.scene.areas[found].max()))
    )
    near = (x >= x[found].min() - reach) & (x <= x[found].max() + reach)
    near &= (y >= y[found].min() - reach) & (y <= y[found].max() + reach)
    return np.flatnonzero(near & left)
