# SPDX-License-Identifier: GPL-3.0-or-later
"""How light and dark is shared out in every panel, and a plan of it kept to compare with. Knows pixels and panels."""

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
    which = np.take(panel, labels, mode="clip")
    which[labels == 0] = 0
    light = lightness(rgb)
    count = int(panel.max()) if len(panel) else 0
    table = np.bincount(which.ravel() * 256 + light.ravel(), minlength=(count + 1) * 256)
    table = table.reshape(-1, 256)[1 : count + 1]
    whole = np.maximum(table.sum(axis=1, keepdims=True), 1)
    run = np.cumsum(table, axis=1) / whole
    values = [
        PanelValues(*(round(float((row < share).sum()) / 2.55, 1) for share in (_LOW, 0.5, _HIGH)))
        if row[-1] > 0 else PanelValues(0, 0, 0)
        for row in run
    ]  # fmt: skip
    return table.reshape(len(table), BINS, -1).sum(axis=2) / whole, values
