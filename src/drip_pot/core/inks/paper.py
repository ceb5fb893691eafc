"""Uneven paper light, estimated and removed. Knows nothing of levels or specks."""

import cv2
import numpy as np

from drip_pot.core.arrays import F32, U8, check_plane

_CELL = 16
_EVEN = 2.0


def estimate_paper(gray: U8) -> F32 | None:
    """Estimate how light the bare paper is all over the page.

    Parameters
    ----------
    gray : (M, N) ndarray of uint8
        The scan, 0 black, 255 white.

    Returns
    -------
    (ceil(M / 16), ceil(N / 16)) ndarray of float32, or None
        Paper level of every 16-pixel cell, 0..255; None where the paper is even already, so that a
        digital page is passed through untouched.

    Notes
    -----
    A cell's paper is the brightest of its 4-pixel means. Cells far below the paper level of the whole page
    are solid black or tone, not paper: they are filled from around by normalised convolution.
    """
    check_plane(gray, np.uint8, "gray")
    rows, cols = (-(-side // _CELL) for side in gray.shape)
    means = cv2.resize(gray, (cols * 4, rows * 4), interpolation=cv2.INTER_AREA)
    cells = cv2.dilate(means, np.ones((5, 5), np.uint8))
    cells = cv2.resize(cells, (cols, rows), interpolation=cv2.INTER_AREA).astype(np.float32)
    level = float(np.percentile(cells, 80))
    trusted = (cells > 0.62 * level).astype(np.float32)
    paper = cells
    for size in (9, 33, 129):
        weight = cv2.GaussianBlur(trusted, (0, 0), size / 4)
        mean = cv2.GaussianBlur(cells * trusted, (0, 0), size / 4) / np.maximum(weight, 1e-6)
        paper = np.where((paper <= 0.62 * level) & (weight > 0.02), mean, paper)
    paper = np.where(paper <= 0.62 * level, level, paper)
    paper = cv2.GaussianBlur(cv2.medianBlur(paper.astype(np.float32), 5), (0, 0), 2.0)
    if float(np.percentile(paper, 98) - np.percentile(paper, 2)) < _EVEN and level > 250:
        return None
    return np.asarray(paper, np.float32)


def remove_paper(gray: U8, paper: F32 | None) -> U8:
    """Divide the paper out of a scan, so that bare paper becomes 250 everywhere.

    Parameters
    ----------
    gray : (M, N) ndarray of uint8
        The scan.
    paper : ndarray of float32, or None
        What `estimate_paper` returned; None returns `gray` itself.

    Returns
    -------
    (M, N) ndarray of uint8
        Evened scan, paper near 250, ink near its own darkness.
    """
    check_plane(gray, np.uint8, "gray")
    if paper is None:
        return gray
    out = np.empty_like(gray)
    height, width = gray.shape
    full = paper.shape[0] * _CELL, paper.shape[1] * _CELL
    wide = cv2.resize(paper, (full[1], paper.shape[0]), interpolation=cv2.INTER_LINEAR)[:, :width]
    for top in range(0, height, 1024):
        bottom = min(top + 1024, height)
        at = (np.arange(top, bottom, dtype=np.float32) + 0.5) / _CELL - 0.5
        low = np.clip(np.floor(at).astype(int), 0, paper.shape[0] - 1)
        high = np.minimum(low + 1, paper.shape[0] - 1)
        mix = np.clip(at - low, 0, 1)[:, None].astype(np.float32)
        light = wide[low] * (1 - mix) + wide[high] * mix
        cv2.divide(gray[top:bottom], np.maximum(light, 1), out[top:bottom], 250.0, cv2.CV_8U)
    return out
