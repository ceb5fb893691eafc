# SPDX-License-Identifier: GPL-3.0-or-later
"""Shade: light and shadow over the flats. Knows no other stage."""
