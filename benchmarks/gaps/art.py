# SPDX-License-Identifier: GPL-3.0-or-later
"""Drawings to fit and judge the engine on, each with its true regions: other people's, the demo's, and page layouts.

The list art.txt names public-domain line drawings of the Debian package openclipart-svg and splits them into *fit*,
*choose* and *judge*, and names *more* to fit on. Get them with `apt-get download openclipart-svg && dpkg -x
openclipart-svg*.deb DIR` and say where they are in the variable DRIP_POT_ART. They measure and fit only: no weight
carries a picture.
"""

import os
import sys
import zlib
from dataclasses import dataclass, field
from functools import lru_cache
from io import BytesIO
from pathlib import Path

import cv2
import numpy as np
from PIL import Image

LEAST_PX = 60
_AT = 1400
LIST = Path(__file__).with_name("art.txt")
_DARK, _RAMP = 75.0, 15.0


@dataclass
class Drawing:
    """A drawing and the truth about it.

    `ink` is uint8 coverage; `truth` int32, 0 where a speck is not asked for; `broken` lists pairs of regions whose
    border was opened, with the manner of it; `panels` are (row, col, row, col) where there are any;
    `paper` is true where the undamaged drawing is white, and only that is counted.
    """

    ink: np.ndarray
    truth: np.ndarray
    broken: list = field(default_factory=list)
    panels: list = field(default_factory=list)
    paper: np.ndarray | None = None


@lru_cache(maxsize=1)
def listed() -> dict[str, list[str]]:
    """Names of the drawings by split."""
    found: dict[str, list[str]] = {}
    for line in LIST.read_text().splitlines():
        if line and not line.startswith("#"):
            split, name = line.split()[:2]
            found.setdefault(split, []).append(name)
    return found


@lru_cache(maxsize=1)
def _sums() -> dict[str, str]:
    rows = [line.split() for line in LIST.read_text().splitlines() if line and not line.startswith("#")]
    return {row[1]: row[2].removeprefix("crc=") for row in rows}


def source(name: str) -> bytes:
    """Read a drawing of the list; ends the program where it is not the one that was listed."""
    path = Path(os.environ.get("DRIP_POT_ART", "art")) / "usr/share/openclipart/svg" / name
    data = path.read_bytes()
    if f"{zlib.crc32(data):08x}" != _sums()[name]:
        sys.exit(f"{path} is not the drawing that was listed. Get openclipart-svg as docs/weights.md says.")
    return data


@lru_cache(maxsize=2)
def render(name: str, long_px: int) -> np.ndarray:
    """Render a drawing, without the white round it, at twice the size: dark is ink, all else is paper."""
    import resvg

    text = source(name).decode("utf-8", errors="replace")
    tree = resvg.usvg.Tree.from_str(text, resvg.usvg.Options.default())
    scale, top, left, share = 400 / max(tree.int_size()), 0.0, 0.0, 1.0
    for size in (400, 2 * long_px):
        scale = size / (max(tree.int_size()) * share)
        shape = [max(2, round(side * scale)) for side in tree.int_size()]
        if share < 1:
            shape = [min(side, size) for side in shape]
        data = resvg.render(tree, (scale, 0, -left * scale, 0, scale, -top * scale), bg_size=tuple(shape),
                            bg_color=(255, 255, 255, 255))  # fmt: skip
        bright = np.asarray(Image.open(BytesIO(bytes(data))).convert("RGB")).max(axis=2).astype(np.float32)
        ink = np.clip((_DARK + _RAMP / 2 - bright) / _RAMP, 0, 1) * 255
        rows, cols = np.flatnonzero(ink.any(axis=1)), np.flatnonzero(ink.any(axis=0))
        if len(rows) == 0:
            return np.zeros((2 * long_px, 2 * long_px), np.uint8)
        if size == 400:
            pad = 6
            r0, c0, r1, c1 = rows[0] - pad, cols[0] - pad, rows[-1] + pad, cols[-1] + pad
            top, left, share = r0 / scale, c0 / scale, max(r1 - r0, c1 - c0) / 400
            high, wide = r1 - r0, c1 - c0
    full = size / max(high, wide)
    return np.rint(ink[: round(high * full), : round(wide * full)]).astype(np.uint8)


