# SPDX-License-Identifier: GPL-3.0-or-later
"""The colour round a part, laid over it as shadow or bounce, so that a figure sits in its surroundings. No window."""

from typing import Literal

import numpy as np

from drip_pot.book.asking import order
from drip_pot.book.hand import Hand
from drip_pot.book.numbers import PartNumber
from drip_pot.book.values import PARTS, POURS, Part
from drip_pot.book.verbs.passes import add_pass
from drip_pot.book.where import Scope
from drip_pot.core.color import from_hex, oklab_to_srgb8, srgb8_to_oklab, to_hex
from drip_pot.core.errors import NothingDone
from drip_pot.core.regions import find_borders
from drip_pot.words import tr


def ambient_of(hand: Hand, part: int) -> str | None:
    """Return the mean colour, '#rrggbb', of what borders a part, by length of border; None where nothing has colour."""
    book, pours = hand.book, hand.sources[POURS]
    pots = book.pots()
    count = len(hand.areas)
    own = np.zeros(count, bool)
    lab, has = np.zeros((count, 3)), np.zeros(count, bool)
    for atom, number in pours.items():
        if atom < count and number in pots:
            own[atom] = pots[number].part == part
            lab[atom], has[atom] = srgb8_to_oklab(from_hex(pots[number].local)), True
    borders = find_borders(hand.labels)
    ends = borders.pairs
    weight = np.zeros(count)
    for one, two in ((0, 1), (1, 0)):
        met = own[ends[:, one]] & ~own[ends[:, two]] & has[ends[:, two]]
        weight += np.bincount(ends[met, two], borders.length_px[met], count)
    if not weight.any():
        return None
    return to_hex(oklab_to_srgb8((lab * weight[:, None]).sum(axis=0) / weight.sum()))


@order
def ambient_pass(hand: Hand, part: PartNumber, use: Literal["shadow", "bounce"] = "shadow") -> int:
    """Lay the colour round a part over it: multiplied where shadow is cut in, or screened as a bounce; return the pass.

    Nothing is seen of it until something is cut or painted into it.
    """
    name, color = hand.book.read(PARTS.key(part), Part).name, ambient_of(hand, part)
    if color is None:
        raise NothingDone("Nothing round {0} has colour yet; pour its surroundings first.", name)
    mode, strength = ("multiply", 0.55) if use == "shadow" else ("screen", 0.4)
    return add_pass(
        hand.book, hand.page, tr("Ambient {0}, {1}", use, name), color, mode, strength, Scope(parts=(part,))
    )
