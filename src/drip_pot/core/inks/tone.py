# SPDX-License-Identifier: GPL-3.0-or-later
"""Tone in old art, dotted or grey, found and turned into flat tints. Knows evened grey and coverage only."""

from dataclasses import dataclass

import cv2
import numpy as np
import scipy

from drip_pot.core.arrays import F64, U8, Bool, Gray, Rect, check_gray, check_plane
from drip_pot.core.inks.specks import Pieces, find_pieces

_LEAST_DOTS = 24
_MOST_SHARE, _LONGEST = 0.5, 1.4


@dataclass(frozen=True)
class Tone:
    """An area of tone.

    Attributes
    ----------
    kind : str
        'dots' or 'grey'.
    row, col : int
        A pixel inside it, the deepest; it names the area.
    rect : Rect
        Its box.
    mask : (m, n) ndarray of uint8
        1 inside, over `rect`.
    tint : int
        Flat coverage that replaces it, 0..255.
    area_px : int
        Its size.
    spread : int
        How far its greys are apart, 0..255: between the lightest and the darkest tenth of it; 0 of dots.
    """

    kind: str
    row: int
    col: int
    rect: Rect
    mask: U8
    tint: int
    area_px: int
    spread: int = 0


def find_tones(ink: U8, evened: Gray, line_px: float) -> list[Tone]:
    """Find areas of printed dots and of grey tone.

    Parameters
    ----------
    ink : (M, N) ndarray of uint8
        Coverage, specks and all.
    evened : (M, N) ndarray of uint8 or uint16
        The page after `remove_paper`.
    line_px : float
        Usual line width; tone is wider than four of it.

    Returns
    -------
    list of Tone
        Largest first.

    Raises
    ------
    BadInput
        If an array has another shape or type.

    Notes
    -----
    Dots are pieces of ink (or holes in it) of like size on a lattice: each has four neighbours or more at distances
    that differ by less than a fifth, and they are the lesser part of it: a net of line is no tone. Grey is coverage
    between a tenth and nine tenths that survives an opening.
    """
    check_plane(ink, np.uint8, "ink")
    dots = _dots(ink)
    found = _areas("dots", dots, ink)
    grey = _greys(evened, line_px)
    grey[dots > 0] = 0
    return sorted([*found, *_areas("grey", grey, ink)], key=lambda t: (-t.area_px, t.row, t.col))


def without_tone(ink: U8, tones: list[Tone], line_px: float) -> tuple[U8, U8]:
    """Take tone out of the line.

    Parameters
    ----------
    ink : (M, N) ndarray of uint8
        Coverage.
    tones : list of Tone
        Areas to take out.
    line_px : float
        Usual line width; outlines of about that width stay.

    Returns
    -------
    line, tint : (M, N) ndarrays of uint8
        Coverage without the tone, and the flat tints.
    """
    line, tint = ink.copy(), np.zeros_like(ink)
    for tone in tones:
        top, left, bottom, right = tone.rect
        cut = slice(top, bottom), slice(left, right)
        inside = tone.mask > 0
        if tone.kind == "dots":
            gone = _small_ink(line[cut], line_px) & inside
        else:
            gone = inside & (line[cut] < min(245, tone.tint + 60))
        line[cut][gone] = 0
        tint[cut][inside] = tone.tint
    return line, tint


def _small_ink(ink: U8, line_px: float) -> Bool:
    """Mark soft and hard pixels of pieces too small to be line."""
    _, labels, stats, _ = cv2.connectedComponentsWithStats((ink > 20).astype(np.uint8), connectivity=8)
    small = np.maximum(stats[:, 2], stats[:, 3]) <= max(5 * line_px, 24)
    small[0] = True
    return np.asarray(small[labels])


def _dots(ink: U8) -> U8:
    mask = np.zeros_like(ink)
    for plane in (ink, cv2.bitwise_not(ink)):
        pieces = find_pieces(plane, 900)
        spots, pitch = _on_lattice(pieces)
        if len(spots) < _LEAST_DOTS:
            continue
        layer = np.zeros_like(ink)
        for (row, col), step in zip(spots, pitch, strict=True):
            cv2.circle(layer, (round(col), round(row)), max(2, round(step * 0.75)), 1, -1)
        wide = 2 * round(float(np.median(pitch)) * 0.6) + 1
        layer = cv2.morphologyEx(layer, cv2.MORPH_CLOSE, cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (wide, wide)))
        mask |= layer
    return mask


def _on_lattice(pieces: Pieces) -> tuple[list[tuple[float, float]], F64]:
    """Centres of dots that lie on a lattice, and its pitch at each of them."""
    high, wide = (pieces.boxes[:, 2:] - pieces.boxes[:, :2]).T
    keep = (pieces.areas >= 3) & (np.maximum(high, wide) <= _LONGEST * np.minimum(high, wide) + 1)
    spots, areas = pieces.centers[keep], pieces.areas[keep].astype(np.float64)
    if len(spots) < _LEAST_DOTS:
        return [], np.zeros(0)
    away, who = scipy.spatial.cKDTree(spots).query(spots, k=5)
    steps = away[:, 1:]
    alike = np.abs(np.log(areas[who[:, 1:]] / areas[:, None])) < 0.6
    good = alike.all(axis=1) & (steps.max(axis=1) <= 1.2 * steps.min(axis=1)) & (steps.min(axis=1) <= 60)
    lesser = areas <= _MOST_SHARE * steps.mean(axis=1) ** 2
    good &= lesser
    if not good.any():
        return [], np.zeros(0)
    beside = good | ((good[who[:, 1:]].sum(axis=1) >= 2) & alike.any(axis=1) & lesser)
    return [(r, c) for r, c in spots[beside].tolist()], steps[beside].mean(axis=1)


def _greys(evened: Gray, line_px: float) -> U8:
    unit = check_gray(evened, "evened") // 255
    grey = ((evened > 40 * unit) & (evened < 232 * unit)).view(np.uint8)
    wide = 2 * round(max(2.0, 2 * line_px)) + 1
    disc = cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (wide, wide))
    core = cv2.morphologyEx(grey, cv2.MORPH_OPEN, disc)
    return np.asarray(cv2.dilate(core, np.ones((5, 5), np.uint8)) & grey, np.uint8)


def _areas(kind: str, mask: U8, ink: U8) -> list[Tone]:
    count, labels, stats, _ = cv2.connectedComponentsWithStats(mask, connectivity=4)
    found = []
    for k in range(1, count):
        left, top, width, height, area = stats[k].tolist()
        if area < 900:
            continue
        cut = slice(top, top + height), slice(left, left + width)
        own = (labels[cut] == k).astype(np.uint8)
        depth = cv2.distanceTransform(np.pad(own, 1), cv2.DIST_L2, 3)[1:-1, 1:-1]
        row, col = divmod(int(depth.argmax()), width)
        inner = ink[cut][(own > 0) & (depth > min(3.0, float(depth.max()) / 2))]
        tint = round(float(inner.mean() if kind == "dots" else np.median(inner)))
        rect = top, left, top + height, left + width
        low, high = (0, 0) if kind == "dots" else np.percentile(inner, (10, 90)).tolist()
        found.append(Tone(kind, top + row, left + col, rect, own, tint, int(area), round(high - low)))
    return found
