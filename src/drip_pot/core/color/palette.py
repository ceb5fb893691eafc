# SPDX-License-Identifier: GPL-3.0-or-later
"""Choosing colours: mosaic and telling colours of a picture, harmony, mixing, nearest inks. Knows only the spaces."""

import math
from collections.abc import Sequence
from dataclasses import dataclass

import cv2
import numpy as np
import numpy.typing as npt
import scipy

from drip_pot.core.arrays import F64, U8
from drip_pot.core.color.space import (
    delta_e,
    linear_to_oklab,
    linear_to_srgb,
    oklab_to_srgb8,
    srgb8_to_oklab,
    srgb_to_linear,
)
from drip_pot.core.errors import BadInput

_SAMPLE = 20_000
_WIDEST_CHROMA = 0.4


@dataclass(frozen=True)
class Lch:
    """A colour in OKLab's cylinder: lightness 0..1, chroma 0..about 0.33, hue in degrees 0..360."""

    lightness: float
    chroma: float
    hue_deg: float


def to_lch(rgb: npt.ArrayLike) -> Lch:
    """Convert a (3,) uint8 sRGB colour; a grey has hue 0."""
    light, a, b = (float(v) for v in srgb8_to_oklab(rgb))
    chroma = math.hypot(a, b)
    hue = math.degrees(math.atan2(b, a)) % 360 if chroma > 1e-4 else 0.0
    return Lch(light, chroma, hue)


def from_lch(color: Lch) -> U8:
    """Convert to (3,) uint8 sRGB; a colour outside sRGB keeps lightness and hue."""
    angle = math.radians(color.hue_deg)
    return oklab_to_srgb8([color.lightness, color.chroma * math.cos(angle), color.chroma * math.sin(angle)])


def most_chroma(lightness: npt.ArrayLike, hue_deg: npt.ArrayLike) -> F64:
    """Return the largest chroma that sRGB has at a lightness (0..1) and a hue (degrees).

    Arrays (K,) of float64 are broadcast.
    """
    light, hue = np.broadcast_arrays(np.asarray(lightness, np.float64), np.radians(np.asarray(hue_deg, np.float64)))
    wide = np.stack([light, _WIDEST_CHROMA * np.cos(hue), _WIDEST_CHROMA * np.sin(hue)], axis=-1)
    fitted = srgb8_to_oklab(oklab_to_srgb8(wide.reshape(-1, 3))).reshape(*light.shape, 3)
    return np.asarray(np.hypot(fitted[..., 1], fitted[..., 2]))


def shifted(rgb: npt.ArrayLike, light: float, chroma: float, hue_deg: float) -> U8:
    """Change a (3,) uint8 colour by lightness (-1..1), by a factor of chroma (1 keeps it) and by a turn of hue."""
    old = to_lch(rgb)
    return from_lch(Lch(min(max(old.lightness + light, 0.0), 1.0), old.chroma * chroma, old.hue_deg + hue_deg))


def mixed(under: npt.ArrayLike, over: npt.ArrayLike, strength: float) -> U8:
    """Mix (3,) uint8 colours in OKLab; a strength of 0 gives `under`, 1 gives `over`."""
    one, two = srgb8_to_oklab(under), srgb8_to_oklab(over)
    return oklab_to_srgb8(one + (two - one) * strength)


def mosaic(rgb: U8, across: int) -> U8:
    """Reduce a picture to averaged cells.

    Parameters
    ----------
    rgb : (M, N, 3) ndarray of uint8
        The picture.
    across : int
        Cells along the longer side, 1..; cells are square.

    Returns
    -------
    (m, n, 3) ndarray of uint8
        Mean colours, averaged in linear light.

    Raises
    ------
    BadInput
        If `across` is below 1 or the picture is empty.
    """
    if across < 1 or rgb.size == 0:
        raise BadInput("A mosaic has at least one cell along a side, not {0}.", across)
    rows, cols = rgb.shape[:2]
    cell = max(rows, cols) / min(across, max(rows, cols))
    size = max(1, round(cols / cell)), max(1, round(rows / cell))
    linear = cv2.resize(srgb_to_linear(rgb / 255.0).astype(np.float32), size, interpolation=cv2.INTER_AREA)
    linear = linear.reshape(size[1], size[0], 3)
    return np.asarray(np.rint(np.clip(linear_to_srgb(linear), 0, 1) * 255), np.uint8)


