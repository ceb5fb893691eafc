# SPDX-License-Identifier: GPL-3.0-or-later
"""The inks of what soft passes make of flats. Knows colour tables and planes; not how inks were chosen.

Most colours are looked up. Pots with inks of their own, fixed by hand or beside the four, begin at exactly those and
go on to the inks of the colour that is seen, so that a plate is continuous where a pass begins to cover.
"""

import numpy as np

from drip_pot.core.arrays import F64, I64, U8
from drip_pot.core.color import linear_to_srgb, srgb_to_linear
from drip_pot.core.press.lut import InkTable, inks_at
from drip_pot.core.press.plates import Plates, Printing
from drip_pot.core.render import Piece, alpha_of

_LEFT_AT, _FILLED_AT, _LEAST, _TELLS = 128.0, 64.0, 0.02, 0.35
_LINEAR = srgb_to_linear(np.arange(256) / 255)


def soft_inks(piece: Piece, where: I64, seen: U8, tone: U8 | None, printing: Printing) -> U8:
    """Return the inks, (K, P) uint8, of places of a piece, (K,), that are seen in colours, (K, 3) uint8 sRGB.

    `tone`, (M, N) uint8, tells plain shadow colours; the rest is as for `separate`.
    """
    plates, table = printing.plates, printing.mixed
    out = np.zeros((len(where), plates.inks.shape[1]), np.uint8)
    index = piece.labels.reshape(-1)[where].astype(np.int64)
    half = len(plates.flat) // 2
    if tone is not None:
        index += half * tone.reshape(-1)[where].astype(np.int64)
    own = None if plates.own is None else np.take(plates.own, index, mode="clip")
    mine = np.zeros(0, np.int64) if own is None else np.flatnonzero(own)
    if len(mine) < len(where):
        rest = slice(None) if own is None or not len(mine) else np.flatnonzero(~own)
        out[rest, :4] = inks_at(table(), np.ascontiguousarray(seen[rest]))
    if len(mine):
        started, bare = _start(piece, where[mine], index[mine], half, printing)
        out[mine] = _from_own(started, bare, seen[mine], plates, table())
    return out


def _start(piece: Piece, where: I64, index: I64, half: int, printing: Printing) -> tuple[F64, F64]:
    """Return the inks and the colours that places begin from: of flats, by coverage on to those of their shadow."""
    plates, screen, stack = printing.plates, printing.screen, printing.stack
    inks = plates.inks[np.take(plates.flat, index, mode="clip")].astype(np.float64)
    bare = np.take(screen.flat, index, axis=0, mode="clip")[:, :3].astype(np.float64)
    first = next(((w, c) for w, c in zip(stack, piece.covers, strict=False) if c is not None), None)
    alpha = None if first is None or not first[0].tone else alpha_of(first[0], first[1], piece.labels)
    if alpha is not None:
        part = np.where(index < half, alpha.reshape(-1)[where] / 255.0, 0.0)[:, None]
        dark = np.where(index < half, index + half, index)
        inks += (plates.inks[np.take(plates.flat, dark, mode="clip")] - inks) * part
        bare += (np.take(screen.flat, dark, axis=0, mode="clip")[:, :3] - bare) * part
    return inks, bare


def _from_own(started: F64, bare: F64, seen: U8, plates: Plates, table: InkTable) -> U8:
    """Go on from inks, (K, P), that print bare colours, (K, 3) of 0..255, to the inks of colours that are seen."""
    wanted, before = _LINEAR[seen], _LINEAR[np.rint(bare).astype(np.uint8)]
    spots = started[:, 4:].copy()
    left, left_before = np.ones_like(wanted), np.ones_like(before)
    for place in range(spots.shape[1]):
        taken = np.maximum(1 - (plates.solids[place] if plates.solids is not None else np.full(3, 0.4)), 0)
        tells = taken > min(_TELLS, 0.9 * float(taken.max()))  # what it hardly takes says little, and in coarse steps
        if taken.max() > _LEAST:
            room, had = (((1 - light)[:, tells] / taken[tells]).min(axis=1) for light in (wanted, before))
            spots[:, place] *= np.clip(room / np.maximum(np.minimum(had, 1), 1e-3), 0, 1)
        left *= 1 - spots[:, place, None] / 255 * taken
        left_before *= 1 - started[:, 4 + place, None] / 255 * taken
    exact, now = (_looked_up(table, light / np.maximum(keep, 1e-3))
                  for light, keep in ((wanted, left), (before, left_before)))  # fmt: skip
    away = np.abs(seen - bare).max(axis=1)[:, None]
    part = np.clip(away / _LEFT_AT, 0, 1)
    part = part * part * (3 - 2 * part)
    beside = np.asarray(started[:, 4:].any(axis=1))[:, None]  # the four fill up what a screened ink lets through
    more = (exact - now) * np.where(beside, np.clip(away / _FILLED_AT, 0, 1), 1.0)
    four = (1 - part) * (started[:, :4] + more) + part * exact
    return np.asarray(np.rint(np.clip(np.concatenate([four, spots], axis=1), 0, 255)), np.uint8)


def _looked_up(table: InkTable, light: F64) -> F64:
    rgb = np.rint(linear_to_srgb(np.clip(light, 0, 1)) * 255).astype(np.uint8)
    return inks_at(table, rgb).astype(np.float64)
