"""Shadow and light as coverage: hard loops and soft strokes. Knows no other core package."""

from drip_pot.core.shade.brushes import laid, mist
from drip_pot.core.shade.loops import cut, loop_mask
from drip_pot.core.shade.streaks import streak

__all__ = ["cut", "laid", "loop_mask", "mist", "streak"]
