# SPDX-License-Identifier: GPL-3.0-or-later
"""Levels, line weight, two-level ink: evened grey to ink coverage. Knows nothing of paper or specks."""

import cv2
import msgspec
import numpy as np

from drip_pot.core.arrays import F64, U8, Gray, check_gray, check_plane
from drip_pot.core.errors import BadInput
from drip_pot.core.inks.pencil import Pencil
from drip_pot.core.inks.square import Square

_SEEN = 56
_LIGHT_SHARE, _LIGHT_RIM, _LIGHT_WIDE = 0.5, 0.45, 0.75


class InkSettings(msgspec.Struct, frozen=True):
    """How a scan becomes line; every value can be changed later.

    Parameters
    ----------
    white : int
        Evened grey that becomes no ink (1..255).
    black : int
        Evened grey that becomes full ink (0..white - 1).
    weight_px : float
        Line made heavier (above 0) or lighter (below 0), in pixels each side (-4..4).
    speck_px : int
        Isolated specks of up to so many pixels are removed (0 keeps all).
    even_paper : bool
        Whether uneven paper light is removed first.
    alone_px : float or None
        How far a speck lies from others of its kind, in pixels (1..400); None works it out from `speck_px`.
    faint : int
        Small pieces at least so much lighter than the ink, in evened grey, are specks too, wherever they lie
        (0..255; 0 leaves them).
    hole_px : int
        Holes of up to so many pixels inside solid ink are filled (0..10 000).
    threshold : int or None
        Coverage from which a pixel is ink in a two-level result (1..255); None keeps the soft edge.
    pencil : Pencil or None
        Coloured pencil to take out.
    turned : bool
        Whether the drawing is light line on dark, and is turned round before anything else.
    square : Square or None
        How a photograph is laid square, before anything else.
    """

    white: int = 225
    black: int = 60
    weight_px: float = 0.0
    speck_px: int = 0
    even_paper: bool = True
    alone_px: float | None = None
    faint: int = 0
    hole_px: int = 0
    threshold: int | None = None
    pencil: Pencil | None = None
    turned: bool = False
    square: Square | None = None

    def __post_init__(self) -> None:
        if not 0 <= self.black < self.white <= 255:
            raise BadInput(
                "Black must be below white, both 0 to 255; black is {0}, white is {1}.", self.black, self.white
            )
        if not -4 <= self.weight_px <= 4:
            raise BadInput("Line weight goes from -4 to 4 px, not {0:g}.", self.weight_px)
        if not (0 <= self.speck_px <= 10_000 and 0 <= self.hole_px <= 10_000):
            raise BadInput("Specks and holes go from 0 to 10 000 px, not {0} and {1}.", self.speck_px, self.hole_px)
        if self.alone_px is not None and not 1 <= self.alone_px <= 400:
            raise BadInput("Specks stand 1 to 400 px apart, not {0:g}.", self.alone_px)
        if not 0 <= self.faint <= 255 or not 1 <= (self.threshold or 1) <= 255:
            raise BadInput("Faintness and threshold go from 0 to 255.")


