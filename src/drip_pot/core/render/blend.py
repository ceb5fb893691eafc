# SPDX-License-Identifier: GPL-3.0-or-later
"""Blend modes of light over colour. Knows numbers only; nothing of passes.

The formulas are those of the W3C's "Compositing and Blending Level 1", sections 10 and 11, for an opaque backdrop;
"plus-lighter" is that of Level 2, "plus-darker" what it is turned round (light taken away as much as the colour lacks,
often called linear burn), "linear-light" the one or the other below and above the middle.
"""

from collections.abc import Callable
from functools import lru_cache
from typing import Any, Literal

import cv2
import numpy as np

from drip_pot.core.arrays import F64, U8

Mode = Literal[
    "normal", "multiply", "screen", "overlay", "darken", "lighten", "color-dodge", "color-burn", "hard-light",
    "soft-light", "difference", "exclusion", "plus-lighter", "plus-darker", "linear-light", "hue", "saturation",
    "color", "luminosity",
]  # fmt: skip
_LIGHTNESS = (0.3, 0.59, 0.11)
_TINY, _UNIT = 1e-12, np.float32(1 / 255)


def _hard_light(b: F64, s: F64) -> F64:
    return np.where(s <= 0.5, b * 2 * s, _screen(b, 2 * s - 1))


def _screen(b: F64, s: F64) -> F64:
    return b + s - b * s


def _dodge(b: F64, s: F64) -> F64:
    return np.where(b == 0, 0.0, np.where(s >= 1, 1.0, np.minimum(1, b / np.maximum(1 - s, 1e-12))))


def _burn(b: F64, s: F64) -> F64:
    return np.where(b >= 1, 1.0, np.where(s <= 0, 0.0, 1 - np.minimum(1, (1 - b) / np.maximum(s, 1e-12))))


def _soft_light(b: F64, s: F64) -> F64:
    d = np.where(b <= 0.25, ((16 * b - 12) * b + 4) * b, np.sqrt(b))
    return np.where(s <= 0.5, b - (1 - 2 * s) * b * (1 - b), b + (2 * s - 1) * (d - b))


SEPARABLE: dict[str, Callable[[F64, F64], F64]] = {
    "normal": lambda b, s: s + 0 * b,
    "multiply": lambda b, s: b * s,
    "screen": _screen,
    "overlay": lambda b, s: _hard_light(s, b),
    "darken": lambda b, s: np.minimum(b, s),
    "lighten": lambda b, s: np.maximum(b, s),
    "color-dodge": _dodge,
    "color-burn": _burn,
    "hard-light": _hard_light,
    "soft-light": _soft_light,
    "difference": lambda b, s: np.abs(b - s),
    "exclusion": lambda b, s: b + s - 2 * b * s,
    "plus-lighter": lambda b, s: np.minimum(1, b + s),
    "plus-darker": lambda b, s: np.maximum(0, b + s - 1),
    "linear-light": lambda b, s: np.clip(b + 2 * s - 1, 0, 1),
}
"""Modes that treat every channel by itself: what they make of backdrop and source, 0..1."""


# Modes that treat the channels together work on these one by one, which is many times as fast as on their last axis.
_Channels = tuple[Any, Any, Any]


def _lum(c: _Channels) -> Any:
    return c[0] * _LIGHTNESS[0] + c[1] * _LIGHTNESS[1] + c[2] * _LIGHTNESS[2]


def _low(c: _Channels) -> Any:
    return np.minimum(np.minimum(c[0], c[1]), c[2])


def _high(c: _Channels) -> Any:
    return np.maximum(np.maximum(c[0], c[1]), c[2])


def _with_lum(c: _Channels, light: Any) -> _Channels:
    """Give colours another lightness, and draw those that leave 0..1 towards grey."""
    away = light - _lum(c)
    c = (c[0] + away, c[1] + away, c[2] + away)
    light, low, high = _lum(c), _low(c), _high(c)
    shrink = np.where(low < 0, light / np.maximum(light - low, _TINY), 1)
    shrink = np.minimum(shrink, np.where(high > 1, (1 - light) / np.maximum(high - light, _TINY), 1))
    return light + (c[0] - light) * shrink, light + (c[1] - light) * shrink, light + (c[2] - light) * shrink


def _sat(c: _Channels) -> Any:
    return _high(c) - _low(c)


def _with_sat(c: _Channels, sat: Any) -> _Channels:
    low, spread = _low(c), _sat(c)
    scale = np.where(spread > 0, sat / np.maximum(spread, _TINY), 0)
    return (c[0] - low) * scale, (c[1] - low) * scale, (c[2] - low) * scale


