# SPDX-License-Identifier: GPL-3.0-or-later
"""Which pixels stop colour, and how wide the lines are. Knows nothing of gaps or labels."""

from dataclasses import dataclass

import cv2
import numpy as np

from drip_pot.core.arrays import F32, I32, I64, U8, check_plane
from drip_pot.core.strips import in_strips

_FLOOR = 32


def barrier_floor(ink: U8) -> int:
    """Return the coverage that is never line on a page: 32 where its ink is full, less where all of it is pale.

    `ink` is (M, N) uint8 coverage.
    """
    return max(8, _FLOOR * int(ink.max(initial=0)) // 255)


def draw_barrier(ink: U8, floor: int | None = None) -> U8:
    """Decide which pixels are line.

    Parameters
    ----------
    ink : (M, N) ndarray of uint8
        Contour coverage, 0 bare, 255 full.
    floor : int, optional
        The page's `barrier_floor`, if `ink` is a piece of the page.

    Returns
    -------
    (M, N) ndarray of uint8
        1 where colour is stopped, else 0: coverage above half of the darkest pixel within two pixels, and above
        the floor, so that a pale hairline stops colour as a full line does and the soft edge of a full line does
        not. Beside full black a pale hairline is known by its crest: paler on both its sides.

    Raises
    ------
    BadInput
        If an array has another shape or type.
    """
    check_plane(ink, np.uint8, "ink")
    floor = barrier_floor(ink) if floor is None else floor
    return np.concatenate(in_strips(lambda strip: _barrier_in(ink[strip.around], floor)[strip.inside], len(ink), 4))


def _barrier_in(ink: U8, floor: int) -> U8:
    peak = cv2.dilate(ink, np.ones((5, 5), np.uint8))
    limit = cv2.LUT(peak, np.maximum(np.arange(256) // 2, floor).astype(np.uint8))
    ink = np.ascontiguousarray(ink)
    barrier = (ink > limit).view(np.uint8)
    pale = (ink > floor).view(np.uint8) & (barrier ^ 1)
    pale[:2], pale[-2:], pale[:, :2], pale[:, -2:] = 0, 0, 0, 0
    at = np.flatnonzero(pale.view(bool))
    if len(at):
        flat, step = ink.ravel(), ink.shape[1]
        most = flat.take(at) // 3 * 2
        crest = np.zeros(len(at), bool)
        for across in (2, 2 * step, 2 * step + 2, 2 * step - 2):
            crest |= np.maximum(flat.take(at - across), flat.take(at + across)) < most
        thread, flat_pale, line = at[crest], pale.ravel(), barrier.ravel()
        line[thread] = 1
        for beside in (-step - 1, -step, -step + 1, -1, 1, step - 1, step, step + 1):  # to the black it hangs on
            line[(thread + beside)[flat_pale.take(thread + beside) > 0]] = 1
    return np.asarray(barrier)


@dataclass(frozen=True)
class Outline:
    """The outlines of the ink.

    Attributes
    ----------
    points : (K, 2) ndarray of int32
        Row, column of their pixels.
    start, size : (K,) ndarrays of int64
        Where the chain of each point starts, and its size.
    specks : tuple of (N, 1, 2) ndarrays of int32
        Column, row of the outer outlines that were too short to be followed.
    """

    points: I32
    start: I64
    size: I64
    specks: tuple[I32, ...] = ()

    def without_specks(self, barrier: U8) -> U8:
        """Return the barrier, (M, N) uint8, these are the outlines of, less the specks."""
        if not self.specks:
            return barrier
        return np.asarray(cv2.drawContours(barrier.copy(), self.specks, -1, 0, cv2.FILLED))


class Chain:
    """The points of all outlines, each of which closes on itself."""

    def __init__(self, outline: Outline) -> None:
        self.row, self.col = (np.ascontiguousarray(outline.points[:, k], np.float32) for k in (0, 1))
        self.start, self.size = outline.start.astype(np.int32), outline.size.astype(np.int32)
        self.place = np.arange(len(self.row), dtype=np.int32) - self.start

    def along(self, at: I64, by: int) -> tuple[F32, F32]:
        """Row and column of the points so far along from others, at most once round."""
        place, size = self.place.take(at) + np.int32(by), self.size.take(at)
        place = np.where(place < 0, place + size, np.where(place >= size, place - size, place))
        index = self.start.take(at) + place
        return self.row.take(index), self.col.take(index)


def find_outline(barrier: U8, least: int = 13) -> Outline:
    """Follow the outlines of the ink, (M, N) uint8, outer and inner ones; chains of fewer than `least` are left out."""
    contours, _ = cv2.findContours(barrier, cv2.RETR_LIST, cv2.CHAIN_APPROX_NONE)
    specks = tuple(c for c in contours if len(c) < least and cv2.contourArea(c, oriented=True) <= 0)  # no holes
    contours = [c for c in contours if len(c) >= least]
    if not contours:
        return Outline(np.zeros((0, 2), np.int32), np.zeros(0, np.int64), np.zeros(0, np.int64), specks)
    sizes = np.array([len(c) for c in contours])
    points = np.concatenate(contours).reshape(-1, 2)[:, ::-1].astype(np.int32)
    return Outline(points, np.repeat(np.cumsum(sizes) - sizes, sizes), np.repeat(sizes, sizes), specks)


def line_width(barrier: U8) -> float:
    """Return the usual width of the lines in pixels.

    Parameters
    ----------
    barrier : (M, N) ndarray of uint8
        1 where there is line; the middle 2000 rows are measured.

    Returns
    -------
    float
        Median of twice the depth along the middle of the lines, solid blacks counting little; 0 without ink.
    """
    top = max(0, barrier.shape[0] // 2 - 1000)
    piece = barrier[top : top + 2000]
    if not piece.any() or piece.all():
        return 0.0
    depth = cv2.distanceTransform(piece, cv2.DIST_L2, 5)
    values = depth[(depth > 0) & (depth >= cv2.dilate(depth, np.ones((3, 3), np.uint8)))]
    values = values[values < 40]
    return float(np.median(values) * 2 - 0.5) if values.size else 0.0
