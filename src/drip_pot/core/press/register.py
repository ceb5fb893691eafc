# SPDX-License-Identifier: GPL-3.0-or-later
"""The register test: plates moved against each other, and what shows that should not. Knows plates only."""

from dataclasses import dataclass
from functools import lru_cache
from itertools import combinations

import cv2
import numpy as np

from drip_pot.core.arrays import I64, U8
from drip_pot.core.errors import BadInput
from drip_pot.core.press.model import lightness_of

SHOWS_L = 8.0
"""A place is a gap when it is so much lighter, a halo when so much darker, than all there is about it in register."""

_LEVELS = 16
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
    """Return every way to move some of the plates against the others, in eight directions: plates, (rows, cols).

    Moving some one way is as moving the rest the other way, so that the last plate always stays.
    """
    some = [s for n in range(1, plates) for s in combinations(range(plates - 1), n)]
    return [(s, way) for s in some for way in _DIRECTIONS]


def strayed(cmyk: U8, shift_px: int, condition: str = "coated", halo: int = 0) -> Strayed:
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
    kind = np.dtype(np.uint16 if plates <= 4 else np.int32)  # sixteen steps to the power of plates
    steps = [((cmyk[..., k].astype(np.uint16) * (_LEVELS - 1) + 127) // 255).astype(np.int32) for k in range(plates)]
    codes = [(plane * _LEVELS**k).astype(kind) for k, plane in enumerate(steps)]
    whole = sum(codes[1:], codes[0])
    light = _table(plates, condition)[whole]
    at = _near_edges(whole, shift_px)
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
    table = _table(plates, condition)
    here = [plane.ravel()[flat_at] for plane in codes]
    there = {way: [plane.ravel()[_moved(at, way, shift_px, (rows, cols))] for plane in codes] for way in _DIRECTIONS}
    for place, (some, way) in enumerate(ways):
        mixed = np.sum([there[way][k] if k in some else here[k] for k in range(plates)], axis=0, dtype=kind)
        now = table[mixed].astype(np.int16)
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


def _near_edges(codes: I64, shift_px: int) -> I64:
    edge = np.zeros(codes.shape, np.uint8)
    edge[:, 1:] |= (codes[:, 1:] != codes[:, :-1]).view(np.uint8)
    edge[1:] |= (codes[1:] != codes[:-1]).view(np.uint8)
    reach = 2 * shift_px + 1
    return np.argwhere(cv2.dilate(edge, np.ones((reach, reach), np.uint8)) > 0)


@lru_cache(maxsize=4)
def _table(plates: int, condition: str) -> U8:
    """Return L* × 2.55 of every mixture of inks in 16 steps each; a further ink takes light away evenly."""
    count = min(plates, 4)
    index = np.arange(_LEVELS**count)
    inks = np.stack([(index // _LEVELS**k) % _LEVELS for k in range(count)], axis=1) * 255 // (_LEVELS - 1)
    full = np.zeros((len(inks), 4), np.uint8)
    full[:, :count] = inks
    light = np.rint(lightness_of(full, condition) * 2.55).astype(np.uint8)
    for _ in range(4, plates):
        spot = np.linspace(1, 0.6, _LEVELS)[:, None]
        light = np.rint(spot * light[None]).astype(np.uint8).reshape(-1)
    return light
