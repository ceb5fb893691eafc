# SPDX-License-Identifier: GPL-3.0-or-later
"""A corrected drawing laid over the old one, and what changed between them. Knows coverage and places."""

import math
from dataclasses import dataclass

import cv2
import numpy as np

from drip_pot.core.arrays import F32, U8, Rect, check_plane
from drip_pot.core.errors import BadInput
from drip_pot.core.inks.place import Place

_SIDE = 1024
_FINE = 2400


def align(fixed: U8, moving: U8) -> Place:
    """Find how a drawing lies on an older version of itself: shift, turn and scale.

    Parameters
    ----------
    fixed, moving : (M, N) ndarrays of uint8
        Coverage of the old and the new drawing; sizes may differ.

    Returns
    -------
    Place
        Where `moving` belongs on `fixed`.

    Raises
    ------
    BadInput
        If the two do not look like the same drawing.

    Notes
    -----
    Turn and scale from the log-polar spectrum by phase correlation (B. S. Reddy, B. N. Chatterji, "An FFT-based
    technique for translation, rotation, and scale-invariant image registration", 1996), then shift; refined by
    enhanced correlation (G. D. Evangelidis, E. Z. Psarakis, 2008).
    """
    check_plane(fixed, np.uint8, "fixed")
    check_plane(moving, np.uint8, "moving")
    shrink = _SIDE / max(*fixed.shape, *moving.shape)
    a, b = (_square(plane, shrink) for plane in (fixed, moving))
    guesses = [(0.0, 1.0)]
    found = _turn_and_scale(a, b)
    guesses += [found, ((found[0] + 360) % 360 - 180, found[1])]  # spectra look the same upside down
    tries = [_shifted(a, b, turn, scale) for turn, scale in guesses]
    score, place = max(tries, key=lambda t: t[0])
    coarse = Place(place.turn_deg, place.scale, place.down_px / shrink, place.right_px / shrink)
    shrink = min(1.0, _FINE / max(*fixed.shape, *moving.shape))
    refined = _refined(fixed, moving, coarse, shrink)
    if refined is None or max(score, refined[0]) < 0.25:
        raise BadInput("The new drawing does not match the old one, so it cannot be laid over it. Add it as a sheet.")
    return refined[1]


def _square(plane: U8, shrink: float) -> F32:
    size = max(1, round(plane.shape[1] * shrink)), max(1, round(plane.shape[0] * shrink))
    small = cv2.resize(plane, size, interpolation=cv2.INTER_AREA).astype(np.float32) / 255
    out = np.zeros((_SIDE, _SIDE), np.float32)
    out[: small.shape[0], : small.shape[1]] = small[:_SIDE, :_SIDE]
    return out


def _turn_and_scale(a: F32, b: F32) -> tuple[float, float]:
    window = cv2.createHanningWindow((_SIDE, _SIDE), cv2.CV_32F)
    spectra = []
    for plane in (a, b):
        size = np.log1p(np.abs(np.fft.fftshift(np.fft.fft2(plane * window)))).astype(np.float32)
        away = np.hypot(*np.meshgrid(*(np.arange(_SIDE) - _SIDE / 2,) * 2)).astype(np.float32)
        size *= 1 - np.exp(-((away / (_SIDE / 16)) ** 2))
        spectra.append(
            cv2.warpPolar(size, (_SIDE, _SIDE), (_SIDE / 2, _SIDE / 2), _SIDE / 2,
                          cv2.WARP_POLAR_LOG | cv2.INTER_LINEAR)
        )  # fmt: skip
    (dx, dy), _ = cv2.phaseCorrelate(spectra[0], spectra[1], window)
    turn = -dy * 360 / _SIDE
    scale = float(np.exp(dx * np.log(_SIDE / 2) / _SIDE))
    return (turn + 90) % 180 - 90, min(max(scale, 0.2), 5.0)


