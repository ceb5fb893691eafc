# SPDX-License-Identifier: GPL-3.0-or-later
"""Colours of the drawings between two that are coloured, told from both sides. Knows scenes and matches; no books."""

from collections.abc import Sequence
from itertools import pairwise

import numpy as np

from drip_pot.core.arrays import F64, I64
from drip_pot.core.carry.match import Carried, carry_kinds
from drip_pot.core.carry.scene import Scene

_LEAST, _MOST = 0.02, 0.98


def kinds_between(scenes: Sequence[Scene], first: I64, last: I64) -> list[Carried]:
    """Find which kind (colour) every region of the drawings between two others has.

    They are carried from drawing to drawing, from either end. Where both sides tell the same it is the surer for it (as
    two witnesses who know nothing of each other); else it is what the surer one tells, less sure.

    Parameters
    ----------
    scenes : sequence of Scene
        Drawings of the same thing in order, small and of one size; the first and the last are coloured.
    first, last : (R + 1,) ndarrays of int64
        What every region of those two is; any numbers.

    Raises
    ------
    BadInput
        If the drawings differ in size, or kinds in number from regions.
    """
    ahead, back = _chained(scenes, first), _chained(scenes[::-1], last)[::-1]
    return [_surer(one, two) for one, two in zip(ahead, back, strict=True)]


def _chained(scenes: Sequence[Scene], kinds: I64) -> list[Carried]:
    """Carry kinds from the first drawing to each but the last, from the one before it."""
    found: list[Carried] = []
    sure: F64 = np.ones(scenes[0].count + 1)
    for old, new in pairwise(scenes[:-1]):
        told = carry_kinds(old, new, kinds)
        kinds, sure = told.kind, told.sure * sure[told.source]
        found.append(Carried(told.source, kinds, sure))
    return found


def _surer(one: Carried, two: Carried) -> Carried:
    odds = [certain / (1 - certain) for certain in (np.clip(side.sure, _LEAST, _MOST) for side in (one, two))]
    first = odds[0] >= odds[1]
    apart = np.where(first, odds[0] / odds[1], odds[1] / odds[0])
    ratio = np.where(one.kind == two.kind, odds[0] * odds[1], apart)
    source, kind = np.where(first, one.source, two.source), np.where(first, one.kind, two.kind)
    return Carried(source, kind, ratio / (1 + ratio))
