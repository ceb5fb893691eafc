"""The page as pixels, for any rectangle at any scale. Knows holds, shade and regions only as planes."""

from drip_pot.core.render.blend import MODES, blended
from drip_pot.core.render.compose import Piece, Wash, alpha_of, compose, flats_of, in_tone, line_colors
from drip_pot.core.render.finish import Finish, finished
from drip_pot.core.render.paint import Colors, mix_line, take_colors
from drip_pot.core.render.pyramid import label_pyramid, level_for, patched_pyramid, plane_pyramid
from drip_pot.core.render.ramp import FORMS, Form, Ramp, Stop, ramp_at

__all__ = [
    "FORMS",
    "MODES",
    "Colors",
    "Finish",
    "Form",
    "Piece",
    "Ramp",
    "Stop",
    "Wash",
    "alpha_of",
    "blended",
    "compose",
    "finished",
    "flats_of",
    "in_tone",
    "label_pyramid",
    "level_for",
    "line_colors",
    "mix_line",
    "patched_pyramid",
    "plane_pyramid",
    "ramp_at",
    "take_colors",
]