def is_light_on_dark(gray: Gray) -> bool:
    """Whether a drawing is light line on dark paper: it and its rim are mostly dark, light is thinner than dark.

    `gray` is (M, N) of uint8 or uint16; raises `BadInput` for another shape or type.
    """
    deep = check_gray(gray, "gray")
    thin = gray[:: max(1, gray.shape[0] // 1000), :: max(1, gray.shape[1] // 1000)]
    sample: U8 = np.ascontiguousarray(thin // ((deep + 1) // 256)).astype(np.uint8)
    _, light = cv2.threshold(sample, 0, 1, cv2.THRESH_BINARY | cv2.THRESH_OTSU)
    wide = max(1, min(light.shape) // 50)
    rim = np.ones(light.shape, bool)
    rim[wide:-wide, wide:-wide] = False
    if not 0 < light.mean() < _LIGHT_SHARE or light[rim].mean() > _LIGHT_RIM:
        return False
    disc = cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (2 * wide + 1, 2 * wide + 1))
    wide_light, wide_dark = (cv2.morphologyEx(m, cv2.MORPH_OPEN, disc).sum() / m.sum() for m in (light, 1 - light))
    return bool(wide_light < _LIGHT_WIDE * wide_dark)


def turned_round(gray: Gray, settings: InkSettings) -> Gray:
    """Return a drawing, (M, N) of uint8 or uint16, with light and dark turned round where its settings say so."""
    return np.asarray(np.iinfo(gray.dtype).max - gray, gray.dtype) if settings.turned else gray


def suggest_settings(evened: Gray, dpi: float) -> InkSettings:
    """Choose levels and speck sizes from the histogram of an evened page.

    Parameters
    ----------
    evened : (M, N) ndarray of uint8 or uint16
        The page after `remove_paper`.
    dpi : float
        Resolution, for the speck size: about 0.25 mm square at most.

    Notes
    -----
    White lies below the paper's own spread, black at the middle of the dark class (Otsu's split), so that
    scanner noise disappears and the edges stay anti-aliased. A page of one tone gets the defaults. Faint specks
    are looked for where the page has the grain of a scan: a fortieth of the way from ink to paper.
    """
    deep = check_gray(evened, "evened")
    thin = evened[:: max(1, evened.shape[0] // 2000), :: max(1, evened.shape[1] // 2000)]
    sample: U8 = np.ascontiguousarray(thin // ((deep + 1) // 256)).astype(np.uint8)
    split, _ = cv2.threshold(sample, 0, 255, cv2.THRESH_BINARY | cv2.THRESH_OTSU)
    counts = np.bincount(sample.ravel(), minlength=256).astype(np.float64)
    grey, is_dark = np.arange(256), np.arange(256) <= split
    light, dark = np.where(is_dark, 0, counts), np.where(is_dark, counts, 0)
    if light.sum() == 0 or dark.sum() == 0 or light @ grey / light.sum() - dark @ grey / dark.sum() < 40:
        return InkSettings()
    paper, ink = _middle(light), _middle(dark)
    away = np.bincount(np.abs(grey - round(paper)), weights=light, minlength=256).astype(np.float64)
    spread = _middle(away) * 1.48
    white = int(np.clip(paper - max(4.0 * spread, 3.0), 1, 255))
    black = int(np.clip(ink + 8, 0, 0.6 * white))
    grain = spread >= 0.5
    speck = round((dpi / 25.4 * 0.25) ** 2) if grain else 0
    return InkSettings(
        white=white, black=black, speck_px=speck, faint=max(3, round((paper - ink) / 40)) if grain else 0,
        hole_px=speck,
    )  # fmt: skip


def _middle(counts: F64) -> float:
    """Median of a histogram, (256,), to a fraction of a level, as if each level were spread over its width."""
    below = np.concatenate([[0.0], np.cumsum(counts)])
    return float(np.interp(below[-1] / 2, below, np.arange(257) - 0.5))


def coverage(evened: Gray, settings: InkSettings) -> U8:
    """Turn an evened page, or a piece of one, into ink coverage.

    Parameters
    ----------
    evened : (M, N) ndarray of uint8 or uint16
        The page after `remove_paper`.
    settings : InkSettings
        White, black, weight and threshold are used; specks are a matter for the whole page (`erase_specks`).

    Returns
    -------
    (M, N) ndarray of uint8
        0 is bare, truly transparent paper; 255 is full ink.
    """
    ink = _soft(evened, settings)
    if settings.threshold is None:
        return ink
    return np.asarray(cv2.threshold(ink, settings.threshold - 1, 255, cv2.THRESH_BINARY)[1], np.uint8)


def _soft(evened: Gray, settings: InkSettings) -> U8:
    deep = check_gray(evened, "evened")
    gray = np.linspace(0, 255, deep + 1, dtype=np.float32)
    ramp = (settings.white - gray) / (settings.white - settings.black)
    table = np.rint(np.clip(ramp, 0, 1) * 255).astype(np.uint8)
    ink: U8 = cv2.LUT(evened, table) if deep == 255 else np.take(table, evened)
    return ink if settings.weight_px == 0 else _weigh(ink, settings.weight_px)


def vanishing(evened: Gray, settings: InkSettings) -> U8:
    """Mark line that a two-level result loses.

    Parameters
    ----------
    evened, settings
        As for `coverage`.

    Returns
    -------
    (M, N) ndarray of uint8
        255 where ink that can be seen (coverage above 56) has no two-level ink within two pixels, so that a thin
        line breaks or vanishes there; all 0 with a soft edge.
    """
    if settings.threshold is None:
        return np.zeros(evened.shape, np.uint8)
    ink = _soft(evened, settings)
    kept = cv2.threshold(ink, settings.threshold - 1, 255, cv2.THRESH_BINARY)[1]
    near = cv2.dilate(kept, np.ones((5, 5), np.uint8))
    return np.asarray(((ink > _SEEN) & (near == 0)).astype(np.uint8) * 255)


def _weigh(ink: U8, weight_px: float) -> U8:
    check_plane(ink, np.uint8, "ink")
    step = cv2.dilate if weight_px > 0 else cv2.erode
    disc = cv2.getStructuringElement(cv2.MORPH_CROSS, (3, 3))
    whole, part = divmod(abs(weight_px), 1.0)
    if whole:
        ink = step(ink, disc, iterations=int(whole))
    if part:
        ink = cv2.addWeighted(ink, 1 - part, step(ink, disc), part, 0)
    return ink
