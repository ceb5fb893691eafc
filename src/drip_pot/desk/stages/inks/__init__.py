# SPDX-License-Identifier: GPL-3.0-or-later
"""Inks: the line made from the drawing. Knows no other stage."""
