# SPDX-License-Identifier: GPL-3.0-or-later
"""Effect lines as what gives a pass its colour, so that they lie beneath the line. Knows effects and planes alone."""

from dataclasses import dataclass
from functools import lru_cache

import cv2
import msgspec
import numpy as np

from drip_pot.core.arrays import U8
from drip_pot.core.inks import Effect, effect_box


@dataclass(frozen=True)
class EffectSource:
    """Effect lines and their colour; they are drawn when they are first looked at.

    Attributes
    ----------
    effect : Effect
        What is drawn.
    color : tuple of int
        Red, green, blue.
    page : tuple of int
        Rows and columns of the page.
    """

    effect: Effect
    color: tuple[int, int, int]
    page: tuple[int, int]

    def cover(self, top: int, left: int, shape: tuple[int, int], step: int) -> U8:
        """Return how much they cover of a piece that begins at `top`, `left`; (M, N) uint8 of 0..255, `shape` is M, N.

        Every one of its pixels stands for `step` by `step` pixels of the page.
        """
        first_row, first_col, levels = _drawn(msgspec.structs.replace(self.effect, color="#000000"), self.page)
        level = min(max(step.bit_length() - 1, 0), len(levels) - 1)
        size = 1 << level
        y, x = (top + (step - size) / 2 - first_row) / size, (left + (step - size) / 2 - first_col) / size
        way = np.array([[step / size, 0, x], [0, step / size, y]], np.float64)
        flags = cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP
        return np.asarray(cv2.warpAffine(levels[level], way, (shape[1], shape[0]), flags=flags), np.uint8)


@lru_cache(maxsize=6)
def _drawn(effect: Effect, page: tuple[int, int]) -> tuple[int, int, tuple[U8, ...]]:
    """Return where effect lines begin, and their coverage in levels, each half the size of the one before."""
    top, left, pixels = effect_box(effect, page)
    levels = [pixels]
    while min(levels[-1].shape) > 16:
        high, wide = levels[-1].shape
        even = cv2.copyMakeBorder(levels[-1], 0, high % 2, 0, wide % 2, cv2.BORDER_REPLICATE)
        small = cv2.resize(even, ((wide + 1) // 2, (high + 1) // 2), interpolation=cv2.INTER_AREA)
        levels.append(np.asarray(small, np.uint8))
    return top, left, tuple(levels)
