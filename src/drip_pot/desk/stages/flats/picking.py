# SPDX-License-Identifier: GPL-3.0-or-later
"""Regions picked, to be changed together. Knows the page at hand."""

from drip_pot.desk.session.easel import Easel
from drip_pot.desk.view.senses import Senses
from drip_pot.desk.view.tool import Mods, Tool, tool


@tool("Flats")
class Pick(Tool):
    """Pick regions, to change them together."""

    name = "Pick"
    place = 90
    key = "K"
    group = "choose"
    says = "Click a region to pick it, or drag across several."
    senses = Senses("keep what is picked, and add", "all of its pot", "take off")

    def __init__(self, easel: Easel) -> None:
        super().__init__(easel)
        self._from: frozenset[int] | None = None
        self._off = False

    def press(self, row: float, col: float, mods: Mods) -> None:
        atom = self.easel.atom_at(row, col)
        if not atom:
            self.easel.pick(set())
            return
        self._off = bool(mods & Mods.AltModifier)
        self._from = self.easel.picked if mods & (Mods.ShiftModifier | Mods.AltModifier) else frozenset()
        pot = self.easel.pot_of(atom)
        alike = bool(mods & Mods.ControlModifier) and pot is not None
        self._with(self.easel.atoms_of_pot(pot) if alike else self.easel.region_atoms(atom))

    def _with(self, atoms: list[int]) -> None:
        now = self._from or frozenset()
        self._from = now - set(atoms) if self._off else now | set(atoms)
        self.easel.pick(self._from)

    def drag(self, row: float, col: float, mods: Mods) -> None:
        atom = self.easel.atom_at(row, col)
        if self._from is not None and atom and (atom in self._from) == self._off:
            self._with(self.easel.region_atoms(atom))

    def release(self, row: float, col: float, mods: Mods) -> None:
        self._from = None

    def cancel(self) -> None:
        self._from = None
        if self.easel.picked:
            self.easel.pick(set())

    def dropped(self) -> None:
        self._from = None
