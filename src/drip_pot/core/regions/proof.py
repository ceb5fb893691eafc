# SPDX-License-Identifier: GPL-3.0-or-later
"""Proof that nothing was missed: paper between flat and line, threads, islands. Knows planes and the region graph."""

from dataclasses import dataclass

import cv2
import numpy as np

from drip_pot.core.arrays import F64, I32, I64, U8, Bool, Rect
from drip_pot.core.regions.graph import Borders
from drip_pot.core.strips import Strip, in_strips


@dataclass(frozen=True)
class Fringe:
    """Paper that would show between flat and line.

    Attributes
    ----------
    px : int
        How many pixels.
    rects : tuple of Rect
        Where, the largest first, at most a hundred.
    """

    px: int
    rects: tuple[Rect, ...]


def find_fringe(labels: I32, ink: U8, filled: Bool, line_px: float, opacity: float = 1.0) -> Fringe:
    """Count the pixels where paper would show between flat and line.

    Parameters
    ----------
    labels : (M, N) ndarray of int32
        Atoms.
    ink : (M, N) ndarray of uint8
        Line coverage.
    filled : (A + 1,) ndarray of bool
        Atoms that carry colour.
    line_px : float
        Usual line width in pixels.
    opacity : float
        Of the line, 0..1.

    Returns
    -------
    Fringe
        A pixel counts if the line covers some of it but not all, its atom carries no colour, and it is not the edge of
        open paper: the nearest bare pixel without colour is more than three quarters of a line and three pixels away.
    """
    reach = 0.75 * line_px + 3.0
    halo = int(reach * 2) + 4

    def work(strip: Strip) -> U8:
        cover, bare = ink[strip.around], ~filled[labels[strip.around]]
        shown = bare & (cover > 0) & (np.rint(cover * opacity) < 255)
        if not shown.any():
            return np.zeros(ink[strip.rows].shape, np.uint8)
        shut = (~(bare & (cover == 0))).view(np.uint8)
        away = cv2.distanceTransform(shut, cv2.DIST_L2, 5) if not shut.all() else np.full(shut.shape, np.inf)
        return np.asarray((shown & (away > reach)).view(np.uint8)[strip.inside])

    marked = np.concatenate(in_strips(work, len(ink), halo))
    px = cv2.countNonZero(marked)
    if px == 0:
        return Fringe(0, ())
    _, _, stats, _ = cv2.connectedComponentsWithStats(cv2.dilate(marked, np.ones((9, 9), np.uint8)), connectivity=8)
    order = np.argsort(-stats[1:, cv2.CC_STAT_AREA])[:100] + 1
    boxes = stats[order][:, :4].tolist()
    return Fringe(px, tuple((top, left, top + high, left + wide) for left, top, wide, high in boxes))


@dataclass(frozen=True)
class RegionGraph:
    """Regions and what they touch.

    Attributes
    ----------
    ids : (R,) ndarray of int64
        Region numbers, ascending.
    areas, around : (R,) ndarrays of int64
        Pixels, and pixel sides shared with other regions.
    pairs : (K, 2) ndarray of int64
        Places in `ids` of regions that touch, the smaller first.
    length_px : (K,) ndarray of int64
        Pixel sides they share.
    """

    ids: I64
    areas: I64
    around: I64
    pairs: I64
    length_px: I64

    @property
    def thickness(self) -> F64:
        """How thick every region is on the whole, in pixels: twice its area over its outline."""
        return np.asarray(2.0 * self.areas / np.maximum(self.around, 1), np.float64)


def region_graph(region: I64, areas: I64, borders: Borders) -> RegionGraph:
    """Return the graph of regions for the region of every atom, the atoms' areas and their borders.

    Regions and areas, in pixels, are (A + 1,) int64.
    """
    live = areas > 0
    ids = np.unique(region[live])
    place = np.zeros(len(region), np.int64)
    place[live] = np.searchsorted(ids, region[live])
    size = np.bincount(place[live], weights=areas[live], minlength=len(ids)).astype(np.int64)
    ends = np.sort(place[borders.pairs], axis=1)
    apart = ends[:, 0] != ends[:, 1]
    pairs, which = np.unique(ends[apart], axis=0, return_inverse=True)
    length = np.bincount(which.reshape(-1), weights=borders.length_px[apart], minlength=len(pairs)).astype(np.int64)
    around = np.bincount(pairs.ravel(), weights=np.repeat(length, 2), minlength=len(ids)).astype(np.int64)
    return RegionGraph(ids, size, around, pairs.reshape(-1, 2), length)


def islands(graph: RegionGraph) -> list[tuple[int, int]]:
    """List regions that touch one other region alone: places in `graph.ids` of the island and of what surrounds it."""
    degree = np.bincount(graph.pairs.ravel(), minlength=len(graph.ids))
    found = []
    for a, b in graph.pairs.tolist():
        inner, outer = (a, b) if graph.areas[a] < graph.areas[b] else (b, a)
        if degree[inner] == 1:
            found.append((inner, outer))
    return found
