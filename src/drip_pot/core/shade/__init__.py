"""Shadow and light as hard-edged shapes on one plane. Knows no other core package."""

from drip_pot.core.shade.loops import cut, loop_mask

__all__ = ["cut", "loop_mask"]
