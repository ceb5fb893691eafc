# SPDX-License-Identifier: GPL-3.0-or-later
"""The inks of what soft passes make of flats. Knows colour tables and planes; not how inks were chosen.

Most colours are looked up. Pots with inks of their own, fixed by hand or beside the four, begin at exactly those and
go on to the inks of the colour that is seen, so that a plate is continuous where a pass begins to cover.
"""

from dataclasses import dataclass

import numpy as np

from drip_pot.core.arrays import F64, I32, I64, U8, Bool
from drip_pot.core.color import linear_to_oklab, linear_to_srgb, srgb_to_linear
from drip_pot.core.press.conditions import CONDITIONS
from drip_pot.core.press.lut import InkTable, inks_at
from drip_pot.core.press.plates import Plates, Printing
from drip_pot.core.render import Piece, Wash, alpha_of

_LEFT_AT, _FILLED_AT, _LEAST, _TELLS = 128.0, 64.0, 0.02, 0.35
_FEW = 100_000
_BORNE, _GIVES_WAY = 3.0, 18.0  # OKLab × 100
_OWN = np.int64(1) << 48
"""Marks the codes of pots with inks of their own."""
_LINEAR = srgb_to_linear(np.arange(256) / 255)


@dataclass(frozen=True)
class Mixed:
    """What soft passes make of a piece, every colour once.

    Attributes
    ----------
    where : (K,) ndarray of int64
        Flat places of pixels that have not just the local or the shadow colour of their atom.
    which : (K,) ndarray of int64
        Which of the colours each has.
    codes : (C,) ndarray of int64
        What tells the colours apart, on other pieces too.
    inks : (C, P) ndarray of uint8
        Their inks.
    """

    where: I64
    which: I64
    codes: I64
    inks: U8


def mixed_inks(piece: Piece, tone: U8 | None, seen: U8, soft: Bool, printing: Printing) -> Mixed:
    """Work out the inks of what soft passes make of a piece.

    Parameters
    ----------
    piece : Piece
        Its planes.
    tone : (M, N) ndarray of uint8, or None
        1 where it has the plain shadow colours of its atoms.
    seen : (M, N, 4) ndarray of uint8
        What is seen of it without the line, sRGB and 255.
    soft : (M, N) ndarray of bool
        Where passes mixed colours.
    printing : Printing
        As for `separate`.
    """
    plates = printing.plates
    where = np.flatnonzero(soft)
    red, green, blue = (seen.reshape(-1, 4)[where, k].astype(np.int32) for k in range(3))
    codes = red << 16 | green << 8 | blue
    index = piece.labels.reshape(-1)[where]
    half = len(plates.flat) // 2
    if tone is not None:
        index = index + np.int32(half) * tone.reshape(-1)[where].astype(np.int32)
    own = np.zeros(0, bool) if plates.own is None else np.take(plates.own, index, mode="clip")
    if not own.any():
        which, different = _numbered(codes)
        return Mixed(where, which, different, printing.looked_up(_colors(different)))
    mine, rest = np.flatnonzero(own), np.flatnonzero(~own)
    which = np.empty(len(where), np.int64)
    which[rest], plain = _numbered(codes[rest])
    alpha = _covered(piece, printing.stack)
    told = np.zeros(len(mine), np.int64) if alpha is None else alpha.reshape(-1)[where[mine]].astype(np.int64)
    numbers = np.take(plates.flat, index[mine], mode="clip").astype(np.int64)
    several = codes[mine].astype(np.int64) << 24 | numbers << 8 | told
    different, first, place = np.unique(several | _OWN, return_index=True, return_inverse=True)
    which[mine] = place.reshape(-1) + len(plain)
    some = mine[first]
    started, bare = _start(index[some].astype(np.int64), told[first], half, printing)
    inks = _from_own(started, bare, _colors(codes[some]), plates, printing.mixed())
    return Mixed(
        where, which, np.concatenate([plain, different]), np.concatenate([printing.looked_up(_colors(plain)), inks])
    )


def _numbered(codes: I32) -> tuple[I64, I64]:
    """Tell which colour each of (K,) codes of 24 bits is, and what they are, in order."""
    if len(codes) < _FEW:
        few, which = np.unique(codes, return_inverse=True)
        return which.reshape(-1).astype(np.int64), few.astype(np.int64)
    there = np.zeros(1 << 24, bool)
    there[codes] = True
    different = np.flatnonzero(there).astype(np.int64)
    numbers = np.empty(1 << 24, np.int32)
    numbers[different] = np.arange(len(different))
    return numbers[codes].astype(np.int64), different


