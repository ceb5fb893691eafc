# SPDX-License-Identifier: GPL-3.0-or-later
"""What the modifier keys mean, alike in every tool of every stage. Knows no tool; tools say what theirs come to.

Shift keeps to something, Ctrl reaches further, Alt does the opposite. The right button is Alt as well, and each can be
switched on in the status line: nothing hangs on a key that a desktop takes for itself.
"""

from dataclasses import dataclass, fields

from PyQt6.QtCore import Qt

Mods = Qt.KeyboardModifier


@dataclass(frozen=True)
class Senses:
    """What modifiers change in a tool, in a few words; empty where one changes nothing.

    Attributes
    ----------
    shift : str
        What it keeps to: 'keep it straight'.
    ctrl : str
        How it reaches further: 'all of its pot'.
    alt : str
        What the opposite is: 'take away'.
    """

    shift: str = ""
    ctrl: str = ""
    alt: str = ""

    def told(self) -> list[tuple[str, Mods, str]]:
        """Return those that change something: the key, the modifier, what it comes to."""
        return [
            (KEYS[one.name][0], KEYS[one.name][1], word) for one in fields(self) if (word := getattr(self, one.name))
        ]


KEYS = {
    "shift": ("Shift", Mods.ShiftModifier),
    "ctrl": ("Ctrl", Mods.ControlModifier),
    "alt": ("Alt", Mods.AltModifier),
}
"""What is written for each, and what Qt calls it."""
SENSES = {"shift": "keeps to something", "ctrl": "reaches further", "alt": "does the opposite"}
"""The one sense that each has."""
NONE = Senses()
BRUSH = Senses("keep to the region", "all of the pot, with Shift of the part", "take away")
"""What they come to for brushes that lay something."""
