# SPDX-License-Identifier: GPL-3.0-or-later
"""Things beside the pages: painted colour studies, paper and stain textures, a handcart as a mesh. Knows arrays only."""

import math

import cv2
import numpy as np

from drip_pot.core.arrays import F32, U8


def study(rgb: U8, seed: int, strokes: int = 5200) -> U8:
    """Paint a picture over with bristle strokes.

    Parameters
    ----------
    rgb : (M, N, 3) ndarray of uint8
        What to paint, sRGB; lines are best left out.
    seed : int
        Same seed, same bytes.
    strokes : int
        How many; the first are the broadest.

    Returns
    -------
    (M, N, 3) ndarray of uint8
        The study, on a warm ground.
    """
    rng = np.random.default_rng(seed)
    rows, cols = rgb.shape[:2]
    soft = cv2.GaussianBlur(rgb, (0, 0), 0.012 * cols)
    grey = cv2.GaussianBlur(cv2.cvtColor(soft, cv2.COLOR_RGB2GRAY), (0, 0), 0.01 * cols).astype(np.float32)
    down, across = cv2.Sobel(grey, cv2.CV_32F, 0, 1), cv2.Sobel(grey, cv2.CV_32F, 1, 0)
    out: U8 = np.full_like(rgb, (222, 206, 182))
    spots = rng.uniform([0, 0], [rows, cols], (strokes, 2)).astype(int)
    for number, (row, col) in enumerate(spots.tolist()):
        size = cols * (0.035 * (1 - number / strokes) + 0.007) * float(rng.uniform(0.7, 1.3))
        angle = math.degrees(math.atan2(-float(across[row, col]), float(down[row, col]))) + float(rng.normal(0, 24))
        color = soft[row, col].astype(float) + rng.normal(0, 9, 3) + float(rng.normal(0, 7))
        paint = [int(v) for v in np.clip(color, 0, 255)]
        axes = max(1, round(size)), max(1, round(size * 0.28))
        cv2.ellipse(out, (int(col), int(row)), axes, angle, 0, 360, paint, -1, cv2.LINE_AA)
    return out


def paper(rows: int, cols: int, seed: int) -> U8:
    """Make a paper texture, (rows, cols) uint8, about 236, with fibres and a slow cloudiness."""
    rng = np.random.default_rng(seed)
    out = 236 + 5 * _cloud(rng, rows, cols, 6) + 3 * _cloud(rng, rows, cols, 60) + rng.normal(0, 1.6, (rows, cols))
    texture = np.clip(np.rint(out), 0, 255).astype(np.uint8)
    for _ in range(rows * cols // 5000):
        start = rng.uniform([0, 0], [cols, rows])
        bend = np.cumsum(rng.normal(0, 2.2, (7, 2)) + rng.normal(0, 2.5, 2), axis=0)
        shade = int(rng.integers(216, 246))
        cv2.polylines(texture, [np.rint(start + bend).astype(np.int32)], False, shade, 1, cv2.LINE_AA)
    return texture


def stain(side: int, seed: int) -> U8:
    """Make a cup's ring on paper, (side, side) uint8 darkness: 0 clear, 255 darkest."""
    rng = np.random.default_rng(seed)
    y, x = np.mgrid[0:side, 0:side].astype(np.float32) / side - 0.5
    away, angle = np.hypot(x, y), np.arctan2(y, x)
    wave = sum(float(rng.normal(0, 0.006)) * np.sin(k * angle + float(rng.uniform(0, 6))) for k in range(2, 9))
    edge = np.exp(-(((away - 0.36 - wave) / 0.012) ** 2)) + 0.45 * np.exp(-(((away - 0.335 - wave) / 0.03) ** 2))
    worn = 0.75 + 0.35 * _cloud(rng, side, side, 9)
    inside = 0.10 * (away < 0.36 + wave)
    return np.asarray(np.clip(170 * (edge * worn + inside), 0, 255), np.uint8)


def _cloud(rng: np.random.Generator, rows: int, cols: int, cells: int) -> F32:
    """Smooth noise of about -1..1 with so many cells across."""
    small = rng.normal(0, 0.5, (max(2, cells * rows // cols) + 2, cells + 2)).astype(np.float32)
    return np.asarray(cv2.resize(small, (cols, rows), interpolation=cv2.INTER_CUBIC), np.float32)


def handcart() -> str:
    """Return the handcart as Wavefront OBJ text: a box, two spoked wheels, two handles; metres, y up."""
    points: list[tuple[float, float, float]] = []
    faces: list[str] = []

    def box(low: tuple[float, float, float], high: tuple[float, float, float], name: str) -> None:
        start = len(points) + 1
        points.extend((x, y, z) for x in (low[0], high[0]) for y in (low[1], high[1]) for z in (low[2], high[2]))
        faces.append(f"g {name}")
        sides = ((0, 1, 3, 2), (4, 6, 7, 5), (0, 4, 5, 1), (2, 3, 7, 6), (0, 2, 6, 4), (1, 5, 7, 3))
        faces.extend("f " + " ".join(str(start + k) for k in side) for side in sides)

    box((-0.6, 0.42, -0.35), (0.6, 0.47, 0.35), "floor")
    box((-0.6, 0.47, -0.35), (0.6, 0.78, -0.31), "side")
    box((-0.6, 0.47, 0.31), (0.6, 0.78, 0.35), "side")
    box((0.56, 0.47, -0.31), (0.6, 0.78, 0.31), "front")
    for z in (-0.3, 0.26):
        box((-1.35, 0.5, z), (-0.6, 0.54, z + 0.04), "handle")
    for z in (-0.42, 0.38):
        start, count = len(points) + 1, 16
        for depth in (z, z + 0.04):
            for radius in (0.34, 0.28):
                points.extend(
                    (
                        radius * math.cos(2 * math.pi * k / count),
                        0.34 + radius * math.sin(2 * math.pi * k / count),
                        depth,
                    )
                    for k in range(count)
                )
        faces.append("g wheel")
        for k in range(count):
            n = (k + 1) % count
            for a, b in ((0, 1), (3, 2), (2, 0), (1, 3)):
                ring = [start + a * count + k, start + a * count + n, start + b * count + n, start + b * count + k]
                faces.append("f " + " ".join(str(v) for v in ring))
        for k in range(0, count, 4):
            angle = 2 * math.pi * k / count
            x, y = 0.15 * math.cos(angle), 0.15 * math.sin(angle)
            across, up = 0.15 * abs(math.cos(angle)) + 0.012, 0.15 * abs(math.sin(angle)) + 0.012
            box((x - across, 0.34 + y - up, z + 0.01), (x + across, 0.34 + y + up, z + 0.03), "spoke")
    lines = ["# handcart, metres, y up; CC0"] + [f"v {x:.4f} {y:.4f} {z:.4f}" for x, y, z in points] + faces
    return "\n".join(lines) + "\n"
