# SPDX-License-Identifier: GPL-3.0-or-later
"""The plates of a piece of a page, any number of them. Knows how it is printed and planes; not how inks were chosen."""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import partial

import numpy as np

from drip_pot.core.arrays import F32, U8, U16, U32, Bool
from drip_pot.core.press.limit import overprint, within_limit
from drip_pot.core.press.model import lightness_of
from drip_pot.core.press.plates import Plates, Printing
from drip_pot.core.press.soft import Mixed, mixed_inks
from drip_pot.core.render import (
    Line,
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

_PASTEL_L, _DARKER_L = 70.0, 5.0
PART = 24
_NUMBER = np.uint32((1 << PART) - 1)


def separate(piece: Piece, printing: Printing, trap: U32 | None = None, *, line_apart: bool = False) -> U8:
    """Separate a piece of a page.

    Parameters
    ----------
    piece : Piece
        Its planes.
    printing : Printing
        Its passes and inks.
    trap : (M, N) ndarray of uint32, optional
        What is spread into each pixel, as `Traps.spread`.
    line_apart : bool
        Leave out black that overprints, which is printed over this afterwards; see `under_dots`.

    Returns
    -------
    (M, N, P) ndarray of uint8
        Cyan, magenta, yellow, black and what further plates there are; 255 is solid.
    """
    return separate_each(piece, printing, (trap,), line_apart=line_apart)[0]


def separate_each(
    piece: Piece, printing: Printing, traps: Sequence[U32 | None], *, line_apart: bool = False
) -> list[U8]:
    """Separate a piece of a page as `separate` does, once with each of some traps; all but these is done once.

    Traps are (M, N) uint32 as of `find_traps`; each result is (M, N, P) uint8, 0 no ink, 255 solid.
    """
    inks, black = bare_plates(composed(piece, printing), printing)
    last = len(traps) - 1
    return [
        finished_plates(inks if place == last else inks.copy(), black, trap, printing.plates, line_apart=line_apart)
        for place, trap in enumerate(traps)
    ]


@dataclass(frozen=True)
class Composed:
    """A piece of a page with its passes laid over the flats.

    Attributes
    ----------
    piece : Piece
        Its planes.
    tone : (M, N) ndarray of uint8, or None
        1 where it has the plain shadow colours of its atoms.
    seen : (M, N, 4) ndarray of uint8, or None
        What is seen of it without the line; None where passes mix no colours.
    soft : (M, N) ndarray of bool, or None
        Where passes mixed colours.
    mixed : Mixed, or None
        What they made.
    line : (Line, light), or None
        The pixels of line, and what soft shade leaves of the light under each, where a larger piece had to be looked at
        for them; None is as the piece itself tells.
    """

    piece: Piece
    tone: U8 | None
    seen: U8 | None = None
    soft: Bool | None = None
    mixed: Mixed | None = None
    line: tuple[Line, F32 | None] | None = None


def composed(piece: Piece, printing: Printing, inside: tuple[slice, slice] | None = None) -> Composed:
    """Lay the passes over a piece; what is `inside` of it alone is kept, if that is given."""
    tone, is_mixed = tone_of(piece, printing.stack)
    seen, soft = flats_of(piece, printing.stack, printing.screen) if is_mixed else (None, None)
    line = None
    if inside is not None:
        line = _line_inside(piece, inside, printing, seen, soft)
        piece = piece.cut(inside)
        tone = None if tone is None else np.ascontiguousarray(tone[inside])
        seen = None if seen is None else np.ascontiguousarray(seen[inside])
        soft = None if soft is None else np.ascontiguousarray(soft[inside])
    if seen is None or soft is None:
        return Composed(piece, tone, seen, line=line)
    return Composed(piece, tone, seen, soft, mixed_inks(piece, tone, seen, soft, printing), line)


def _line_inside(
    piece: Piece, inside: tuple[slice, slice], printing: Printing, seen: U8 | None, soft: Bool | None
) -> tuple[Line, F32 | None] | None:  # fmt: skip
    """Gather the pixels of line inside of a piece, lit as the whole of it tells, with the light that is left."""
    if printing.plates.all_black:
        return None
    line, light = _lit_line(piece, printing, seen, soft)
    row, col = np.divmod(line.where, piece.ink.shape[1])
    rows, cols = inside
    keep = (row >= rows.start) & (row < rows.stop) & (col >= cols.start) & (col < cols.stop)
    where = (row[keep] - rows.start) * (cols.stop - cols.start) + col[keep] - cols.start
    cut = Line(where, line.rows[keep], where, line.ink[keep], line.dark[keep])
    return cut, None if light is None else light[keep]


def _lit_line(piece: Piece, printing: Printing, seen: U8 | None, soft: Bool | None) -> tuple[Line, F32 | None]:
    """Gather the pixels of line of a piece, and what soft shade leaves of the light under each."""
    plates = printing.plates
    tone = in_tone(piece, printing.stack) if plates.line_shadow is not None or printing.washes else None
    line = line_in(piece, tone, len(plates.line))
    return line, None if seen is None else shade_under(seen, piece, printing.screen, line, soft)


def bare_plates(made: Composed, printing: Printing) -> tuple[U8, U8]:
    """Return the inks of a piece without traps and overprinting black, (M, N, P) uint8, and that black, (M, N) uint8.

    No limit is kept yet; see `finished_plates`.
    """
    piece, plates = made.piece, printing.plates
    out = take_colors(piece.labels, made.tone, plates.colors.flat)
    flat = out.reshape(-1, out.shape[2])
    if made.mixed is not None:
        every = made.mixed.inks
        if every.shape[1] == 4:  # four bytes at once
            flat.view(np.uint32)[made.mixed.where, 0] = np.ascontiguousarray(every).view(np.uint32)[:, 0][
                made.mixed.which
            ]
        else:
            flat[made.mixed.where] = every[made.mixed.which]
    if plates.all_black:
        return out, piece.ink
    line, light = made.line or _lit_line(piece, printing, made.seen, made.soft)
    return out, _lay_lines(flat, piece, printing, line, light)


def finished_plates(inks: U8, black: U8, trap: U32 | None, plates: Plates, *, line_apart: bool = False) -> U8:
    """Spread traps into plates, which are changed, print black over them, and take ink away above the limit.

    They are as `bare_plates` gives them; `trap` and `line_apart` as for `separate`. Returns (M, N, P) uint8.
    """
    return _overprinted(_with_trap(inks, trap, plates), black, plates, line_apart=line_apart)


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


def _lay_lines(flat: U8, piece: Piece, printing: Printing, line: Line, light: F32 | None) -> U8:
    """Lay coloured lines over flats, (M * N, P) uint8, and return the black that overprints, (M, N) uint8.

    Coloured lines print in their own inks, so that they look on press as they do on the screen; where those are at
    least the inks beneath in every plate, that is as if they overprinted. What is left out to paper carries none.
    """
    black = np.zeros(piece.ink.shape, np.uint8)
    if not len(line.where):
        return black
    parts = _parted(line, piece, printing, light)
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


def _parted(line: Line, piece: Piece, printing: Printing, shade: F32 | None) -> _Parts:
    """Tell how much of every pixel of line is coloured, black, or left out to paper."""
    plates, screen = printing.plates, printing.screen
    half = len(plates.line)
    is_black = plates.is_black[line.rows]
    inks: U8 = plates.colors.lines[line.rows + np.where(line.dark, half, 0)]
    if shade is not None and screen.follows is not None:
        chosen = np.flatnonzero((shade < 1) & screen.follows[line.rows] & ~is_black)
        toned = screen.lines[line.rows + np.where(line.dark, half, 0)][chosen, :3] * shade[chosen, None]
        inks[chosen] = printing.looked_up(np.rint(toned).astype(np.uint8))
    colored, black = np.where(is_black, 0, line.ink), np.where(is_black, line.ink, 0)
    paper = np.zeros_like(line.ink)
    shape = piece.ink.shape[0], piece.ink.shape[1]
    for wash, number, share in zip(printing.washes, plates.washes, piece.shares, strict=False):
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
            over[loose] = printing.looked_up(np.asarray(np.rint(seen), np.uint8))
        colored, black, paper = (times(plane, 255 - alpha) for plane in (colored, black, paper))
        full = colored + np.where(dark, 0, gain)
        part = (255 * np.where(dark, 0, gain).astype(np.uint32) // np.maximum(full, 1))[:, None].astype(np.uint16)
        inks = ((inks * (255 - part) + over * part + 127) // 255).astype(np.uint8)
        colored, black = full, black + np.where(dark, gain, 0)
    colored, black, paper = (plane.astype(np.uint16) for plane in (colored, black, paper))
    return _Parts(colored, inks, black, paper)


def black_line(piece: Piece, printing: Printing) -> U8:
    """Return the coverage of black that overprints in a piece, (M, N) uint8."""
    plates = printing.plates
    if plates.all_black:
        return piece.ink
    line = line_in(piece, None, len(plates.line))
    black = np.where(plates.is_black[line.rows], line.ink, 0).astype(np.uint16)
    for wash, number, share in zip(printing.washes, plates.washes, piece.shares, strict=False):
        alpha = wash_alpha(wash, line, share)
        black = times(black, 255 - alpha)
        if wash.form == "color" and wash.ramp is None:
            black = black + np.where(number.is_black[line.rows], times(line.ink, alpha), 0)
    out = np.zeros(piece.ink.shape, np.uint8)
    out.reshape(-1)[line.where] = black
    return out


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
