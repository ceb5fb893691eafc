"""Colour that runs from one to another over the page. Knows numbers only; nothing of passes."""

from typing import Literal

import msgspec
import numpy as np

from drip_pot.core.arrays import F32, U8
from drip_pot.core.color import from_hex
from drip_pot.core.errors import BadInput

Form = Literal["linear", "radial"]
FORMS: tuple[Form, ...] = ("linear", "radial")
_MOST_STOPS = 16


class Stop(msgspec.Struct, frozen=True):
    """A colour, '#rrggbb', at a place of a ramp (0..1), and how much of it covers there (0..1)."""

    place: float
    color: str
    cover: float = 1.0


class Ramp(msgspec.Struct, frozen=True):
    """A ramp on the page.

    Parameters
    ----------
    start, end : (row, col)
        Its handles in page pixels: of a radial one the middle, and a place on the rim.
    stops : tuple of Stop
        Two to sixteen, places ascending.
    form : str
        'linear' or 'radial'.
    """

    start: tuple[float, float]
    end: tuple[float, float]
    stops: tuple[Stop, ...]
    form: Form = "linear"

    def __post_init__(self) -> None:
        if not np.isfinite([*self.start, *self.end]).all():
            raise BadInput("The handles of a ramp lie on the page or near it.")
        places = [stop.place for stop in self.stops]
        if not 2 <= len(places) <= _MOST_STOPS or places != sorted(places) or not 0 <= min(places) <= max(places) <= 1:
            raise BadInput(f"A ramp has 2 to {_MOST_STOPS} stops from 0 to 100 %, in order.")
        for stop in self.stops:
            from_hex(stop.color)
            if not 0 <= stop.cover <= 1:
                raise BadInput(f"A stop covers by 0 to 100 %, not {stop.cover * 100:g} %.")


def ramp_at(ramp: Ramp, top: int, left: int, shape: tuple[int, int], step: int = 1) -> tuple[U8, U8]:
    """Draw a piece of a ramp.

    Parameters
    ----------
    ramp : Ramp
        A ramp of no length has its last colour everywhere.
    top, left : int
        Where the piece begins, in page pixels.
    shape : tuple of int
        Rows and columns of the piece.
    step : int
        Page pixels for each of its pixels.

    Returns
    -------
    color : (M, N, 3) ndarray of uint8
        sRGB; between two stops the channels are mixed as they are.
    cover : (M, N) ndarray of uint8
        0..255.
    """
    rows = (top + (np.arange(shape[0])[:, None] + 0.5) * step - 0.5 - ramp.start[0]).astype(np.float32)
    cols = (left + (np.arange(shape[1])[None, :] + 0.5) * step - 0.5 - ramp.start[1]).astype(np.float32)
    way = np.array(ramp.end) - np.array(ramp.start)
    length = float(np.hypot(*way))
    if length < 1e-6:
        share: F32 = np.ones(shape, np.float32)
    elif ramp.form == "linear":
        share = rows * np.float32(way[0] / length**2) + cols * np.float32(way[1] / length**2)
    else:
        share = np.hypot(rows, cols) * np.float32(1 / length)
    places = np.rint(np.clip(share, 0, 1) * 1023).astype(np.int32)
    known = np.array([stop.place for stop in ramp.stops]) * 1023
    values = np.array([[*from_hex(stop.color).tolist(), stop.cover * 255] for stop in ramp.stops])
    table = np.stack([np.interp(np.arange(1024), known, values[:, k]) for k in range(4)], axis=1)
    packed = np.ascontiguousarray(np.rint(table).astype(np.uint8)).view(np.uint32)[:, 0]
    found = np.take(packed, places).view(np.uint8).reshape(*shape, 4)  # four bytes at once
    return np.ascontiguousarray(found[..., :3]), np.ascontiguousarray(found[..., 3])
