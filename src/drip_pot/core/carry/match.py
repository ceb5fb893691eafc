# SPDX-License-Identifier: GPL-3.0-or-later
"""Which region of a drawing has which colour, from a drawing of the same thing coloured before. Knows scenes, flow.

Flow says where a region was, its outline what it looks like, its neighbours what must lie beside it (relaxation
labelling: Rosenfeld, Hummel and Zucker, 'Scene labeling by relaxation operations', IEEE SMC 1976); what is matched
surely round about then says once more where it was, by an affine map. A colour is carried from all that speaks for it.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import scipy

from drip_pot.core.arrays import C128, F64, I64
from drip_pot.core.carry.flow import Flow, flow_between, flowed, votes
from drip_pot.core.carry.scene import Scene
from drip_pot.core.errors import BadInput

_NEAR, _HIT = 24, 10
_KEPT = 14
_ROUNDS = 15
_SURE, _GUIDES, _RIDGE = 0.7, 10, 12.0
WEIGHTS: tuple[float, ...] = (
    0.80,
    -1.63,
    0.69,
    0.65,
    4.87,
    0.00,
    -1.07,
    1.01,
    -6.31,
    -4.08,
    -0.75,
    -0.06,
    1.57,
    -1.46,
    1.04,
    -1.35,
)
"""How much every number of `evidence` counts; fitted by benchmarks/carry.py --fit on the movements called 'tune'."""


@dataclass(frozen=True)
class Carried:
    """What was carried to a new drawing.

    Attributes
    ----------
    source : (R + 1,) ndarray of int64
        The old region that every new one comes from.
    kind : (R + 1,) ndarray of int64
        Its kind.
    sure : (R + 1,) ndarray of float64
        How likely that is right, 0..1.
    """

    source: I64
    kind: I64
    sure: F64


@dataclass(frozen=True)
class Choices:
    """For every new region up to K old ones it may come from; those that are not there have `real` False."""

    old: I64
    real: F64
    cost: F64
    outline: F64
    overlap: F64


def carry_kinds(old: Scene, new: Scene, kinds: I64) -> Carried:
    """Find which kind (colour) every region of a new drawing has.

    Parameters
    ----------
    old, new : Scene
        Two drawings of the same thing, small and of one size.
    kinds : (R + 1,) ndarray of int64
        What every old region is; any numbers.

    Raises
    ------
    BadInput
        If the drawings differ in size, or `kinds` in length.
    """
    if old.labels.shape != new.labels.shape:
        raise BadInput("Colours are carried between drawings of one shape only.")
    if len(kinds) != old.count + 1:
        raise BadInput("There are {0} regions, but {1} kinds.", old.count, len(kinds) - 1)
    choices, told = evidence(old, new)
    return decide_kinds(choices, told, kinds)


def evidence(old: Scene, new: Scene) -> tuple[Choices, F64]:
    """Return what every new region may come from, and what speaks for each, as numbers for `WEIGHTS`.

    The numbers are (R, K, 16) float64.
    """
    flow, back = flow_between(old, new)
    by_flow = votes(new, old, flow.x, flow.y)
    from_old = scipy.sparse.csr_array(votes(old, new, back.x, back.y).T)
    place, trust = flowed(new, flow)
    choices = _choose(old, new, by_flow, place)
    likely, support = _relaxed(old, new, choices)
    guided = by_flow
    for _ in range(2):
        guided = _guided(old, new, choices, likely, flow)
        choices = _choose(old, new, scipy.sparse.csr_array(by_flow * 0.5 + guided * 0.5), place)
        likely, support = _relaxed(old, new, choices)
    drift, guide, kept = (_looked_up(table, choices.old) for table in (by_flow, guided, from_old))
    wanted = np.bincount(choices.old.ravel(), (likely * choices.real).ravel(), old.count + 1)
    area = np.log(new.areas[1:, None] / old.areas[choices.old])
    bare = np.abs(new.outlines[1:]).sum(axis=1) == 0
    flat = np.ones_like(drift)
    rows = (
        np.log(likely + 1e-4), likely, drift, guide, choices.outline * ~bare[:, None], bare[:, None] * flat,
        np.minimum(np.abs(area), 4), np.clip(-area, 0, 4),
        _apart(place[1:, None], old.middles[choices.old]) / np.hypot(*new.labels.shape),
        np.abs(new.edge[1:, None] - old.edge[choices.old]),
        np.minimum(np.abs(new.holes[1:, None] - old.holes[choices.old]), 4),
        drift * trust[1:, None], support, np.minimum(wanted[choices.old], 5), kept, np.minimum(kept, drift),
    )  # fmt: skip
    return choices, np.stack(rows, axis=2)


def decide_kinds(choices: Choices, told: F64, kinds: I64, weights: tuple[float, ...] = WEIGHTS) -> Carried:
    """Weigh what speaks for every choice, and give every region the kind that most speaks for.

    `told` is (R, K, 16) float64 as of `evidence`, `kinds` (S + 1,) int64 what every old region is.
    """
    score = np.where(choices.real > 0, told @ np.array(weights), -np.inf)
    chance = np.exp(score - score.max(axis=1, keepdims=True))
    chance /= chance.sum(axis=1, keepdims=True)
    kind = kinds[choices.old]
    of_kind = np.einsum("rk,rkl->rl", chance, kind[:, :, None] == kind[:, None, :])
    best = np.where(choices.real > 0, of_kind, -1).argmax(axis=1)
    every = np.arange(len(kind))
    mine = np.where(kind == kind[every, best][:, None], chance, -1).argmax(axis=1)
    return Carried(
        np.concatenate([[0], choices.old[every, mine]]), np.concatenate([[0], kind[every, best]]),
        np.concatenate([[1.0], of_kind[every, best]]),
    )  # fmt: skip


def _apart(one: F64, other: F64) -> F64:
    """Return how far (..., 2) places are from others."""
    return np.asarray(np.hypot(*np.moveaxis(one - other, -1, 0)))


def _looked_up(table: scipy.sparse.csr_array, columns: I64) -> F64:
    """Return the entries of a sparse (R + 1, C) table at (R, K) columns of the rows from 1 on."""
    rows = np.repeat(np.arange(1, len(columns) + 1)[:, None], columns.shape[1], 1)
    return np.asarray(table[rows.ravel(), columns.ravel()]).reshape(columns.shape)


def _choose(old: Scene, new: Scene, overlap: scipy.sparse.csr_array, place: F64) -> Choices:
    """Pick the old regions that a new one may come from, and what speaks against each."""
    near = min(_NEAR, old.count)
    _, found = scipy.spatial.cKDTree(old.middles[1:]).query(place[1:], k=near)
    near_by = np.asarray(found).reshape(new.count, near) + 1
    hit, hits = _strongest(overlap, new.count)
    every = np.concatenate([near_by, hit], axis=1)
    real = np.concatenate([np.ones_like(near_by), hits > 0], axis=1).astype(bool)
    order = np.argsort(every, axis=1, kind="stable")
    ranked = np.take_along_axis(every, order, 1)
    again = np.zeros_like(real)
    np.put_along_axis(again, order[:, 1:], ranked[:, 1:] == ranked[:, :-1], 1)
    real &= ~again
    share = _looked_up(overlap, every)
    alike, turn = _likeness(new.outlines[1:], old.outlines[every])
    area = np.abs(np.log(new.areas[1:, None] / old.areas[every]))
    away = np.hypot(*np.moveaxis(place[1:, None] - old.middles[every], 2, 0)) / (
        0.5 * float(np.hypot(*new.labels.shape))
    )
    cost = 2.5 * np.minimum(area, 3) + 12 * (1 - alike) + 10 * away + 0.5 * turn * (alike > 0.9) - 4 * share
    cost += 4 * np.abs(new.edge[1:, None] - old.edge[every]) + 0.3 * np.minimum(
        np.abs(new.holes[1:, None] - old.holes[every]), 4
    )
    cost = np.where(real, cost, np.inf)
    best = np.argsort(cost, axis=1, kind="stable")[:, :_KEPT]
    picked = [np.take_along_axis(plane, best, 1) for plane in (every, real, cost, alike, share)]
    return Choices(picked[0], picked[1].astype(np.float64), np.where(picked[1], picked[2], 99.0), picked[3], picked[4])


def _strongest(table: scipy.sparse.csr_array, count: int) -> tuple[I64, F64]:
    """Return the old regions with the largest shares of every new one, (R, 10), and the shares."""
    which, share = np.ones((count, _HIT), np.int64), np.zeros((count, _HIT))
    for row in range(1, count + 1):
        part = slice(table.indptr[row], table.indptr[row + 1])
        data, cols = table.data[part], table.indices[part]
        top = np.argsort(-data)[:_HIT]
        top = top[cols[top] > 0]
        which[row - 1, : len(top)], share[row - 1, : len(top)] = cols[top], data[top]
    return which, share


def _likeness(new: C128, old: C128) -> tuple[F64, F64]:
    """Compare (R, P) outlines with (R, K, P): circular correlation 0..1, and the turn between them in radians."""
    one = np.conj(np.fft.fft(new, axis=1))[:, None]
    alike, turn = np.zeros(old.shape[:2]), np.zeros(old.shape[:2])
    for part in range(0, len(new), 512):
        rows = slice(part, part + 512)
        product = np.fft.ifft(np.fft.fft(old[rows], axis=2) * one[rows], axis=2)
        best = np.abs(product).argmax(axis=2)
        peak = np.take_along_axis(product, best[..., None], 2)[..., 0]
        alike[rows], turn[rows] = np.abs(peak), np.abs(np.angle(peak))
    bare = (np.abs(new).sum(axis=1) == 0)[:, None] | (np.abs(old).sum(axis=2) == 0)
    return np.where(bare, 0.8, np.minimum(alike, 1.0)), turn


def _relaxed(old: Scene, new: Scene, choices: Choices) -> tuple[F64, F64]:
    """Let neighbours speak for each other; return how likely each choice is, (R, K), and what neighbours say."""
    start = np.exp(-0.5 * (choices.cost - choices.cost.min(axis=1, keepdims=True))) * choices.real
    start /= np.maximum(start.sum(axis=1, keepdims=True), 1e-12)
    pairs, weight = _neighbours(new)
    if not len(pairs):
        return start, np.zeros_like(start)
    fits = _fits(old, new, choices, pairs)
    now, support = start, np.zeros_like(start)
    total = np.bincount(pairs[:, 0], weight, new.count)[:, None]
    for _ in range(_ROUNDS):
        told = np.einsum("ekl,el->ek", fits, now[pairs[:, 1]]) * weight[:, None]
        support = np.zeros_like(now)
        np.add.at(support, pairs[:, 0], told)
        support /= np.maximum(total, 1e-9)
        wanted = np.bincount(choices.old.ravel(), (now * choices.real).ravel(), old.count + 1)
        crowd = np.maximum(wanted[choices.old], 1.0) ** -0.3
        now = start**0.3 * now**0.7 * (0.1 + support) * crowd
        now /= np.maximum(now.sum(axis=1, keepdims=True), 1e-12)
    return now, support


def _neighbours(scene: Scene) -> tuple[I64, F64]:
    """Return who borders whom, both ways, from 0, (E, 2), and with what weight."""
    pairs = scene.borders.pairs - 1
    weight = np.sqrt(scene.borders.length_px)
    return np.concatenate([pairs, pairs[:, ::-1]]), np.concatenate([weight, weight])


def _fits(old: Scene, new: Scene, choices: Choices, pairs: I64) -> F64:
    """Tell how well a choice of one goes with a choice of its neighbour, (E, K, K) float32."""
    touching = old.borders.pairs[:, 0] * (old.count + 1) + old.borders.pairs[:, 1]
    mine, yours = choices.old[pairs[:, 0]], choices.old[pairs[:, 1]]
    a, b = mine[:, :, None], yours[:, None, :]
    key = np.minimum(a, b) * (old.count + 1) + np.maximum(a, b)
    place = np.minimum(np.searchsorted(touching, key), max(len(touching) - 1, 0))
    beside = (touching[place] == key) if len(touching) else np.zeros(key.shape, bool)
    step = (new.middles[pairs[:, 1] + 1] - new.middles[pairs[:, 0] + 1])[:, None, None]
    before = old.middles[b] - old.middles[a]
    apart = _apart(before, step)
    reach = 0.35 * _apart(step, np.zeros_like(step)) + 6.0
    good = np.exp(-0.5 * (apart / reach) ** 2)
    return np.asarray(np.where(a == b, 0.35 * good, np.where(beside, 0.3 + 0.7 * good, 0.15 * good)), np.float32)


def _guided(old: Scene, new: Scene, choices: Choices, likely: F64, flow: Flow) -> scipy.sparse.csr_array:
    """Lay every new region on the old drawing by what is matched surely round about it; return the shares."""
    best = likely.argmax(axis=1)
    rows = np.arange(new.count)
    chosen = choices.old[rows, best]
    sure = (likely[rows, best] > _SURE) & (choices.outline[rows, best] > 0.85) & (new.areas[1:] > 12)
    if sure.sum() < 3:
        return votes(new, old, flow.x, flow.y)
    anchors, targets = new.middles[1:][sure], old.middles[chosen[sure]]
    weight = np.sqrt(np.minimum(new.areas[1:][sure], 2000))
    many = min(_GUIDES, len(anchors))
    away, which = scipy.spatial.cKDTree(anchors).query(new.middles[1:], k=many)
    away, which = np.asarray(away).reshape(new.count, many), np.asarray(which).reshape(new.count, many)
    pull = weight[which] / (10.0 + away)
    matrix, offset = _affine(anchors[which], targets[which], pull)
    high, wide = new.labels.shape
    ys, xs = np.mgrid[0:high, 0:wide].astype(np.float32)
    place = new.labels - 1
    x = matrix[place, 0, 0] * xs + matrix[place, 0, 1] * ys + offset[place, 0]
    y = matrix[place, 1, 0] * xs + matrix[place, 1, 1] * ys + offset[place, 1]
    return votes(new, old, x.astype(np.float32), y.astype(np.float32))


def _affine(source: F64, target: F64, weight: F64) -> tuple[F64, F64]:
    """Fit, for every row, an affine map of (R, K, 2) places to others, drawn towards a plain shift."""
    share = (weight / weight.sum(axis=1, keepdims=True))[..., None]
    here, there = (source * share).sum(axis=1), (target * share).sum(axis=1)
    a, b = source - here[:, None], target - there[:, None]
    ridge = np.eye(2) * _RIDGE**2
    left = np.einsum("rki,rkj->rij", a * share, a) + ridge
    right = np.einsum("rki,rkj->rij", a * share, b) + ridge
    matrix = np.swapaxes(np.linalg.solve(left, right), 1, 2)
    return matrix, there - np.einsum("rij,rj->ri", matrix, here)
