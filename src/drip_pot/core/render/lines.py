# SPDX-License-Identifier: GPL-3.0-or-later
"""The line in its colours, for any piece of a page: by row from tables, then washes of colour over it in order.

A wash colours some rows of the line, leaves the flat beneath instead, or bare paper. Knows tables and planes; nothing
of holds.
"""

from dataclasses import dataclass
from typing import Any, Literal

import cv2
import numpy as np

from drip_pot.core.arrays import F32, I32, I64, U8, U16, Bool
from drip_pot.core.render.paint import Colors
from drip_pot.core.render.ramp import Ramp, ramp_at

WashForm = Literal["color", "beneath", "paper"]
_LUM = np.array([0.2126, 0.7152, 0.0722], np.float32)


@dataclass(frozen=True, eq=False)
class LineWash:
    """What colours some of the line.

    Attributes
    ----------
    number : int
        By which its marks are found.
    alpha : (R,) ndarray of uint8
        How much of it lies on each row of the line's colours.
    light, dark : (R, 4) ndarrays of uint8
        Its colours, in light and in shadow.
    form : str
        'color', 'beneath' (the line is left out) or 'paper' (line and flat are).
    ramp : Ramp or None
        What gives its colours instead.
    adds : bool
        Whether it is only where marks are; else marks are what was taken out.
    follows : bool
        Whether it is darkened where soft shade darkens what lies under it.
    feather_px : float
        How far it fades in where it meets other line.
    """

    number: int
    alpha: U8
    light: U8
    dark: U8
    form: WashForm = "color"
    ramp: Ramp | None = None
    adds: bool = False
    follows: bool = False
    feather_px: float = 0.0

    @property
    def key(self) -> tuple[object, ...]:
        """What it is made of, to be compared with another."""
        tables = (self.alpha.tobytes(), self.light.tobytes(), self.dark.tobytes())
        return self.number, tables, self.form, self.ramp, self.adds, self.follows, self.feather_px


@dataclass(frozen=True, eq=False)
class LineOwners:
    """Whose line is, so that a stroke is lit as what it outlines is, all across its width.

    Attributes
    ----------
    row : (R,) ndarray of int64
        The region that every row of the line's colours belongs to; 0 for none.
    region : (A + 1,) ndarray of int64
        The region of every atom.
    reach_px : float
        How far line reaches from its middle at most, in page pixels.
    """

    row: I64
    region: I64
    reach_px: float

    def reach(self, step: int) -> int:
        """Return how many pixels of `step` page pixels beyond a piece must be known."""
        return int(np.ceil(self.reach_px / step)) + 1


@dataclass(frozen=True)
class Line:
    """The pixels of line of a piece.

    Attributes
    ----------
    where, rows : (K,) ndarrays of int64
        Flat places; row of the line's colours of each.
    lit : (K,) ndarray of int64
        The flat place whose light each has.
    ink : (K,) ndarray of uint16
        Coverage.
    dark : (K,) ndarray of bool
        Where the shadow colours of atoms are laid.
    """

    where: I64
    rows: I64
    lit: I64
    ink: U16
    dark: Bool


def lit_from(where: I64, rows: I64, labels: I32, owners: LineOwners, step: int) -> I64:
    """Return the flat place whose light every pixel of line has, (K,): on its owner's side of the middle.

    Parameters
    ----------
    where, rows : (K,) ndarrays of int64
        As of `Line`, ascending.
    labels : (M, N) ndarray of int32
        Atom of every pixel.
    owners, step
        Whose line is; page pixels for each of these.
    """
    region = np.take(owners.region, labels.reshape(-1)[where], mode="clip")
    mine = np.take(owners.row, rows, mode="clip")
    beyond = (mine > 0) & (region != mine)
    near = np.flatnonzero((mine > 0) & ~beyond)
    if not beyond.any() or not len(near):
        return where
    seeds = np.ones(labels.shape, np.uint8)
    seeds.reshape(-1)[where[near]] = 0
    away, nearest = cv2.distanceTransformWithLabels(seeds, cv2.DIST_L2, 5, labelType=cv2.DIST_LABEL_PIXEL)
    at = where[beyond]
    found = near[nearest.reshape(-1)[at] - 1]
    same = (rows[found] == rows[beyond]) & (away.reshape(-1)[at] <= owners.reach_px / step)
    out = where.copy()
    out[beyond] = np.where(same, where[found], at)
    return out


