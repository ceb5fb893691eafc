# SPDX-License-Identifier: GPL-3.0-or-later
"""Effect lines as what gives a pass its colour, so that they lie beneath the line. Knows effects and planes alone."""

from dataclasses import dataclass

import cv2
import numpy as np

from drip_pot.core.arrays import U8
from drip_pot.core.inks import Effect, effect_box


@dataclass(frozen=True, eq=False)
class EffectSource:
    """Effect lines and where they cover.

    Attributes
    ----------
    effect : Effect
        What was drawn.
    color : tuple of int
        Red, green, blue.
    top, left : int
        Where `levels` begin, in page pixels.
    levels : tuple of (m, n) ndarray of uint8
        Coverage, 0..255; each half the size of the one before.
    """

    effect: Effect
    color: tuple[int, int, int]
    top: int
    left: int
    levels: tuple[U8, ...]

    def __eq__(self, other: object) -> bool:
        return isinstance(other, EffectSource) and self.effect == other.effect and self.levels is other.levels

    def __hash__(self) -> int:
        return hash(self.effect)

    def cover(self, top: int, left: int, shape: tuple[int, int], step: int) -> U8:
        """Return how much they cover of a piece that begins at `top`, `left`; (M, N) uint8 of 0..255, `shape` is M, N.

        Every one of its pixels stands for `step` by `step` pixels of the page.
        """
        level = min(max(step.bit_length() - 1, 0), len(self.levels) - 1)
        pixels, size = self.levels[level], 1 << level
        y, x = (top + (step - size) / 2 - self.top) / size, (left + (step - size) / 2 - self.left) / size
        scale = step / size
        way = np.array([[scale, 0, x], [0, scale, y]], np.float64)
        return np.asarray(
            cv2.warpAffine(pixels, way, (shape[1], shape[0]), flags=cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP), np.uint8
        )


def effect_source(effect: Effect, color: tuple[int, int, int], shape: tuple[int, int]) -> EffectSource:
    """Draw effect lines for a page of (rows, columns), as `EffectSource`; `color` is red, green, blue of 0..255."""
    top, left, pixels = effect_box(effect, shape)
    levels = [pixels]
    while min(levels[-1].shape) > 16:
        high, wide = levels[-1].shape
        even = cv2.copyMakeBorder(levels[-1], 0, high % 2, 0, wide % 2, cv2.BORDER_REPLICATE)
        small = cv2.resize(even, ((wide + 1) // 2, (high + 1) // 2), interpolation=cv2.INTER_AREA)
        levels.append(np.asarray(small, np.uint8))
    return EffectSource(effect, color, top, left, tuple(levels))