def halved(ink: np.ndarray) -> np.ndarray:
    """Reduce coverage to half its size."""
    return cv2.resize(ink, (max(1, ink.shape[1] // 2), max(1, ink.shape[0] // 2)), interpolation=cv2.INTER_AREA)


def as_drawing(double: np.ndarray, long_px: int) -> Drawing:
    """A drawing and its truth from coverage of twice the size, where thin lines are still whole."""
    double = double[: double.shape[0] // 2 * 2, : double.shape[1] // 2 * 2]
    truth = true_regions(double, round(4 * LEAST_PX * (long_px / _AT) ** 2))[::2, ::2]
    ink = halved(double)
    return Drawing(ink, np.ascontiguousarray(truth), paper=ink < 128)


def true_regions(ink: np.ndarray, least_px: int) -> np.ndarray:
    """Enclosed white of an undamaged drawing, lines taken to the middle; pieces under `least_px` are 0."""
    _, pieces, stats, _ = cv2.connectedComponentsWithStats((ink < 128).astype(np.uint8), connectivity=4)
    numbers = np.arange(len(stats))
    seeds = np.where(stats[:, 4] > 0, numbers, 0)[pieces]
    empty = (seeds == 0).astype(np.uint8)
    if empty.all():
        return np.zeros(ink.shape, np.int32)
    _, nearest = cv2.distanceTransformWithLabels(empty, cv2.DIST_L2, 5, labelType=cv2.DIST_LABEL_PIXEL)
    out = seeds[empty == 0][nearest - 1]
    return np.where(stats[:, 4] >= least_px, numbers, 0)[out].astype(np.int32)


def drawing(name: str, long_px: int = _AT) -> Drawing:
    """A drawing of the list with its truth."""
    margin = max(12, long_px // 50)
    return as_drawing(cv2.copyMakeBorder(render(name, long_px), *(margin,) * 4, cv2.BORDER_CONSTANT, value=0), long_px)


def demo(name: str, long_px: int = _AT) -> Drawing:
    """A work of the demo book with its truth."""
    from drip_pot.demo.works import draw

    size = max(draw(name, 60).ink.shape)
    return as_drawing(draw(name, max(30.0, 120 * long_px / size)).ink.copy(), long_px)


def composed(names: list[str], seed: int, long_px: int = 2000) -> Drawing:
    """A page of panels, each holding a drawing that may run out under its frame.

    The frames are ruled lines of one weight: level or tilted, now and then rounded, double or run off the page.
    """
    rng = np.random.default_rng(seed)
    rows, cols = 2 * long_px, round(1.32 * long_px)
    px = long_px / 1000
    weight = float(np.exp(rng.uniform(np.log(2.5), np.log(9)))) * px
    page = np.zeros((rows, cols), np.uint8)
    margin, gutter = rng.uniform(30, 70) * px, rng.uniform(14, 40) * px
    bleed, tilt, round_px = rng.random() < 0.15, rng.random() < 0.3, rng.random() < 0.12
    double = rng.random() < 0.1
    tiers = np.sort(rng.uniform(0.25, 0.45, rng.integers(2, 4)))
    tiers = tiers / tiers.sum()
    top, panels, k = margin, [], 0
    for share in tiers:
        high = share * (rows - 2 * margin - gutter * (len(tiers) - 1))
        count = int(rng.integers(1, 4))
        widths = rng.uniform(0.6, 1.4, count)
        widths = widths / widths.sum() * (cols - 2 * margin - gutter * (count - 1))
        left, lean = margin, 0.0
        for i, wide in enumerate(widths):
            box = [top, left, top + high, left + wide]
            if bleed and i == 0:
                box[1] = -20
            if bleed and i == count - 1:
                box[3] = cols + 20
            turn = rng.uniform(-0.05, 0.05) * wide if tilt and i < count - 1 else 0.0
            corners = np.array([[box[1] + lean, box[0]], [box[3] + turn, box[0]],
                                [box[3] - turn, box[2]], [box[1] - lean, box[2]]])  # fmt: skip
            lean = turn
            _panel(page, names[k % len(names)], corners, weight, rng, round_px, double)
            panels.append(tuple(round(v / 2) for v in (max(0, box[0]), max(0, box[1]), box[2], min(cols, box[3]))))
            left += wide + gutter
            k += 1
        top += high + gutter
    page = as_drawing(page, long_px)
    page.panels = panels
    return page


def _panel(page, name, corners, weight, rng, rounded, double) -> None:
    shape = np.rint(corners * 16).astype(np.int32)
    wide, high = np.ptp(corners[:, 0]), np.ptp(corners[:, 1])
    inside = np.zeros_like(page)
    cv2.fillPoly(inside, [shape], 255, cv2.LINE_AA, 4)
    art = render(name, round(0.5 * max(wide, high) * rng.uniform(0.8, 1.25)))
    layer = np.zeros_like(page)
    at = np.array([corners[:, 1].mean() - art.shape[0] / 2, corners[:, 0].mean() - art.shape[1] / 2])
    at += rng.normal(0, 0.1, 2) * [high, wide]
    r, c = np.rint(at).astype(int)
    r0, c0, r1, c1 = max(r, 0), max(c, 0), min(r + art.shape[0], page.shape[0]), min(c + art.shape[1], page.shape[1])
    if r1 > r0 and c1 > c0:
        layer[r0:r1, c0:c1] = art[r0 - r : r1 - r, c0 - c : c1 - c]
    page[inside > 127] = layer[inside > 127]
    line = np.zeros_like(page)
    if rounded:
        radius = 0.08 * min(wide, high)
        points = []
        for k in range(4):
            p, before, after = corners[k], corners[k - 1], corners[(k + 1) % 4]
            u, v = (before - p) / np.hypot(*(before - p)), (after - p) / np.hypot(*(after - p))
            points += [p + u * radius * (1 - t) ** 2 + v * radius * t**2 for t in np.linspace(0, 1, 9)]
        cv2.polylines(
            line, [np.rint(np.array(points) * 16).astype(np.int32)], True, 255, max(1, round(weight)), cv2.LINE_AA, 4
        )
    else:
        cv2.polylines(line, [shape], True, 255, max(1, round(weight)), cv2.LINE_AA, 4)
    if double:
        middle = corners.mean(axis=0)
        inner = middle + (corners - middle) * (1 - 4.5 * weight / np.array([max(wide, 1), max(high, 1)]))
        cv2.polylines(
            line, [np.rint(inner * 16).astype(np.int32)], True, 255, max(1, round(weight / 2)), cv2.LINE_AA, 4
        )
    np.maximum(page, line, out=page)
