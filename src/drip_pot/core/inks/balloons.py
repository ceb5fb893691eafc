# SPDX-License-Identifier: GPL-3.0-or-later
"""Lettering that covers the art with white: balloons and captions. Knows coverage only."""

import cv2
import numpy as np

from drip_pot.core.arrays import I32, U8, Bool, check_plane

_LINE, _RIM_PX = 96, 2
_MOST_LETTERS = 1200
_WIDEST_LETTER, _SPACE = 1.4, 0.8
"""Of letters, by their height: how wide they are in the middle, and how far apart."""


def balloon_paper(ink: U8, opaque: U8 | None = None) -> U8:
    """Find where a lettering sheet covers what lies under it with white.

    Parameters
    ----------
    ink : (M, N) ndarray of uint8
        Coverage of the lettering sheet.
    opaque : (M, N) ndarray of uint8, optional
        Opacity of the sheet as it came (255 covers); where it says nothing, everything that an outline of the sheet
        encloses is white, but for the counters of letters.

    Returns
    -------
    (M, N) ndarray of uint8
        1 where paper shows. It ends under the middle of the outline, so that none shows beside it.

    Raises
    ------
    BadInput
        If an array has another shape or type.
    """
    check_plane(ink, np.uint8, "ink")
    if opaque is not None and opaque.any() and not opaque.all():
        return _to_middle((opaque > 127).view(np.uint8), ink)
    line = (ink > _LINE).view(np.uint8)
    contours, tree = cv2.findContours(line, cv2.RETR_CCOMP, cv2.CHAIN_APPROX_SIMPLE)
    out = np.zeros_like(line)
    if tree is None:
        return out
    holes = [c for c, (_, _, _, parent) in zip(contours, tree[0].tolist(), strict=True) if parent >= 0]
    least = 0.0004 * ink.size
    cv2.drawContours(out, [h for h in holes if cv2.contourArea(h) >= least], -1, 1, -1)
    return _to_middle(out, ink)


def _to_middle(paper: U8, ink: U8) -> U8:
    """Let paper, (M, N) uint8 of 0 and 1, end in the middle of the line along its edge, where there is one."""
    if not paper.any():
        return paper
    line = (ink > _LINE).view(np.uint8)
    depth = cv2.distanceTransform(paper, cv2.DIST_L2, 5)
    white = (depth > _RIM_PX) & (line == 0)
    beyond = (paper == 0) & (line == 0)
    inner = cv2.distanceTransform((~white).view(np.uint8), cv2.DIST_L2, 5)
    outer = cv2.distanceTransform((~beyond).view(np.uint8), cv2.DIST_L2, 5)
    along = (cv2.dilate(line, np.ones((5, 5), np.uint8)) > 0) & ((paper | line) > 0)
    return np.where(along, inner <= outer, paper > 0).astype(np.uint8)


def is_balloon(ink: U8, region: U8) -> bool:
    """Tell a region of a page that looks like a balloon or caption: round or boxy, pale, with small pieces in rows.

    Parameters
    ----------
    ink, region : (M, N) ndarrays of uint8
        Coverage, and 1 in the region with its holes filled, over the region's box.
    """
    area = int(region.sum())
    if area < 400:
        return False
    contours, _ = cv2.findContours(region, cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_NONE)
    hull = cv2.contourArea(cv2.convexHull(np.concatenate(contours)))
    if area / max(hull, 1.0) < 0.8:
        return False
    inner = cv2.erode(np.pad(region, 1), np.ones((7, 7), np.uint8))[1:-1, 1:-1]
    letters = ((ink > 96) & (inner > 0)).view(np.uint8)
    count, _, stats, centers = cv2.connectedComponentsWithStats(letters, connectivity=8)
    high = stats[1:, 3]
    small = (high > 3) & (high < 0.35 * region.shape[0]) & (stats[1:, 2] < 0.35 * region.shape[1])
    if not 5 <= small.sum() <= _MOST_LETTERS or small.sum() < 0.7 * (count - 1):
        return False
    share = float(letters.sum()) / area
    rows = np.sort(centers[1:][small][:, 1])
    tall = float(np.median(high[small]))
    lined = np.mean(np.diff(rows) < 0.35 * tall) if len(rows) > 1 else 0.0
    if not (0.02 < share < 0.4 and lined > 0.6 and np.std(high[small]) < 0.6 * tall):
        return False
    return float(np.median(stats[1:, 2][small])) < _WIDEST_LETTER * tall and _in_words(stats[1:][small], tall) > 0.6


def _in_words(boxes: I32, tall: float) -> float:
    """Share of pieces, (P, 5) as OpenCV's stats, that have another close beside them: rain and tiles stand apart."""
    left, top, width, height = boxes[:, :4].astype(np.float64).T
    middle = top + height / 2
    space = left[None] - (left + width)[:, None]
    level = np.abs(middle[None] - middle[:, None]) < 0.5 * tall
    follows = level & (space > -0.3 * tall) & (space < _SPACE * tall)
    np.fill_diagonal(follows, val=False)
    return float((follows.any(axis=0) | follows.any(axis=1)).mean())


def outlines_of(ink: U8, paper: Bool) -> Bool:
    """Tell which line of a lettering sheet goes round what it covers with white, (M, N) bool.

    `ink` is its coverage, (M, N) uint8, `paper` (M, N) where white shows: letters lie in it, or beside it, wholly.
    """
    count, found = cv2.connectedComponents((ink > 0).view(np.uint8), connectivity=8, ltype=cv2.CV_32S)
    inside = np.bincount(found[paper], minlength=count) > 0
    beside = np.bincount(found[~paper], minlength=count) > 0
    both = inside & beside
    both[0] = False
    return np.asarray(both[found])
