"""Dust: isolated specks of ink, found, counted and erased. Knows nothing of levels or paper."""

from dataclasses import dataclass

import cv2
import numpy as np

from drip_pot.core.arrays import U8, check_plane

_FAINT = 40


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


def find_specks(ink: U8, largest_px: int) -> list[Speck]:
    """List the suspect specks of a page, smallest first.

    Parameters
    ----------
    ink : (M, N) ndarray of uint8
        Ink coverage.
    largest_px : int
        A piece of ink (8-connected, coverage above 40) of up to so many pixels is a suspect; 0 finds none.

    Notes
    -----
    A speck is suspect only if it stands alone: where four or more pieces of at most four times the limit lie
    within six diameters of each other they are a texture (stipple, dotted shading) and are left out.
    """
    check_plane(ink, np.uint8, "ink")
    if largest_px <= 0:
        return []
    _, _, stats, centers = cv2.connectedComponentsWithStats(
        (ink > _FAINT).view(np.uint8), connectivity=8, ltype=cv2.CV_32S
    )
    areas = stats[1:, cv2.CC_STAT_AREA]
    small = np.flatnonzero(areas <= largest_px)
    crowd = _crowd(centers[1:][areas <= 4 * largest_px], centers[1:][small], 6 * 1.13 * largest_px**0.5)
    chosen = small[crowd < 5]
    chosen = chosen[np.argsort(areas[chosen], kind="stable")]
    return [
        Speck(
            row=float(centers[i + 1, 1]),
            col=float(centers[i + 1, 0]),
            top=int(stats[i + 1, cv2.CC_STAT_TOP]),
            left=int(stats[i + 1, cv2.CC_STAT_LEFT]),
            bottom=int(stats[i + 1, cv2.CC_STAT_TOP] + stats[i + 1, cv2.CC_STAT_HEIGHT]),
            right=int(stats[i + 1, cv2.CC_STAT_LEFT] + stats[i + 1, cv2.CC_STAT_WIDTH]),
            area_px=int(areas[i]),
        )
        for i in chosen
    ]


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


def _touches_other_ink(
    ink: U8, speck: Speck, top: int, left: int, own: np.ndarray[tuple[int, int], np.dtype[np.bool_]]
) -> bool:
    window = ink[top : top + own.shape[0], left : left + own.shape[1]] > _FAINT
    window = window & own
    window[speck.top - top : speck.bottom - top, speck.left - left : speck.right - left] = False
    return bool(window.any())


def _crowd(every: np.ndarray, some: np.ndarray, radius: float) -> np.ndarray:
    from scipy.spatial import cKDTree

    if len(some) == 0:
        return np.zeros(0, np.int64)
    return np.asarray(cKDTree(every).query_ball_point(some, radius, return_length=True))
