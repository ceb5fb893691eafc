# SPDX-License-Identifier: GPL-3.0-or-later
"""The one compositor: flats, the passes over them and the line, for any piece of a page at any scale.

Screen, files and plates are all made here, so that they agree. Knows colour tables and planes; nothing of pots.
"""

from dataclasses import dataclass, field, replace
from functools import lru_cache

import cv2
import numpy as np

from drip_pot.core.arrays import F32, I32, I64, U8, U16, Bool
from drip_pot.core.render.blend import QUICK, SEPARABLE, SUMS, blend_table, blended8, summed
from drip_pot.core.render.drawn import EffectSource
from drip_pot.core.render.finish import Finish, finished, softened
from drip_pot.core.render.lines import Line, LineOwners, LineWash, line_pixels, lit_from, soft_shade
from drip_pot.core.render.paint import Colors, mix_line, take_colors
from drip_pot.core.render.painted import PaintedColors
from drip_pot.core.render.placed import PictureSource, picture_at
from drip_pot.core.render.ramp import Ramp, ramp_at
from drip_pot.core.render.values import Local, ToneRamp, by_value

_HALF = 128
Source = Ramp | Finish | ToneRamp | Local | PictureSource | EffectSource | PaintedColors
"""What gives a pass its colours."""


@dataclass(frozen=True, eq=False)
class Wash:
    """What a pass does where it covers.

    Attributes
    ----------
    tone : bool
        Whether it lays the shadow colour of every pot; else one colour in a blend mode.
    color : tuple of int
        Red, green, blue.
    mode : str
        One of `MODES`.
    strength : float
        0..1.
    within : (A + 1,) ndarray of bool, or None
        Atoms it may touch; None is all of them.
    source : Ramp, Finish, ToneRamp, Local, PictureSource, EffectSource or PaintedColors, optional
        What gives its colours instead of one colour. Such a pass covers all it may touch but for its coverage, which
        says what was taken out; painted colours are where its coverage is.
    printed : bool
        Whether plates and files have it.
    """

    tone: bool = False
    color: tuple[int, int, int] = (0, 0, 0)
    mode: str = "normal"
    strength: float = 1.0
    within: Bool | None = None
    source: Source | None = None
    printed: bool = True

    @property
    def covers_all(self) -> bool:
        """Whether it covers all it may touch but for its coverage."""
        return self.source is not None and not isinstance(self.source, PaintedColors)

    @property
    def key(self) -> tuple[object, ...]:
        """What it is made of, to be compared with another."""
        inside = None if self.within is None else self.within.tobytes()
        return self.tone, self.color, self.mode, self.strength, inside, self.source, self.printed


@dataclass(frozen=True)
class Piece:
    """The planes of a piece of a page.

    Attributes
    ----------
    labels, line : (M, N) ndarrays of int32
        Atom of every pixel (0 is paper); row of the line colours.
    ink : (M, N) ndarray of uint8
        Line coverage.
    covers : list of (M, N) ndarray of uint8, or None
        Coverage of every pass in the order of the stack, 0..255; None where a pass has none here.
    shares : list of (M, N) ndarray of uint8, or None
        How far every wash of the line lies there by its marks, 0..255; None is wholly.
    top, left, step : int
        Where it begins, in page pixels, and page pixels for each of its pixels.
    owners : LineOwners, optional
        Whose the line is.
    """

    labels: I32
    line: I32
    ink: U8
    covers: list[U8 | None] = field(default_factory=list)
    shares: list[U8 | None] = field(default_factory=list)
    top: int = 0
    left: int = 0
    step: int = 1
    owners: LineOwners | None = None

    def cut(self, inside: tuple[slice, slice]) -> "Piece":
        """Return a part of it, by rows and columns."""
        rows, cols = inside
        covers, shares = ([p if p is None else p[inside] for p in planes] for planes in (self.covers, self.shares))
        top, left = (self.top + rows.start * self.step, self.left + cols.start * self.step)
        ink, step = self.ink[inside], self.step
        return Piece(self.labels[inside], self.line[inside], ink, covers, shares, top, left, step, self.owners)


