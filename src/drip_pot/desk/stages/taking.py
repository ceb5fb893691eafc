# SPDX-License-Identifier: GPL-3.0-or-later
"""The tool that takes a pot from the page. Knows the easel."""

from drip_pot.book import verbs
from drip_pot.desk.view.senses import Senses
from drip_pot.desk.view.tool import Mods, Tool, tool


@tool("Flats", "Shade")
class Take(Tool):
    """Take a pot from the page."""

    name = "Take"
    key = "T"
    place = 100
    group = "choose"
    says = "Click a region to take its pot in hand."
    senses = Senses(ctrl="also pick all of its part")

    def press(self, row: float, col: float, mods: Mods) -> None:
        atom, hand = self.easel.atom_at(row, col), self.easel.hand()
        if not atom:
            return
        self.easel.choose_pot(self.easel.pot_of(atom))
        if mods & Mods.ControlModifier and hand is not None:
            self.easel.pick(verbs.leashed(hand, row, col, "part"))
