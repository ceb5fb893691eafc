# SPDX-License-Identifier: GPL-3.0-or-later
"""Smaller copies of page planes for looking at a page from afar. Knows nothing of colour."""

import math
from typing import Any, TypeVar

import cv2
import numpy as np
import numpy.typing as npt

from drip_pot.core.arrays import Rect

_SMALLEST = 400
Plane = TypeVar("Plane", bound=npt.NDArray[np.integer[Any]])


def label_pyramid(labels: Plane) -> list[Plane]:
    """Return labels and every second pixel of them again and again, until a side is under 400 px.

    `labels` are (M, N) of int32 or uint8. They are never averaged, so each level holds only labels of the page.
    """
    levels = [labels]
    while min(levels[-1].shape) >= 2 * _SMALLEST:
        levels.append(levels[-1][::2, ::2].copy())  # type: ignore[arg-type]
    return levels


def patched_pyramid(levels: list[Plane], labels: Plane, rect: Rect) -> list[Plane]:
    """Return levels made by `label_pyramid` for labels that differ within a rectangle only.

    `labels` are (M, N) of the same dtype.
    """
    out = [labels]
    top, left, bottom, right = rect
    for level in levels[1:]:
        top, left, bottom, right = top // 2, left // 2, -(-bottom // 2), -(-right // 2)
        piece = out[-1][2 * top : 2 * bottom : 2, 2 * left : 2 * right : 2]
        copy = level.copy()
        copy[top : top + piece.shape[0], left : left + piece.shape[1]] = piece
        out.append(copy)
    return out


def plane_pyramid(plane: Plane) -> list[Plane]:
    """Return `plane`, (M, N) uint8 or uint16, and its area means at half the size, as `label_pyramid`."""
    levels = [plane]
    while min(levels[-1].shape) >= 2 * _SMALLEST:
        rows, cols = levels[-1].shape
        levels.append(cv2.resize(levels[-1], ((cols + 1) // 2, (rows + 1) // 2), interpolation=cv2.INTER_AREA))
    return levels


def level_for(zoom: float, levels: int) -> int:
    """Return the pyramid level whose pixels are at least as fine as the screen's at `zoom` (1 is 100 %)."""
    wanted = 0 if zoom >= 1 else math.floor(math.log2(1 / zoom) + 1e-6)
    return max(0, min(wanted, levels - 1))
