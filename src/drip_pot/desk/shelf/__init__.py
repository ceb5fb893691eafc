# SPDX-License-Identifier: GPL-3.0-or-later
"""The shelf at the bottom: pots, cards, what is in hand. Knows the session and parts; no stage."""