def alpha_of(wash: Wash, cover: U8 | None, labels: I32) -> U8 | None:
    """Return how much of a pass shows at every pixel, (M, N) uint8; None where nothing does."""
    if wash.strength <= 0:
        return None
    if wash.covers_all:
        cover = np.full(labels.shape, 255, np.uint8) if cover is None else cv2.bitwise_not(cover)
    if cover is None or not cover.any():
        return None
    alpha = cover
    if wash.strength < 1:
        alpha = np.asarray(cv2.convertScaleAbs(cover, alpha=wash.strength), np.uint8)
    if wash.within is not None:
        alpha = alpha * np.take(wash.within, labels, mode="clip").view(np.uint8)
    return alpha if alpha.any() else None


def flats_of(piece: Piece, stack: list[Wash], colors: Colors) -> tuple[U8, Bool | None]:
    """Lay the passes over the flats.

    Returns
    -------
    flat : (M, N, 4) ndarray of uint8
        Red, green, blue, 255; without the line.
    soft : (M, N) ndarray of bool, or None
        Where a pixel has not just the local or the shadow colour of its atom; None is nowhere.
    """
    half = len(colors.flat) // 2
    out: U8 | None = None
    soft: Bool | None = None
    for wash, cover in zip(stack, piece.covers, strict=False):
        alpha = alpha_of(wash, cover, piece.labels)
        if alpha is None:
            continue
        ramped: U8 | None = None
        if isinstance(wash.source, PaintedColors):
            ramped = wash.source.at(piece.top, piece.left, (alpha.shape[0], alpha.shape[1]), piece.step)
        elif isinstance(wash.source, (Ramp, PictureSource, EffectSource)):
            ramped, share = drawn_at(wash.source, piece)
            alpha = np.asarray(cv2.multiply(alpha, share, scale=1 / 255), np.uint8)
        if out is None and wash.tone:  # the hard tone of most pages: one look-up for both
            full = alpha == 255
            out = take_colors(piece.labels, full.view(np.uint8), colors.flat)
            partly = (alpha > 0) & ~full
            if not partly.any():
                continue
            alpha = np.where(partly, alpha, 0).astype(np.uint8)
        elif out is None:
            out = take_colors(piece.labels, None, colors.flat)
        touched = alpha > 0
        soft = touched if soft is None else soft | touched
        if wash.tone:
            out = _mixed(out, take_colors(piece.labels + np.int32(half), None, colors.flat), alpha)
        elif isinstance(wash.source, ToneRamp):
            found = by_value(out, wash.source)
            alpha = np.asarray(cv2.multiply(alpha, np.ascontiguousarray(found[..., 3]), scale=1 / 255), np.uint8)
            out = _over(wash.mode, out, found[..., :3], alpha)
        elif isinstance(wash.source, Local):
            local = take_colors(piece.labels, None, colors.flat)
            out = _over(wash.mode, out, local[..., :3], alpha)
        elif wash.mode in SUMS and not isinstance(wash.source, Finish):
            out = summed(wash.mode, out, np.array(wash.color, np.uint8) if ramped is None else ramped, alpha)
        elif ramped is not None or isinstance(wash.source, Finish):
            out = _mixed(out, _from_source(wash, out, ramped, piece.step), alpha)
        elif wash.mode in SEPARABLE:
            out = _mixed(out, np.asarray(cv2.LUT(out, _table(wash.mode, wash.color)), np.uint8), alpha)
        else:
            over = out.copy()
            over[touched, :3] = _whole(wash, out[touched][:, :3])
            out = _mixed(out, over, alpha)
    return (take_colors(piece.labels, None, colors.flat) if out is None else out), soft


