# SPDX-License-Identifier: GPL-3.0-or-later
"""Solid things drawn as line: turned, in perspective, hidden lines left out. Knows meshes; nothing of files."""

from drip_pot.core.props.draw import PropDrawing, draw_prop, lit, wires
from drip_pot.core.props.mesh import MOST_FACES, Mesh, PropView, make_mesh, patches_of

__all__ = ["MOST_FACES", "Mesh", "PropDrawing", "PropView", "draw_prop", "lit", "make_mesh", "patches_of", "wires"]
