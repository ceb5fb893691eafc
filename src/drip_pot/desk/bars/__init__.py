# SPDX-License-Identifier: GPL-3.0-or-later
"""The bars round the canvas. Know the easel and parts; of stages only what they are given."""
