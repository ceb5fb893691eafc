# SPDX-License-Identifier: GPL-3.0-or-later
"""The register test: plates moved against each other, and what shows that should not. Knows plates only."""

from dataclasses import dataclass
from functools import lru_cache
from itertools import combinations

import cv2
import numpy as np

from drip_pot.core.arrays import F32, F64, I64, U8, U16
from drip_pot.core.errors import BadInput
from drip_pot.core.press.model import LUMINANCE, lightness_of

SHOWS_L = 8.0
"""A place is a gap when it is so much lighter, a halo when so much darker, than all there is about it in register."""

_LEVELS, _FINE = 16, 8191
_DIRECTIONS = ((0, 1), (1, 1), (1, 0), (1, -1), (0, -1), (-1, -1), (-1, 0), (-1, 1))
CELL = 8
"""Pixels a side of a cell of the map."""


@dataclass(frozen=True)
class Strayed:
    """What shows when plates stray, by arrangement.

    Attributes
    ----------
    gaps, halos : (A,) ndarrays of int64
        Pixels of each arrangement of `arrangements`.
    worst : (M // 8 + 1, N // 8 + 1) ndarray of uint8
        Most gap pixels in every cell of 8 × 8 px, in any arrangement.
    """

    gaps: I64
    halos: I64
    worst: U8


def arrangements(plates: int) -> list[tuple[tuple[int, ...], tuple[int, int]]]:
    """Return the ways to move some of the plates against the others, in eight directions: plates, (rows, cols).

    Moving some one way is as moving the rest the other way, so that of four plates the last always stays. Of further
    plates each is moved by itself and with any one other: what opens between two areas does so between two inks.
    """
    some = [s for n in range(1, min(plates, 4)) for s in combinations(range(plates - 1 if plates <= 4 else 4), n)]
    if plates > 4:
        beside = range(4, plates)
        some += [(k,) for k in beside] + [(k, other) for k in beside for other in range(k)]
    return [(s, way) for s in some for way in _DIRECTIONS]


