# SPDX-License-Identifier: GPL-3.0-or-later
"""Pixels as pictures that Qt draws. Knows arrays and Qt images."""

import numpy as np
from PyQt6.QtGui import QImage

from drip_pot.core.arrays import U8


def image_of(rgb: U8) -> QImage:
    """Return a picture of its own from (M, N, 3) uint8 sRGB."""
    pixels = np.ascontiguousarray(rgb)
    high, wide = pixels.shape[:2]
    return QImage(pixels.tobytes(), wide, high, wide * 3, QImage.Format.Format_RGB888).copy()
