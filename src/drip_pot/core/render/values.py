# SPDX-License-Identifier: GPL-3.0-or-later
"""Colours by value: what is dark takes one colour, what is light another. Knows numbers only; nothing of passes."""

import msgspec
import numpy as np

from drip_pot.core.arrays import U8
from drip_pot.core.color import from_hex, lightness
from drip_pot.core.errors import BadInput
from drip_pot.core.render.ramp import Stop

_MOST_STOPS = 16


class ToneRamp(msgspec.Struct, frozen=True):
    """Colours that values take.

    Parameters
    ----------
    stops : tuple of Stop
        Two to sixteen from black (0) to white (1), places ascending; `cover` says how much each covers.
    """

    stops: tuple[Stop, ...]

    def __post_init__(self) -> None:
        places = [stop.place for stop in self.stops]
        if not 2 <= len(places) <= _MOST_STOPS or places != sorted(places) or not 0 <= min(places) <= max(places) <= 1:
            raise BadInput("A tone ramp has 2 to {0} stops from 0 to 100 %, in order.", _MOST_STOPS)
        for stop in self.stops:
            from_hex(stop.color)


class Local(msgspec.Struct, frozen=True):
    """The local colours of the pots, laid over what is below."""


def by_value(rgb: U8, ramp: ToneRamp) -> U8:
    """Return what colours, (..., 3 or 4) uint8 sRGB, become by their lightness, (..., 4) uint8: colour and cover.

    Raises `BadInput` for a ramp whose colours are no '#rrggbb'.
    """
    known = np.array([stop.place for stop in ramp.stops]) * 255
    values = np.array([[*from_hex(stop.color).tolist(), stop.cover * 255] for stop in ramp.stops])
    table = np.stack([np.interp(np.arange(256), known, values[:, k]) for k in range(4)], axis=1)
    return np.asarray(np.rint(table).astype(np.uint8)[lightness(rgb)], np.uint8)
