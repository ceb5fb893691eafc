# SPDX-License-Identifier: GPL-3.0-or-later
"""Regions found in kinds of picture the engine was not made for: `python benchmarks/gaps/kinds.py [SPLIT] [EVERY]`.

Drawings of a split, broken and whole, are made to look like pencil with construction lines, grey wash, dotted and
hatched tone, white line on black, coloured line on cream, a photograph in perspective, a fax, a JPEG of quality 30 and
a screenshot of 72 dpi; each is written as a file, divided by the command `drip-pot flats` as it comes, and counted by
pixels against the truth.
"""

import subprocess
import sys
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from tempfile import TemporaryDirectory

import art
import cv2
import damage
import numpy as np
import tifffile
from delivered import tally
from PIL import Image

GAP_PX = 8.0
_SHARE = 0.4


def _some(truth: np.ndarray, rng) -> np.ndarray:
    """Some of the regions, as a mask."""
    numbers = np.arange(truth.max() + 1)
    return np.isin(truth, numbers[rng.random(len(numbers)) < _SHARE])


def _grain(shape: tuple, size: float, rng) -> np.ndarray:
    noise = cv2.GaussianBlur(rng.normal(0, 1, shape), (0, 0), size)
    return noise / max(float(noise.std()), 1e-6)


def _pencil(drawing: art.Drawing, rng) -> np.ndarray:
    """Grey grainy line, with long faint lines it was built on."""
    shape = drawing.ink.shape
    built = np.zeros(shape, np.uint8)
    for _ in range(14):
        ends = rng.uniform(0, 1, 4) * (shape[1], shape[0], shape[1], shape[0])
        cv2.line(built, tuple(ends[:2].astype(int).tolist()), tuple(ends[2:].astype(int).tolist()), 255, 2, cv2.LINE_AA)
    dark = drawing.ink / 255 * np.clip(0.62 + 0.16 * _grain(shape, 0.8, rng), 0.2, 1)
    return 250 - 220 * np.maximum(dark, built / 255 * 0.16)


def _sketched(drawing: art.Drawing, rng) -> np.ndarray:
    """Ink over long faint lines it was built on."""
    built = np.zeros(drawing.ink.shape, np.uint8)
    for _ in range(14):
        ends = (rng.uniform(0, 1, 4) * np.tile(built.shape[::-1], 2)).astype(int).tolist()
        cv2.line(built, ends[:2], ends[2:], 255, int(rng.integers(1, 4)), cv2.LINE_AA)
    return 250 - 235 * np.maximum(drawing.ink, built * rng.uniform(0.12, 0.3)) / 255


def _wash(drawing: art.Drawing, rng) -> np.ndarray:
    """Line over washes of grey that run out."""
    shape = drawing.ink.shape
    wash = np.where(_some(drawing.truth, rng), 0.3 + 0.08 * _grain(shape, 40, rng), 0)
    return 250 - 235 * np.maximum(cv2.GaussianBlur(np.clip(wash, 0, 0.7), (0, 0), 2), drawing.ink / 255)


def _dots(drawing: art.Drawing, rng) -> np.ndarray:
    """Dotted tone in some regions, on a lattice of 45°."""
    r, c = np.mgrid[: drawing.ink.shape[0], : drawing.ink.shape[1]]
    screen = np.sin((r + c) * np.pi / 5.5) * np.sin((r - c) * np.pi / 5.5)
    return 255 - np.maximum(drawing.ink, 255 * ((screen > 0.45) & _some(drawing.truth, rng)))


def _hatched(drawing: art.Drawing, rng) -> np.ndarray:
    """Parallel strokes in some regions."""
    r, c = np.mgrid[: drawing.ink.shape[0], : drawing.ink.shape[1]]
    return 255 - np.maximum(drawing.ink, 255 * (((r + c) % 12 < 2) & _some(drawing.truth, rng)))


def _white_on_black(drawing: art.Drawing, rng) -> np.ndarray:
    return drawing.ink


def _colored(drawing: art.Drawing, rng) -> np.ndarray:
    """Blue line on cream."""
    share = drawing.ink[..., None] / 255
    return np.array((252, 246, 226)) * (1 - share) + np.array((52, 70, 190)) * share


def _photograph(drawing: art.Drawing, rng) -> np.ndarray:
    """Light that falls off, noise, a little blur; it is laid in perspective with its truth."""
    shape = drawing.ink.shape
    light = 0.62 + 0.3 * np.linspace(0, 1, shape[1])[None] * np.linspace(1, 0.7, shape[0])[:, None]
    seen = cv2.GaussianBlur(255.0 - 225 * (drawing.ink / 255), (0, 0), 0.9) * light
    return seen + rng.normal(0, 5, shape)


