# SPDX-License-Identifier: GPL-3.0-or-later
"""Conversions between sRGB, linear light and OKLab. Knows nothing but NumPy."""

import re
from typing import Any

import numpy as np
import numpy.typing as npt

from drip_pot.core.arrays import F32, F64, U8, Bool
from drip_pot.core.errors import BadInput

_TO_LMS = np.array(
    [
        [0.4122214708, 0.5363325363, 0.0514459929],
        [0.2119034982, 0.6806995451, 0.1073969566],
        [0.0883024619, 0.2817188376, 0.6299787005],
    ]
)
_TO_LAB = np.array(
    [
        [0.2104542553, 0.7936177850, -0.0040720468],
        [1.9779984951, -2.4285922050, 0.4505937099],
        [0.0259040371, 0.7827717662, -0.8086757660],
    ]
)
_FROM_LAB = np.linalg.inv(_TO_LAB)
_FROM_LMS = np.linalg.inv(_TO_LMS)
_HEX = re.compile(r"#?([0-9a-fA-F]{6})")


def from_hex(text: str) -> U8:
    """Read '#rrggbb' as a (3,) uint8 array; raises `BadInput` for anything else."""
    found = _HEX.fullmatch(text.strip())
    if not found:
        raise BadInput("'{0}' is not a colour. Write six hexadecimal digits, such as #d9482b.", text)
    return np.frombuffer(bytes.fromhex(found[1]), np.uint8).copy()


def to_hex(rgb: npt.ArrayLike) -> str:
    """Write a (3,) uint8 sRGB colour as '#rrggbb'."""
    r, g, b = (int(v) for v in np.asarray(rgb).reshape(3))
    return f"#{r:02x}{g:02x}{b:02x}"


def srgb_to_linear(srgb: npt.NDArray[Any]) -> F64:
    """Convert (…, 3) sRGB, 0..1, to linear light, float64 0..1 (IEC 61966-2-1)."""
    srgb = np.asarray(srgb, np.float64)
    return np.where(srgb <= 0.04045, srgb / 12.92, ((np.maximum(srgb, 0) + 0.055) / 1.055) ** 2.4)


def linear_to_srgb(linear: npt.NDArray[Any]) -> F64:
    """Convert (…, 3) linear light to sRGB, both float64 0..1 (IEC 61966-2-1); values outside are kept outside."""
    linear = np.asarray(linear, np.float64)
    safe = np.maximum(linear, 0.0031308)
    return np.where(linear <= 0.0031308, linear * 12.92, 1.055 * safe ** (1 / 2.4) - 0.055)


def linear_to_oklab(linear: npt.NDArray[Any]) -> F64:
    """Convert (…, 3) linear sRGB, 0..1, to OKLab, float64: L 0..1, a and b about -0.4..0.4.

    References
    ----------
    Björn Ottosson, "A perceptual color space for image processing", 2020.
    """
    return np.asarray(np.cbrt(np.asarray(linear, np.float64) @ _TO_LMS.T) @ _TO_LAB.T)


def srgb8_to_oklab(rgb: npt.ArrayLike) -> F64:
    """Convert (…, 3) uint8 sRGB to OKLab: L 0..1, a and b about -0.4..0.4."""
    return linear_to_oklab(srgb_to_linear(np.asarray(rgb) / 255.0))


def oklab_to_linear(lab: F64) -> F64:
    """Convert (…, 3) OKLab to linear sRGB, float64, unclipped."""
    return np.asarray((lab @ _FROM_LAB.T) ** 3 @ _FROM_LMS.T)


def oklab_to_srgb8(lab: npt.ArrayLike) -> U8:
    """Convert (…, 3) OKLab to uint8 sRGB.

    A colour outside sRGB keeps its lightness and hue and loses as much chroma as it must
    (bisection on chroma, exact to 1/4096 of it).
    """
    lab = np.asarray(lab, np.float64)
    flat = lab.reshape(-1, 3).copy()
    flat[:, 0] = np.clip(flat[:, 0], 0, 1)
    linear = oklab_to_linear(flat)
    outside = np.flatnonzero(~_in_srgb(linear))
    if len(outside):
        too_far = flat[outside]
        low, high = np.zeros(len(outside)), np.ones(len(outside))
        for _ in range(12):
            scale = (low + high) / 2
            fits = _in_srgb(oklab_to_linear(np.column_stack([too_far[:, 0], too_far[:, 1:] * scale[:, None]])))
            low = np.where(fits, scale, low)
            high = np.where(fits, high, scale)
        linear[outside] = oklab_to_linear(np.column_stack([too_far[:, 0], too_far[:, 1:] * low[:, None]]))
    srgb = linear_to_srgb(np.clip(linear, 0, 1))
    return np.asarray(np.rint(srgb * 255).astype(np.uint8).reshape(lab.shape))


def _in_srgb(linear: F64) -> Bool:
    """Return which of (N, 3) linear colours a screen can show."""
    return np.asarray(((linear > -1e-4) & (linear < 1 + 1e-4)).all(axis=1))


_LINEAR = srgb_to_linear(np.arange(256) / 255).astype(np.float32)
_BACK = np.rint(linear_to_srgb((np.arange(8192) / 8191) ** 2) * 255).astype(np.uint8)  # by the root, which is even


def fast_oklab(rgb: U8) -> F32:
    """Convert (K, 3) uint8 sRGB to OKLab in single precision, for whole pictures."""
    return np.asarray(np.cbrt(_LINEAR[rgb] @ _TO_LMS.T.astype(np.float32)) @ _TO_LAB.T.astype(np.float32), np.float32)


def fast_srgb8(lab: F32) -> U8:
    """Convert (K, 3) OKLab in single precision to uint8 sRGB; what leaves it is cut off channel by channel."""
    lms = lab @ _FROM_LAB.T.astype(np.float32)
    linear = np.clip((lms * lms * lms) @ _FROM_LMS.T.astype(np.float32), 0, 1)
    return np.asarray(_BACK[np.rint(np.sqrt(linear) * 8191).astype(np.int32)], np.uint8)


def lightness(rgb: U8) -> U8:
    """Return the grey that is as light as each colour: of (…, 3 or 4) uint8 sRGB, (…) uint8 by relative luminance."""
    linear = _LINEAR[rgb[..., :3]] @ np.array([0.2126, 0.7152, 0.0722], np.float32)
    return np.asarray(_BACK[np.rint(np.sqrt(np.clip(linear, 0, 1)) * 8191).astype(np.int32)], np.uint8)


def delta_e(lab_one: npt.ArrayLike, lab_two: npt.ArrayLike) -> F64:
    """Return the Euclidean distance of (…, 3) float64 OKLab colours, times 100: 0..100 or so."""
    return np.asarray(np.linalg.norm(np.asarray(lab_one) - np.asarray(lab_two), axis=-1) * 100)
