# SPDX-License-Identifier: GPL-3.0-or-later
"""Colour tables drawn through label planes, and line laid over them. Knows nothing of plates or pots."""

from dataclasses import dataclass
from functools import cached_property

import numpy as np

from drip_pot.core.arrays import I32, I64, U8, U16, Bool


@dataclass(frozen=True)
class Colors:
    """Tables of colours by atom, of C channels: red, green, blue, 255 on a screen; a channel a plate on a press.

    Attributes
    ----------
    flat : (2 * (A + 1), C) ndarray of uint8
        Local colours, then shadow colours.
    line : (A + 1, C) ndarray of uint8
        Colour of the line in each atom.
    line_shadow : (A + 1, C) ndarray of uint8, or None
        Its colour where the atom is in shadow; None is the same.
    follows : (A + 1,) ndarray of bool, or None
        Where the line is darkened as soft shade darkens what lies under it.
    """

    flat: U8
    line: U8
    line_shadow: U8 | None = None
    follows: Bool | None = None

    @cached_property
    def lines(self) -> U8:
        """The colours of the line, then those in shadow, (2 * (A + 1), C) uint8."""
        return np.concatenate([self.line, self.line if self.line_shadow is None else self.line_shadow])


def take_colors(labels: I32, shade: U8 | None, table: U8) -> U8:
    """Look up the flat colour of every pixel.

    Parameters
    ----------
    labels : (M, N) ndarray of int32
        Atom of every pixel.
    shade : (M, N) ndarray of uint8, or None
        1 in shadow; None draws everything in its local colour.
    table : (2 * (A + 1), C) ndarray of uint8
        As `Colors.flat`.

    Returns
    -------
    (M, N, C) ndarray of uint8
    """
    index = labels
    if shade is not None and shade.any():
        index = labels + shade.astype(np.int32) * (len(table) // 2)
    if table.shape[1] == 4:  # one look-up of four bytes is four times as fast as four
        out: U8 = np.take(np.ascontiguousarray(table).view(np.uint32)[:, 0], index, mode="clip").view(np.uint8)
        return out.reshape(*labels.shape, 4)
    return np.take(table, index, axis=0, mode="clip")


def mix_line(flat: U8, where: I64, ink: U16, line: U8, paper: U16 | None = None) -> U8:
    """Lay line over flats.

    Parameters
    ----------
    flat : (M, N, C) ndarray of uint8
        What it is laid on.
    where : (K,) ndarray of int64
        Flat places of the line.
    ink : (K,) ndarray of uint16
        Coverage, 0..255.
    line : (K, C) ndarray of uint8
        Its colours.
    paper : (K,) ndarray of uint16, optional
        How much of the flat is left out for white, 0..255 with `ink`.
    """
    out = flat.copy()
    count = flat.shape[2]
    under = out.reshape(-1, count)[where].astype(np.uint16)  # 255 × 255 + 127 fits
    part = ink[:, None].astype(np.uint16)
    bare = np.uint16(0) if paper is None else paper[:, None]
    out.reshape(-1, count)[where] = (under * (255 - part - bare) + line * part + 255 * bare + 127) // 255
    return out
