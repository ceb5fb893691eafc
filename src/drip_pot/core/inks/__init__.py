# SPDX-License-Identifier: GPL-3.0-or-later
"""From a scan to ink coverage: place, pencil, paper, levels, specks, tone, mending. Of core it knows only colour."""

from drip_pot.core.inks.align import Changed, align, find_changes
from drip_pot.core.inks.balloons import balloon_paper, is_balloon, outlines_of
from drip_pot.core.inks.beneath import Sketch, find_beneath
from drip_pot.core.inks.coverage import (
    InkSettings,
    coverage,
    is_light_on_dark,
    suggest_settings,
    turned_round,
    vanishing,
)
from drip_pot.core.inks.effects import Effect, draw_effect, effect_box
from drip_pot.core.inks.frames import Break, find_breaks, find_skew
from drip_pot.core.inks.mend import (
    covered,
    lay_ink,
    matched_to,
    mended,
    mirrored,
    scrape,
    stroke_ink,
    stroke_mask,
    tapered,
)
from drip_pot.core.inks.paper import estimate_paper, remove_paper
from drip_pot.core.inks.pencil import Pencil, find_pencil, remove_pencil
from drip_pot.core.inks.place import Place, lay, turned_about
from drip_pot.core.inks.specks import CROWD, Pieces, Speck, erase_specks, fill_holes, find_pieces, lone_specks, wander
from drip_pot.core.inks.square import Square, find_paper, squared, squared_by
from drip_pot.core.inks.steady import smoothed
from drip_pot.core.inks.strokes import Texture, find_textures, split_strokes
from drip_pot.core.inks.tone import Tone, find_tones, without_tone

__all__ = [
    "CROWD",
    "Break",
    "Changed",
    "Effect",
    "InkSettings",
    "Pencil",
    "Pieces",
    "Place",
    "Sketch",
    "Speck",
    "Square",
    "Texture",
    "Tone",
    "align",
    "balloon_paper",
    "coverage",
    "covered",
    "draw_effect",
    "effect_box",
    "erase_specks",
    "estimate_paper",
    "fill_holes",
    "find_beneath",
    "find_breaks",
    "find_changes",
    "find_paper",
    "find_pencil",
    "find_pieces",
    "find_skew",
    "find_textures",
    "find_tones",
    "is_balloon",
    "is_light_on_dark",
    "lay",
    "lay_ink",
    "lone_specks",
    "matched_to",
    "mended",
    "mirrored",
    "outlines_of",
    "remove_paper",
    "remove_pencil",
    "scrape",
    "smoothed",
    "split_strokes",
    "squared",
    "squared_by",
    "stroke_ink",
    "stroke_mask",
    "suggest_settings",
    "tapered",
    "turned_about",
    "turned_round",
    "vanishing",
    "wander",
    "without_tone",
]
