# SPDX-License-Identifier: GPL-3.0-or-later
"""Uneven paper light, estimated and removed. Knows nothing of levels or specks."""

import cv2
import numpy as np

from drip_pot.core.arrays import F32, Gray, check_gray
from drip_pot.core.strips import Strip, in_strips

_CELL, _FINE = 16, 4
_EVEN = 2.0
_DARK = 0.62
_BANDS = 8
_DIP, _STEEP = 0.95, 0.72


def estimate_paper(gray: Gray) -> F32 | None:
    """Estimate how light the bare paper is all over the page.

    Parameters
    ----------
    gray : (M, N) ndarray of uint8 or uint16
        The scan, 0 black, 255 or 65535 white.

    Returns
    -------
    (ceil(M / 16), ceil(N / 16)) ndarray of float32, or None
        Paper level of every 16-pixel cell, 0..255, or of every 4-pixel cell where the page has a fold or a shadowed
        spine; None where the paper is even already, so that a digital page is passed through untouched.

    Notes
    -----
    A cell's paper is the brightest of its 4-pixel means. Cells far below the paper level of the whole page
    are solid black or tone, not paper: they are filled from around by normalised convolution. A fold or spine is a
    soft dip of the light that runs along most of the page, across or down.
    """
    white = check_gray(gray, "gray")
    rows, cols = (-(-side // _CELL) for side in gray.shape)
    means = cv2.resize(gray, (cols * 4, rows * 4), interpolation=cv2.INTER_AREA)
    cells = cv2.dilate(means, np.ones((5, 5), np.uint8))
    cells = cv2.resize(cells, (cols, rows), interpolation=cv2.INTER_AREA).astype(np.float32) * (255 / white)
    level = float(np.percentile(cells, 80))
    known = cells > _DARK * level
    trusted = known.astype(np.float32)
    paper = cells
    for size in (9, 33, 129):
        weight = cv2.GaussianBlur(trusted, (0, 0), size / 4)
        mean = cv2.GaussianBlur(cells * trusted, (0, 0), size / 4) / np.maximum(weight, 1e-6)
        fresh = ~known & (weight > 0.02)
        paper = np.where(fresh, mean, paper)
        known = known | fresh
    paper = np.where(known, paper, level)
    paper = cv2.GaussianBlur(cv2.medianBlur(paper.astype(np.float32), 5), (0, 0), 2.0)
    fine = cv2.resize(paper, (cols * 4, rows * 4), interpolation=cv2.INTER_LINEAR)
    light = means.astype(np.float32) * (255 / white)
    down, across = _dips(light, fine), _dips(np.ascontiguousarray(light.T), np.ascontiguousarray(fine.T))
    if down is not None or across is not None:
        for dip in (down, None if across is None else across.T):
            fine = fine if dip is None else fine * dip
        return np.asarray(fine[: -(-gray.shape[0] // _FINE), : -(-gray.shape[1] // _FINE)], np.float32)
    if float(np.percentile(paper, 98) - np.percentile(paper, 2)) < _EVEN and level > 250:
        return None
    return np.asarray(paper, np.float32)


def _dips(light: F32, paper: F32) -> F32 | None:
    """Find soft dips of the light that run down the page: the share of it that is left; None where there is none."""
    closed = cv2.morphologyEx(light, cv2.MORPH_CLOSE, np.ones((1, 7), np.uint8))
    ratio = np.clip(closed / np.maximum(paper, 1), 0.05, 1)
    deep = len(ratio) // _BANDS
    if deep < 4:
        return None
    bands = ratio[: deep * _BANDS].reshape(_BANDS, deep, -1)[:, :: max(1, deep // 32)]
    profile = np.partition(bands, 3 * bands.shape[1] // 4, axis=1)[:, 3 * bands.shape[1] // 4].copy()
    profile[profile > _DIP] = 1
    for line in profile:
        ends = np.flatnonzero(np.diff(np.concatenate([[0], (line < 1).astype(np.int8), [0]])))
        for start, stop in zip(ends[::2].tolist(), ends[1::2].tolist(), strict=True):
            inside = line[start:stop]
            steps = np.minimum(inside[1:], inside[:-1]) / np.maximum(inside[1:], inside[:-1])
            beside = [float(inside[k]) for k, at in ((0, start), (-1, stop)) if 0 < at < len(line)]
            if (steps < _STEEP).any() or min(beside, default=1.0) < _STEEP or inside.min() < 0.2:
                line[start:stop] = 1  # a hard edge is ink, not shadow
    often = cv2.dilate((profile < 1).astype(np.float32), np.ones((1, 15), np.uint8)).mean(axis=0)
    profile[:, often < 0.7] = 1
    if not (profile < 1).any():
        return None
    profile = cv2.GaussianBlur(profile, (5, 1), 0)
    return np.asarray(cv2.resize(profile, (light.shape[1], light.shape[0]), interpolation=cv2.INTER_LINEAR), np.float32)


def remove_paper(gray: Gray, paper: F32 | None) -> Gray:
    """Divide the paper out of a scan, so that bare paper becomes 250 / 255 of white everywhere.

    Parameters
    ----------
    gray : (M, N) ndarray of uint8 or uint16
        The scan.
    paper : ndarray of float32, or None
        What `estimate_paper` returned; None returns `gray` itself.

    Returns
    -------
    (M, N) ndarray of the dtype of `gray`
        Evened scan, paper near 250 (of 255), ink near its own darkness.
    """
    white = check_gray(gray, "gray")
    if paper is None:
        return gray
    out = np.empty_like(gray)
    height, width = gray.shape
    cell = _CELL if paper.shape[0] == -(-height // _CELL) else _FINE
    gain = np.float32(250) / np.maximum(paper, 1)

    def work(strip: Strip) -> None:
        first, last = strip.rows.start // cell, -(-strip.rows.stop // cell)
        low, high = max(0, first - 1), min(len(gain), last + 1)
        size = gain.shape[1] * cell, (high - low) * cell
        part = cv2.resize(gain[low:high], size, interpolation=cv2.INTER_LINEAR)
        start = strip.rows.start - low * cell
        part = part[start : start + strip.rows.stop - strip.rows.start, :width]
        cv2.multiply(gray[strip.rows], part, out[strip.rows], 1.0, cv2.CV_16U if white > 255 else cv2.CV_8U)

    in_strips(work, height, height=512)
    return out
