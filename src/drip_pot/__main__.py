# SPDX-License-Identifier: GPL-3.0-or-later
"""Run the command line with `python -m drip_pot`."""

from drip_pot.cli import main

main()