def _shifted(a: F32, b: F32, turn: float, scale: float) -> tuple[float, Place]:
    """Find the shift for a turn and scale; score is the correlation of the softened drawings."""
    place = Place(turn, scale)
    matrix = place.matrix()
    corners = matrix @ np.array([[0, _SIDE, 0, _SIDE], [0, 0, _SIDE, _SIDE], [1, 1, 1, 1]])
    matrix[:, 2] -= corners.mean(axis=1) - _SIDE / 2
    laid = cv2.warpAffine(b, matrix, (_SIDE, _SIDE))
    soft = cv2.GaussianBlur(a, (0, 0), 2), cv2.GaussianBlur(laid, (0, 0), 2)
    (dx, dy), _ = cv2.phaseCorrelate(soft[1], soft[0])
    best = -1.0, 0.0, 0.0
    for x in (dx, dx - math.copysign(_SIDE, dx)):  # the spectrum does not tell a shift from its wrap round the edge
        for y in (dy, dy - math.copysign(_SIDE, dy)):
            moved = cv2.warpAffine(soft[1], np.array([[1, 0, x], [0, 1, y]]), (_SIDE, _SIDE))[::2, ::2]
            if moved.any() and soft[0].any():
                score = float(np.corrcoef(moved.ravel(), soft[0][::2, ::2].ravel())[0, 1])
                best = max(best, (score, x, y))
    return best[0], Place(turn, scale, float(matrix[1, 2] + best[2]), float(matrix[0, 2] + best[1]))


def _refined(fixed: U8, moving: U8, coarse: Place, shrink: float) -> tuple[float, Place] | None:
    """Refine at up to 2400 px by enhanced correlation, softened so that thin lines pull from some way off."""
    small = [
        cv2.GaussianBlur(cv2.resize(p, None, fx=shrink, fy=shrink, interpolation=cv2.INTER_AREA), (0, 0), 2.5)
        for p in (fixed, moving)
    ]
    matrix = Place(-coarse.turn_deg, 1 / coarse.scale).matrix().astype(np.float64)
    back = coarse.inverse()
    matrix[:, 2] = back.right_px * shrink, back.down_px * shrink
    warp = matrix.astype(np.float32)
    stop = (cv2.TERM_CRITERIA_EPS | cv2.TERM_CRITERIA_COUNT, 60, 1e-6)
    try:
        score, warp = cv2.findTransformECC(small[0], small[1], warp, cv2.MOTION_AFFINE, stop, None, 5)
    except cv2.error:
        return None
    a, c = float(warp[0, 0] + warp[1, 1]) / 2, float(warp[1, 0] - warp[0, 1]) / 2
    scale, turn = float(np.hypot(a, c)), float(np.degrees(np.arctan2(c, a)))
    if not 0.02 < scale < 50:
        return None
    middle = np.array([small[0].shape[1] / 2, small[0].shape[0] / 2, 1.0])
    want = warp @ middle / shrink
    inverse = Place(turn, scale)
    col, row = inverse.matrix() @ [middle[0] / shrink, middle[1] / shrink, 1.0]
    inverse = Place(turn, scale, float(want[1] - row), float(want[0] - col))
    return float(score), inverse.inverse()


@dataclass(frozen=True)
class Changed:
    """A place where the line differs: its box and how many pixels of line came or went."""

    rect: Rect
    came_px: int
    went_px: int


def find_changes(old: U8, new: U8, slack_px: int, least_px: int) -> list[Changed]:
    """List where a line was really redrawn.

    Parameters
    ----------
    old, new : (M, N) ndarrays of uint8
        Coverage of the same page.
    slack_px : int
        Line that lies within so many pixels of line in the other is the same line.
    least_px : int
        Changes of fewer pixels are left out.

    Returns
    -------
    list of Changed
        Largest first.

    Raises
    ------
    BadInput
        If the two differ in shape, or are no (M, N) planes of uint8.
    """
    check_plane(old, np.uint8, "old")
    check_plane(new, np.uint8, "new")
    if old.shape != new.shape:
        raise BadInput("The drawings differ in size: {0} and {1}.", old.shape, new.shape)
    disc = cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (2 * slack_px + 1,) * 2)
    before, now = ((plane > 127).view(np.uint8) for plane in (old, new))
    came, went = now & (cv2.dilate(before, disc) ^ 1), before & (cv2.dilate(now, disc) ^ 1)
    either = cv2.dilate(came | went, np.ones((8 * slack_px + 1,) * 2, np.uint8))
    count, labels, stats, _ = cv2.connectedComponentsWithStats(either, connectivity=8)
    sums = [np.bincount(labels[plane > 0], minlength=count) for plane in (came, went)]
    found = []
    for k in range(1, count):
        left, top, width, height = stats[k][:4].tolist()
        if sums[0][k] + sums[1][k] >= least_px:
            found.append(Changed((top, left, top + height, left + width), int(sums[0][k]), int(sums[1][k])))
    return sorted(found, key=lambda c: (-(c.came_px + c.went_px), c.rect))
