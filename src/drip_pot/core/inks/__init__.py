"""From a grey scan to ink coverage: paper light, levels, weight, specks. Knows no other core package."""

from drip_pot.core.inks.coverage import InkSettings, coverage, suggest_settings
from drip_pot.core.inks.paper import estimate_paper, remove_paper
from drip_pot.core.inks.specks import Speck, erase_specks, find_specks

__all__ = [
    "InkSettings",
    "Speck",
    "coverage",
    "erase_specks",
    "estimate_paper",
    "find_specks",
    "remove_paper",
    "suggest_settings",
]
