# SPDX-License-Identifier: GPL-3.0-or-later
"""Blend modes as people read them: the names of the standard, in British spelling. Knows nothing else."""

from drip_pot.core.render import MODES
from drip_pot.words import tr

_BRITISH = {"color-dodge": "colour dodge", "color-burn": "colour burn", "color": "colour", "hard-light": "hard light",
            "soft-light": "soft light"}  # fmt: skip


def mode_word(mode: str) -> str:
    """Return what a blend mode is called."""
    return tr(_BRITISH.get(mode, mode))


def mode_words() -> list[str]:
    """Return what all of them are called, in their order."""
    return [mode_word(mode) for mode in MODES]
