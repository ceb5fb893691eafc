# SPDX-License-Identifier: GPL-3.0-or-later
"""Dust and pinholes: found, counted, erased and filled. Knows the settings, not how paper is found."""

from dataclasses import dataclass

import cv2
import numpy as np
import scipy

from drip_pot.core.arrays import F32, F64, I32, I64, U8, Bool, Gray, check_plane
from drip_pot.core.inks.coverage import InkSettings
from drip_pot.core.strips import Strip, in_strips

_FAINT = 40
CROWD = 4
_PINPRICK_PX = 4
"""Pieces up to so many times the size of a speck are looked at when judging whether it stands alone."""


@dataclass(frozen=True)
class Speck:
    """One isolated piece of ink: its centre and box in pixels, its area in pixels."""

    row: float
    col: float
    top: int
    left: int
    bottom: int
    right: int
    area_px: int


@dataclass(frozen=True)
class Pieces:
    """Small connected pieces of ink, in scan order.

    Attributes
    ----------
    centers : (P, 2) ndarray of float64
        Row, column.
    boxes : (P, 4) ndarray of int64
        Top, left, bottom, right; the end lies outside.
    areas : (P,) ndarray of int64
        Pixels.
    pale : (P,) ndarray of float64
        How much lighter its darkest spot is than the ink of the page, in evened grey (0..255); 0 where unknown.
    """

    centers: F64
    boxes: I64
    areas: I64
    pale: F64

    def speck(self, index: int) -> Speck:
        """Return one piece as a speck."""
        (row, col), (top, left, bottom, right) = self.centers[index].tolist(), self.boxes[index].tolist()
        return Speck(row, col, top, left, bottom, right, int(self.areas[index]))


def find_pieces(ink: U8, most_px: int, evened: Gray | None = None) -> Pieces:
    """List the small pieces of ink.

    Parameters
    ----------
    ink : (M, N) ndarray of uint8
        Coverage; pieces are 8-connected and darker than 40.
    most_px : int
        Up to so many pixels; 0 finds none.
    evened : (M, N) ndarray of uint8 or uint16, optional
        The page after `remove_paper`, to tell how pale the pieces are.

    Raises
    ------
    BadInput
        If an array has another shape or type.
    """
    check_plane(ink, np.uint8, "ink")
    if most_px <= 0:
        return Pieces(np.zeros((0, 2)), np.zeros((0, 4), np.int64), np.zeros(0, np.int64), np.zeros(0))
    found, labels, stats, centers = cv2.connectedComponentsWithStats(
        (ink > _FAINT).view(np.uint8), connectivity=8, ltype=cv2.CV_32S
    )
    is_small = stats[:, cv2.CC_STAT_AREA] <= most_px
    is_small[0] = False
    small = np.flatnonzero(is_small)
    left, top, width, height, area = stats[small].astype(np.int64).T
    boxes = np.stack([top, left, top + height, left + width], axis=1)
    pale = np.zeros(len(small)) if evened is None else _pale(labels, found, is_small, ink, evened)[small]
    return Pieces(centers[small, ::-1], boxes, area, pale)


def _pale(labels: I32, found: int, is_small: Bool, ink: U8, evened: Gray) -> F64:
    """How much lighter than the page's ink every label's darkest spot, a mean of 3 × 3 pixels, is."""
    unit = 257.0 if evened.dtype == np.uint16 else 1.0
    dark = evened[::8, ::8][ink[::8, ::8] > 240]
    level = float(np.median(dark)) / unit if dark.size else 0.0
    darkest = np.full(found, 255.0)

    def work(strip: Strip) -> tuple[I32, F32]:
        piece = labels[strip.rows]
        where = np.flatnonzero(is_small[piece])
        soft = cv2.blur(evened[strip.around], (3, 3))[strip.inside]
        return piece.ravel()[where], soft.ravel()[where].astype(np.float32) / np.float32(unit)

    for own, grey in in_strips(work, len(labels), 1):
        np.minimum.at(darkest, own, grey)
    return np.clip(darkest - level, 0, 255)


def lone_specks(pieces: Pieces, settings: InkSettings) -> list[Speck]:
    """Choose the specks among pieces, smallest first.

    Parameters
    ----------
    pieces : Pieces
        All pieces of up to `CROWD` times `settings.speck_px`, at least.
    settings : InkSettings
        Its speck size, isolation and faintness.

    Notes
    -----
    A speck stands alone: where five or more pieces of at most four times the limit lie within six diameters of
    each other they are a texture (stipple, dotted shading) and are left out. A piece of up to four times the limit
    that is paler than ink is dust or grain wherever it lies, unless five such pale pieces stand together.
    """
    limit = settings.speck_px
    if limit <= 0:
        return []
    radius = 6 * 1.13 * limit**0.5 if settings.alone_px is None else settings.alone_px
    near = np.flatnonzero(pieces.areas <= CROWD * limit)
    chosen = near[(pieces.areas[near] <= limit) & _alone(pieces, near, radius)]
    if settings.faint:
        pale = near[pieces.pale[near] >= settings.faint + _blurred(pieces.areas[near])]
        chosen = np.union1d(chosen, pale[_alone(pieces, pale, radius)])
    chosen = chosen[np.argsort(pieces.areas[chosen], kind="stable")]
    return [pieces.speck(int(index)) for index in chosen]


