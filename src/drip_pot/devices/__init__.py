# SPDX-License-Identifier: GPL-3.0-or-later
"""Stand-ins for outside devices, so that the program can be used and tested without them. Knows core only."""

from drip_pot.devices.scanner import MODES, Dust, flawed_scan, in_color, scan_drawing

__all__ = ["MODES", "Dust", "flawed_scan", "in_color", "scan_drawing"]
