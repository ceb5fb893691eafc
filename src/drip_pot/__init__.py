# SPDX-License-Identifier: GPL-3.0-or-later
"""Drip Pot: flats, duotone shade, colour holds and trapped plates for comic colourists."""

__version__ = "0.2.0.dev0"