def strayed(
    cmyk: U8, shift_px: int, condition: str = "coated", halo: int = 0, solids: F64 | None = None
) -> Strayed:  # fmt: skip
    """Find what shows when plates stray.

    Parameters
    ----------
    cmyk : (M, N, P) ndarray of uint8
        Plates in register.
    shift_px : int
        How far plates stray from each other, in whole pixels (0..100).
    condition : str
        One of `CONDITIONS`.
    halo : int
        Rows at the top and bottom that only give context, for a page in strips; at least 2 × `shift_px` + 2 there, 0
        at a page's own edge.
    solids : (P - 4, 3) ndarray of float64, optional
        Linear light, 0..1, that a solid of every further plate leaves; None is the usual.

    Raises
    ------
    BadInput
        If the shift is out of range.
    """
    if not 0 <= shift_px <= 100:
        raise BadInput("The register test moves plates by 0 to 100 px, not {0}.", shift_px)
    rows, cols, plates = cmyk.shape
    ways = arrangements(plates)
    cells = np.zeros((rows // CELL + 1, cols // CELL + 1), np.uint8)
    told = Strayed(np.zeros(len(ways), np.int64), np.zeros(len(ways), np.int64), cells)
    steps = [((cmyk[..., k].astype(np.uint16) * (_LEVELS - 1) + 127) // 255).astype(np.uint16) for k in range(plates)]
    press = _Press(plates, condition, None if solids is None else solids.tobytes())
    light = press.light(steps)
    at = _near_edges(steps, shift_px)
    at = at[(at[:, 0] >= halo) & (at[:, 0] < rows - halo)]
    if shift_px == 0 or not len(at):
        return told
    kernel = np.ones((2 * shift_px + 1, 2 * shift_px + 1), np.uint8)
    limits = [
        plane[at[:, 0], at[:, 1]].astype(np.int16) for plane in (cv2.dilate(light, kernel), cv2.erode(light, kernel))
    ]
    step = round(SHOWS_L * 2.55)
    flat_at = at[:, 0] * cols + at[:, 1]
    cell = (at[:, 0] // CELL) * cells.shape[1] + at[:, 1] // CELL
    here = [plane.ravel()[flat_at] for plane in steps]
    there = {way: [plane.ravel()[_moved(at, way, shift_px, (rows, cols))] for plane in steps] for way in _DIRECTIONS}
    printed = [bool(plane.any()) for plane in here]
    for place, (some, way) in enumerate(ways):
        if not all(printed[k] for k in some if k >= 4):  # an ink that is not here opens nothing
            continue
        now = press.light([there[way][k] if k in some else here[k] for k in range(plates)]).astype(np.int16)
        gap = now - limits[0] >= step
        told.gaps[place] = int(gap.sum())
        told.halos[place] = int((limits[1] - now >= step).sum())
        if told.gaps[place]:
            counted = np.bincount(cell[gap], minlength=cells.size).reshape(cells.shape)
            np.maximum(cells, np.minimum(counted, 255).astype(np.uint8), out=cells)
    return told


def _moved(at: I64, way: tuple[int, int], shift_px: int, shape: tuple[int, int]) -> I64:
    """Return the flat places that come to lie at some places, (K, 2), when a plate is moved one way."""
    r = np.clip(at[:, 0] - way[0] * shift_px, 0, shape[0] - 1)
    return np.asarray(r * shape[1] + np.clip(at[:, 1] - way[1] * shift_px, 0, shape[1] - 1))


def _near_edges(steps: list[U16], shift_px: int) -> I64:
    edge = np.zeros(steps[0].shape, np.uint8)
    for plane in steps:
        edge[:, 1:] |= (plane[:, 1:] != plane[:, :-1]).view(np.uint8)
        edge[1:] |= (plane[1:] != plane[:-1]).view(np.uint8)
    reach = 2 * shift_px + 1
    return np.argwhere(cv2.dilate(edge, np.ones((reach, reach), np.uint8)) > 0)


@dataclass(frozen=True)
class _Press:
    """How light mixtures of inks are, each in 16 steps."""

    plates: int
    condition: str
    solids: bytes | None

    def light(self, steps: list[U16]) -> U8:
        """Return L* × 2.55 of mixtures, given as a plane of steps for every plate."""
        code = steps[0].copy()
        for k, plane in enumerate(steps[1:4], 1):
            code += plane << np.uint16(4 * k)
        if self.plates <= 4:
            return _table(min(self.plates, 4), self.condition)[code]
        y = _luminance(self.condition)[code]
        for k, plane in enumerate(steps[4:]):
            y *= self._left(k)[plane]
        return _light_table()[np.rint(y * _FINE).astype(np.uint16)]

    def _left(self, place: int) -> F32:
        solid = 0.4
        if self.solids is not None:
            solid = float(np.frombuffer(self.solids, np.float64).reshape(-1, 3)[place] @ LUMINANCE)
        return np.linspace(1, solid, _LEVELS, dtype=np.float32)


@lru_cache(maxsize=4)
def _table(plates: int, condition: str) -> U8:
    """Return L* × 2.55 of every mixture of up to four inks in 16 steps each."""
    index = np.arange(_LEVELS**plates)
    full = np.zeros((len(index), 4), np.uint8)
    full[:, :plates] = np.stack([(index >> 4 * k) % _LEVELS for k in range(plates)], axis=1) * 255 // (_LEVELS - 1)
    return np.rint(lightness_of(full, condition) * 2.55).astype(np.uint8)


@lru_cache(maxsize=4)
def _luminance(condition: str) -> F32:
    """Return the light, 0..1, that every mixture of four inks leaves."""
    light = _table(4, condition).astype(np.float32) / 2.55
    return np.where(light > 8, ((light + 16) / 116) ** 3, light * 27 / 24389).astype(np.float32)


@lru_cache(maxsize=1)
def _light_table() -> U8:
    """Return L* × 2.55 of light in `_FINE` steps."""
    y = np.arange(_FINE + 1) / _FINE
    light = np.where(y > (6 / 29) ** 3, 116 * np.cbrt(y) - 16, y * (29 / 3) ** 3)
    return np.rint(np.clip(light, 0, 100) * 2.55).astype(np.uint8)
