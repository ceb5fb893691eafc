# SPDX-License-Identifier: GPL-3.0-or-later
"""The plates of a piece of a page, any number of them. Knows colour tables and planes; not how inks were chosen."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import cached_property, partial

import cv2
import numpy as np

from drip_pot.core.arrays import F32, F64, U8, U16, U32, Bool
from drip_pot.core.press.lut import InkTable, inks_at
from drip_pot.core.press.model import lightness_of
from drip_pot.core.press.soft import soft_inks
from drip_pot.core.render import (
    Colors,
    Line,
    LineWash,
    Piece,
    Wash,
    alpha_of,
    flats_of,
    in_tone,
    line_in,
    shade_under,
    take_colors,
    times,
    wash_alpha,
    wash_colors,
)

_COVERS = 230
_PASTEL_L, _DARKER_L = 70.0, 5.0
PART = 24
_NUMBER = np.uint32((1 << PART) - 1)
NO_WASHES: list[tuple[U8, U8, Bool]] = []


@dataclass(frozen=True)
class WashInks:
    """The inks of what lies over the line: numbers by row in light and in shadow, (R,) uint16, and which are black."""

    light: U16
    dark: U16
    is_black: Bool


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
        Where the line is black: it overprints. Other lines print in their own inks, and leave out what is under them.
    limit : int
        Most ink on one spot, in 255ths of a solid over all plates; applied last of all.
    rich : int
        Number of the one mixture under large blacks; 0 is none.
    line_shadow : (A + 1,) ndarray of uint16, or None
        Numbers of the line's colours in shadow; None are the same.
    washes : tuple of WashInks
        Of the washes over the line, in their order.
    condition : str
        The press, one of `CONDITIONS`.
    own : (2 * (A + 1),) ndarray of bool, or None
        Flats whose inks were not worked out from their colour; None is nowhere.
    solids : (P - 4, 3) ndarray of float64, or None
        Linear light, 0..1, that a solid of every further plate leaves.
    """

    inks: U8
    flat: U16
    line: U16
    is_black: Bool
    limit: int = 255 * 32
    rich: int = 0
    line_shadow: U16 | None = None
    washes: tuple[WashInks, ...] = ()
    condition: str = "coated"
    own: Bool | None = None
    solids: F64 | None = None

    @property
    def all_black(self) -> bool:
        """Whether every line overprints."""
        return not self.washes and bool(self.is_black.all())

    @cached_property
    def colors(self) -> Colors:
        """The inks of flats and lines as tables by atom."""
        dark = None if self.line_shadow is None else self.inks[self.line_shadow]
        return Colors(self.inks[self.flat], self.inks[self.line], dark)


