"""Uneven paper light, estimated and removed. Knows nothing of levels or specks."""

import cv2
import numpy as np

from drip_pot.core.arrays import F32, Bool, Gray, check_gray
from drip_pot.core.strips import Strip, in_strips

_CELL = 16
_EVEN = 2.0
_SLOPE = 0.80
_SHADOW = 0.22


def estimate_paper(gray: Gray) -> F32 | None:
    """Estimate how light the bare paper is all over the page.

    Parameters
    ----------
    gray : (M, N) ndarray of uint8 or uint16
        The scan, 0 black, 255 or 65535 white.

    Returns
    -------
    (ceil(M / 16), ceil(N / 16)) ndarray of float32, or None
        Paper level of every 16-pixel cell, 0..255; None where the paper is even already, so that a
        digital page is passed through untouched.

    Notes
    -----
    A cell's paper is the brightest of its 4-pixel means. Cells far below the paper level of the whole page
    are solid black or tone, not paper, unless the light falls off to them step by step, as it does into a fold or
    the shadow of a spine; the others are filled from around by normalised convolution.
    """
    white = check_gray(gray, "gray")
    rows, cols = (-(-side // _CELL) for side in gray.shape)
    means = cv2.resize(gray, (cols * 4, rows * 4), interpolation=cv2.INTER_AREA)
    cells = cv2.dilate(means, np.ones((5, 5), np.uint8))
    cells = cv2.resize(cells, (cols, rows), interpolation=cv2.INTER_AREA).astype(np.float32) * (255 / white)
    level = float(np.percentile(cells, 80))
    known = _lit(cells, level)
    trusted = known.astype(np.float32)
    paper = cells
    for size in (9, 33, 129):
        weight = cv2.GaussianBlur(trusted, (0, 0), size / 4)
        mean = cv2.GaussianBlur(cells * trusted, (0, 0), size / 4) / np.maximum(weight, 1e-6)
        fresh = ~known & (weight > 0.02)
        paper = np.where(fresh, mean, paper)
        known = known | fresh
    paper = np.where(known, paper, level)
    paper = cv2.GaussianBlur(cv2.medianBlur(paper.astype(np.float32), 5), (0, 0), 1.4)
    if float(np.percentile(paper, 98) - np.percentile(paper, 2)) < _EVEN and level > 250:
        return None
    return np.asarray(paper, np.float32)


def _lit(cells: F32, level: float) -> Bool:
    """Tell cells of bare paper: near the page's level, or a gentle step darker than such a neighbour."""
    lit = cells > 0.62 * level
    grown = cv2.dilate(np.where(lit, cells, 0), np.ones((3, 3), np.uint8))
    for _ in range(40):
        fresh = ~lit & (cells > _SLOPE * grown) & (cells > _SHADOW * level) & (grown > 0)
        if not fresh.any():
            break
        lit = lit | fresh
        grown = cv2.dilate(np.where(lit, cells, 0), np.ones((3, 3), np.uint8))
    return np.asarray(lit)


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
    wide = cv2.resize(paper, (paper.shape[1] * _CELL, paper.shape[0]), interpolation=cv2.INTER_LINEAR)[:, :width]

    def work(strip: Strip) -> None:
        at = (np.arange(strip.rows.start, strip.rows.stop, dtype=np.float32) + 0.5) / _CELL - 0.5
        low = np.clip(np.floor(at).astype(int), 0, paper.shape[0] - 1)
        high = np.minimum(low + 1, paper.shape[0] - 1)
        mix = np.clip(at - low, 0, 1)[:, None].astype(np.float32)
        light = wide[low] * (1 - mix) + wide[high] * mix
        cv2.divide(gray[strip.rows], np.maximum(light, 1) * (white / 255), out[strip.rows], 250.0 * white / 255,
                   cv2.CV_16U if white > 255 else cv2.CV_8U)  # fmt: skip

    in_strips(work, height, height=512)
    return out