def _fax(drawing: art.Drawing, rng) -> np.ndarray:
    return np.where(255 - drawing.ink + 28 * rng.normal(0, 1, drawing.ink.shape) > 128, 255, 0)


def _plain(drawing: art.Drawing, rng) -> np.ndarray:
    return 255 - drawing.ink


KINDS: dict[str, Callable] = {
    "plain": _plain, "pencil": _pencil, "sketched": _sketched, "wash": _wash, "dots": _dots, "hatched": _hatched,
    "white on black": _white_on_black, "coloured": _colored, "photograph": _photograph, "fax": _fax, "jpeg": _plain,
    "72 dpi": _plain,
}  # fmt: skip


def _slanted(drawing: art.Drawing, rng) -> art.Drawing:
    """The drawing as a camera sees it from the side."""
    rows, cols = drawing.ink.shape
    square = np.array([(0, 0), (cols, 0), (cols, rows), (0, rows)], np.float32)
    pulled = square * 0.9 + 0.05 * np.array((cols, rows)) + rng.uniform(-0.05, 0.05, (4, 2)) * (cols, rows)
    way = cv2.getPerspectiveTransform(square, pulled.astype(np.float32))
    ink = cv2.warpPerspective(drawing.ink, way, (cols, rows), flags=cv2.INTER_AREA)
    truth = cv2.warpPerspective(drawing.truth.astype(np.float32), way, (cols, rows), flags=cv2.INTER_NEAREST)
    paper = cv2.warpPerspective(drawing.paper.view(np.uint8), way, (cols, rows), flags=cv2.INTER_NEAREST) > 0
    return art.Drawing(ink, truth.astype(np.int32), drawing.broken, [], paper)


def counted(job: tuple[str, str, bool]) -> np.ndarray:
    """Leaks, breaks, regions found, true regions, pieces beyond one a region, pixels without a region."""
    kind, name, broken = job
    rng = np.random.default_rng(len(name) + 31 * broken)
    drawing = art.drawing(name, 1400)
    if broken:
        drawing = damage.break_up(drawing, GAP_PX, "round", rng)
    if kind == "photograph":
        drawing = _slanted(drawing, rng)
    if kind == "72 dpi":
        small = drawing.ink.shape[1] // 3, drawing.ink.shape[0] // 3
        planes = (cv2.resize(drawing.truth, small, interpolation=cv2.INTER_NEAREST),
                  cv2.resize(drawing.paper.view(np.uint8), small, interpolation=cv2.INTER_NEAREST) > 0)  # fmt: skip
        ink = cv2.resize(drawing.ink, small, interpolation=cv2.INTER_AREA)
        drawing = art.Drawing(ink, planes[0], drawing.broken, [], planes[1])
    seen = np.clip(np.rint(KINDS[kind](drawing, rng)), 0, 255).astype(np.uint8)
    with TemporaryDirectory() as folder:
        source, out = Path(folder) / ("page.jpg" if kind == "jpeg" else "page.png"), Path(folder) / "regions.tif"
        picture = Image.fromarray(seen)
        if kind == "jpeg":
            picture.save(source, dpi=(200, 200), quality=30)
        else:
            dpi = 72 if kind == "72 dpi" else 200
            (picture.convert("1") if kind == "fax" else picture).save(source, dpi=(dpi, dpi))
        command = [sys.executable, "-m", "drip_pot", "flats", str(source), "--labels", str(out)]
        ended = subprocess.run(command, check=False, capture_output=True, text=True)
        if ended.returncode:
            return np.array([len(drawing.broken), len(drawing.broken), 0, int(drawing.truth.max()), 0, 0])
        return tally(tifffile.imread(out).astype(np.int64), drawing)


def main() -> None:
    """Print counts by kind."""
    split, every = sys.argv[1] if len(sys.argv) > 1 else "choose", int(sys.argv[2]) if len(sys.argv) > 2 else 4
    names = art.listed()[split][::every]
    for kind in KINDS:
        jobs = [(kind, name, broken) for name in names for broken in (False, True)]
        with ThreadPoolExecutor(2) as pool:
            found = list(pool.map(counted, jobs))
        for broken in (False, True):
            leaks, breaks, hits, regions, splits, _ = sum(
                c for c, job in zip(found, jobs, strict=True) if job[2] == broken
            )
            print(f"{kind:15s} {'broken' if broken else 'whole ':6s} found {100 * hits / regions:5.1f} % of {regions}, "
                  f"leaks {100 * leaks / max(breaks, 1):5.1f} % of {breaks}, splits {100 * splits / regions:5.1f}",
                  flush=True)  # fmt: skip


if __name__ == "__main__":
    main()
