# SPDX-License-Identifier: GPL-3.0-or-later
"""Whose every bit of line is. Knows regions only as label planes; nothing of colour."""

from drip_pot.core.holds.depth import depth_order
from drip_pot.core.holds.fade import along
from drip_pot.core.holds.junctions import Junctions
from drip_pot.core.holds.pieces import BORDER, DETAIL, SOLID, STROKE, LinePieces, find_line_pieces
from drip_pot.core.holds.whose import Outlines, in_front

__all__ = [
    "BORDER",
    "DETAIL",
    "SOLID",
    "STROKE",
    "Junctions",
    "LinePieces",
    "Outlines",
    "along",
    "depth_order",
    "find_line_pieces",
    "in_front",
]
