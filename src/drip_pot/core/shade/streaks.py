# SPDX-License-Identifier: GPL-3.0-or-later
"""Strokes of a brush whose bristles follow the hand. Knows points and planes; nothing of passes."""

import cv2
import numpy as np
import numpy.typing as npt

from drip_pot.core.arrays import F64, U8, Rect
from drip_pot.core.errors import BadInput
from drip_pot.core.shade.stroke import stroke_of

_FIXED = 4  # positions are drawn to a sixteenth of a pixel
_BRISTLES = (6, 60)


def streak(
    points: npt.ArrayLike, width_px: float, flow: float, seed: int, shape: tuple[int, int]
) -> tuple[Rect, U8]:  # fmt: skip
    """Return the coverage of a stroke of bristles.

    Parameters
    ----------
    points : (K, 2) or (K, 3) array_like of float
        Row, column, and pressure 0..1 of the hand, in page pixels; it may leave the page.
    width_px : float
        How wide it is, 2 and up; light pressure lets the outer bristles go first.
    flow : float
        0..1: coverage of a bristle at full pressure.
    seed : int
        Which brush it is: the same seed gives the same bristles.
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
        For no points, too many, or one that is not finite; a width or flow out of range.
    """
    path, press = stroke_of(points)
    if not (2 <= width_px <= 5000 and 0 < flow <= 1):
        raise BadInput("Bristles are 2 to 5000 px wide and flow by 1 to 100 %.")
    path, press = _drawn_on(path, press)
    reach = width_px / 2 + 2
    low = np.clip(np.floor(path.min(axis=0) - reach).astype(int), 0, shape)
    high = np.clip(np.ceil(path.max(axis=0) + reach).astype(int) + 1, 0, shape)
    if (high <= low).any():
        return (0, 0, 0, 0), np.zeros((0, 0), np.uint8)
    way = np.gradient(path, axis=0)
    side = np.stack([-way[:, 1], way[:, 0]], axis=1) / np.maximum(np.hypot(*way.T), 1e-9)[:, None]
    chance = np.random.default_rng(seed)
    count = int(np.clip(width_px / 3, *_BRISTLES))
    cover = np.zeros(high - low, np.uint8)
    for place in np.linspace(-1, 1, count) + chance.normal(0, 0.5 / count, count):
        thick = max(1, round(width_px / count * chance.uniform(0.5, 1.3)))
        ink, needs = flow * chance.uniform(0.55, 1.0), abs(place) ** 2 * 0.8 + chance.uniform(0, 0.12)
        spots = (path + side * (place * width_px / 2) - low)[:, ::-1]
        _bristle(cover, spots, press, needs, thick, ink)
    return (int(low[0]), int(low[1]), int(high[0]), int(high[1])), cover


def _drawn_on(path: F64, press: F64) -> tuple[F64, F64]:
    """Return a stroke of at least two places."""
    if len(path) > 1 and (np.ptp(path, axis=0) > 0).any():
        return path, press
    return np.stack([path[0], path[0] + np.array([0.0, 0.5])]), np.repeat(press[:1], 2)


def _bristle(cover: U8, spots: F64, press: F64, needs: float, thick: int, ink: float) -> None:
    """Draw one bristle into coverage where the hand presses hard enough for it, as dense as it presses."""
    at = np.rint(spots * (1 << _FIXED)).astype(np.int32)
    own = np.zeros_like(cover)
    for start, end in _runs(press >= needs):
        dense = round(255 * ink * float(press[start:end].mean()))
        piece = at[start : max(end, start + 2)].reshape(-1, 1, 2)
        cv2.polylines(own, [piece], False, dense, thick, cv2.LINE_AA, _FIXED)
    np.maximum(cover, own, out=cover)


def _runs(on: npt.NDArray[np.bool_]) -> list[tuple[int, int]]:
    """Return where something is on, as starts and ends."""
    edges = np.flatnonzero(np.diff(np.concatenate([[False], on, [False]]).astype(np.int8)))
    return [(int(a), int(b)) for a, b in zip(edges[::2], edges[1::2], strict=True)]