def drawn_at(source: Ramp | PictureSource | EffectSource, piece: Piece) -> tuple[U8, U8]:
    """Return the colours of a ramp, a picture or effect lines on a piece, (M, N, 3) uint8, and how much they cover.

    That is (M, N) uint8 of 0..255.
    """
    shape = piece.labels.shape[0], piece.labels.shape[1]
    if isinstance(source, EffectSource):
        cover = source.cover(piece.top, piece.left, shape, piece.step)
        return np.full((*shape, 3), source.color, np.uint8), cover
    if isinstance(source, Ramp):
        return ramp_at(source, piece.top, piece.left, shape, piece.step)
    return picture_at(source, piece.top, piece.left, shape, piece.step)


def reach_of(stack: list[Wash], step: int) -> int:
    """Return how many pixels beyond a piece must be drawn along, so that pieces of any size come out alike."""
    return sum(w.source.reach(step) for w in stack if isinstance(w.source, Finish) and w.strength > 0)


def printed(stack: list[Wash]) -> list[Wash]:
    """Return the passes as they are printed: those only to judge by do nothing."""
    return [wash if wash.printed else replace(wash, strength=0.0) for wash in stack]


def _mixed(under: U8, over: U8, alpha: U8) -> U8:
    """Mix (M, N, 4) uint8 by (M, N) uint8; each share is rounded, so that pieces of any size come out alike."""
    if alpha.min() == 255:
        return over
    part = cv2.merge([alpha] * 4)
    rest = cv2.multiply(under, cv2.bitwise_not(part), scale=1 / 255)
    return np.asarray(cv2.add(rest, cv2.multiply(over, part, scale=1 / 255)), np.uint8)


def _whole(wash: Wash, under: U8) -> U8:
    """Blend in a mode that treats the channels together, (K, 3) uint8."""
    return blended8(wash.mode, under, np.array(wash.color, np.uint8))


def _over(mode: str, under: U8, over: U8, alpha: U8) -> U8:
    """Lay (M, N, 3) uint8 colours over (M, N, 4) where `alpha`, (M, N) uint8, says how much."""
    if mode in SUMS:
        return summed(mode, under, over, alpha)
    out, flat = under.copy(), np.ascontiguousarray(under.reshape(-1, 4)[:, :3])
    out.reshape(-1, 4)[:, :3] = blended8(mode, flat, np.ascontiguousarray(over.reshape(-1, 3)))
    return _mixed(under, out, alpha)


def _from_source(wash: Wash, under: U8, ramped: U8 | None, step: int) -> U8:
    """Colour (M, N, 4) uint8 by a ramp, a picture or paint, or correct it; `ramped`, (M, N, 3), are its colours."""
    if isinstance(wash.source, Finish):
        under = softened(under, wash.source, step)
    if ramped is not None and wash.mode in QUICK:
        return QUICK[wash.mode](under, np.asarray(cv2.cvtColor(ramped, cv2.COLOR_RGB2RGBA), np.uint8))
    over, flat = under.copy(), np.ascontiguousarray(under.reshape(-1, 4)[:, :3])
    if ramped is None:
        assert isinstance(wash.source, Finish)
        over.reshape(-1, 4)[:, :3] = finished(flat, wash.source)
    else:
        over.reshape(-1, 4)[:, :3] = blended8(wash.mode, flat, ramped.reshape(-1, 3))
    return over


@lru_cache(maxsize=256)
def _table(mode: str, color: tuple[int, int, int]) -> U8:
    """Return a table for four channels, (1, 256, 4) uint8; the fourth stays as it is."""
    return np.concatenate([blend_table(mode, color), np.arange(256, dtype=np.uint8)[:, None]], axis=1)[None]


def compose(
    piece: Piece, stack: list[Wash], colors: Colors, washes: tuple[LineWash, ...] = (), *, lines: bool = True
) -> U8:  # fmt: skip
    """Draw a piece of a page as it is seen, (M, N, 4) uint8 red, green, blue, 255; `lines` leaves the line out.

    `washes` lie over the line's colours.
    """
    flat, soft = flats_of(piece, stack, colors)
    return with_line(flat, piece, stack, colors, washes, soft) if lines else flat


