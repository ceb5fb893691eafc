# SPDX-License-Identifier: GPL-3.0-or-later
"""Shadow and light as coverage: loops, shapes and soft strokes. Knows no other core package."""

from drip_pot.core.shade.brushes import laid, mist
from drip_pot.core.shade.loops import cut, loop_mask
from drip_pot.core.shade.shapes import Knot, cornered, fitted, outline, shape_bounds, shape_cover
from drip_pot.core.shade.streaks import streak

__all__ = [
    "Knot",
    "cornered",
    "cut",
    "fitted",
    "laid",
    "loop_mask",
    "mist",
    "outline",
    "shape_bounds",
    "shape_cover",
    "streak",
]
