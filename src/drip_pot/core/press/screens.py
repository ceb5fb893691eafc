# SPDX-License-Identifier: GPL-3.0-or-later
"""Halftone screens: dots of each plate by ruling, angle and shape, and what they beat with. Knows coverages only."""

from functools import lru_cache
from typing import Literal

import msgspec
import numpy as np

from drip_pot.core.arrays import F32, F64, U8
from drip_pot.core.errors import BadInput

Dot = Literal["round", "ellipse", "line"]
DOTS: tuple[Dot, ...] = ("round", "ellipse", "line")
_TABLE, _SOLID, _NONE = 1024, 0.97, 0.02
_OFF_GRID = 0.25  # pixels: no two places of a cell are inked at once where screen and pixels stand alike
_SEEN_MM, _MOST_CELLS, _STRONG = (0.6, 25.0), 2.0, 12.0


class Screen(msgspec.Struct, frozen=True):
    """The screen of a plate.

    Parameters
    ----------
    angle_deg : float
        0..180, anticlockwise from across.
    lpi : float
        Ruling in lines an inch, 20..300; 0 is that of the press.
    dot : str
        One of `DOTS`.
    """

    angle_deg: float
    lpi: float = 0.0
    dot: Dot = "round"

    def __post_init__(self) -> None:
        if not 0 <= self.angle_deg <= 180:
            raise BadInput("A screen stands at 0 to 180°, not {0:g}°.", self.angle_deg)
        if self.lpi and not 20 <= self.lpi <= 300:
            raise BadInput("A screen has 20 to 300 lines an inch, not {0:g}.", self.lpi)
        if self.dot not in DOTS:
            raise BadInput("There is no dot '{0}'. Choose from {1}.", self.dot, ", ".join(DOTS))


Screens = tuple[Screen, Screen, Screen, Screen]
SCREENS: Screens = (Screen(15.0), Screen(75.0), Screen(0.0), Screen(45.0))
"""The usual angles of cyan, magenta, yellow and black."""
SPOT_SCREEN = Screen(45.0)
"""The usual screen of an ink beside the four."""


def dotted(
    inks: F32, screens: tuple[Screen, ...], ruling_lpi: tuple[float, ...], dpi: float, rows: F64, cols: F64
) -> F32:
    """Turn tones into dots; what is nearly solid or nearly nothing stays as it is.

    Parameters
    ----------
    inks : (M, N, P) ndarray of float32
        Coverages, 0..1.
    screens : tuple of Screen
        Angle and shape of the dots of each plate.
    ruling_lpi : tuple of float
        Their rulings.
    dpi : float
        Resolution of the page.
    rows, cols : (M,), (N,) ndarrays
        Where the pixels lie on the page, in its pixels; they lie evenly.

    Returns
    -------
    (M, N, P) ndarray of float32
        0..1; over an area it averages to what was given.
    """
    step = float(rows[1] - rows[0]) if len(rows) > 1 else 1.0
    out = np.empty_like(inks)
    for plate, (screen, lpi) in enumerate(zip(screens, ruling_lpi, strict=True)):
        cell, angle = dpi / lpi, np.radians(screen.angle_deg)
        soft = np.float32(max(0.06, 0.9 * step / cell))
        r = (np.asarray(rows, np.float32) + np.float32(_OFF_GRID * step))[:, None] * np.float32(2 * np.pi / cell)
        c = (np.asarray(cols, np.float32) + np.float32(_OFF_GRID * step / 2))[None] * np.float32(2 * np.pi / cell)
        sin, cos = np.float32(np.sin(angle)), np.float32(np.cos(angle))
        spot = _ranked(_spot(screen.dot, c * cos + r * sin, r * cos - c * sin), screen.dot)
        out[..., plate] = np.clip((inks[..., plate] - spot) / soft + np.float32(0.5), 0, 1)
    return np.where(inks > _SOLID, inks, out * (inks > _NONE)).astype(np.float32)


def _spot(dot: Dot, u: F32, v: F32) -> F32:
    """Return how late a place of a cell is inked, 0..1: a middle first."""
    if dot == "line":
        return np.asarray(0.5 - 0.5 * np.cos(u) + 0 * v, np.float32)
    share = np.float32(0.25 if dot == "round" else 0.32)
    return np.asarray(0.5 - share * np.cos(u) - (np.float32(0.5) - share) * np.cos(v), np.float32)


def _ranked(spot: F32, dot: Dot) -> F32:
    """Return the share of a cell that is inked before a place, so that tones keep their value."""
    places = np.clip(spot * np.float32(_TABLE - 1), 0, _TABLE - 1).astype(np.int32)
    return np.asarray(np.take(_ranks(dot), places), np.float32)


@lru_cache(maxsize=8)
def _ranks(dot: Dot) -> F32:
    turn = np.linspace(0, 2 * np.pi, 513)[:-1]
    values = np.sort(_spot(dot, turn[:, None].astype(np.float32), turn[None].astype(np.float32)).ravel())
    found = np.searchsorted(values, np.linspace(0, 1, _TABLE)) / len(values)
    return np.asarray(found, np.float32)


def lattice_of(tone: U8) -> tuple[float, float] | None:
    """Find the ruling of drawn dots.

    Parameters
    ----------
    tone : (M, N) ndarray of uint8
        Coverage of dots, 32 px a side at least.

    Returns
    -------
    (float, float) or None
        Cycles a pixel down and across of the strongest of their waves; None where nothing repeats clearly.
    """
    side = min(*tone.shape, 512)
    if side < 32:
        return None
    top, left = (tone.shape[0] - side) // 2, (tone.shape[1] - side) // 2
    piece = tone[top : top + side, left : left + side].astype(np.float64)
    window = np.hanning(side)
    power = np.abs(np.fft.rfft2((piece - piece.mean()) * window[:, None] * window[None]))
    down, across = np.fft.fftfreq(side)[:, None], np.fft.rfftfreq(side)[None]
    power[np.hypot(down, across) < 3 / side] = 0
    at = np.unravel_index(int(power.argmax()), power.shape)
    if power[at] < _STRONG * power[power > 0].mean():
        return None
    return float(down[at[0], 0]), float(across[0, at[1]])


def beat_mm(wave: tuple[float, float], screen: Screen, ruling_lpi: float, dpi: float) -> float | None:
    """Return the length, in mm, of the pattern in which drawn dots beat with a screen; None where none is seen.

    Parameters
    ----------
    wave : (float, float)
        Of the dots, as `lattice_of` finds it; they are taken to repeat across it as well.
    screen, ruling_lpi
        Of the plate.
    dpi : float
        Of the page.

    Notes
    -----
    Two gratings beat with the difference of their waves (Amidror, *The Theory of the Moiré Phenomenon*, 2009); what
    comes out as fine as the dots, or wider than 25 mm, is not taken for a pattern.
    """
    angle, often = np.radians(screen.angle_deg), ruling_lpi / dpi
    printed = [often * np.array([np.sin(angle), np.cos(angle)]), often * np.array([np.cos(angle), -np.sin(angle)])]
    drawn = [np.array(wave), np.array([wave[1], -wave[0]])]
    away = min(float(np.hypot(*(a - sign * b))) for a in drawn for b in printed for sign in (1, -1))
    length = 25.4 / (away * dpi) if away > 1e-9 else np.inf
    return length if max(_SEEN_MM[0], _MOST_CELLS * 25.4 / ruling_lpi) <= length <= _SEEN_MM[1] else None
