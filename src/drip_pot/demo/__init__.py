# SPDX-License-Identifier: GPL-3.0-or-later
"""The Kite Infirmary: the demo book, drawn as strokes and shapes and rendered at any resolution."""
