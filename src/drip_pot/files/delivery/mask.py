# SPDX-License-Identifier: GPL-3.0-or-later
"""Line drawn anew in dots finer than the pixels of a page, from its coverage. Knows planes only."""

import cv2
import numpy as np

from drip_pot.core.arrays import U8, Bool
from drip_pot.core.strips import Strip

HALO = 4
"""Rows of context that a strip of dots is drawn from."""
PRINTS = 128
"""Coverage from which a dot prints."""
_FINEST_DPI = 1200


def fineness(dpi: float) -> int:
    """Return how many dots a pixel has along a side, for dots of 600 to 1200 an inch; at least one."""
    return max(1, int(_FINEST_DPI / dpi))


def dots(ink: U8, strip: Strip, factor: int) -> Bool:
    """Return the dots of a strip, (m, n) bool, from the coverage of it and what is around it, (M, N) uint8."""
    fine = cv2.resize(ink, None, fx=factor, fy=factor, interpolation=cv2.INTER_CUBIC) if factor > 1 else ink
    return np.asarray(fine[strip.inside.start * factor : strip.inside.stop * factor] >= PRINTS)


def has_dots(fine: Bool, factor: int) -> Bool:
    """Tell which pixels have any dot, (m, n) bool, from dots of `factor` a side, (m * factor, n * factor)."""
    rows = fine[::factor]
    for k in range(1, factor):
        rows = rows | fine[k::factor]
    out = rows[:, ::factor]
    for k in range(1, factor):
        out = out | rows[:, k::factor]
    return np.asarray(out)
