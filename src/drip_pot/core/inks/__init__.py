"""From a grey scan to ink coverage: paper light, levels, weight, specks. Knows no other core package."""

from drip_pot.core.inks.coverage import InkSettings, coverage, suggest_settings
from drip_pot.core.inks.paper import estimate_paper, remove_paper
from drip_pot.core.inks.specks import CROWD, Pieces, Speck, erase_specks, find_pieces, find_specks, lone_specks

__all__ = [
    "CROWD",
    "InkSettings",
    "Pieces",
    "Speck",
    "coverage",
    "erase_specks",
    "estimate_paper",
    "find_pieces",
    "find_specks",
    "lone_specks",
    "remove_paper",
    "suggest_settings",
]
