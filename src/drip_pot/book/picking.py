# SPDX-License-Identifier: GPL-3.0-or-later
"""What belongs with what is picked, and what a pot borders. Knows a page at hand; changes nothing."""

from typing import Literal

import numpy as np

from drip_pot.book.hand import Hand
from drip_pot.book.values import POURS
from drip_pot.core.color import delta_e, from_hex, srgb8_to_oklab

More = Literal["pot", "part", "alike", "neighbours"]
_ALIKE = 3.0


def picked_more(hand: Hand, picked: frozenset[int], how: More) -> set[int]:
    """Return picked atoms with more of the same pot or part, of like colours, or with their neighbours."""
    atoms, region = set(picked), hand.partition.region
    if how == "neighbours":
        pairs = hand.divided.atoms.borders.pairs
        near = pairs[np.isin(pairs, list(picked)).any(axis=1)].ravel()
        return atoms | set(np.flatnonzero(np.isin(region, region[near]) & (hand.areas > 0)).tolist())
    known, pours = hand.book.pots(), hand.sources[POURS]
    mine = {pours[a] for a in picked if pours.get(a) in known}
    if not mine:
        atoms |= hand.in_pot(None)
    parts = {known[n].part for n in mine}
    lab = {n: srgb8_to_oklab(from_hex(p.local)) for n, p in known.items()}
    wanted = {
        n for n, p in known.items()
        if n in mine or (how == "part" and p.part in parts)
        or (how == "alike" and any(float(delta_e(lab[n], lab[m])) < _ALIKE for m in mine))
    }  # fmt: skip
    return atoms | {a for a, n in pours.items() if n in wanted}


def neighbors_of(hand: Hand, pot: int) -> list[tuple[str, float]]:
    """List the colours that a pot borders on this page and along how many pixels, the longest first, at most eight."""
    known, borders = hand.book.pots(), hand.divided.atoms.borders
    table = np.full(len(hand.areas), -1, np.int64)
    for atom, number in hand.sources[POURS].items():
        if atom < len(table):
            table[atom] = number
    ends = table[borders.pairs]
    mine = (ends == pot).any(axis=1) & (ends[:, 0] != ends[:, 1])
    other = np.where(ends[mine, 0] == pot, ends[mine, 1], ends[mine, 0])
    found: dict[str, float] = {}
    for number, px in zip(other.tolist(), borders.length_px[mine].tolist(), strict=True):
        color = known[number].local if number in known else "#ffffff"
        found[color] = found.get(color, 0.0) + px
    return sorted(found.items(), key=lambda item: -item[1])[:8]
