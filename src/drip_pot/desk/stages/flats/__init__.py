# SPDX-License-Identifier: GPL-3.0-or-later
"""Flats: regions and what is poured into them. Knows no other stage."""
