# SPDX-License-Identifier: GPL-3.0-or-later
"""A decoded original, as what follows from a page wants it. Knows arrays only."""

from dataclasses import dataclass, replace
from typing import TypeVar

import numpy as np

from drip_pot.core.arrays import U8, Gray
from drip_pot.core.inks import Square, squared


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


P = TypeVar("P", bound=Picture)


def laid_square(picture: P, square: Square | None) -> P:
    """Return a photograph laid square, if it is to be; beyond it lies white, that covers nothing."""
    if square is None:
        return picture
    rgb = None if picture.rgb is None else np.asarray(squared(picture.rgb, square, 255), np.uint8)
    opacity = None if picture.opacity is None else np.asarray(squared(picture.opacity, square, 0), np.uint8)
    gray = squared(picture.gray, square, int(np.iinfo(picture.gray.dtype).max))
    return replace(picture, gray=gray, rgb=rgb, opacity=opacity)
