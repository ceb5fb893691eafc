"""From page to plates: press model, separation, trapping, register. Knows render and colour."""

from drip_pot.core.press.conditions import BUILT_IN, CONDITIONS, Condition
from drip_pot.core.press.lut import InkTable, ink_table, inks_at
from drip_pot.core.press.model import PressSettings, appearance, rich_black, separate_colors, with_spot
from drip_pot.core.press.plates import (
    Plates,
    WashInks,
    black_line,
    large_black,
    overprint,
    plates_of,
    separate,
    tone_of,
    within_limit,
)
from drip_pot.core.press.profile import icc_profile
from drip_pot.core.press.register import CELL, Strayed, arrangements, strayed
from drip_pot.core.press.trap import Traps, color_ids, find_traps, lightness_of, trap_way
from drip_pot.core.press.wear import PRESETS, STAND_IN, STEPS, Wear, halo_px, worn

__all__ = [
    "BUILT_IN",
    "CELL",
    "CONDITIONS",
    "PRESETS",
    "STAND_IN",
    "STEPS",
    "Condition",
    "InkTable",
    "Plates",
    "PressSettings",
    "Strayed",
    "Traps",
    "WashInks",
    "Wear",
    "appearance",
    "arrangements",
    "black_line",
    "color_ids",
    "find_traps",
    "halo_px",
    "icc_profile",
    "ink_table",
    "inks_at",
    "large_black",
    "lightness_of",
    "overprint",
    "plates_of",
    "rich_black",
    "separate",
    "separate_colors",
    "strayed",
    "tone_of",
    "trap_way",
    "with_spot",
    "within_limit",
    "worn",
]
