"""Run the command line with `python -m drip_pot`."""

from drip_pot.cli import main

main()
