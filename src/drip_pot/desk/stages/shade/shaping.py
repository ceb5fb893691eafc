# SPDX-License-Identifier: GPL-3.0-or-later
"""The cut in hand, and borders of shadows, in the pass in hand. Knows what is in use in Shade; draws nothing."""

import math

from drip_pot.book import verbs
from drip_pot.book.hand import Hand
from drip_pot.book.values import BORDERS, SHADE_CUTS, Border, ShadeCut
from drip_pot.core.regions import Path
from drip_pot.core.shade import Knot, outline
from drip_pot.desk.session.easel import Easel
from drip_pot.desk.stages.shade.shading import Shading
from drip_pot.desk.view.tool import Mods, kept_in

SHAPES = ("Freehand", "Box", "Oval")
_ROUND = 8


def knots_of(shape: str, one: tuple[float, float], two: tuple[float, float]) -> tuple[Knot, ...]:
    """Return the knots of a box or an oval between two corners, (row, col) each."""
    (top, left), (bottom, right) = one, two
    if shape == "Box":
        return (top, left, False), (top, right, False), (bottom, right, False), (bottom, left, False)
    row, col, high, wide = (top + bottom) / 2, (left + right) / 2, (bottom - top) / 2, (right - left) / 2
    turns = (2 * math.pi * k / _ROUND for k in range(_ROUND))
    return tuple((row + high * math.sin(turn), col + wide * math.cos(turn), True) for turn in turns)


class Shaping:
    """What is done with cuts and borders of the pass in hand.

    Attributes
    ----------
    edge_px : float
        How soft the edge of the next cut is.
    shape : str
        How it is drawn, one of `SHAPES`.
    """

    def __init__(self, easel: Easel) -> None:
        self.easel, self._shading = easel, easel.own(Shading)
        self.edge_px, self.shape = 0.0, SHAPES[0]
        self._cut: int | None = None
        self._open: tuple[object, list[tuple[float, float]]] = (None, [])

    def choose_shape(self, shape: str) -> None:
        """Set how the next cut is drawn."""
        self.shape = shape
        self.easel.chosen.emit()

    def put_edge(self, value: float) -> None:
        """Set how soft the edge of the next cut is."""
        self.edge_px = value
        self.easel.chosen.emit()

    def cut(
        self, points: list[tuple[float, float]], mods: Mods, *, light: bool, knots: tuple[Knot, ...] = ()
    ) -> None:  # fmt: skip
        """Cut a shape into the pass in hand, or out of it: a loop of the hand, or `knots`."""
        only, reach, inside = *kept_in(self.easel, points[0], mods), set(self.easel.picked)
        soft, color = self.edge_px, self._shading.color_here()
        self._shading.lay(lambda hand, into: verbs.cut_shade(
            hand, points, light=light, only=only, reach=reach, into=into, inside=inside, softness_px=soft,
            knots=knots, color=color), points)  # fmt: skip

    def cuts(self) -> dict[int, ShadeCut]:
        """Return the cuts of the pass in hand, by number."""
        held, sources = self._shading.in_hand(), self.easel.sources()
        if held is None or sources is None:
            return {}
        return {n: cut for n, cut in sources[SHADE_CUTS].items() if cut.into == held[0]}

    def cut_in_hand(self) -> tuple[int, ShadeCut] | None:
        """Return the cut that was taken up."""
        cut = self.cuts().get(self._cut) if self._cut is not None else None
        return None if cut is None or self._cut is None else (self._cut, cut)

    def choose_cut(self, number: int | None) -> None:
        """Take up a cut of the pass in hand, or put it down; who asks tells of it when the gesture is done."""
        self._cut = number

    def set_cut(self, changed: ShadeCut | None) -> None:
        """Change the cut in hand, or take it away."""
        number = self._cut
        if number is not None:
            ghost = [] if changed is None else [(r, c) for r, c in outline(changed.knots).tolist()]
            self.easel.hands.start(lambda hand: verbs.set_cut(hand, number, changed), ghost)

    def settle(self, *, drop: bool, every: bool = False) -> None:
        """Keep the suggested cut in hand, or every one in the pass; or drop them."""
        known, chosen = self.cuts(), self.cut_in_hand()
        numbers = {n for n, cut in known.items() if cut.offered and (every or (chosen is not None and n == chosen[0]))}
        if numbers:
            self.easel.hands.start(lambda hand: verbs.keep_cuts(hand, numbers, drop=drop))

    def divide(self, path: Path) -> None:
        """Draw a border in the pass in hand."""
        self._shading.lay(lambda hand, into: verbs.draw_border(hand, path, into), [*path])

    def borders(self) -> dict[int, Border]:
        """Return the borders of the pass in hand, by number."""
        held, sources = self._shading.in_hand(), self.easel.sources()
        if held is None or sources is None:
            return {}
        return {n: border for n, border in sources[BORDERS].items() if border.into == held[0]}

    def open_ends(self) -> list[tuple[float, float]]:
        """Return the ends of borders of the pass in hand that stay open."""
        view, known = self.easel.view, self.borders()
        if view is None or view.flat is None or not known:
            return []
        key = (tuple(known.items()), id(view.flat.divided))
        if self._open[0] != key:
            ends = verbs.open_ends(view.drawing.ink[0], view.flat.labels[0], known)
            self._open = key, [(row, col) for _, row, col in ends]
        return self._open[1]

    def fill_at(self, at: list[tuple[float, float]], *, away: bool) -> None:
        """Fill the side of borders, or the region, that lies at places."""
        inside, color = set(self.easel.picked), self._shading.color_here()

        def fill(hand: Hand, into: int) -> object:
            atoms = {a for spot in at for a in hand.region_of(hand.atom_at(*spot))}
            return verbs.fill_pass(hand, atoms, away=away, into=into, inside=inside, at=at, color=color)

        self._shading.lay(fill, None)
