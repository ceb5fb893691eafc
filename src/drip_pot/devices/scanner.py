# SPDX-License-Identifier: GPL-3.0-or-later
"""The simulated flatbed and its flaws: tint, uneven light, noise, dust, hairs, skew. Knows nothing of what is drawn."""

from dataclasses import dataclass

import cv2
import numpy as np

from drip_pot.core.arrays import U8, Report, no_report
from drip_pot.core.errors import BadInput

MODES = ("grey", "colour", "1-bit")
_PAPER = (1.0, 0.975, 0.905)
_PENCIL = (0.50, 0.68, 0.93)


@dataclass(frozen=True)
class Dust:
    """A planted speck: middle (row, col) and radius in pixels."""

    row: float
    col: float
    radius_px: float


def flawed_scan(ink: U8, dpi: float, seed: int = 11, report: Report = no_report) -> tuple[U8, list[Dust]]:
    """Scan a drawing badly.

    Parameters
    ----------
    ink : (M, N) ndarray of uint8
        Its ink coverage.
    dpi : float
        Scales dust and hairs; they keep their size in mm.
    seed : int
        Same seed, same bytes.
    report : Report
        Progress; may raise `Cancelled`.

    Returns
    -------
    scan : (M, N) ndarray of uint8
        Grey: paper about 238 falling off to 200 in a corner, ink about 34, sensor noise of 2.5 levels.
    dust : list of Dust
        Where the specks are.
    """
    rng = np.random.default_rng(seed)
    rows, cols = ink.shape
    drawn = ink.copy()
    dust = []
    scale = dpi / 600
    for _ in range(46):
        row, col = float(rng.uniform(20, rows - 20)), float(rng.uniform(20, cols - 20))
        radius = float(rng.uniform(1.4, 4.6)) * scale
        cv2.circle(drawn, (round(col), round(row)), max(1, round(radius)), int(rng.integers(150, 235)), -1, cv2.LINE_AA)
        dust.append(Dust(row, col, radius))
    for _ in range(5):
        start = rng.uniform([100, 100], [cols - 100, rows - 100])
        bend = np.cumsum(rng.normal(0, 6, (16, 2)) + rng.normal(0, 6, 2), axis=0) * scale
        hair = np.rint(start + bend).astype(np.int32)
        cv2.polylines(drawn, [hair], False, 110, max(1, round(scale)), cv2.LINE_AA)
    y, x = np.linspace(0, 1, 40)[:, None], np.linspace(0, 1, 26)[None]
    light = 238 - 24 * (x - 0.3) ** 2 - 30 * y**3 * x + 2 * np.sin(5 * x + 3 * y)
    light = cv2.resize(light.astype(np.float32), (cols, rows), interpolation=cv2.INTER_CUBIC)
    out = np.empty_like(ink)
    for top in range(0, rows, 512):
        report(top / rows, "Scanning")
        band = slice(top, top + 512)
        part = cv2.GaussianBlur(drawn[max(0, top - 4) : top + 516], (0, 0), 0.7 * max(scale, 0.5))
        part = part[min(top, 4) :][: out[band].shape[0]].astype(np.float32) / 255
        grey = light[band] * (1 - part) + 34 * part + rng.normal(0, 2.5, part.shape).astype(np.float32)
        out[band] = np.clip(np.rint(grey), 0, 255)
    return out, dust


def scan_drawing(
    ink: U8, dpi: float, mode: str = "grey", seed: int = 11, pencil: U8 | None = None, report: Report = no_report
) -> U8:
    """Lay a drawing on the glass, never quite straight, and scan it.

    Parameters
    ----------
    ink : (M, N) ndarray of uint8
        Its ink coverage.
    dpi : float
        Resolution of `ink`, 30..1200.
    mode : str
        'grey', 'colour' or '1-bit'.
    seed : int
        Same seed, same bytes; it also says how askew the sheet lies, up to one degree.
    pencil : (M, N) ndarray of uint8, optional
        Coverage of blue pencil under the ink.
    report : Report
        Progress; may raise `Cancelled`.

    Returns
    -------
    (M, N) or (M, N, 3) ndarray of uint8
        Grey, sRGB, or 0 and 255.

    Raises
    ------
    BadInput
        For a mode or resolution the scanner does not have.
    """
    if mode not in MODES or not 30 <= dpi <= 1200:
        raise BadInput("The scanner has {0} and 30 to 1200 dpi, not '{1}' at {2:g} dpi.", ", ".join(MODES), mode, dpi)
    rows, cols = ink.shape
    report(0.02, "Warming the lamp")
    turn = cv2.getRotationMatrix2D((cols / 2, rows / 2), float(np.random.default_rng(seed).uniform(-1, 1)), 1.0)
    askew, faint = (
        None
        if plane is None
        else np.asarray(cv2.warpAffine(plane, turn, (cols, rows), flags=cv2.INTER_LINEAR), np.uint8)
        for plane in (ink, pencil)
    )
    assert askew is not None
    grey, _ = flawed_scan(askew, dpi, seed, lambda f, t: report(0.1 + 0.7 * f, t))
    report(0.85, "Sending")
    if mode == "1-bit":
        return np.asarray(cv2.threshold(grey, 128, 255, cv2.THRESH_BINARY)[1], np.uint8)
    colors = in_color(grey, faint)
    return colors if mode == "colour" else np.asarray(cv2.cvtColor(colors, cv2.COLOR_RGB2GRAY), np.uint8)


def in_color(grey: U8, pencil: U8 | None = None) -> U8:
    """Give a grey scan, (M, N) uint8, the warm tint of its paper, and blue where there is pencil: (M, N, 3) sRGB."""
    out = np.empty((*grey.shape, 3), np.uint8)
    for channel, (tint, stain) in enumerate(zip(_PAPER, _PENCIL, strict=True)):
        plane = cv2.convertScaleAbs(grey, alpha=tint)
        if pencil is not None:
            light = cv2.LUT(pencil, np.rint(255 - np.arange(256) * (1 - stain)).astype(np.uint8))
            plane = cv2.multiply(plane, light, scale=1 / 255)
        out[..., channel] = plane
    return out
