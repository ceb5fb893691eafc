# SPDX-License-Identifier: GPL-3.0-or-later
"""From page to plates: press model, separation, trapping, register. Knows render and colour."""

from drip_pot.core.press.conditions import BUILT_IN, CONDITIONS, Condition, learn
from drip_pot.core.press.limit import is_heavy, large_black, overprint, under_dots, within_limit
from drip_pot.core.press.lut import InkTable, ink_table, inks_at
from drip_pot.core.press.model import PressSettings, appearance, lightness_of, rich_black, separate_colors, with_spot
from drip_pot.core.press.plates import Plates, Printing, WashInks, plates_of
from drip_pot.core.press.profile import icc_profile
from drip_pot.core.press.register import CELL, Strayed, arrangements, strayed
from drip_pot.core.press.screens import DOTS, SCREENS, Dot, Screen, Screens, beat_mm, dotted, lattice_of
from drip_pot.core.press.separate import (
    Composed,
    bare_plates,
    black_line,
    composed,
    finished_plates,
    separate,
    separate_each,
)
from drip_pot.core.press.trap import OnTop, Overrule, Traps, color_ids, find_traps, line_under_black, on_top, trap_way
from drip_pot.core.press.wear import MOST_TEXTURES, PRESETS, STAND_IN, STEPS, Wear, halo_px, worn

__all__ = [
    "BUILT_IN",
    "CELL",
    "CONDITIONS",
    "DOTS",
    "MOST_TEXTURES",
    "PRESETS",
    "SCREENS",
    "STAND_IN",
    "STEPS",
    "Composed",
    "Condition",
    "Dot",
    "InkTable",
    "OnTop",
    "Overrule",
    "Plates",
    "PressSettings",
    "Printing",
    "Screen",
    "Screens",
    "Strayed",
    "Traps",
    "WashInks",
    "Wear",
    "appearance",
    "arrangements",
    "bare_plates",
    "beat_mm",
    "black_line",
    "color_ids",
    "composed",
    "dotted",
    "find_traps",
    "finished_plates",
    "halo_px",
    "icc_profile",
    "ink_table",
    "inks_at",
    "is_heavy",
    "large_black",
    "lattice_of",
    "learn",
    "lightness_of",
    "line_under_black",
    "on_top",
    "overprint",
    "plates_of",
    "rich_black",
    "separate",
    "separate_colors",
    "separate_each",
    "strayed",
    "trap_way",
    "under_dots",
    "with_spot",
    "within_limit",
    "worn",
]
