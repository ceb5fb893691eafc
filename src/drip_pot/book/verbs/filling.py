# SPDX-License-Identifier: GPL-3.0-or-later
"""Verbs that pour into many regions at once: loop, brush, panel, silhouette, join. Knows a page at hand."""

from collections.abc import Iterable

import numpy as np

from drip_pot.book.asking import order
from drip_pot.book.hand import Hand, Points
from drip_pot.book.numbers import AtomNumber, PouredNumber
from drip_pot.book.values import BALLOON, POURS
from drip_pot.book.verbs.flats import join, pour
from drip_pot.book.verbs.pots import mix_pour
from drip_pot.core.arrays import Bool
from drip_pot.core.errors import NothingDone
from drip_pot.core.inks import stroke_mask
from drip_pot.core.shade import loop_mask
from drip_pot.words import say

_WHOLLY, _SWEPT = 0.995, 0.2


@order
def fill(hand: Hand, atoms: set[AtomNumber], pot: PouredNumber | None, strength: float = 1.0) -> None:
    """Pour a pot into atoms, or mix it into what they have by a strength below 1; never beyond the panel in use."""
    inside = hand.confined(set(atoms))
    if not inside:
        raise hand.no_room()
    count = len({int(hand.partition.region[a]) for a in inside})
    if strength < 1:
        mix_pour(hand.book, hand.page, inside, pot, strength, count)
    else:
        pour(hand.book, hand.page, inside, pot, count)


@order
def corral(
    hand: Hand, points: Points, pot: PouredNumber | None, strength: float = 1.0, *, only_empty: bool = False
) -> None:
    """Pour a pot into every region that lies wholly inside a loop."""
    rect, mask = loop_mask(points, hand.shape)
    whole = hand.regions_in(rect, mask, _WHOLLY)
    _fill_regions(hand, whole, pot, strength, only_empty=only_empty, nothing="No region lies wholly inside the loop.")


@order
def sweep(hand: Hand, points: Points, pot: PouredNumber | None, width_px: float, strength: float = 1.0) -> None:
    """Pour a pot into what is empty under a wide brush and covered by it for a fifth of its area at least.

    So a ground that the brush strays onto stays as it is.
    """
    rect, stroke = stroke_mask(points, width_px, hand.shape)
    touched = hand.regions_in(rect, stroke, _SWEPT)
    touched[0] = False
    under = np.unique(hand.labels[rect[0] : rect[2], rect[1] : rect[3]][stroke])
    grazed = set(under.tolist()) - hand.sources[POURS].keys() - {0}
    nothing = ("What is empty here is covered by the brush for less than a fifth. Sweep more of it, or pour it."
               if grazed else "Nothing empty lies under the brush.")  # fmt: skip
    _fill_regions(hand, touched, pot, strength, only_empty=True, nothing=nothing)


def _fill_regions(
    hand: Hand, wanted: Bool, pot: int | None, strength: float, *, only_empty: bool, nothing: str
) -> None:  # fmt: skip
    atoms = hand.atoms_in(wanted) - {a for a, p in hand.sources[POURS].items() if only_empty or p == BALLOON}
    if not hand.confined(atoms):
        raise hand.no_room() if atoms and hand.picked else NothingDone(nothing)
    fill(hand, atoms, pot, strength)


@order
def pour_panel(
    hand: Hand, row: float, col: float, pot: PouredNumber | None, strength: float = 1.0, *, everything: bool = False
) -> None:  # fmt: skip
    """Pour a pot into what is empty in the panel at a place, or into everything; in the gutter, into the gutter."""
    number = hand.panels.at(row, col)
    mine = set(np.flatnonzero((hand.panels.panel == number) & (hand.areas > 0)).tolist())
    mine -= {a for a, p in hand.sources[POURS].items() if p == BALLOON or not everything}
    if not mine:
        raise NothingDone("Nothing here is empty. Shift pours the whole panel.")
    fill(hand, mine, pot, strength)


@order
def silhouette(
    hand: Hand, row: float, col: float, pot: PouredNumber | None, strength: float = 1.0, *, framed: bool = False
) -> None:  # fmt: skip
    """Pour a pot into what the ground at a place encloses in its panel; `framed` also what touches the panel's edge."""
    fill(hand, enclosed(hand, row, col, framed=framed), pot, strength)


def enclosed(hand: Hand, row: float, col: float, *, framed: bool) -> set[int]:
    """Return the atoms that the ground at a place encloses in its panel; raises `NothingDone` where there are none."""
    atom = hand.atom_at(row, col)
    if not atom:
        raise NothingDone("There is no ground beside the page.")
    number, pot = int(hand.panels.panel[atom]), hand.pot_of(atom)
    ground = hand.region_of(atom) if pot is None else hand.in_pot(pot)
    mine = ((hand.panels.panel == number) | (number == 0)) & (hand.areas > 0)  # in the gutter, the whole page
    rest = mine.copy()
    rest[[a for a in ground if a < len(rest)]] = False
    if not framed:
        rest &= ~_reaching_out(hand, mine, rest)
    if not rest.any():
        raise NothingDone("This ground encloses nothing. Shift: what touches the panel's edge as well.")
    return set(np.flatnonzero(rest).tolist())


def _reaching_out(hand: Hand, mine: Bool, rest: Bool) -> Bool:
    """Tell which atoms are joined, without crossing the ground, to the edge of the panel or the page, (A + 1,)."""
    pairs, boxes = hand.divided.atoms.borders.pairs, hand.divided.boxes
    outside = np.zeros(len(rest), bool)
    outside[pairs[mine[pairs[:, 0]] != mine[pairs[:, 1]]].ravel()] = True
    outside |= (boxes[:, 0] == 0) | (boxes[:, 1] == 0)
    outside |= (boxes[:, 2] == hand.shape[0]) | (boxes[:, 3] == hand.shape[1])
    inner = pairs[rest[pairs].all(axis=1)]
    while True:
        spread = inner[outside[inner].any(axis=1)].ravel()
        if outside[spread].all():
            return outside
        outside[spread] = True


@order
def join_regions(hand: Hand, atoms: Iterable[AtomNumber]) -> None:
    """Join the regions of some atoms into one."""
    regions = {int(hand.partition.region[a]): a for a in sorted(atoms)}
    if len(regions) < 2:
        raise NothingDone("Pick two regions or more to join them.")
    spots = hand.spots_of(regions.values())
    join(hand.book, hand.page, spots, say("Join {0} regions", len(spots)))