def wash_alpha(wash: LineWash, line: Line, share: U8 | None) -> U16:
    """Return how much of a wash lies on every pixel of line, (K,) uint16 of 0..255; `share` (M, N) is of its marks."""
    alpha = wash.alpha[line.rows].astype(np.uint16)
    return alpha if share is None else times(alpha, share.reshape(-1)[line.where])


def wash_colors(wash: LineWash, line: Line, at: tuple[int, int, int], shape: tuple[int, int]) -> tuple[U8, U16]:
    """Return the colours of a wash on every pixel of line, (K, 3) uint8, and how much they cover, (K,) uint16.

    `at` is the top, the left and the step of the piece, `shape` its size.
    """
    if wash.ramp is not None:
        color, cover = ramp_at(wash.ramp, at[0], at[1], shape, at[2])
        return color.reshape(-1, 3)[line.where], cover.reshape(-1)[line.where].astype(np.uint16)
    color = np.where(line.dark[:, None], wash.dark[line.rows], wash.light[line.rows])[:, :3]
    return color, np.full(len(line.where), 255, np.uint16)


def line_pixels(
    line: Line, colors: Colors, washes: tuple[LineWash, ...], shares: list[U8 | None], at: tuple[int, int, int],
    shape: tuple[int, int], shade: F32 | None = None,
) -> tuple[U8, U16, U16]:  # fmt: skip
    """Return the colours of the pixels of line, (K, 4) uint8, their coverage, and how far they are paper, (K,) uint16.

    Parameters
    ----------
    line : Line
        The pixels.
    colors : Colors
        Tables of the line's colours.
    washes, shares
        What lies over them, in order, and the marks of each as a share of 0..255 (None is everywhere).
    at, shape
        Where the piece begins and its step; its size.
    shade : (K,) ndarray of float32, optional
        What soft shade leaves of the light under every pixel, 0..1.
    """
    half = len(colors.line)
    out = colors.lines[line.rows + np.where(line.dark, half, 0)]
    if shade is not None and colors.follows is not None:
        out = _shaded(out, np.where(colors.follows[line.rows], shade, np.float32(1)))
    ink, paper = line.ink, np.zeros(len(line.where), np.uint16)
    for wash, share in zip(washes, shares, strict=False):
        alpha = wash_alpha(wash, line, share)
        if not alpha.any():
            continue
        rest = 255 - alpha
        if wash.form == "beneath":
            ink, paper = times(ink, rest), times(paper, rest)
        elif wash.form == "paper":
            paper = times(paper, rest) + times(line.ink, alpha)
            ink = times(ink, rest)
        else:
            over, cover = wash_colors(wash, line, at, shape)
            alpha = times(alpha, cover)
            if shade is not None and wash.follows:
                over = _shaded(over, shade)
            full = times(ink, 255 - alpha) + times(line.ink, alpha)  # a wash brings back what was left out
            part = (255 * times(line.ink, alpha) // np.maximum(full, 1))[:, None].astype(np.uint16)
            out[:, :3] = (out[:, :3] * (255 - part) + over * part + 127) // 255
            ink, paper = full, times(paper, 255 - alpha)
    return out, ink, paper


def times(one: Any, two: Any) -> U16:
    """Multiply shares of 0..255, (…) uint8 each, rounded; (…) uint16 of 0..255."""
    return np.asarray((one.astype(np.uint16) * two + 127) // 255, np.uint16)


def _shaded(rgb: U8, shade: F32) -> U8:
    out = rgb.copy()
    out[:, :3] = np.rint(rgb[:, :3] * shade[:, None])
    return out


def soft_shade(flat: U8, bare: U8) -> F32:
    """Return what soft shade leaves of the light, (K,) of 0..1, from flats with and without it, (K, 4) uint8."""
    lit, before = flat[:, :3] @ _LUM, bare[:, :3] @ _LUM
    return np.minimum((lit + 8) / (before + 8), 1).astype(np.float32)
