"""Blend modes of light over colour. Knows numbers only; nothing of passes.

The formulas are those of the W3C's "Compositing and Blending Level 1", sections 10 and 11, for an opaque backdrop.
"""

from collections.abc import Callable
from typing import Literal

import numpy as np

from drip_pot.core.arrays import F64, U8

Mode = Literal[
    "normal", "multiply", "screen", "overlay", "darken", "lighten", "color-dodge", "color-burn", "hard-light",
    "soft-light", "difference", "exclusion", "hue", "saturation", "color", "luminosity",
]  # fmt: skip
_LIGHTNESS = np.array([0.3, 0.59, 0.11])


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
}
"""Modes that treat every channel by itself: what they make of backdrop and source, 0..1."""


def _lum(c: F64) -> F64:
    return np.asarray(c @ _LIGHTNESS)[..., None]


def _clipped(c: F64) -> F64:
    light, low, high = _lum(c), c.min(axis=-1, keepdims=True), c.max(axis=-1, keepdims=True)
    c = np.where(low < 0, light + (c - light) * light / np.maximum(light - low, 1e-12), c)
    return np.where(high > 1, light + (c - light) * (1 - light) / np.maximum(high - light, 1e-12), c)


def _with_lum(c: F64, light: F64) -> F64:
    return _clipped(c + (light - _lum(c)))


def _sat(c: F64) -> F64:
    return np.asarray(c.max(axis=-1, keepdims=True) - c.min(axis=-1, keepdims=True))


def _with_sat(c: F64, sat: F64) -> F64:
    low, spread = c.min(axis=-1, keepdims=True), _sat(c)
    return np.where(spread > 0, (c - low) * sat / np.maximum(spread, 1e-12), 0.0)


_WHOLE: dict[str, Callable[[F64, F64], F64]] = {
    "hue": lambda b, s: _with_lum(_with_sat(s, _sat(b)), _lum(b)),
    "saturation": lambda b, s: _with_lum(_with_sat(b, _sat(s)), _lum(b)),
    "color": lambda b, s: _with_lum(s, _lum(b)),
    "luminosity": lambda b, s: _with_lum(b, _lum(s)),
}
MODES: tuple[str, ...] = (*SEPARABLE, *_WHOLE)


def blended(mode: str, backdrop: F64, source: F64) -> F64:
    """Blend colours, (..., 3) of 0..1 each; return (..., 3) of 0..1, not yet mixed by coverage.

    Raises
    ------
    KeyError
        For an unknown mode.
    """
    out = SEPARABLE[mode](backdrop, source) if mode in SEPARABLE else _WHOLE[mode](backdrop, source)
    return np.clip(out, 0, 1)


def blend_table(mode: str, color: tuple[int, int, int]) -> U8:
    """Return what a separable mode makes of every value of a channel under one colour, (256, 3) uint8."""
    every = np.repeat(np.arange(256)[:, None] / 255, 3, axis=1)
    return np.rint(blended(mode, every, np.broadcast_to(np.array(color) / 255, every.shape)) * 255).astype(np.uint8)
