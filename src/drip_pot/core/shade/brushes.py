# SPDX-License-Identifier: GPL-3.0-or-later
"""Soft strokes of light and shadow as coverage. Knows points and planes; nothing of passes."""

import cv2
import numpy as np
import numpy.typing as npt

from drip_pot.core.arrays import U8, Rect
from drip_pot.core.errors import BadInput
from drip_pot.core.shade.stroke import stroke_of


def mist(
    points: npt.ArrayLike, width_px: float, softness: float, flow: float, shape: tuple[int, int]
) -> tuple[Rect, U8]:
    """Return the coverage of a soft stroke that does not build up over itself.

    Parameters
    ----------
    points : (K, 2) or (K, 3) array_like of float
        Row, column, and pressure 0..1 of the hand, in page pixels; it may leave the page.
    width_px : float
        How wide it is at full pressure, 1 and up.
    softness : float
        0..1: which share of the half width falls off.
    flow : float
        0..1: coverage at the middle.
    shape : tuple of int
        Rows and columns of the page.

    Returns
    -------
    rect : Rect
        The part of the page that it touches; empty (all 0) beside the page.
    cover : (bottom - top, right - left) ndarray of uint8
        0..255.

    Raises
    ------
    BadInput
        For no points, too many, or one that is not finite; a width, softness or flow out of range.
    """
    path, press = stroke_of(points)
    if not (1 <= width_px <= 5000 and 0 <= softness <= 1 and 0 < flow <= 1):
        raise BadInput("A brush is 1 to 5000 px wide, 0 to 100 % soft, and flows by 1 to 100 %.")
    reach = width_px / 2 + 1
    low = np.clip(np.floor(path.min(axis=0) - reach).astype(int), 0, shape)
    high = np.clip(np.ceil(path.max(axis=0) + reach).astype(int) + 1, 0, shape)
    if (high <= low).any():
        return (0, 0, 0, 0), np.zeros((0, 0), np.uint8)
    size = high - low
    away = np.full(size, 1, np.uint8)
    spots = np.rint(path - low)[:, ::-1].astype(np.int32)
    pad = int(reach) + 2  # so that what lies beside the page counts
    wide = cv2.copyMakeBorder(away, pad, pad, pad, pad, cv2.BORDER_CONSTANT, value=1)
    cv2.polylines(wide, [spots.reshape(-1, 1, 2) + pad], False, 0, 1, cv2.LINE_8)
    for x, y in spots[[0, -1]].tolist():
        cv2.circle(wide, (x + pad, y + pad), 0, 0, -1)
    distance = cv2.distanceTransform(wide, cv2.DIST_L2, 5)[pad : pad + size[0], pad : pad + size[1]]
    radius = width_px / 2 * float(press.mean())
    fall = np.clip((radius - distance) / max(softness * radius, 1.0), 0, 1)
    cover = np.rint(fall * fall * (3 - 2 * fall) * flow * float(press.max()) * 255).astype(np.uint8)
    return (int(low[0]), int(low[1]), int(high[0]), int(high[1])), cover


def laid(before: U8, cover: U8, *, away: bool) -> U8:
    """Lay coverage over coverage, or take it `away`: (M, N) uint8 each; return (M, N) uint8."""
    a, b = cover.astype(np.uint16), before.astype(np.uint16)
    out = b * (255 - a) if away else b * 255 + (255 - b) * a
    return ((out + 127) // 255).astype(np.uint8)
