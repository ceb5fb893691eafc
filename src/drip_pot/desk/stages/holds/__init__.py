# SPDX-License-Identifier: GPL-3.0-or-later
"""Holds: coloured lines. Knows no other stage."""
