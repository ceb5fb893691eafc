# SPDX-License-Identifier: GPL-3.0-or-later
"""What closes the line of a panel's frame where it is open. Knows planes and corners only; nothing of regions."""

from itertools import pairwise

import cv2
import numpy as np

from drip_pot.core.arrays import F64, I64, U8, Bool
from drip_pot.core.regions.hand import Path

_LINE, _NEXT_PX, _STRAIGHT_PX = 128, 2.9, 1.0


def close_frame(ink: U8, corners: Path, reach_px: float) -> Path:
    """Return a dam that closes a frame.

    Parameters
    ----------
    ink : (M, N) ndarray of uint8
        Line coverage.
    corners : tuple of (row, col)
        Of the frame in turn, three or more, in page pixels.
    reach_px : float
        How far beside the frame its line may lie, 0 and up.

    Returns
    -------
    path
        Through all stretches of the frame that have no line, and within its line from one to the next; empty where it
        is closed, the whole frame where there is no line at all. Along the page's edge none is needed.
    """
    ring = _ring(corners)
    spots, held = _on_line(ink, ring, reach_px)
    known = np.flatnonzero(held)
    if not len(known):
        return (*corners, corners[0])
    steps = (np.roll(known, -1) - known) % len(ring)
    steps[steps == 0] = len(ring)
    open_ = (steps != 1) | (np.hypot(*(spots[known] - spots[np.roll(known, -1)]).T) > _NEXT_PX)
    if not open_.any():
        return ()
    start, stop = _stretch(known, open_, len(ring))
    way = np.arange(start, stop + 1) % len(ring)
    corner = np.zeros(len(ring), bool)
    corner[_corner_places(corners)] = True
    return _shortened(spots[way][held[way] | corner[way]])


def _ring(corners: Path) -> F64:
    """Return a spot on the frame for every pixel of its way round, (K, 2)."""
    sides = []
    for (a, b), count in zip(pairwise([*corners, corners[0]]), _lengths(corners), strict=True):
        part = np.arange(count)[:, None] / count
        sides.append(np.array(a) * (1 - part) + np.array(b) * part)
    return np.concatenate(sides)


def _lengths(corners: Path) -> list[int]:
    return [max(1, int(np.ceil(np.hypot(b[0] - a[0], b[1] - a[1])))) for a, b in pairwise([*corners, corners[0]])]


def _corner_places(corners: Path) -> I64:
    return np.cumsum([0, *_lengths(corners)[:-1]])


def _on_line(ink: U8, ring: F64, reach_px: float) -> tuple[F64, Bool]:
    """Return spots brought to the nearest line beside the frame, well within it where that can be, and which were."""
    way = np.roll(ring, -1, axis=0) - ring
    way /= np.maximum(np.hypot(*way.T), 1e-9)[:, None]
    aside = np.stack([-way[:, 1], way[:, 0]], axis=1)
    line = (ink >= _LINE).astype(np.uint8)
    spots, held = ring.copy(), np.zeros(len(ring), bool)
    for plane in (cv2.erode(line, np.ones((3, 3), np.uint8), borderValue=1), line):
        for step in sorted(range(-int(reach_px), int(reach_px) + 1), key=abs):
            at = ring + step * aside
            fresh = ~held & _is_held(plane, at)
            spots[fresh], held = at[fresh], held | fresh
    jump = np.hypot(*(spots - np.roll(spots, 1, axis=0)).T) > _NEXT_PX
    run = np.cumsum(jump | (held != np.roll(held, 1)))
    away = np.hypot(*(spots - ring).T)
    crossing = (np.bincount(run)[run] < 6 * reach_px) & (away > _NEXT_PX)  # line that only comes by
    return np.where(crossing[:, None], ring, spots), held & ~crossing


def _is_held(line: U8, at: F64) -> Bool:
    """Whether there is line at spots, or the page ends."""
    row, col = np.rint(at).astype(np.int64).T
    rows, cols = line.shape
    beside = (row <= 0) | (col <= 0) | (row >= rows - 1) | (col >= cols - 1)
    return np.asarray(beside | (line[np.clip(row, 0, rows - 1), np.clip(col, 0, cols - 1)] > 0))


def _stretch(known: I64, open_: Bool, count: int) -> tuple[int, int]:
    """Return first and last place, counted on beyond the ring, round all that is open: the longest line is left out."""
    gaps = np.flatnonzero(open_)
    first, last = known[gaps], known[(gaps + 1) % len(known)]  # where line ends, and where it begins again
    lines = (np.roll(first, -1) - last) % count
    longest = int(lines.argmax())
    start, stop = int(first[(longest + 1) % len(gaps)]), int(last[longest])
    return start, stop + count * (stop <= start)


def _shortened(way: F64) -> Path:
    line = cv2.approxPolyDP(way.astype(np.float32).reshape(-1, 1, 2), _STRAIGHT_PX, False)[:, 0]
    return tuple((round(float(r), 1), round(float(c), 1)) for r, c in line)
