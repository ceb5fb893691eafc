# SPDX-License-Identifier: GPL-3.0-or-later
"""The fitted weights of the judges, and what they answer. Knows numbers only.

The weights in judge.npz were fitted on drawings of other people, with `benchmarks/gaps/fit.py`; nothing is learned
while the program runs.
"""

import json
from dataclasses import dataclass
from functools import lru_cache, partial
from importlib.resources import files

import cv2
import numpy as np

from drip_pot.core.arrays import F32, F64, I64
from drip_pot.core.strips import at_once

_FEW, _PIECE = 1500, 4096


@dataclass(frozen=True)
class Network:
    """A network of fully connected layers (weight, bias), on what is known less its mean over its spread."""

    mean: F32
    spread: F32
    layers: tuple[tuple[F32, F32], ...]

    def logit(self, known: F32) -> F32:
        """Return the logit for each row of (K, features)."""
        pieces = [self._logit(known[start : start + _PIECE]) for start in range(0, len(known), _PIECE)]
        return np.concatenate([np.zeros(0, np.float32), *pieces])

    def _logit(self, known: F32) -> F32:
        value = known - self.mean
        value /= self.spread
        np.clip(value, -5, 5, out=value)
        for place, (weight, bias) in enumerate(self.layers):
            value = value @ weight
            value += bias
            if place < len(self.layers) - 1:
                np.maximum(value, 0, out=value)
        return np.asarray(value[:, 0], np.float32)


@dataclass(frozen=True)
class Trees:
    """Boosted oblivious trees: every tree asks the same questions of each row, which say its leaf.

    Attributes
    ----------
    feature : (T, D) ndarray of int64
        What each question is about.
    border : (T, D) ndarray of float32
        Whether it is above this; the first question is the lowest bit of the leaf.
    leaf : (T, 2 ** D) ndarray of float32
        What each leaf adds.
    bias : float
        What all begin with.

    Notes
    -----
    As in A. V. Dorogush, V. Ershov, A. Gulin, "CatBoost: gradient boosting with categorical features support", 2018.
    """

    feature: I64
    border: F32
    leaf: F32
    bias: float

    def logit(self, known: F32) -> F32:
        """Return the logit for each row of (K, features)."""
        count, depth = self.feature.shape
        if len(known) <= _FEW:
            above = known[:, self.feature.ravel()] > self.border.ravel()
            place = above.reshape(len(known), count, depth) @ (1 << np.arange(depth))
            return np.asarray(self.leaf[np.arange(count), place].sum(axis=1) + self.bias, np.float32)
        columns = np.ascontiguousarray(known.T)
        total, place = np.full(len(known), self.bias, np.float32), np.empty(len(known), np.uint8)
        above = np.empty(len(known), bool)
        bits = above.view(np.uint8)
        table = np.zeros((count, 256), np.float32)
        table[:, : 1 << depth] = self.leaf
        for feature, border, leaf in zip(self.feature.tolist(), self.border, table, strict=True):
            place.fill(0)
            for column, limit in zip(reversed(feature), border[::-1], strict=True):
                np.greater(columns[column], limit, out=above)
                np.add(place, place, out=place)  # three times as fast as a shift
                np.bitwise_or(place, bits, out=place)
            total += cv2.LUT(place[None], leaf)[0]
        return total


def answer(name: str, known: F64 | F32) -> F64:
    """Return what the judges of a name say of what is known, (K,) float64 0..1.

    `known` is (K, F) float32; it is the mean of trees and of networks, as logits.
    """
    known = known.astype(np.float32, copy=False)
    means = [partial(_mean, kind, known) for kind in judges()[name] if kind]
    many = len(means) > 1 and len(known) > _FEW
    total = sum(at_once(*means) if many else (mean() for mean in means)) / len(means)
    return np.asarray(1 / (1 + np.exp(-total)))


def _mean(kind: list[Network] | list[Trees], known: F32) -> F64:
    return np.asarray(np.sum([judge.logit(known) for judge in kind], axis=0, dtype=np.float64) / len(kind))


def likeliness(verdict: F64) -> F64:
    """Return the share of bridges of such verdicts, (K,) float64 0..1, that parted two things.

    It was counted in drawings that nothing was fitted on.
    """
    at, share = _stored()["worth"]
    return np.asarray(np.interp(verdict, at, share), np.float64)


def fit_told() -> dict[str, object]:
    """Return what the weights were fitted on: engine, state of the code, cases, list of drawings, packages."""
    told: dict[str, object] = json.loads(str(_stored()["fit"]))
    return told


@lru_cache(maxsize=1)
def _stored() -> dict[str, F32]:
    """Read the weights that ship with the program."""
    with (files("drip_pot.core.regions") / "judge.npz").open("rb") as file, np.load(file) as stored:
        return {name: stored[name] for name in stored.files}


@lru_cache(maxsize=1)
def judges() -> dict[str, tuple[list[Network], list[Trees]]]:
    """Return the judges by name: networks, and trees."""
    kept = _stored()
    return {name: (_networks(kept, f"{name}.network"), _trees(kept, f"{name}.trees")) for name in ("local", "pair")}


def _networks(kept: dict[str, F32], name: str) -> list[Network]:
    found: list[Network] = []
    while f"{name}.{len(found)}.mean" in kept:
        top = f"{name}.{len(found)}"
        layers: list[tuple[F32, F32]] = []
        while f"{top}.weight.{len(layers)}" in kept:
            weight, bias = (kept[f"{top}.{k}.{len(layers)}"].astype(np.float32) for k in ("weight", "bias"))
            layers.append((weight, bias))
        found.append(Network(kept[f"{top}.mean"], kept[f"{top}.spread"], tuple(layers)))
    return found


def _trees(kept: dict[str, F32], name: str) -> list[Trees]:
    found: list[Trees] = []
    while f"{name}.{len(found)}.leaf" in kept:
        top = f"{name}.{len(found)}"
        feature, border, leaf = (kept[f"{top}.{k}"] for k in ("feature", "border", "leaf"))
        found.append(Trees(feature.astype(np.int64), border, leaf.astype(np.float32), float(kept[f"{top}.bias"])))
    return found
