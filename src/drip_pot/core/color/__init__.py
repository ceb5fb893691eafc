# SPDX-License-Identifier: GPL-3.0-or-later
"""Colour: sRGB, linear light and OKLab, the tone pair, choosing colours. Knows no other core package."""

from drip_pot.core.color.flat import FlatColors, flat_colors
from drip_pot.core.color.pairs import shadows_together
from drip_pot.core.color.palette import (
    HARMONIES,
    Lch,
    from_lch,
    harmony,
    mixed,
    mosaic,
    most_chroma,
    nearest,
    plain_name,
    shifted,
    telling_colors,
    to_lch,
)
from drip_pot.core.color.reduce import reduce_picture
from drip_pot.core.color.space import (
    delta_e,
    fast_oklab,
    fast_srgb8,
    from_hex,
    lightness,
    linear_to_oklab,
    linear_to_srgb,
    oklab_to_linear,
    oklab_to_srgb8,
    srgb8_to_oklab,
    srgb_to_linear,
    to_hex,
)
from drip_pot.core.color.tone import ToneRule, darkened, shadow_of

__all__ = [
    "HARMONIES",
    "FlatColors",
    "Lch",
    "ToneRule",
    "darkened",
    "delta_e",
    "fast_oklab",
    "fast_srgb8",
    "flat_colors",
    "from_hex",
    "from_lch",
    "harmony",
    "lightness",
    "linear_to_oklab",
    "linear_to_srgb",
    "mixed",
    "mosaic",
    "most_chroma",
    "nearest",
    "oklab_to_linear",
    "oklab_to_srgb8",
    "plain_name",
    "reduce_picture",
    "shadow_of",
    "shadows_together",
    "shifted",
    "srgb8_to_oklab",
    "srgb_to_linear",
    "telling_colors",
    "to_hex",
    "to_lch",
]
