"""The plates of a piece of a page, any number of them. Knows colour tables and planes; not how inks were chosen."""

from collections.abc import Callable
from dataclasses import dataclass
from functools import cached_property

import cv2
import numpy as np

from drip_pot.core.arrays import U8, U16, U32, Bool
from drip_pot.core.press.lut import InkTable, inks_at
from drip_pot.core.render import Colors, Piece, Wash, alpha_of, flats_of, in_tone, take_colors

_COVERS = 230


@dataclass(frozen=True)
class Plates:
    """The inks of a page, by colour number, and the numbers by atom.

    Attributes
    ----------
    inks : (C + 1, P) ndarray of uint8
        Every colour once: cyan, magenta, yellow, black, then further plates; 255 is solid. Entry 0 is empty.
    flat : (2 * (A + 1),) ndarray of uint16
        Numbers of the local colours, then of the shadow colours.
    line : (A + 1,) ndarray of uint16
        Numbers of the line's colours.
    is_black : (A + 1,) ndarray of bool
        Where the line is black: it overprints. Other lines carry at least the inks of what is under them.
    limit : int
        Most ink on one spot, in 255ths of a solid over all plates; applied last of all.
    rich : int
        Number of the one mixture under large blacks; 0 is none.
    line_shadow : (A + 1,) ndarray of uint16, or None
        Numbers of the line's colours in shadow; None are the same.
    """

    inks: U8
    flat: U16
    line: U16
    is_black: Bool
    limit: int = 255 * 32
    rich: int = 0
    line_shadow: U16 | None = None

    @cached_property
    def colors(self) -> Colors:
        """The inks of flats and lines as tables by atom."""
        dark = None if self.line_shadow is None else self.inks[self.line_shadow]
        return Colors(self.inks[self.flat], self.inks[self.line], dark)


def plates_of(
    flat: U8, line: U8, is_black: Bool, limit: int = 255 * 32, rich: U8 | None = None, line_shadow: U8 | None = None
) -> Plates:
    """Give numbers to the inks of flats, (2 * (A + 1), P) uint8, and lines, (A + 1, P) uint8, in light and in shadow.

    `rich` (P,) uint8 is the one mixture under large blacks.
    """
    lines = line if line_shadow is None else np.concatenate([line, line_shadow])
    inks, number = np.unique(np.concatenate([flat, lines]), axis=0, return_inverse=True)
    numbers = (number.reshape(-1) + 1).astype(np.uint16)
    count = flat.shape[1]
    every = [np.zeros((1, count), np.uint8), inks]
    if rich is not None:
        every.append(np.pad(rich, (0, count - len(rich)))[None])
    table = np.concatenate(every)
    mixture, end = 0 if rich is None else len(table) - 1, len(flat) + len(line)
    dark = None if line_shadow is None else numbers[end:]
    return Plates(table, numbers[: len(flat)], numbers[len(flat) : end], is_black, limit, mixture, dark)


def overprint(cmyk: U8, black: U8) -> U8:
    """Print (M, N) uint8 coverage of black over (M, N, P) uint8 plates; the other inks stay as they are."""
    out = cmyk.copy()
    where = np.flatnonzero(black)
    count = cmyk.shape[2]
    under = cmyk.reshape(-1, count)[where, 3].astype(np.int32)
    out.reshape(-1, count)[where, 3] = under + ((255 - under) * black.reshape(-1)[where].astype(np.int32) + 127) // 255
    return out