def plates_of(
    flat: U8, line: U8, is_black: Bool, limit: int = 255 * 32, rich: U8 | None = None, line_shadow: U8 | None = None,
    washes: list[tuple[U8, U8, Bool]] = NO_WASHES, condition: str = "coated",
) -> Plates:  # fmt: skip
    """Give numbers to the inks of flats, (2 * (A + 1), P) uint8, and lines, (A + 1, P) uint8, in light and in shadow.

    `rich` (P,) uint8 is the one mixture under large blacks; `washes` are the inks of what lies over the line, in light
    and in shadow, and where they are black.
    """
    dark = [] if line_shadow is None else [line_shadow]
    every = [flat, line, *dark, *(table for light, shade, _ in washes for table in (light, shade))]
    inks, number = np.unique(np.concatenate(every), axis=0, return_inverse=True)
    ends = np.cumsum([len(table) for table in every])[:-1]
    numbers = np.split((number.reshape(-1) + 1).astype(np.uint16), ends)
    count = flat.shape[1]
    tables = [np.zeros((1, count), np.uint8), inks]
    if rich is not None:
        tables.append(np.pad(rich, (0, count - len(rich)))[None])
    table = np.concatenate(tables)
    rest = numbers[2 + len(dark) :]
    washed = tuple(WashInks(rest[2 * k], rest[2 * k + 1], black) for k, (_, _, black) in enumerate(washes))
    return Plates(table, numbers[0], numbers[1], is_black, limit, 0 if rich is None else len(table) - 1,
                  numbers[2] if dark else None, washed, condition)  # fmt: skip


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
    trap: U32 | None = None, *, washes: tuple[LineWash, ...] = (), line_apart: bool = False,
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
    trap : (M, N) ndarray of uint32, optional
        What is spread into each pixel, as `Traps.spread`.
    washes : tuple of LineWash
        What lies over the line's colours, as numbered in `plates`.
    line_apart : bool
        Leave out black that overprints, which is printed over this afterwards; see `under_dots`.

    Returns
    -------
    (M, N, P) ndarray of uint8
        Cyan, magenta, yellow, black and what further plates there are; 255 is solid.
    """
    return separate_each(piece, stack, screen, plates, table, (trap,), washes=washes, line_apart=line_apart)[0]


def separate_each(
    piece: Piece, stack: list[Wash], screen: Colors, plates: Plates, table: Callable[[], InkTable],
    traps: Sequence[U32 | None], *, washes: tuple[LineWash, ...] = (), line_apart: bool = False,
) -> list[U8]:  # fmt: skip
    """Separate a piece of a page as `separate` does, once with each of some traps; all but these is done once.

    Traps are (M, N) uint32 as of `find_traps`; each result is (M, N, P) uint8, 0 no ink, 255 solid.
    """
    tone, mixed = tone_of(piece, stack)
    out = take_colors(piece.labels, tone, plates.colors.flat)
    flat = out.reshape(-1, out.shape[2])
    shade = None
    if mixed:
        seen, soft = flats_of(piece, stack, screen)
        if not plates.all_black:
            shade = partial(shade_under, seen, piece, screen, soft=soft)
        if soft is not None:
            where = np.flatnonzero(soft)
            flat[where] = soft_inks(piece, stack, where, seen.reshape(-1, 4)[where, :3], tone, screen, plates, table)
    black = piece.ink
    if not plates.all_black:
        black = _lay_lines(flat, piece, stack, screen, plates, washes, table, shade)
    last = len(traps) - 1
    found = (_with_trap(out if place == last else out.copy(), trap, plates) for place, trap in enumerate(traps))
    return [_overprinted(inks, black, plates, line_apart=line_apart) for inks in found]


def _with_trap(out: U8, trap: U32 | None, plates: Plates) -> U8:
    """Spread colours, (M, N) uint32 as `Traps.spread`, into (M, N, P) uint8 inks, which are changed."""
    if trap is not None and trap.any():
        flat, where = out.reshape(-1, out.shape[2]), np.flatnonzero(trap)
        numbers, left = trap.reshape(-1)[where] & _NUMBER, (trap.reshape(-1)[where] >> np.uint32(PART))[:, None]
        spread, own = plates.inks[numbers], flat[where]
        enriched = (numbers == plates.rich)[:, None] & (plates.rich > 0)
        full = np.where(enriched, spread, _trapped(own, spread, plates)).astype(np.uint32)
        flat[where] = (full * (255 - left) + own * left + 127) // 255
    return out


def _overprinted(out: U8, black: U8, plates: Plates, *, line_apart: bool) -> U8:
    """Print black over inks, but where the line is printed apart; none is above the limit."""
    return within_limit(overprint(out, black) if black.any() and not line_apart else out, plates.limit)


def is_heavy(cmyk: U8, limit: int) -> Bool:
    """Tell where (M, N, P) uint8 plates leave no room for a solid of black within a limit (255 is one solid)."""
    return np.asarray(_total(cmyk) - cmyk[..., 3] + 255 > limit)


def under_dots(cmyk: U8, dots: Bool, limit: int) -> U8:
    """Return (M, N, P) uint8 plates lowered to leave room within a limit for dots of solid black, (M, N) bool."""
    where = np.flatnonzero(dots)
    if not len(where):
        return cmyk
    out = cmyk.copy()
    flat = out.reshape(-1, out.shape[2])
    inks = flat[where]
    full = inks.copy()
    full[:, 3] = 255
    room = within_limit(full[None], limit)[0]
    room[:, 3] = np.minimum(inks[:, 3], room[:, 3])
    flat[where] = room
    return out


def _trapped(own: U8, spread: U8, plates: Plates) -> U8:
    """Return the inks of traps, (N, P) uint8: the greater of each; between pastels less, so that no line shows.

    Where both sides are light, a trap in the full inks of both would be seen in perfect register: it is made so weak
    that it is at most 5 L* darker than the darker side.
    """
    both = np.ascontiguousarray(np.concatenate([own, spread], axis=1))
    kinds, which = np.unique(both.view(np.dtype((np.void, both.shape[1])))[:, 0], return_inverse=True)
    pairs, count = kinds.view(np.uint8).reshape(-1, both.shape[1]), own.shape[1]
    mine, other = pairs[:, :count], pairs[:, count:]
    full = np.maximum(mine, other)
    light = partial(lightness_of, condition=plates.condition, solids=plates.solids)
    darker = np.minimum(light(mine), light(other))
    shows = (darker > _PASTEL_L) & (light(full) < darker - _DARKER_L)
    low, high = np.zeros(len(pairs)), np.where(shows, 1.0, 0.0)
    more = (full - mine).astype(np.float64)
    for _ in range(8 if shows.any() else 0):
        middle = (low + high) / 2
        tried = (mine + np.rint(more * middle[:, None])).astype(np.uint8)
        fits = light(tried) >= darker - _DARKER_L
        low, high = np.where(fits, middle, low), np.where(fits, high, middle)
    share = np.where(shows, low, 1.0)
    return np.asarray((mine + np.rint(more * share[:, None])).astype(np.uint8)[which])


def _lay_lines(
    flat: U8, piece: Piece, stack: list[Wash], screen: Colors, plates: Plates, washes: tuple[LineWash, ...],
    table: Callable[[], InkTable], shade: Callable[[Line], F32 | None] | None,
) -> U8:  # fmt: skip
    """Lay coloured lines over flats, (M * N, P) uint8, and return the black that overprints, (M, N) uint8.

    Coloured lines print in their own inks, so that they look on press as they do on the screen; where those are at
    least the inks beneath in every plate, that is as if they overprinted. What is left out to paper carries none.
    """
    tone = in_tone(piece, stack) if plates.line_shadow is not None or washes else None
    line = line_in(piece.line, piece.ink, tone, len(plates.line))
    black = np.zeros(piece.ink.shape, np.uint8)
    if not len(line.where):
        return black
    left = None if shade is None else shade(line)
    parts = _parted(line, piece, screen, plates, washes, table, left)
    black.reshape(-1)[line.where] = parts.black
    under = flat[line.where]
    part, bare = parts.colored[:, None], parts.paper[:, None]
    flat[line.where] = (under * (255 - part - bare) + parts.inks * part + 127) // 255
    return black


@dataclass(frozen=True)
class _Parts:
    """What pixels of line are made of: coloured coverage and its inks, black coverage, bare paper."""

    colored: U16
    inks: U8
    black: U16
    paper: U16


def _parted(
    line: Line, piece: Piece, screen: Colors, plates: Plates, washes: tuple[LineWash, ...],
    table: Callable[[], InkTable], shade: F32 | None,
) -> _Parts:  # fmt: skip
    """Tell how much of every pixel of line is coloured, black, or left out to paper."""
    half = len(plates.line)
    is_black = plates.is_black[line.rows]
    inks: U8 = plates.colors.lines[line.rows + np.where(line.dark, half, 0)]
    if shade is not None and screen.follows is not None:
        chosen = np.flatnonzero((shade < 1) & screen.follows[line.rows] & ~is_black)
        toned = screen.lines[line.rows + np.where(line.dark, half, 0)][chosen, :3] * shade[chosen, None]
        inks[chosen] = _mixed_inks(table, np.rint(toned).astype(np.uint8), inks.shape[1])
    colored, black = np.where(is_black, 0, line.ink), np.where(is_black, line.ink, 0)
    paper = np.zeros_like(line.ink)
    shape = piece.ink.shape[0], piece.ink.shape[1]
    for wash, number, share in zip(washes, plates.washes, piece.shares, strict=False):
        alpha = wash_alpha(wash, line, share)
        if not alpha.any():
            continue
        if wash.form != "color":
            colored, black, paper = (times(plane, 255 - alpha) for plane in (colored, black, paper))
            paper = paper + times(line.ink, alpha) if wash.form == "paper" else paper
            continue
        rgb, cover = wash_colors(wash, line, (piece.top, piece.left, piece.step), shape)
        alpha = times(alpha, cover)
        dark = number.is_black[line.rows] & (wash.ramp is None)
        gain = times(line.ink, alpha)
        over = plates.inks[np.where(line.dark, number.dark[line.rows], number.light[line.rows])]
        follows = np.zeros(len(rgb), bool) if shade is None or not wash.follows else shade < 1
        loose = np.flatnonzero((follows | (wash.ramp is not None)) & ~dark & (gain > 0))
        if len(loose):
            seen = rgb[loose].astype(np.float32)
            if shade is not None and wash.follows:
                seen *= shade[loose, None]
            over[loose] = _mixed_inks(table, np.asarray(np.rint(seen), np.uint8), inks.shape[1])
        colored, black, paper = (times(plane, 255 - alpha) for plane in (colored, black, paper))
        full = colored + np.where(dark, 0, gain)
        part = (255 * np.where(dark, 0, gain).astype(np.uint32) // np.maximum(full, 1))[:, None].astype(np.uint16)
        inks = ((inks * (255 - part) + over * part + 127) // 255).astype(np.uint8)
        colored, black = full, black + np.where(dark, gain, 0)
    colored, black, paper = (plane.astype(np.uint16) for plane in (colored, black, paper))
    return _Parts(colored, inks, black, paper)


def _mixed_inks(table: Callable[[], InkTable], rgb: U8, plates: int) -> U8:
    out = np.zeros((len(rgb), plates), np.uint8)
    out[:, :4] = inks_at(table(), np.ascontiguousarray(rgb))
    return out


def black_line(piece: Piece, plates: Plates, washes: tuple[LineWash, ...] = ()) -> U8:
    """Return the coverage of black that overprints in a piece, (M, N) uint8."""
    if plates.all_black:
        return piece.ink
    line = line_in(piece.line, piece.ink, None, len(plates.line))
    black = np.where(plates.is_black[line.rows], line.ink, 0).astype(np.uint16)
    for wash, number, share in zip(washes, plates.washes, piece.shares, strict=False):
        alpha = wash_alpha(wash, line, share)
        black = times(black, 255 - alpha)
        if wash.form == "color" and wash.ramp is None:
            black = black + np.where(number.is_black[line.rows], times(line.ink, alpha), 0)
    out = np.zeros(piece.ink.shape, np.uint8)
    out.reshape(-1)[line.where] = black
    return out


def within_limit(cmyk: U8, limit: int) -> U8:
    """Take ink away where (M, N, P) uint8 plates come to more than a limit (255 is one solid).

    Cyan, magenta and yellow go first; black stays longest, and inks beside the four as long as it leaves room for them.
    """
    over = np.flatnonzero(_total(cmyk) > limit)
    if not len(over):
        return cmyk
    out = cmyk.copy()
    flat = out.reshape(-1, cmyk.shape[2])
    inks = flat[over].astype(np.int32)
    room = np.maximum(limit - inks[:, 3], 0)
    inks[:, 3] = np.minimum(inks[:, 3], limit)
    for cut in (slice(4, None), slice(0, 3)):
        total = inks[:, cut].sum(axis=1)
        kept = np.minimum(total, room)
        inks[:, cut] = inks[:, cut] * kept[:, None] // np.maximum(total, 1)[:, None]
        room = room - inks[:, cut].sum(axis=1)
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
