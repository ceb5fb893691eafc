"""The page as pixels, for any rectangle at any scale. Knows holds, shade and regions only as planes."""

from drip_pot.core.render.blend import MODES, blended
from drip_pot.core.render.compose import Piece, Wash, alpha_of, compose, flats_of
from drip_pot.core.render.paint import Colors, mix_line, take_colors
from drip_pot.core.render.pyramid import label_pyramid, level_for, patched_pyramid, plane_pyramid

__all__ = [
    "MODES",
    "Colors",
    "Piece",
    "Wash",
    "alpha_of",
    "blended",
    "compose",
    "flats_of",
    "label_pyramid",
    "level_for",
    "mix_line",
    "patched_pyramid",
    "plane_pyramid",
    "take_colors",
]
