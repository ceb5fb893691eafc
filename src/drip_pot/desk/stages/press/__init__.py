# SPDX-License-Identifier: GPL-3.0-or-later
"""Press: plates, traps and the register. Knows no other stage."""
