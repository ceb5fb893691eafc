"""Dust: isolated specks of ink, found, counted and erased. Knows nothing of levels or paper."""

from dataclasses import dataclass

import cv2
import numpy as np
from scipy.spatial import cKDTree

from drip_pot.core.arrays import F64, I64, U8, Bool, check_plane

_FAINT = 40
CROWD = 4
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
    """

    centers: F64
    boxes: I64
    areas: I64

    def speck(self, index: int) -> Speck:
        """Return one piece as a speck."""
        (row, col), (top, left, bottom, right) = self.centers[index].tolist(), self.boxes[index].tolist()
        return Speck(row, col, top, left, bottom, right, int(self.areas[index]))


def find_pieces(ink: U8, most_px: int) -> Pieces:
    """List the pieces of ink (8-connected, coverage above 40) of up to `most_px` pixels; 0 finds none."""
    check_plane(ink, np.uint8, "ink")
    if most_px <= 0:
        return Pieces(np.zeros((0, 2)), np.zeros((0, 4), np.int64), np.zeros(0, np.int64))
    _, _, stats, centers = cv2.connectedComponentsWithStats(
        (ink > _FAINT).view(np.uint8), connectivity=8, ltype=cv2.CV_32S
    )
    small = np.flatnonzero(stats[1:, cv2.CC_STAT_AREA] <= most_px) + 1
    left, top, width, height, area = stats[small].astype(np.int64).T
    return Pieces(centers[small, ::-1], np.stack([top, left, top + height, left + width], axis=1), area)


def lone_specks(pieces: Pieces, largest_px: int) -> list[Speck]:
    """Choose the specks among pieces, smallest first.

    Parameters
    ----------
    pieces : Pieces
        All pieces of up to `CROWD` times `largest_px`, at least.
    largest_px : int
        A piece of up to so many pixels can be a speck.

    Notes
    -----
    A speck stands alone: where five or more pieces of at most four times the limit lie within six diameters of
    each other they are a texture (stipple, dotted shading) and are left out.
    """
    small = np.flatnonzero(pieces.areas <= largest_px)
    if largest_px <= 0 or len(small) == 0:
        return []
    alone = _alone(pieces, small, largest_px)
    chosen = small[alone]
    chosen = chosen[np.argsort(pieces.areas[chosen], kind="stable")]
    return [pieces.speck(int(index)) for index in chosen]


def find_specks(ink: U8, largest_px: int) -> list[Speck]:
    """List the suspect specks of a page, `lone_specks` of its pieces; 0 finds none."""
    return lone_specks(find_pieces(ink, CROWD * largest_px), largest_px)


def erase_specks(ink: U8, specks: list[Speck]) -> U8:
    """Return `ink`, (M, N) uint8, without the given specks and their faint halo of two pixels."""
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


def _alone(pieces: Pieces, small: I64, largest_px: int) -> Bool:
    every = pieces.centers[pieces.areas <= CROWD * largest_px]
    radius = 6 * 1.13 * largest_px**0.5
    near = cKDTree(every).query_ball_point(pieces.centers[small], radius, return_length=True)
    return np.asarray(near < 5)
