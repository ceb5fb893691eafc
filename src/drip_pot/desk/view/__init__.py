# SPDX-License-Identifier: GPL-3.0-or-later
"""The page seen: a snapshot of what is shown, its tiles, the canvas. Knows the session; no single stage."""
