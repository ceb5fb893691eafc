"""Whole areas filled in a pass, or emptied. Knows the page at hand."""

from drip_pot.desk.stages.shade.shading import Shading
from drip_pot.desk.view.tool import Mods, Stroke, tool


@tool("Shade")
class Fill(Stroke):
    """Fill regions in the pass in hand."""

    name = "Fill"
    place = 25
    key = "F"
    closed = False
    says = "Click or drag across regions to fill them in the pass. Alt: empty. Ctrl: all of the pot, Shift: the part."

    def done(self, points: list[tuple[float, float]], mods: Mods) -> None:
        hand = self.easel.hand()
        if hand is None:
            return
        atoms = {hand.atom_at(*at) for at in _close(points)} - {0}
        wanted = {a for atom in atoms for a in hand.region_of(atom)}
        known = hand.book.pots()
        pots = {hand.pot_of(atom) for atom in atoms} - {None}
        if mods & Mods.ShiftModifier:
            parts = {known[pot].part for pot in pots if pot in known}
            pots = {number for number, pot in known.items() if pot.part in parts}
        if mods & (Mods.ShiftModifier | Mods.ControlModifier):
            wanted |= {a for pot in pots for a in hand.in_pot(pot)}
        one_by_one = not mods & (Mods.ShiftModifier | Mods.ControlModifier)
        if wanted:
            self.easel.own(Shading).fill(
                wanted, _close(points) if one_by_one else [], away=bool(mods & Mods.AltModifier)
            )


def _close(points: list[tuple[float, float]]) -> list[tuple[float, float]]:
    """Return places along a stroke that lie at most 4 px apart."""
    found = [points[0]]
    for row, col in points[1:]:
        last = found[-1]
        steps = int(max(abs(row - last[0]), abs(col - last[1])) // 4) + 1
        parts = (k / steps for k in range(1, steps + 1))
        found += [(last[0] + (row - last[0]) * part, last[1] + (col - last[1]) * part) for part in parts]
    return found
