"""The page as pixels, for any rectangle at any scale. Knows holds, shade and regions only as planes."""

from drip_pot.core.render.paint import Colors, mix_line, pack, paint, take_colors
from drip_pot.core.render.pyramid import label_pyramid, level_for, patched_pyramid, plane_pyramid

__all__ = [
    "Colors",
    "label_pyramid",
    "level_for",
    "mix_line",
    "pack",
    "paint",
    "patched_pyramid",
    "plane_pyramid",
    "take_colors",
]
