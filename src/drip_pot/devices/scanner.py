"""The simulated flatbed and its flaws: tint, uneven light, noise, dust, hairs. Knows nothing of what is drawn."""

from dataclasses import dataclass

import cv2
import numpy as np

from drip_pot.core.arrays import U8


@dataclass(frozen=True)
class Dust:
    """A planted speck: middle (row, col) and radius in pixels."""

    row: float
    col: float
    radius_px: float


def flawed_scan(ink: U8, dpi: float, seed: int = 11) -> tuple[U8, list[Dust]]:
    """Scan a drawing badly.

    Parameters
    ----------
    ink : (M, N) ndarray of uint8
        Its ink coverage.
    dpi : float
        Scales dust and hairs; they keep their size in mm.
    seed : int
        Same seed, same bytes.

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
        band = slice(top, top + 512)
        part = cv2.GaussianBlur(drawn[max(0, top - 4) : top + 516], (0, 0), 0.7 * max(scale, 0.5))
        part = part[min(top, 4) :][: out[band].shape[0]].astype(np.float32) / 255
        grey = light[band] * (1 - part) + 34 * part + rng.normal(0, 2.5, part.shape).astype(np.float32)
        out[band] = np.clip(np.rint(grey), 0, 255)
    return out, dust
