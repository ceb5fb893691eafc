# SPDX-License-Identifier: GPL-3.0-or-later
"""A decoded original, as what follows from a page wants it. Knows arrays only."""

from dataclasses import dataclass

from drip_pot.core.arrays import U8, Gray


@dataclass(frozen=True)
class Picture:
    """A decoded original.

    Attributes
    ----------
    gray : (M, N) ndarray of uint8 or uint16
        0 black, 255 or 65535 white; transparent pixels lie on white.
    rgb : (M, N, 3) ndarray of uint8, or None
        Its colours where it has more than a tint.
    opacity : (M, N) ndarray of uint8, or None
        Where it came with transparency.
    """

    gray: Gray
    rgb: U8 | None = None
    opacity: U8 | None = None
