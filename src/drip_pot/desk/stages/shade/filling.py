# SPDX-License-Identifier: GPL-3.0-or-later
"""Whole areas filled in a pass, or emptied. Knows the page at hand."""

from drip_pot.core.shade import loop_mask
from drip_pot.desk.stages.shade.shading import Shading
from drip_pot.desk.view.senses import BRUSH, Senses
from drip_pot.desk.view.tool import Mods, StrokeTool, tool

_WHOLLY, _BACK_PX, _AWAY_PX = 0.995, 16, 48


@tool("Shade")
class Fill(StrokeTool):
    """Fill regions in the pass in hand."""

    name = "Fill"
    place = 25
    key = "F"
    group = "cut"
    closed = False
    says = "Click regions, drag across or loop round them: they are filled in the pass."
    senses = Senses(ctrl=BRUSH.ctrl, alt="empty them")

    def done(self, points: list[tuple[float, float]], mods: Mods) -> None:
        hand = self.easel.hand()
        if hand is None:
            return
        if self._is_loop(points):
            rect, mask = loop_mask(points, hand.shape)
            inside = hand.atoms_in(hand.regions_in(rect, mask, _WHOLLY)) - {0}
            if inside:
                self.easel.own(Shading).fill(inside, [], away=bool(mods & Mods.AltModifier))
            else:
                self.easel.said.emit("No region lies wholly inside the loop.", False)
            return
        atoms = {hand.atom_at(*at) for at in _close(points)} - {0}
        wanted = {a for atom in atoms for a in hand.region_of(atom)}
        known = hand.book.pots()
        pots = {hand.pot_of(atom) for atom in atoms} - {None}
        every = bool(mods & Mods.ControlModifier)
        if every and mods & Mods.ShiftModifier:
            parts = {known[pot].part for pot in pots if pot in known}
            pots = {number for number, pot in known.items() if pot.part in parts}
        if every:
            wanted |= {a for pot in pots for a in hand.in_pot(pot)}
        if wanted:
            at = [] if every else _close(points)
            self.easel.own(Shading).fill(wanted, at, away=bool(mods & Mods.AltModifier))

    def _is_loop(self, points: list[tuple[float, float]]) -> bool:
        """Whether a stroke comes back to where it began, after having been away."""
        near, far = _BACK_PX / max(self.easel.zoom, 0.01), _AWAY_PX / max(self.easel.zoom, 0.01)
        away = [max(abs(r - points[0][0]), abs(c - points[0][1])) for r, c in points]
        return len(points) > 6 and away[-1] <= near and max(away) >= far


def _close(points: list[tuple[float, float]]) -> list[tuple[float, float]]:
    """Return places along a stroke that lie at most 4 px apart."""
    found = [points[0]]
    for row, col in points[1:]:
        last = found[-1]
        steps = int(max(abs(row - last[0]), abs(col - last[1])) // 4) + 1
        parts = (k / steps for k in range(1, steps + 1))
        found += [(last[0] + (row - last[0]) * part, last[1] + (col - last[1]) * part) for part in parts]
    return found
