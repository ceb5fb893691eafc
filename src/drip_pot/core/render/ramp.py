# SPDX-License-Identifier: GPL-3.0-or-later
"""Colour that runs from one to another over the page. Knows numbers only; nothing of passes."""

from typing import Literal

import cv2
import msgspec
import numpy as np
import numpy.typing as npt

from drip_pot.core.arrays import F32, F64, U8
from drip_pot.core.color import from_hex
from drip_pot.core.errors import BadInput

Form = Literal["linear", "radial", "along"]
FORMS: tuple[Form, ...] = ("linear", "radial", "along")
_MOST_STOPS, _MOST_POINTS = 16, 32


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
        'linear', 'radial', or 'along' a line.
    path : tuple of (row, col)
        The points of that line between start and end, at most 30; with none it is straight.
    """

    start: tuple[float, float]
    end: tuple[float, float]
    stops: tuple[Stop, ...]
    form: Form = "linear"
    path: tuple[tuple[float, float], ...] = ()

    def __post_init__(self) -> None:
        if not np.isfinite(self.line).all():
            raise BadInput("The handles of a ramp lie on the page or near it.")
        if len(self.line) > _MOST_POINTS:
            raise BadInput("The line of a ramp has at most {0} points.", _MOST_POINTS)
        places = [stop.place for stop in self.stops]
        if not 2 <= len(places) <= _MOST_STOPS or places != sorted(places) or not 0 <= min(places) <= max(places) <= 1:
            raise BadInput("A ramp has 2 to {0} stops from 0 to 100 %, in order.", _MOST_STOPS)
        for stop in self.stops:
            from_hex(stop.color)
            if not 0 <= stop.cover <= 1:
                raise BadInput("A stop covers by 0 to 100 %, not {0:g} %.", stop.cover * 100)

    @property
    def line(self) -> F64:
        """The line from its start to its end, (K, 2) float64, rows and columns in page pixels."""
        return np.array([self.start, *self.path, self.end], np.float64)


def path_of(points: npt.ArrayLike) -> tuple[tuple[float, float], ...]:
    """Return what a hand drew, (K, 2) float64 rows and columns of the page, as the few points a ramp can run along."""
    drawn = np.asarray(points, np.float32).reshape(-1, 1, 2)
    loose = 1.0
    while len(found := cv2.approxPolyDP(drawn, loose, False)) > _MOST_POINTS:
        loose *= 1.5
    return tuple((round(float(r), 1), round(float(c), 1)) for r, c in found.reshape(-1, 2))


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

    Raises
    ------
    BadInput
        For a ramp whose colours are no '#rrggbb'.
    """
    rows = (top + (np.arange(shape[0])[:, None] + 0.5) * step - 0.5 - ramp.start[0]).astype(np.float32)
    cols = (left + (np.arange(shape[1])[None, :] + 0.5) * step - 0.5 - ramp.start[1]).astype(np.float32)
    way = np.array(ramp.end) - np.array(ramp.start)
    length = float(np.hypot(*way))
    share: F32 = np.ones(shape, np.float32)
    if ramp.form == "along":
        share = _along(ramp.line - ramp.start, rows, cols)
    elif length >= 1e-6 and ramp.form == "linear":
        share = rows * np.float32(way[0] / length**2) + cols * np.float32(way[1] / length**2)
    elif length >= 1e-6:
        share = np.hypot(rows, cols) * np.float32(1 / length)
    share = np.clip(share, 0, 1, out=share)
    share *= np.float32(1023)
    places = np.rint(share, out=share).astype(np.intp)
    known = np.array([stop.place for stop in ramp.stops]) * 1023
    values = np.array([[*from_hex(stop.color).tolist(), stop.cover * 255] for stop in ramp.stops])
    table = np.stack([np.interp(np.arange(1024), known, values[:, k]) for k in range(4)], axis=1)
    packed = np.ascontiguousarray(np.rint(table).astype(np.uint8)).view(np.uint32)[:, 0]
    found = np.take(packed, places).view(np.uint8).reshape(*shape, 4)  # four bytes at once
    return np.asarray(cv2.cvtColor(found, cv2.COLOR_RGBA2RGB), np.uint8), np.asarray(
        cv2.extractChannel(found, 3), np.uint8
    )


def _along(line: F64, rows: F32, cols: F32) -> F32:
    """Return how far along a line (0..1 of its length) its point nearest to each place lies, (M, N).

    `line` is (K, 2); `rows` (M, 1) and `cols` (1, N) are the places.
    """
    steps = np.diff(line, axis=0)
    lengths = np.hypot(*steps.T)
    total = float(lengths.sum())
    share = np.ones((len(rows), cols.shape[1]), np.float32)
    if total < 1e-6:
        return share
    nearest, before = np.full(share.shape, np.inf, np.float32), 0.0
    for (row, col), step, length in zip(line, steps, lengths.tolist(), strict=False):
        if length < 1e-6:
            continue
        way = (step / length).astype(np.float32)
        down, right = rows - np.float32(row), cols - np.float32(col)
        far = np.clip(down * way[0] + right * way[1], 0, np.float32(length))
        away = np.square(down - far * way[0]) + np.square(right - far * way[1])
        closer = away < nearest
        np.copyto(nearest, away, where=closer)
        np.copyto(share, (far + np.float32(before)) * np.float32(1 / total), where=closer)
        before += length
    return share
