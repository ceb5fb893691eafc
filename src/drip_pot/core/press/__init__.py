"""From page to plates: press model, separation, trapping, register. Knows render and colour."""

from drip_pot.core.press.lut import InkTable, ink_table, inks_at
from drip_pot.core.press.model import PressSettings, appearance, separate_colors
from drip_pot.core.press.plates import Plates, overprint, plates_of, separate, tone_of
from drip_pot.core.press.register import bare_paper
from drip_pot.core.press.trap import Traps, color_ids, find_traps

__all__ = [
    "InkTable",
    "Plates",
    "PressSettings",
    "Traps",
    "appearance",
    "bare_paper",
    "color_ids",
    "find_traps",
    "ink_table",
    "inks_at",
    "overprint",
    "plates_of",
    "separate",
    "separate_colors",
    "tone_of",
]
