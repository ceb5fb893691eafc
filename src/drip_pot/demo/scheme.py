# SPDX-License-Identifier: GPL-3.0-or-later
"""The colours of the demo book: pots by part at noon, and the same at dusk and in a storm. Knows colour only."""

import numpy as np

from drip_pot.core.color import ToneRule, from_hex, oklab_to_srgb8, shadow_of, srgb8_to_oklab, to_hex

SCHEME: dict[str, dict[str, str]] = {
    "Wren": {
        "Skin": "#efbf98", "Hair": "#5b3024", "Scarf": "#e0a02f", "Coat": "#3a726d", "Cuff": "#d8c48f",
        "Trousers": "#59607a", "Boots": "#7a4a33", "Eye": "#fffdf8",
    },
    "Bram": {"Bram coat": "#6d4a5e", "Beard": "#e9e2d6", "Hat": "#9a7a4c"},
    "Pim": {"Jersey": "#7f62a6", "Stripe": "#f0d491", "Tear": "#86cfe8", "Mouth": "#96373a"},
    "Kites": {"Ember": "#e2553a", "Straw": "#f1dfae", "Cobalt": "#2f62a8", "Saffron": "#eeb240"},
    "Rooftops": {
        "Tile": "#c26a48", "Slate": "#6f7f92", "Brick": "#a3543c", "Brick dark": "#824232", "Stone": "#b6ab9c",
        "Plaster": "#ead9bd", "Window": "#47586a",
    },
    "Distance": {
        "Far wall": "#c9d2cf", "Far roof": "#a9b5bd", "Hill": "#b9cfb0", "Leaf": "#64904a", "Leaf dark": "#456b3a",
    },
    "Street": {"Cobble": "#b9ab94", "Cobble dark": "#94866f", "Iron": "#3d434d"},
    "Sky": {"Air": "#a8d4e0", "Flash": "#f3c75c", "Dusk": "#f2a979", "Sun": "#ffdf7e", "Band": "#d9828a"},
    "Clouds": {"Cloud": "#f4ece0", "Smoke": "#dccad6"},
    "Workshop": {"Room": "#cbb79a", "Floor": "#b08a62", "Wood": "#9c6b45", "Brass": "#c99a45", "Glass": "#8fb8a6", "Rope": "#c9ad7c"},
    "Crowd": {"Crowd a": "#8d5c6c", "Crowd b": "#5b8193", "Crowd c": "#a68d47", "Crowd d": "#6f7d53"},
    "Storm": {
        "Night": "#25324f", "Night glow": "#485d8a", "Storm cloud": "#5a6680", "Storm dark": "#363f5a",
        "Lightning": "#fdf6c8", "Glow": "#ffd678", "Halo": "#b7c7f0",
    },
    "Night town": {
        "Night wall": "#3f4a66", "Night stone": "#4b5470", "Wet tile": "#6b3f48", "Wet slate": "#3a4a62", "Far night": "#2f3b57",
    },
}  # fmt: skip

LIGHTS: dict[str, tuple[float, float, str, float, ToneRule]] = {
    "noon": (1.0, 1.0, "#ffffff", 0.0, ToneRule()),
    "dusk": (0.94, 1.02, "#f08a55", 0.24, ToneRule(darker_l=20, hue_deg=305, turn_deg=18, tint=0.03)),
    "storm": (0.74, 0.62, "#34466e", 0.22, ToneRule(darker_l=15, hue_deg=262, turn_deg=14, tint=0.02)),
}
"""For every light: lightness and chroma kept, a colour mixed in and how much of it, and the tone rule."""


def in_light(color: str, light: str) -> tuple[str, str]:
    """Return local and shadow of a noon colour, '#rrggbb', in a light: 'noon', 'dusk' or 'storm'."""
    bright, chroma, mixed, share, rule = LIGHTS[light]
    lab = srgb8_to_oklab(from_hex(color)) * np.array([bright, chroma, chroma])
    local = oklab_to_srgb8(lab * (1 - share) + srgb8_to_oklab(from_hex(mixed)) * share)
    return to_hex(local), to_hex(shadow_of(local, rule))


def schemes() -> dict[str, dict[str, dict[str, tuple[str, str]]]]:
    """Return the tone pairs of all pots: by light, part and pot."""
    return {light: {part: {pot: in_light(color, light) for pot, color in pots.items()} for part, pots in SCHEME.items()} for light in LIGHTS}
