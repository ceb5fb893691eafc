"""Colour tables drawn through label planes, and line laid over them. Knows nothing of plates or pots."""

from dataclasses import dataclass
from typing import Any

import numpy as np
import numpy.typing as npt

from drip_pot.core.arrays import I32, U8, U32


@dataclass(frozen=True)
class Colors:
    """Tables of four-byte colours by atom.

    Attributes
    ----------
    flat : (2 * (A + 1),) ndarray of uint32
        Local colours, then shadow colours; each the four bytes of a pixel (red, green, blue, 255 on a screen;
        cyan, magenta, yellow, black on plates).
    line : (A + 1,) ndarray of uint32
        Colour of the line in each atom.
    """

    flat: U32
    line: U32


def pack(colors: npt.NDArray[Any]) -> U32:
    """Pack (…, 4) uint8 colours into (…,) uint32 table entries, in memory order."""
    return np.ascontiguousarray(colors, np.uint8).view(np.uint32)[..., 0]


def take_colors(labels: I32, shade: U8 | None, table: U32) -> U8:
    """Look up the flat colour of every pixel.

    Parameters
    ----------
    labels : (M, N) ndarray of int32
        Atom of every pixel.
    shade : (M, N) ndarray of uint8, or None
        1 in shadow; None draws everything in its local colour.
    table : (2 * (A + 1),) ndarray of uint32
        As `Colors.flat`.

    Returns
    -------
    (M, N, 4) ndarray of uint8
    """
    index = labels
    if shade is not None and shade.any():
        index = labels + shade.astype(np.int32) * (len(table) // 2)
    out: U8 = np.take(table, index, mode="clip").view(np.uint8).reshape(*labels.shape, 4)
    return out


def mix_line(flat: U8, ink: U8, line: U8) -> U8:
    """Lay line over flats: (M, N, 4) uint8 `flat` and `line`, mixed by (M, N) uint8 coverage, rounded."""
    out = flat.copy()
    where = np.flatnonzero(ink)
    part = ink.reshape(-1)[where, None].astype(np.uint16)  # 255 × 255 + 127 fits
    under, over = flat.reshape(-1, 4)[where], line.reshape(-1, 4)[where]
    out.reshape(-1, 4)[where] = (under * (255 - part) + over * part + 127) // 255
    return out
