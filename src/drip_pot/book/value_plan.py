# SPDX-License-Identifier: GPL-3.0-or-later
"""How light and dark is shared out in every panel, and a plan of it kept to compare with. Knows pixels and panels."""

from collections.abc import Sequence
from typing import Annotated

import msgspec
import numpy as np

from drip_pot.core.arrays import F64, I32, I64, U8
from drip_pot.core.color import lightness

BINS = 32
_LOW, _HIGH = 0.05, 0.95
Level = Annotated[float, msgspec.Meta(ge=0, le=100)]


class PanelValues(msgspec.Struct, frozen=True):
    """Lightness, 0..100, in a panel: what the darkest and the lightest twentieth reach, and what halves it."""

    dark: Level
    middle: Level
    light: Level


def values_of(rgb: U8, labels: I32, panel: I64) -> tuple[F64, list[PanelValues]]:
    """Return how much of every panel has which lightness, and what its values are.

    Parameters
    ----------
    rgb : (M, N, 3 or 4) ndarray of uint8
        The page as it is seen.
    labels : (M, N) ndarray of int32
        Atoms; 0 is left out.
    panel : (A + 1,) ndarray of int64
        Panel of every atom from 1; 0 is the gutter.

    Returns
    -------
    shares : (P, 32) ndarray of float64
        Of the panel, from black to white; panels that are not seen have none.
    values : list of PanelValues
    """
    table = _counts(lightness(rgb), _which(labels, panel), int(panel.max()) if len(panel) else 0)
    shares = table.reshape(len(table), BINS, -1).sum(axis=2) / np.maximum(table.sum(axis=1, keepdims=True), 1)
    return shares, _reached(table)


def _which(labels: I32, panel: I64) -> I64:
    """Return the panel of every pixel."""
    which = np.take(panel, labels, mode="clip")
    which[labels == 0] = 0
    return which


def _counts(light: U8, which: I64, count: int) -> I64:
    """Return how many pixels of every panel have which lightness, (P, 256)."""
    table = np.bincount(which.ravel() * 256 + light.ravel(), minlength=(count + 1) * 256)
    return table.reshape(-1, 256)[1 : count + 1]


def _reached(table: I64) -> list[PanelValues]:
    """Return the values of panels from how many of their pixels have which lightness."""
    run = np.cumsum(table, axis=1) / np.maximum(table.sum(axis=1, keepdims=True), 1)
    return [
        PanelValues(*(round(float((row < share).sum()) / 2.55, 1) for share in (_LOW, 0.5, _HIGH)))
        if row[-1] > 0 else PanelValues(0, 0, 0)
        for row in run
    ]  # fmt: skip


def as_planned(light: U8, labels: I32, panel: I64, plan: Sequence[PanelValues]) -> U8:
    """Return lightness as it would be if every panel had the values that are planned for it.

    Parameters
    ----------
    light : (M, N) ndarray of uint8
        The page's lightness as it is.
    labels, panel
        As for `values_of`.
    plan : sequence of PanelValues
        A plan for each panel, in order; panels without one stay as they are.

    Returns
    -------
    (M, N) ndarray of uint8
        Dark, middle and light lie where they are planned; what is between them is stretched evenly.
    """
    which, out = _which(labels, panel), light.copy()
    count = int(panel.max()) if len(panel) else 0
    for number, (now, wanted) in enumerate(zip(_reached(_counts(light, which, count)), plan, strict=False), 1):
        stops = np.array([0, now.dark, now.middle, now.light, 100]) * 2.55
        stops = np.maximum.accumulate(stops + np.arange(5) * 1e-3)
        to = np.array([0, wanted.dark, wanted.middle, wanted.light, 100]) * 2.55
        table = np.rint(np.interp(np.arange(256), stops, to)).astype(np.uint8)
        mine = which == number
        out[mine] = table[light[mine]]
    return out
