# SPDX-License-Identifier: GPL-3.0-or-later
"""Skew and panel frames, read from the long straight lines of a page. Knows coverage only."""

from dataclasses import dataclass

import cv2
import numpy as np
import scipy

from drip_pot.core.arrays import F32, U8, Bool, check_plane
from drip_pot.core.inks.place import Place, lay, turned_about

_SIDE = 1600
_MOST_DEG = 8.0
_SPOTS, _FEW_SPOTS = 150_000, 50_000
_FRAME_SHARE = 0.26


@dataclass(frozen=True)
class Break:
    """A gap in a panel frame: its two ends (row, col) in page pixels and the width of the frame line."""

    row: float
    col: float
    end_row: float
    end_col: float
    width_px: float


def find_skew(ink: U8) -> float | None:
    """Find by how much a page lies askew.

    Parameters
    ----------
    ink : (M, N) ndarray of uint8
        Coverage.

    Returns
    -------
    float or None
        Degrees to turn the page, clockwise as seen, so that its frames are upright, -8..8; None where
        the page has no frames that tell.

    Notes
    -----
    The projection profile of W. Postl, "Detection of linear oblique structures and skew scan in digitized
    documents", 1986: at the right angle the counts of ink along rows (and columns) are the most uneven.
    """
    small, _ = _small(ink)
    spots = np.argwhere(small > 0)
    if len(spots) < 200:
        return None
    rng = np.random.default_rng(0)
    if len(spots) > _SPOTS:
        spots = spots[rng.choice(len(spots), _SPOTS, replace=False)]
    row, col = (spots - np.array(small.shape) / 2).T.astype(np.float32)
    few = slice(None, None, max(1, len(row) // _FEW_SPOTS))
    angles = np.arange(-_MOST_DEG, _MOST_DEG + 0.01, 0.2)
    best = angles[int(np.argmax([_unevenness(row[few], col[few], a) for a in angles]))]
    fine = np.arange(best - 0.3, best + 0.301, 0.02)
    sharp = np.array([_unevenness(row, col, a) for a in fine])
    usual = float(np.median([_unevenness(row, col, a) for a in angles[::6]]))
    if sharp.max() < 1.25 * usual:
        return None
    top = fine[sharp >= sharp.max() - 0.1 * (sharp.max() - usual)]
    turn_deg = float(round(top.mean(), 3))
    return turn_deg if _has_frames(small, turn_deg) else None


def _has_frames(small: U8, turn_deg: float) -> bool:
    """Whether long straight lines run both ways after a turn, as long as the page together; a sword is no frame."""
    level = lay(small, turned_about(small.shape[0] / 2, small.shape[1] / 2, turn_deg), small.shape, 0, hard=True)
    level, long = cv2.dilate(level, np.ones((3, 3), np.uint8)), max(16, round(_FRAME_SHARE * min(small.shape)))
    for plane in (level, np.ascontiguousarray(level.T)):
        lines = cv2.morphologyEx(plane, cv2.MORPH_OPEN, np.ones((1, long), np.uint8))
        count, _, stats, _ = cv2.connectedComponentsWithStats(lines, connectivity=8)
        wide, high = stats[1:count, 2], stats[1:count, 3]
        if wide[high <= long / 8].sum() < plane.shape[1]:
            return False
    return True


def _unevenness(row: F32, col: F32, turn_deg: float) -> float:
    """How much the ink crowds on single rows and columns after a turn: the larger squares count."""
    cos, sin = np.float32(np.cos(np.radians(turn_deg))), np.float32(np.sin(np.radians(turn_deg)))
    total = 0.0
    for along in (row * cos + col * sin, col * cos - row * sin):
        counts = np.bincount((along - along.min()).astype(np.int64)).astype(np.float64)
        rough = counts - cv2.GaussianBlur(counts[None], (97, 1), 12)[0]
        total += float((rough**2).sum())
    return total


def find_breaks(ink: U8, dpi: float, skew_deg: float = 0.0) -> list[Break]:
    """Find gaps in panel frames.

    Parameters
    ----------
    ink : (M, N) ndarray of uint8
        Coverage.
    dpi : float
        Resolution; a frame line runs straight for 8 mm or more on both sides of its gap, of 6 mm at most.
    skew_deg : float
        What `find_skew` returned; frames are looked for upright and level after that turn.

    Returns
    -------
    list of Break
        Where nothing else is drawn across the gap, in reading order.
    """
    small, scale = _small(ink)
    turn = turned_about(small.shape[0] / 2, small.shape[1] / 2, skew_deg)
    level = lay(small, turn, (small.shape[0], small.shape[1]), 0, hard=True)
    mm = dpi / 25.4 / scale
    found = []
    for upright in (False, True):
        plane = np.ascontiguousarray(level.T) if upright else level
        for r0, c0, r1, c1, wide in _collinear(plane, 8 * mm, 6 * mm):
            ends = ((c0, r0), (c1, r1)) if upright else ((r0, c0), (r1, c1))
            back = turn.inverse().then(Place(0.0, scale))
            a, b = (back.at(*end) for end in ends)
            found.append(_fitted(ink, a, b, wide * scale))
    return sorted(found, key=lambda b: (b.row, b.col))


def _fitted(ink: U8, a: tuple[float, float], b: tuple[float, float], width_px: float) -> Break:
    """Measure the line behind both ends, found on a small copy, on the page itself: its width and where it runs."""
    ends = np.array([a, b])
    way = (ends[1] - ends[0]) / max(float(np.hypot(*(ends[1] - ends[0]))), 1e-9)
    across = np.array([-way[1], way[0]])
    middle = round(3 * width_px + 6)
    steps = 0.5 * np.arange(-middle, middle + 1)
    behind = width_px * np.linspace(1, 5, 17)
    wide = []
    for k, back in enumerate((-way, way)):
        at = ends[k] + behind[:, None, None] * back + steps[:, None] * across
        seen = scipy.ndimage.map_coordinates(ink, at.transpose(2, 0, 1), np.float32, order=1) / 255
        dark = seen > 0.25
        seen[:, middle:] *= np.minimum.accumulate(dark[:, middle:], axis=1)  # what hangs together with the middle
        seen[:, middle::-1] *= np.minimum.accumulate(dark[:, middle::-1], axis=1)
        thick = seen.sum(axis=1) * 0.5
        usual = (thick > 0) & (np.abs(thick - np.median(thick)) <= 1)
        if usual.any():
            wide.append(float(thick[usual].mean()))
            ends[k] += float((seen[usual] @ steps * 0.5 / thick[usual]).mean()) * across
    (row, col), (end_row, end_col) = ends.tolist()
    return Break(row, col, end_row, end_col, float(np.mean(wide)) if wide else width_px)


def _collinear(plane: U8, least: float, widest: float) -> list[tuple[float, float, float, float, float]]:
    """Gaps between level lines: (row, col) of the left end, of the right end, line width."""
    length = max(8, round(least))
    line = cv2.morphologyEx(plane, cv2.MORPH_OPEN, np.ones((1, length), np.uint8))
    across = cv2.dilate(cv2.morphologyEx(plane, cv2.MORPH_OPEN, np.ones((length, 1), np.uint8)), np.ones((7, 7)))
    count, _, stats, centers = cv2.connectedComponentsWithStats(line, connectivity=8)
    runs = [(float(centers[k][1]), *stats[k][:4].tolist()) for k in range(1, count) if stats[k][3] <= length / 4]
    gaps = []
    for row, left, _, width, high in runs:
        for other, left2, _, _, high2 in runs:
            space = left2 - (left + width)
            if not 1 <= space <= widest or abs(other - row) > 2 or max(high, high2) > 2 * min(high, high2) + 1:
                continue
            band = slice(max(0, round(min(row, other)) - 3), round(max(row, other)) + 4)
            corners = across[round(row), left + width - 1] and across[round(other), left2]  # a gutter, not a break
            if not corners and not _crossed(plane[band, left + width : left2] > 0):
                gaps.append((row, float(left + width - 1), other, float(left2), (high + high2) / 2))
    return gaps


def _crossed(gap: Bool) -> bool:
    """Whether something else is drawn where the frame is missing, rather than stubs of it."""
    inner = gap[:, 1:-1] if gap.shape[1] > 4 else gap[:, :0]
    return bool(inner.any())


def _small(ink: U8) -> tuple[U8, float]:
    """Return ink reduced to 1600 px at most, 1 where darker than a quarter, and how many pixels one stands for."""
    check_plane(ink, np.uint8, "ink")
    scale = max(1.0, max(ink.shape) / _SIDE)
    shape = max(1, round(ink.shape[1] / scale)), max(1, round(ink.shape[0] / scale))
    small = cv2.resize(ink, shape, interpolation=cv2.INTER_AREA) if scale > 1 else ink
    return (small > 64).view(np.uint8), scale