def separate(
    piece: Piece, stack: list[Wash], screen: Colors, plates: Plates, table: Callable[[], InkTable],
    trap: U16 | None = None, *, line_apart: bool = False,
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
    line_apart : bool
        Leave out black that overprints, which is printed over this afterwards, solid, wherever it covers at all; the
        limit allows for it.

    Returns
    -------
    (M, N, P) ndarray of uint8
        Cyan, magenta, yellow, black and what further plates there are; 255 is solid.
    """
    tone, mixed = tone_of(piece, stack)
    out = take_colors(piece.labels, tone, plates.colors.flat)
    flat = out.reshape(-1, out.shape[2])
    if mixed:
        seen, soft = flats_of(piece, stack, screen)
        if soft is not None:
            where = np.flatnonzero(soft)
            flat[where] = 0
            flat[where, :4] = inks_at(table(), seen.reshape(-1, 4)[where, :3])
    black = black_line(piece, plates)
    if not plates.is_black.all():
        _lay_lines(flat, piece, stack, plates, cv2.subtract(piece.ink, black))
    if trap is not None and trap.any():
        where = np.flatnonzero(trap)
        numbers = trap.reshape(-1)[where]
        spread = plates.inks[numbers]
        enriched = (numbers == plates.rich)[:, None] & (plates.rich > 0)
        flat[where] = np.where(enriched, spread, np.maximum(flat[where], spread))
    if line_apart:
        room = within_limit(overprint(out, np.where(black > 0, 255, 0).astype(np.uint8)), plates.limit)
        room[..., 3] = np.minimum(out[..., 3], room[..., 3])
        return room
    return within_limit(overprint(out, black) if black.any() else out, plates.limit)


def _lay_lines(flat: U8, piece: Piece, stack: list[Wash], plates: Plates, ink: U8) -> None:
    """Lay coloured lines over flats, (M * N, P) uint8; they carry at least the inks under them: no halo of theirs."""
    where = np.flatnonzero(ink)
    if not len(where):
        return
    colors = plates.colors
    index = piece.line.reshape(-1)[where]
    tone = in_tone(piece, stack) if colors.line_shadow is not None else None
    if tone is not None:
        index = index + tone.reshape(-1)[where] * np.int32(len(colors.line))
    under = flat[where]
    over = np.maximum(np.take(colors.lines, index, axis=0, mode="clip"), under)
    part = ink.reshape(-1)[where, None].astype(np.uint16)  # 255 × 255 + 127 fits
    flat[where] = (under * (255 - part) + over * part + 127) // 255


def black_line(piece: Piece, plates: Plates) -> U8:
    """Return the coverage of black that overprints in a piece, (M, N) uint8."""
    if plates.is_black.all():
        return piece.ink
    return piece.ink * np.take(plates.is_black, piece.line, mode="clip").astype(np.uint8)


def within_limit(cmyk: U8, limit: int) -> U8:
    """Take ink away where (M, N, P) uint8 plates come to more than a limit (255 is one solid); black stays longest."""
    over = np.flatnonzero(_total(cmyk) > limit)
    if not len(over):
        return cmyk
    out = cmyk.copy()
    flat = out.reshape(-1, cmyk.shape[2])
    inks = flat[over].astype(np.int32)
    black = np.minimum(inks[:, 3:4], limit)
    rest = inks.sum(axis=1, keepdims=True) - inks[:, 3:4]
    inks = inks * (limit - black) // np.maximum(rest, 1)
    inks[:, 3:4] = black
    flat[over] = inks.astype(np.uint8)
    return out


def _total(cmyk: U8) -> U32:
    """Return the ink of all plates on every spot, (M, N)."""
    if cmyk.shape[2] != 4:
        return np.asarray(cmyk.sum(axis=2, dtype=np.uint32))
    four = np.ascontiguousarray(cmyk).view(np.uint32)[..., 0]  # four bytes at once
    pairs = (four & np.uint32(0xFF00FF)) + ((four >> np.uint32(8)) & np.uint32(0xFF00FF))
    return np.asarray((pairs & np.uint32(0xFFFF)) + (pairs >> np.uint32(16)))


def large_black(black: U8, depth_px: float, back_px: float) -> Bool:
    """Return where blacks that are deeper than some pixels are enriched: all of them but so many pixels at their edge.

    Parameters
    ----------
    black : (M, N) ndarray of uint8
        Coverage of overprinting black.
    depth_px, back_px : float
        How far the middle of a large black is from its edge, and how far what lies under it is held back.
    """
    depth = cv2.distanceTransform((black >= _COVERS).view(np.uint8), cv2.DIST_L2, 5)
    deep = (depth >= depth_px).view(np.uint8)
    if not deep.any():
        return np.zeros(black.shape, bool)
    away = cv2.distanceTransform(1 - deep, cv2.DIST_L2, 5)
    return np.asarray((depth > back_px) & (away <= depth_px - back_px + 1))


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
