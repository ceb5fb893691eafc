# SPDX-License-Identifier: GPL-3.0-or-later
"""Plates as ink on paper, inks beside the four among them: a proof. Knows the press model; no page."""

import numpy as np

from drip_pot.book.own_inks import Spot
from drip_pot.core.arrays import U8
from drip_pot.core.color import from_hex
from drip_pot.core.press import appearance, with_spot


def proof(
    inks: U8, shown: tuple[bool, ...] = (), condition: str = "coated", *, paper: bool = False,
    spots: tuple[Spot, ...] = (),
) -> U8:  # fmt: skip
    """Show plates, (M, N, P) uint8, as ink on paper, (M, N, 3) uint8 sRGB.

    `shown` says which of them; those it does not speak of are shown. `spots` are the inks beside the four, in order.
    """
    count = inks.shape[2]
    seen = np.array([*shown, *[True] * count][:count], np.uint8)
    out = appearance(np.ascontiguousarray(inks[..., :4] * seen[:4]), condition, paper=paper)
    for place, spot in enumerate(spots, 4):
        if seen[place]:
            out = with_spot(out, inks[..., place], from_hex(spot.color))
    return out
