"""The four plates of a piece of a page. Knows colour tables and planes; nothing of how inks were chosen."""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from drip_pot.core.arrays import U8, U16, U32, Bool
from drip_pot.core.press.lut import InkTable, inks_at
from drip_pot.core.render import Colors, Piece, Wash, alpha_of, flats_of, mix_line, take_colors


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


def separate(
    piece: Piece, stack: list[Wash], screen: Colors, plates: Plates, table: Callable[[], InkTable],
    trap: U16 | None = None,
) -> U8:  # fmt: skip
    """Separate a piece of a page.

    Parameters
    ----------
    piece : Piece
        Its planes.
    stack : list of Wash
        The passes.
    screen : Colors
        What it is drawn with on a screen; where passes mix colours, inks follow from it.
    plates : Plates
        Ink tables; flats and hard shadows keep these inks exactly.
    table : callable
        Returns the inks of mixed colours; called only where there are any.
    trap : (M, N) ndarray of uint16, optional
        Colour number spread into each pixel, 0 for none.

    Returns
    -------
    (M, N, 4) ndarray of uint8
        Cyan, magenta, yellow, black; 255 is solid.
    """
    tone, mixed = tone_of(piece, stack)
    out = take_colors(piece.labels, tone, plates.colors.flat)
    if mixed:
        flat, soft = flats_of(piece, stack, screen)
        if soft is not None:
            out[soft] = inks_at(table(), flat[soft][:, :3])
    black = piece.ink
    if not plates.is_black.all():
        is_black = np.take(plates.is_black, piece.line, mode="clip").astype(np.uint8)
        black = piece.ink * is_black
        out = mix_line(out, piece.ink - black, take_colors(piece.line, None, plates.colors.line))
    if trap is not None and trap.any():
        extra = np.take(plates.spread, trap).view(np.uint8).reshape(*trap.shape, 4)
        out = np.maximum(out, extra)
    return overprint(out, black) if black.any() else out


def tone_of(piece: Piece, stack: list[Wash]) -> tuple[U8 | None, bool]:
    """Find where a piece has the plain shadow colour of its atoms.

    Returns
    -------
    tone : (M, N) ndarray of uint8, or None
        1 there, else 0; None is nowhere.
    mixed : bool
        Whether there may be other colours than local and shadow ones.
    """
    tone: U8 | None = None
    first = True
    for wash, cover in zip(stack, piece.covers, strict=False):
        alpha = alpha_of(wash, cover, piece.labels)
        if alpha is None:
            continue
        if not first or not wash.tone:
            return tone, True
        first = False
        tone = (alpha == 255).view(np.uint8)
        if np.count_nonzero(alpha) != np.count_nonzero(tone):
            return tone, True
    return tone, False
