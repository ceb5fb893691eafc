"""The four plates of a piece of a page. Knows colour tables and planes; nothing of how inks were chosen."""

from dataclasses import dataclass

import numpy as np

from drip_pot.core.arrays import I32, U8, U16, U32, Bool
from drip_pot.core.render import Colors, mix_line, take_colors


@dataclass(frozen=True)
class Plates:
    """Ink tables by atom.

    Attributes
    ----------
    colors : Colors
        Inks of flats and lines, the four bytes being cyan, magenta, yellow, black.
    is_black : (A + 1,) ndarray of bool
        Where the line is black: it overprints. Other lines knock out what is under them.
    spread : (C + 1,) ndarray of uint32
        Inks by colour number, for traps; entry 0 is empty.
    """

    colors: Colors
    is_black: Bool
    spread: U32


def overprint(cmyk: U8, black: U8) -> U8:
    """Print (M, N) uint8 coverage of black over (M, N, 4) uint8 plates; the other inks stay as they are."""
    out = cmyk.copy()
    where = np.flatnonzero(black)
    under = cmyk.reshape(-1, 4)[where, 3].astype(np.int32)
    out.reshape(-1, 4)[where, 3] = under + ((255 - under) * black.reshape(-1)[where].astype(np.int32) + 127) // 255
    return out


def separate(labels: I32, shade: U8 | None, ink: U8, line_labels: I32, plates: Plates, trap: U16 | None = None) -> U8:
    """Separate a piece of a page.

    Parameters
    ----------
    labels, line_labels : (M, N) ndarrays of int32
        Atom of every pixel; atom that its line takes colour from.
    shade : (M, N) ndarray of uint8, or None
        1 in shadow.
    ink : (M, N) ndarray of uint8
        Line coverage.
    plates : Plates
        Ink tables.
    trap : (M, N) ndarray of uint16, optional
        Colour number spread into each pixel, 0 for none.

    Returns
    -------
    (M, N, 4) ndarray of uint8
        Cyan, magenta, yellow, black; 255 is solid.
    """
    out = take_colors(labels, shade, plates.colors.flat)
    black = ink
    if not plates.is_black.all():
        is_black = np.take(plates.is_black, line_labels, mode="clip").astype(np.uint8)
        black = ink * is_black
        colored = ink - black
        out = mix_line(out, colored, take_colors(line_labels, None, plates.colors.line))
    if trap is not None and trap.any():
        extra = np.take(plates.spread, trap).view(np.uint8).reshape(*trap.shape, 4)
        out = np.maximum(out, extra)
    return overprint(out, black) if black.any() else out
