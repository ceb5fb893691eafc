# SPDX-License-Identifier: GPL-3.0-or-later
"""From ink coverage to gap-free regions: gaps, atoms, decisions, identity. Knows no other core package.

Pixels are kept apart from decisions. Every plausible bridge is drawn once and the page is labelled once: the
pieces are *atoms*, each bridge is an *edge* between the two atoms it parts, and a region is a connected set
of atoms whose shared edges are open. Moving the gap width never relabels a pixel.
"""

from drip_pot.core.regions.atoms import Atoms, find_atoms
from drip_pot.core.regions.barrier import draw_barrier, line_width
from drip_pot.core.regions.decide import (
    BridgeChoice,
    Partition,
    absorb_small,
    auto_gap,
    bridge_verdicts,
    decide,
    least_region_px,
    regions_of,
)
from drip_pot.core.regions.frame_line import close_frame
from drip_pot.core.regions.gaps import EVIDENCE, Bridges, bridge_paths, find_bridges
from drip_pot.core.regions.graph import Borders, covered_shares, find_borders, label_areas, label_boxes
from drip_pot.core.regions.hand import (
    Cut,
    Divided,
    Path,
    Stencil,
    carry_pots,
    changed_rect,
    divide,
    door_links,
    join_links,
    make_stencil,
    stroke_pixels,
    undivided,
)
from drip_pot.core.regions.identity import carry_identity
from drip_pot.core.regions.judge import judge
from drip_pot.core.regions.loud import LOUD, keep_loud, loud_colors
from drip_pot.core.regions.panels import Panels, find_panels, panels_near, runs_over
from drip_pot.core.regions.proof import Fringe, RegionGraph, find_fringe, islands, region_graph
from drip_pot.core.regions.seeds import Share, Spread, spread_seeds
from drip_pot.core.regions.snap import snapped
from drip_pot.core.regions.tips import Tips, find_tips

__all__ = [
    "EVIDENCE",
    "LOUD",
    "Atoms",
    "Borders",
    "BridgeChoice",
    "Bridges",
    "Cut",
    "Divided",
    "Fringe",
    "Panels",
    "Partition",
    "Path",
    "RegionGraph",
    "Share",
    "Spread",
    "Stencil",
    "Tips",
    "absorb_small",
    "auto_gap",
    "bridge_paths",
    "bridge_verdicts",
    "carry_identity",
    "carry_pots",
    "changed_rect",
    "close_frame",
    "covered_shares",
    "decide",
    "divide",
    "door_links",
    "draw_barrier",
    "find_atoms",
    "find_borders",
    "find_bridges",
    "find_fringe",
    "find_panels",
    "find_tips",
    "islands",
    "join_links",
    "judge",
    "keep_loud",
    "label_areas",
    "label_boxes",
    "least_region_px",
    "line_width",
    "loud_colors",
    "make_stencil",
    "panels_near",
    "region_graph",
    "regions_of",
    "runs_over",
    "snapped",
    "spread_seeds",
    "stroke_pixels",
    "undivided",
]
