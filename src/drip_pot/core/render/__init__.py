# SPDX-License-Identifier: GPL-3.0-or-later
"""The page as pixels, for any rectangle at any scale. Knows holds, shade and regions only as planes."""

from drip_pot.core.render.blend import MODES, Mode, blended
from drip_pot.core.render.compose import (
    Piece,
    Source,
    Wash,
    alpha_of,
    compose,
    drawn_at,
    flats_of,
    in_tone,
    line_alone,
    line_in,
    printed,
    reach_of,
    shade_under,
    with_line,
)
from drip_pot.core.render.drawn import EffectSource
from drip_pot.core.render.edges import EDGE_REACH, smooth_edges
from drip_pot.core.render.finish import Finish, finished
from drip_pot.core.render.lines import Line, LineOwners, LineWash, WashForm, times, wash_alpha, wash_colors
from drip_pot.core.render.paint import Colors, take_colors
from drip_pot.core.render.painted import PaintedColors, painted_over
from drip_pot.core.render.placed import MOST_FLATS, PictureSource, Placed, laid_in, meshed, picture_at, picture_levels
from drip_pot.core.render.pyramid import label_pyramid, level_for, patched_pyramid, plane_pyramid
from drip_pot.core.render.ramp import FORMS, Form, Ramp, Stop, path_of, ramp_at
from drip_pot.core.render.values import Local, ToneRamp, by_value

__all__ = [
    "EDGE_REACH",
    "FORMS",
    "MODES",
    "MOST_FLATS",
    "Colors",
    "EffectSource",
    "Finish",
    "Form",
    "Line",
    "LineOwners",
    "LineWash",
    "Local",
    "Mode",
    "PaintedColors",
    "PictureSource",
    "Piece",
    "Placed",
    "Ramp",
    "Source",
    "Stop",
    "ToneRamp",
    "Wash",
    "WashForm",
    "alpha_of",
    "blended",
    "by_value",
    "compose",
    "drawn_at",
    "finished",
    "flats_of",
    "in_tone",
    "label_pyramid",
    "laid_in",
    "level_for",
    "line_alone",
    "line_in",
    "meshed",
    "painted_over",
    "patched_pyramid",
    "path_of",
    "picture_at",
    "picture_levels",
    "plane_pyramid",
    "printed",
    "ramp_at",
    "reach_of",
    "shade_under",
    "smooth_edges",
    "take_colors",
    "times",
    "wash_alpha",
    "wash_colors",
    "with_line",
]
