# SPDX-License-Identifier: GPL-3.0-or-later
"""Ink eased where there is much of it. Knows the easel; nothing of how inks are found."""

from drip_pot.book import verbs
from drip_pot.desk.view.tool import Mods, Tool, tool


@tool("Press")
class Ease(Tool):
    """Print the pot that is clicked with less ink."""

    name = "Ease"
    place = 30
    key = "E"
    says = "Click a spot with much ink: its pot prints the same colour with more black and less of the others."

    def press(self, row: float, col: float, mods: Mods) -> None:
        pot = self.easel.pot_of(self.easel.atom_at(row, col))
        if not pot:
            self.easel.said.emit("This region has no pot yet.", False)
        else:
            self.easel.do(lambda book, page: verbs.ease_pot(book, page, pot))
