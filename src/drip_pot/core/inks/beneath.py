# SPDX-License-Identifier: GPL-3.0-or-later
"""Faint line beneath the line: a sketch, construction lines. Knows an evened page and its levels."""

from dataclasses import dataclass

import cv2
import msgspec
import numpy as np

from drip_pot.core.arrays import F32, Gray, check_gray
from drip_pot.core.inks.coverage import InkSettings, coverage

_LONG_PX, _WIDE_PX, _SOFT_PX, _FEW = 1600, 31, 2.5, 200
_SEEN, _STEP, _FAINT, _FULL = 0.1, 0.05, 0.4, 0.6
_SHARE, _VALLEY, _OVER = 0.1, 0.03, 0.08
_CUT_PX, _BARELY, _HOLE_PX, _MORE, _FEW_HOLES = 2000, 64, 60, 1.5, 10


@dataclass(frozen=True)
class Sketch:
    """A sketch beneath the line.

    Attributes
    ----------
    without : InkSettings
        Levels that leave it out.
    breaks : bool
        Whether the line itself would break into pinholes by them, as that of a soft pencil does.
    """

    without: InkSettings
    breaks: bool


def find_beneath(evened: Gray, settings: InkSettings) -> Sketch | None:
    """Find a sketch beneath the line; None where there is none that stands clearly apart.

    Parameters
    ----------
    evened : (M, N) ndarray of uint8 or uint16
        The page after `remove_paper`.
    settings : InkSettings
        Levels that suit all that is drawn.

    Raises
    ------
    BadInput
        If the page is of another shape or type.

    Notes
    -----
    Thin strokes are looked at along their middles, where they are as dark as they get. A sketch is taken for one where
    a tenth of that is no darker than two fifths of the way from paper to ink, a twentieth is dark, and hardly any lies
    between; grey tone, wash and line that merely runs thin leave no such valley.
    """
    middles = _middles(_darkness(evened, settings))
    if len(middles) < _FEW:
        return None
    counts, edges = np.histogram(middles, np.arange(_SEEN, 1 + 2 * _STEP, _STEP))
    share = counts / len(middles)
    faint, between, full = (share[(edges[:-1] >= low - 1e-9) & (edges[:-1] < high - 1e-9)] for low, high in (
        (_SEEN, _FAINT), (_FAINT, _FULL), (_FULL, 2)))  # fmt: skip
    if faint.sum() < _SHARE or full.sum() < _SHARE / 2 or between.sum() > _VALLEY:
        return None
    darkest = edges[1:][: len(faint)][faint > _VALLEY / 3].max(initial=_SEEN)
    white = settings.white - (darkest + _OVER) * (settings.white - settings.black)
    lower = msgspec.structs.replace(settings, white=int(np.clip(round(white), settings.black + 1, settings.white)))
    return Sketch(lower, _pinholes(evened, lower) > _MORE * _pinholes(evened, settings) + _FEW_HOLES)


def _pinholes(evened: Gray, settings: InkSettings) -> int:
    """Count specks of paper in the middle of a page: a grainy line breaks into them where its levels are too high."""
    top, left = (max(0, size // 2 - _CUT_PX // 2) for size in evened.shape)
    ink = coverage(np.ascontiguousarray(evened[top : top + _CUT_PX, left : left + _CUT_PX]), settings)
    areas = cv2.connectedComponentsWithStats((ink < _BARELY).view(np.uint8), connectivity=4)[2][1:, cv2.CC_STAT_AREA]
    return int((areas <= _HOLE_PX).sum())


def _darkness(evened: Gray, settings: InkSettings) -> F32:
    """Return how dark a page is, 0 paper to 1 ink, at most 1600 px long; what is thin stays as dark as it was."""
    scale = (check_gray(evened, "evened") + 1) // 256
    grey = np.asarray(evened // scale, np.uint8) if scale > 1 else np.asarray(evened, np.uint8)
    step = -(-max(grey.shape) // _LONG_PX)
    if step > 1:
        grey = np.asarray(
            cv2.erode(cv2.GaussianBlur(grey, (0, 0), step / 4), np.ones((step, step), np.uint8)), np.uint8
        )
        grey = np.ascontiguousarray(grey[step // 2 :: step, step // 2 :: step])
    dark = np.clip((settings.white - grey.astype(np.float32)) / max(settings.white - settings.black, 1), 0, 1)
    return np.asarray(cv2.GaussianBlur(dark, (0, 0), 0.7), np.float32)


def _middles(dark: F32) -> F32:
    """Return how dark thin strokes are along their middles, (K,)."""
    soft = cv2.GaussianBlur(dark, (0, 0), _SOFT_PX)  # so that a broad stroke has one middle too
    top = (soft >= cv2.dilate(soft, np.ones((3, 3), np.uint8)) - 1e-7) & (dark > _SEEN)
    square = np.ones((_WIDE_PX, _WIDE_PX), np.uint8)
    wide = cv2.morphologyEx((dark > 0.8 * _SEEN).view(np.uint8), cv2.MORPH_OPEN, square)
    return np.asarray(dark[top & (wide == 0)], np.float32)