def _colors(codes: I32 | I64) -> U8:
    return np.stack([codes >> 16 & 255, codes >> 8 & 255, codes & 255], axis=1).astype(np.uint8)


def _covered(piece: Piece, stack: list[Wash]) -> U8 | None:
    """Return how far the lowest pass covers a piece, where it is one of shadow."""
    first = next(((w, c) for w, c in zip(stack, piece.covers, strict=False) if c is not None), None)
    return None if first is None or not first[0].tone else alpha_of(first[0], first[1], piece.labels)


def _start(index: I64, alpha: I64, half: int, printing: Printing) -> tuple[F64, F64]:
    """Return the inks and the colours that places begin from: of flats, by coverage on to those of their shadow."""
    plates, screen = printing.plates, printing.screen
    inks = plates.inks[np.take(plates.flat, index, mode="clip")].astype(np.float64)
    bare = np.take(screen.flat, index, axis=0, mode="clip")[:, :3].astype(np.float64)
    part = np.where(index < half, alpha / 255.0, 0.0)[:, None]
    dark = np.where(index < half, index + half, index)
    inks += (plates.inks[np.take(plates.flat, dark, mode="clip")] - inks) * part
    bare += (np.take(screen.flat, dark, axis=0, mode="clip")[:, :3] - bare) * part
    return inks, bare


def _from_own(started: F64, bare: F64, seen: U8, plates: Plates, table: InkTable) -> U8:
    """Go on from inks, (K, P), that print bare colours, (K, 3) of 0..255, to the inks of colours that are seen."""
    wanted, before = _LINEAR[seen], _LINEAR[np.rint(bare).astype(np.uint8)]
    spots = started[:, 4:].copy()
    for place in range(spots.shape[1]):
        taken = _taken(plates, place)
        tells = taken > min(_TELLS, 0.9 * float(taken.max()))  # what it hardly takes says little, and in coarse steps
        if taken.max() > _LEAST:
            room, had = (((1 - light)[:, tells] / taken[tells]).min(axis=1) for light in (wanted, before))
            spots[:, place] *= np.clip(room / np.maximum(np.minimum(had, 1), 1e-3), 0, 1)
    away = np.abs(seen - bare).max(axis=1)[:, None]
    part = np.clip(away / _LEFT_AT, 0, 1)
    part = part * part * (3 - 2 * part)
    spots *= 1 - part * _given_way(spots, wanted, plates, table)[:, None]
    begun = _left(started[:, 4:], plates)
    exact, now = (_looked_up(table, light / np.maximum(keep, 1e-3))
                  for light, keep in ((wanted, _left(spots, plates)), (before, begun)))  # fmt: skip
    beside = np.asarray(started[:, 4:].any(axis=1))[:, None]  # the four fill up what a screened ink lets through
    more = (exact - now) * np.where(beside, np.clip(away / _FILLED_AT, 0, 1), 1.0)
    four = (1 - part) * (started[:, :4] + more) + part * exact
    return np.asarray(np.rint(np.clip(np.concatenate([four, spots], axis=1), 0, 255)), np.uint8)


def _left(spots: F64, plates: Plates) -> F64:
    """Return the light, (K, 3) of 0..1, that inks beside the four leave, (K, S) of 0..255."""
    left = np.ones((len(spots), 3))
    for place in range(spots.shape[1]):
        left *= 1 - spots[:, place, None] / 255 * _taken(plates, place)
    return left


def _taken(plates: Plates, place: int) -> F64:
    """Return the light that a solid of an ink beside the four takes, (3,) of 0..1."""
    leaves = np.full(3, 0.6) if plates.solids is None else plates.solids[place]
    return np.asarray(np.maximum(1 - leaves, 0))


def _given_way(spots: F64, wanted: F64, plates: Plates, table: InkTable) -> F64:
    """Return how far inks beside the four, (K, S), give way, (K,) of 0..1, as light wanted, (K, 3), is missed.

    Cyan takes some blue, and so on: a colour far from that of the ink beside them comes out too dark over it.
    """
    if not spots.any():
        return np.zeros(len(spots))
    left = _left(spots, plates)
    four = CONDITIONS[plates.condition].light(_looked_up(table, wanted / np.maximum(left, 1e-3)) / 255)
    seen, meant = (linear_to_oklab(np.clip(light, 0, 1)) for light in (four * left, wanted))
    missed = 100 * np.linalg.norm(seen - meant, axis=1)
    return np.asarray(np.clip((missed - _BORNE) / _GIVES_WAY, 0, 1))


def _looked_up(table: InkTable, light: F64) -> F64:
    rgb = np.rint(linear_to_srgb(np.clip(light, 0, 1)) * 255).astype(np.uint8)
    return inks_at(table, rgb).astype(np.float64)
