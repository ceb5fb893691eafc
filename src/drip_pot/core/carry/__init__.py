# SPDX-License-Identifier: GPL-3.0-or-later
"""Colours carried from one drawing to the next of the same thing. Knows regions and line; no books, no pots by name.

scene    a drawing at a fixed line scale: its regions, their outlines and neighbours
between  drawings between two that are coloured, from both sides
figures  what another page has again stroke for stroke: moved, turned, scaled, mirrored
flow     where every region of one drawing lies in the other, by dense optical flow
marks    cut-outs, dams and shapes of shade, taken along with the region they lie on
match    which region comes from which: shape, flow, neighbours, and those matched surely round about
"""

from drip_pot.core.carry.between import kinds_between
from drip_pot.core.carry.figures import Figure, find_figures
from drip_pot.core.carry.flow import follow
from drip_pot.core.carry.marks import LIES_WELL, MovedMark, follow_marks
from drip_pot.core.carry.match import Carried, carry_kinds
from drip_pot.core.carry.scene import Scene, see, small_shape

__all__ = [
    "LIES_WELL",
    "Carried",
    "Figure",
    "MovedMark",
    "Scene",
    "carry_kinds",
    "find_figures",
    "follow",
    "follow_marks",
    "kinds_between",
    "see",
    "small_shape",
]
