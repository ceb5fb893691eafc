# SPDX-License-Identifier: GPL-3.0-or-later
"""Coloured pencil under the ink, taken out by its hue. Knows nothing of paper light or levels."""

import math

import cv2
import msgspec
import numpy as np

from drip_pot.core.arrays import F32, U8
from drip_pot.core.color import oklab_to_srgb8, srgb8_to_oklab
from drip_pot.core.errors import BadInput
from drip_pot.core.strips import Strip, in_strips

_HUES = 36


class Pencil(msgspec.Struct, frozen=True):
    """A pencil to take out: its hue in OKLCH degrees (0..360) and how much of it goes (0..1)."""

    hue_deg: float = 250.0
    strength: float = 1.0

    def __post_init__(self) -> None:
        if not (0 <= self.hue_deg <= 360 and 0 <= self.strength <= 1):
            raise BadInput("A pencil's hue goes from 0 to 360 degrees and its strength from 0 to 100 %.")


def remove_pencil(rgb: U8, pencil: Pencil) -> U8:
    """Turn a colour scan to grey without its coloured pencil.

    Parameters
    ----------
    rgb : (M, N, 3) ndarray of uint8
        The scan, sRGB.
    pencil : Pencil
        Which pencil.

    Returns
    -------
    (M, N) ndarray of uint8
        Grey, 255 white; ink over pencil stays as dark as it was.

    Notes
    -----
    Optical densities are unmixed into black ink and pencil by least squares, as in A. C. Ruifrok and
    D. A. Johnston, "Quantification of histochemical staining by color deconvolution", 2001; the pencil's share
    of the grey density is then taken away. Densities are measured against the paper's own colour.
    """
    paper = _paper_color(rgb)
    density = -np.log(np.maximum(np.arange(256)[:, None], 1) / paper[None]).astype(np.float32)
    tables = [np.clip(density[:, k], 0, 8) for k in range(3)]
    black, color = np.ones(3), _pencil_density(pencil.hue_deg)
    unmix = np.linalg.pinv(np.stack([black, color], axis=1))
    luma = np.array([0.299, 0.587, 0.114])
    level = float(paper @ luma)

    def work(strip: Strip) -> U8:
        piece = rgb[strip.rows]
        parts = [cv2.LUT(np.ascontiguousarray(piece[..., k]), tables[k]) for k in range(3)]
        stain = sum(float(unmix[1, k]) * parts[k] for k in range(3))
        gray = sum(float(luma[k]) * parts[k] for k in range(3))
        np.clip(stain, 0, None, out=stain)
        gray -= np.float32(pencil.strength * 1.12 * float(luma @ color)) * stain
        np.clip(gray, 0, None, out=gray)
        return np.asarray(np.rint(level * np.exp(-gray)), np.uint8)

    return np.concatenate(in_strips(work, len(rgb)))


def find_pencil(rgb: U8) -> float | None:
    """Return the hue of the coloured pencil on a scan, OKLCH degrees, or None if there is none.

    Parameters
    ----------
    rgb : (M, N, 3) ndarray of uint8
        The scan, sRGB.

    Notes
    -----
    Pixels more colourful than the paper vote for their hue; a pencil is there when a third of the votes fall within
    40 degrees and they are at least 0.05 % of the page, but less than a tenth of it (that would be paint).
    """
    sample = np.ascontiguousarray(rgb[:: max(1, rgb.shape[0] // 1400), :: max(1, rgb.shape[1] // 1400)])
    lab = srgb8_to_oklab(sample.reshape(-1, 3))
    paper = srgb8_to_oklab(_paper_color(rgb)[None].astype(np.uint8))[0]
    a, b = lab[:, 1] - paper[1], lab[:, 2] - paper[2]
    chroma = np.hypot(a, b)
    vivid = (chroma > 0.035) & (lab[:, 0] > 0.35)
    if not 0.0005 * len(lab) <= vivid.sum() <= 0.1 * len(lab):
        return None
    hue = np.degrees(np.arctan2(b[vivid], a[vivid])) % 360
    votes = np.bincount((hue / 360 * _HUES).astype(int) % _HUES, weights=chroma[vivid], minlength=_HUES)
    wide = votes + np.roll(votes, 1) + np.roll(votes, -1) + np.roll(votes, 2)
    best = int(wide.argmax())
    if wide[best] < votes.sum() / 3:
        return None
    near = np.abs((hue - (best + 0.5) * 360 / _HUES + 180) % 360 - 180) < 25
    angle = np.radians(hue[near])
    return float(math.degrees(math.atan2(np.sin(angle).mean(), np.cos(angle).mean())) % 360)


def _paper_color(rgb: U8) -> F32:
    """Colour of the bare paper, (3,): the median of the lighter half of a sample."""
    sample = rgb[:: max(1, rgb.shape[0] // 500), :: max(1, rgb.shape[1] // 500)].reshape(-1, 3)
    light = sample.astype(np.int32).sum(axis=1)
    return np.asarray(np.maximum(np.median(sample[light >= np.median(light)], axis=0), 32), np.float32)


def _pencil_density(hue_deg: float) -> F32:
    """Optical densities, (3,), of a pencil of that hue, of length 1."""
    angle = math.radians(hue_deg)
    lab = np.array([0.72, 0.13 * math.cos(angle), 0.13 * math.sin(angle)])
    found = -np.log(np.maximum(oklab_to_srgb8(lab).astype(np.float32), 1) / 255)
    return np.asarray(found / np.linalg.norm(found), np.float32)