def with_line(
    flat: U8, piece: Piece, stack: list[Wash], colors: Colors, washes: tuple[LineWash, ...] = (),
    soft: Bool | None = None,
) -> U8:  # fmt: skip
    """Lay the line over flats, (M, N, 4) uint8; `soft` (M, N) tells where passes mixed their colours."""
    if not piece.ink.any():
        return flat
    where, over, ink, paper = _line_of(flat, piece, stack, colors, washes, soft)
    return mix_line(flat, where, ink, over, paper if paper.any() else None)


def _line_of(
    flat: U8, piece: Piece, stack: list[Wash], colors: Colors, washes: tuple[LineWash, ...], soft: Bool | None
) -> tuple[I64, U8, U16, U16]:  # fmt: skip
    """Return places of line, its colours, its coverage, and how far it is paper."""
    tone = in_tone(piece, stack) if colors.line_shadow is not None or washes else None
    line = line_in(piece, tone, len(colors.line))
    shade = shade_under(flat, piece, colors, line, soft) if washes or colors.follows is not None else None
    place = piece.top, piece.left, piece.step
    shape = piece.ink.shape[0], piece.ink.shape[1]
    return line.where, *line_pixels(line, colors, washes, piece.shares, place, shape, shade)


def line_in(piece: Piece, tone: U8 | None, count: int) -> Line:
    """Gather the pixels of line of a piece, of `count` rows of line colours; `tone` (M, N) uint8 says where it is dark.

    Where a tone is laid, or light is asked for, it is that of the side a stroke belongs to, all across its width.
    """
    where = np.flatnonzero(piece.ink)
    rows = np.minimum(piece.line.reshape(-1)[where], count - 1).astype(np.int64)
    lit = where if piece.owners is None else lit_from(where, rows, piece.labels, piece.owners, piece.step)
    dark = np.zeros(len(where), bool) if tone is None else tone.reshape(-1)[lit] > 0
    return Line(where, rows, lit, piece.ink.reshape(-1)[where].astype(np.uint16), dark)


def line_alone(piece: Piece, stack: list[Wash], colors: Colors, washes: tuple[LineWash, ...] = ()) -> U8:
    """Return the line as it lies over the flats, (M, N, 4) uint8: its colours, and how much it covers."""
    flat, soft = flats_of(piece, stack, colors)
    out = np.zeros_like(flat)
    if piece.ink.any():
        where, over, ink, paper = _line_of(flat, piece, stack, colors, washes, soft)
        full = ink + paper
        mixed = over[:, :3] * ink[:, None].astype(np.uint32) + 255 * paper[:, None].astype(np.uint32)
        out.reshape(-1, 4)[where, :3] = (mixed + full[:, None] // 2) // np.maximum(full, 1)[:, None]
        out.reshape(-1, 4)[where, 3] = full
    return out


def shade_under(flat: U8, piece: Piece, colors: Colors, line: Line, soft: Bool | None) -> F32 | None:
    """Return what soft shade leaves of the light under every pixel of line, (K,) float32 0..1.

    None where there is none.
    """
    if soft is None or not soft.any():
        return None
    half = len(colors.flat) // 2
    index = piece.labels.reshape(-1)[line.lit] + np.where(line.dark, half, 0)
    bare = np.take(colors.flat, index, axis=0, mode="clip")
    under = flat.reshape(-1, 4)[line.lit]
    shade = soft_shade(under, bare)
    shade[~soft.reshape(-1)[line.lit]] = 1
    return shade


def in_tone(piece: Piece, stack: list[Wash]) -> U8 | None:
    """Tell where the shadow colours of atoms are laid for the better part, (M, N) uint8 of 0 and 1; None is nowhere."""
    found: U8 | None = None
    for wash, cover in zip(stack, piece.covers, strict=False):
        alpha = alpha_of(wash, cover, piece.labels) if wash.tone else None
        if alpha is not None:
            here = (alpha >= _HALF).view(np.uint8)
            found = here if found is None else found | here
    return found
