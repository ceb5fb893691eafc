# SPDX-License-Identifier: GPL-3.0-or-later
"""Loops drawn by hand, turned into hard masks, and cut into or out of shadow. Knows nothing of pots."""

import cv2
import numpy as np
import numpy.typing as npt

from drip_pot.core.arrays import U8, Bool, Rect
from drip_pot.core.errors import BadInput


def loop_mask(points: npt.ArrayLike, shape: tuple[int, int]) -> tuple[Rect, Bool]:
    """Fill a closed loop, hard-edged.

    Parameters
    ----------
    points : (K, 2) array_like of float
        Row, column of the loop's points in page pixels, K at least 3; it closes itself and may leave the page.
    shape : tuple of int
        Rows and columns of the page.

    Returns
    -------
    rect : Rect
        The part of the page that the loop may touch; empty (all 0) if it lies outside.
    mask : (bottom - top, right - left) ndarray of bool
        True inside the loop (even-odd where it crosses itself).

    Raises
    ------
    BadInput
        If there are fewer than three points, or one of them is not finite.
    """
    loop = np.asarray(points, np.float64).reshape(-1, 2)
    if len(loop) < 3 or not np.isfinite(loop).all():
        raise BadInput("A loop needs at least three points.")
    top, left = np.clip(np.floor(loop.min(axis=0)).astype(int), 0, shape)
    bottom, right = np.clip(np.ceil(loop.max(axis=0)).astype(int) + 1, 0, shape)
    if bottom <= top or right <= left:
        return (0, 0, 0, 0), np.zeros((0, 0), bool)
    mask = np.zeros((bottom - top, right - left), np.uint8)
    local = np.rint(loop - [top, left]).astype(np.int32)[:, ::-1]
    cv2.fillPoly(mask, [np.ascontiguousarray(local)], 1, cv2.LINE_8)
    return (int(top), int(left), int(bottom), int(right)), mask.astype(bool)


def cut(shade: U8, mask: Bool, allowed: Bool, *, light: bool) -> U8:
    """Put the masked pixels into shadow, or give them back to the light.

    Parameters
    ----------
    shade : (M, N) ndarray of uint8
        255 in shadow, 0 in light; what was softer stays where it is not cut.
    mask : (M, N) ndarray of bool
        The loop.
    allowed : (M, N) ndarray of bool
        Where there is colour; nothing else changes.
    light : bool
        False cuts shade, True cuts light.

    Returns
    -------
    (M, N) ndarray of uint8
        A changed copy.
    """
    out = shade.copy()
    out[mask & allowed] = 0 if light else 255
    return out