_WHOLE: dict[str, Callable[[_Channels, _Channels], _Channels]] = {
    "hue": lambda b, s: _with_lum(_with_sat(s, _sat(b)), _lum(b)),
    "saturation": lambda b, s: _with_lum(_with_sat(b, _sat(s)), _lum(b)),
    "color": lambda b, s: _with_lum(s, _lum(b)),
    "luminosity": lambda b, s: _with_lum(b, _lum(s)),
}
MODES: tuple[str, ...] = (*SEPARABLE, *_WHOLE)


def blended(mode: str, backdrop: F64, source: F64) -> F64:
    """Blend colours, (..., 3) float64 of 0..1 each; return (..., 3) of 0..1, not yet mixed by coverage.

    Raises
    ------
    KeyError
        For an unknown mode.
    """
    if mode in SEPARABLE:
        return np.asarray(np.clip(SEPARABLE[mode](backdrop, source), 0, 1))
    found = _WHOLE[mode](*(tuple(c[..., k] for k in range(3)) for c in (backdrop, source)))  # type: ignore[arg-type]
    return np.asarray(np.clip(np.stack(np.broadcast_arrays(*found), axis=-1), 0, 1))


def blended8(mode: str, backdrop: U8, source: U8) -> U8:
    """Blend colours, (K, 3) uint8 each or one source for all, (3,); return (K, 3) uint8, rounded from `blended`."""
    if mode in SEPARABLE:
        index = backdrop.astype(np.int32) * 256 + source
        return np.take(_pairs(mode), index)
    wide = tuple(np.multiply(backdrop[:, k], _UNIT, dtype=np.float32) for k in range(3))
    over = tuple(np.multiply(source[..., k], _UNIT, dtype=np.float32) for k in range(3))
    out = np.empty(backdrop.shape, np.uint8)
    for k, channel in enumerate(_WHOLE[mode](wide, over)):  # type: ignore[arg-type]
        out[:, k] = np.rint(np.clip(channel, 0, 1) * np.float32(255))
    return out


def _multiplied(backdrop: U8, source: U8) -> U8:
    return np.asarray(cv2.multiply(backdrop, source, scale=1 / 255), np.uint8)


def _screened(backdrop: U8, source: U8) -> U8:
    return np.asarray(cv2.bitwise_not(_multiplied(cv2.bitwise_not(backdrop), cv2.bitwise_not(source))), np.uint8)


QUICK: dict[str, Callable[[U8, U8], U8]] = {
    "normal": lambda _, source: source,
    "multiply": _multiplied,
    "screen": _screened,
}
"""Modes that blend planes of any shape, uint8 each, as `blended8` does, and treat opaque coverage as a colour."""


SUMS = ("plus-lighter", "plus-darker", "linear-light")
"""Modes that add to the backdrop, or take away, as much as they cover: only what comes of that is cut off."""


def summed(mode: str, backdrop: U8, source: U8, cover: U8) -> U8:
    """Lay colours over others in one of `SUMS`.

    Parameters
    ----------
    mode : str
        One of `SUMS`.
    backdrop : (M, N, 4) ndarray of uint8
        What lies below, opaque.
    source : (M, N, 3) or (3,) ndarray of uint8
        The colours laid over it.
    cover : (M, N) ndarray of uint8
        How much they cover.

    Returns
    -------
    (M, N, 4) ndarray of uint8
    """
    over = source.astype(np.int16)
    change = {"plus-lighter": over, "plus-darker": over - 255, "linear-light": 2 * over - 255}[mode]
    part = np.rint(change * (cover[..., None] * _UNIT)).astype(np.int16)
    out = backdrop.copy()
    out[..., :3] = np.clip(backdrop[..., :3] + part, 0, 255)
    return out


@lru_cache(maxsize=16)
def _pairs(mode: str) -> U8:
    """Return what a separable mode makes of every pair of values, (256 * 256,) uint8."""
    backdrop, source = np.divmod(np.arange(65536), 256)
    return np.rint(np.clip(SEPARABLE[mode](backdrop / 255, source / 255), 0, 1) * 255).astype(np.uint8)


def blend_table(mode: str, color: tuple[int, int, int]) -> U8:
    """Return what a separable mode makes of every value of a channel under one colour, (256, 3) uint8."""
    every = np.repeat(np.arange(256)[:, None] / 255, 3, axis=1)
    return np.rint(blended(mode, every, np.broadcast_to(np.array(color) / 255, every.shape)) * 255).astype(np.uint8)
