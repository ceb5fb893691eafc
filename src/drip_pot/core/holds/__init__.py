"""Colour in the line. Knows regions only as a label plane, and colour spaces."""

from drip_pot.core.holds.lines import frame_line, line_atoms

__all__ = ["frame_line", "line_atoms"]