def telling_colors(rgb: U8, count: int, seed: int = 0) -> U8:
    """Choose the colours that stand for a picture: k-means in OKLab, commonest first.

    Parameters
    ----------
    rgb : (M, N, 3) ndarray of uint8
        The picture.
    count : int
        How many, 1..64; fewer are returned where the picture has fewer colours.
    seed : int
        Of the start; the same seed gives the same colours.

    Returns
    -------
    (k, 3) ndarray of uint8

    Raises
    ------
    BadInput
        For a picture of another shape or type, or a count beyond 1 and 64.

    References
    ----------
    Arthur and Vassilvitskii, "k-means++: the advantages of careful seeding", SODA 2007.
    """
    if not 1 <= count <= 64:
        raise BadInput("1 to 64 colours can be chosen, not {0}.", count)
    pixels = rgb.reshape(-1, 3)
    if len(pixels) > _SAMPLE:
        pixels = pixels[np.random.default_rng(seed).choice(len(pixels), _SAMPLE, replace=False)]
    lab = linear_to_oklab(srgb_to_linear(pixels / 255.0))
    if len(np.unique(pixels, axis=0)) <= count:
        unique, size = np.unique(pixels, axis=0, return_counts=True)
        return np.asarray(unique[np.argsort(-size, kind="stable")])
    centers, owner = scipy.cluster.vq.kmeans2(lab, count, minit="++", seed=np.random.default_rng(seed), iter=25)
    size = np.bincount(owner, minlength=count)
    order = np.argsort(-size, kind="stable")
    return np.asarray(oklab_to_srgb8(centers[order[size[order] > 0]]))


HARMONIES: dict[str, tuple[float, ...]] = {
    "complement": (180.0,),
    "neighbours": (-30.0, 30.0),
    "split complement": (150.0, 210.0),
    "triad": (120.0, 240.0),
}
"""Turns of hue, in degrees, that suggest colours to go with one."""


def harmony(rgb: npt.ArrayLike, kind: str) -> list[U8]:
    """Return the colours that go with a (3,) uint8 colour by one of `HARMONIES`."""
    return [shifted(rgb, 0.0, 1.0, turn) for turn in HARMONIES[kind]]


def nearest(rgb: npt.ArrayLike, choices: Sequence[npt.ArrayLike]) -> tuple[int, float]:
    """Return which of some colours is nearest to a (3,) uint8 one, and how far (OKLab × 100).

    Raises `BadInput` for no choices.
    """
    if len(choices) == 0:
        raise BadInput("There are no inks to choose from.")
    away = delta_e(srgb8_to_oklab(np.array(choices)), srgb8_to_oklab(rgb))
    best = int(np.argmin(away))
    return best, float(away[best])


_HUES = ((0, "rose"), (30, "red"), (58, "orange"), (95, "yellow"), (140, "green"), (195, "teal"), (245, "blue"),
         (285, "violet"), (325, "plum"), (360, "rose"))  # fmt: skip


def plain_name(rgb: npt.ArrayLike) -> str:
    """Name a (3,) uint8 colour in plain words: 'dark teal', 'pale grey'."""
    color = to_lch(rgb)
    if color.lightness > 0.97 and color.chroma < 0.02:
        return "white"
    if color.lightness < 0.15 and color.chroma < 0.03:
        return "black"
    shade = "dark " if color.lightness < 0.38 else "deep " if color.lightness < 0.55 else ""
    shade = "pale " if color.lightness > 0.85 else shade
    if color.chroma < 0.025:
        return f"{shade}grey"
    if 30 <= color.hue_deg < 95 and color.lightness < 0.62 and color.chroma < 0.14:
        return f"{shade}brown".replace("deep ", "")
    return shade + min(_HUES, key=lambda hue: abs(hue[0] - color.hue_deg))[1]