def wander(ink: U8, speck: Speck) -> float:
    """Return how far a piece strays from a straight line, as a share of its length.

    A hair on the glass wanders; a stroke that was drawn so small is straight.

    Parameters
    ----------
    ink : (M, N) ndarray of uint8
        Coverage that the piece was found in.
    speck : Speck
        The piece.

    Returns
    -------
    float
        The width of the band that its middle line lies in, over how long it is; 0 where nothing is there.
    """
    inside = (ink[speck.top : speck.bottom, speck.left : speck.right] > _FAINT).view(np.uint8)
    _, labels = cv2.connectedComponents(inside, connectivity=8)
    sizes = np.bincount(labels.ravel())
    sizes[0] = 0
    if not sizes.any():
        return 0.0
    points = np.argwhere(labels == sizes.argmax()).astype(np.float64)
    points -= points.mean(axis=0)
    along, across = (points @ np.linalg.eigh(points.T @ points)[1][:, ::-1]).T
    step = np.floor(along - along.min()).astype(np.int64)
    count = np.bincount(step)
    middle = np.bincount(step, weights=across)[count > 0] / count[count > 0]
    return float(np.ptp(middle) / (np.ptp(along) + 1))


def _blurred(areas: I64) -> F64:
    """How pale a dot of full ink of some area, in pixels, may look for being small: the lens softens by about 1 px."""
    radius = np.maximum(np.sqrt(areas / np.pi) - 0.5, 0)
    return np.asarray(150 * np.exp(-(radius**2) / 2.4))


def fill_holes(ink: U8, most_px: int) -> U8:
    """Return `ink`, (M, N) uint8, with pinholes in solid black filled.

    A hole of up to `most_px` pixels counts where ink lies all round it, four pixels deep (two round one of four pixels
    or fewer, as they stand in the strokes of a scan), and where it is not one of five or more close together (stars,
    white stipple). 0 fills none. Raises `BadInput` for another plane.
    """
    check_plane(ink, np.uint8, "ink")
    holes = find_pieces(cv2.bitwise_not(ink), CROWD * most_px)
    small = np.flatnonzero(holes.areas <= most_px)
    if len(small) == 0:
        return ink
    alone = _alone(holes, np.arange(len(holes.areas)), 6 * 1.13 * most_px**0.5)
    out = ink
    for index in small[alone[small]].tolist():
        top, left, bottom, right = holes.boxes[index].tolist()
        deep = 2 if holes.areas[index] <= _PINPRICK_PX else 4
        if min(top, left) < deep or bottom + deep > ink.shape[0] or right + deep > ink.shape[1]:
            continue
        ring = ink[top - deep : bottom + deep, left - deep : right + deep].astype(np.int64)
        if ring.size - (ring > 215).sum() > 1.6 * holes.areas[index] + 4:
            continue
        if out is ink:
            out = ink.copy()
        out[top - 1 : bottom + 1, left - 1 : right + 1] = 255
    return out


def erase_specks(ink: U8, specks: list[Speck]) -> U8:
    """Return `ink`, (M, N) uint8, without the given specks and their faint halo of two pixels.

    Raises `BadInput` for another plane.
    """
    check_plane(ink, np.uint8, "ink")
    out = ink.copy()
    for speck in specks:
        top, left = max(speck.top - 2, 0), max(speck.left - 2, 0)
        piece = out[top : speck.bottom + 2, left : speck.right + 2]
        _, labels = cv2.connectedComponents((piece > 0).astype(np.uint8), connectivity=8)
        row, col = np.argwhere(ink[speck.top : speck.bottom, speck.left : speck.right] > _FAINT)[0]
        own = labels == labels[row + speck.top - top, col + speck.left - left]
        if not _touches_other_ink(ink, speck, top, left, own):
            piece[own] = 0
        else:
            core = np.zeros_like(own)
            core[speck.top - top : speck.bottom - top, speck.left - left : speck.right - left] = True
            piece[core & own] = 0
    return out


def _touches_other_ink(ink: U8, speck: Speck, top: int, left: int, own: Bool) -> bool:
    window = ink[top : top + own.shape[0], left : left + own.shape[1]] > _FAINT
    window = window & own
    window[speck.top - top : speck.bottom - top, speck.left - left : speck.right - left] = False
    return bool(window.any())


def _alone(pieces: Pieces, which: I64, radius: float) -> Bool:
    """Tell which of some pieces have fewer than five of them (themselves among them) within a radius."""
    if len(which) == 0:
        return np.zeros(0, bool)
    spots = pieces.centers[which]
    near = scipy.spatial.cKDTree(spots).query_ball_point(spots, radius, return_length=True)
    return np.asarray(near < 5)
