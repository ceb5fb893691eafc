"""Colour: sRGB, linear light and OKLab, and the tone pair. Knows no other core package."""

from drip_pot.core.color.space import (
    delta_e,
    from_hex,
    linear_to_oklab,
    linear_to_srgb,
    oklab_to_srgb8,
    srgb8_to_oklab,
    srgb_to_linear,
    to_hex,
)
from drip_pot.core.color.tone import ToneRule, darker, shadow_of

__all__ = [
    "ToneRule",
    "darker",
    "delta_e",
    "from_hex",
    "linear_to_oklab",
    "linear_to_srgb",
    "oklab_to_srgb8",
    "shadow_of",
    "srgb8_to_oklab",
    "srgb_to_linear",
    "to_hex",
]
