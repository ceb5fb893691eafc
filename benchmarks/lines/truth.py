# SPDX-License-Identifier: GPL-3.0-or-later
"""Whose line it is, told by vector drawings: of shapes with a fill and an outline, the topmost stroke owns the line.

Run `python benchmarks/lines/truth.py FOLDER [--count N]` with `DRIP_POT_ART` and svgelements, as docs/weights.md says.
A drawing is painted anew from its outlined shapes alone, white with black line, and once more in a colour a shape,
which tells the fill and the stroke that lie on top at every pixel. A division of it is kept in FOLDER with both.
"""

import argparse
import io
import os
import re
import sys
import warnings
import zlib
from concurrent.futures import ProcessPoolExecutor, as_completed
from pathlib import Path

import cv2
import numpy as np
from PIL import Image

sys.path.insert(0, str(Path(__file__).parents[1] / "gaps"))
import art

from drip_pot.core.regions import auto_gap, decide, find_atoms

LONG_PX = 1000
_LEAST_SHAPES, _MOST_SHAPES, _MOST_BYTES = 6, 4000, 400_000
_WIDTHS = 1.0, 40.0
_TOLD = "fill", "stroke", "opacity", "fill-opacity", "stroke-opacity"


def root() -> Path:
    """Return the folder of the drawings."""
    return Path(os.environ.get("DRIP_POT_ART", "art")) / "usr/share/openclipart/svg"


def family(name: str) -> str:
    """Return what drawings of one hand and subject share: the name without numbers."""
    return re.sub(r"[\d_\-. ]+", " ", Path(name).stem).strip()


def names() -> list[tuple[str, str]]:
    """List (split, name): the drawings that are listed as they are split, and others as *more*.

    Others that are named like one that is compared on are left out.
    """
    listed = {name: split for split, some in art.listed().items() for name in some}
    held = {family(name) for name, split in listed.items() if split in ("choose", "judge")}
    found = []
    for path in sorted(root().rglob("*.svg")):
        name = str(path.relative_to(root()))
        split = {"akin": ""}.get(listed.get(name, "more"), listed.get(name, "more"))
        if split and (split in ("choose", "judge") or family(name) not in held):
            found.append((split, name))
    return found


def shapes_of(name: str) -> list[tuple[str, str | None, float]]:
    """Return the outlined shapes of a drawing in the order they are painted: way, colour of the fill, line width."""
    from svgelements import SVG, Shape
    from svgelements import Path as Way

    data = (root() / name).read_bytes()
    if len(data) > _MOST_BYTES or b"stroke" not in data:
        return []
    found = []
    for one in SVG.parse(io.BytesIO(data), reify=True).elements():
        if not isinstance(one, Shape) or one.values.get("display") == "none":
            continue
        told = {key: str(one.values.get(key, "")) for key in _TOLD}
        if told["stroke"] in ("", "none") or any(_share(told[key]) < 0.6 for key in ("opacity", "stroke-opacity")):
            continue
        way, width = Way(one), float(one.stroke_width or 0)
        if width <= 0 or len(way) == 0:
            continue
        fill = None
        if told["fill"] != "none" and _share(told["fill-opacity"]) >= 0.6:
            fill = "#808080" if told["fill"].startswith("url") else _hex(one.fill)
        found.append((way.d(), fill, width))
    return found if _LEAST_SHAPES <= len(found) <= _MOST_SHAPES else []


def _share(text: str) -> float:
    try:
        return float(text or 1)
    except ValueError:
        return 1.0


def _hex(color) -> str:
    return "#000000" if color is None or color.value is None else f"#{color.red:02x}{color.green:02x}{color.blue:02x}"


def painted(shapes: list, box: tuple[float, float, float, float], size: tuple[int, int], *, told: bool) -> np.ndarray:
    """Paint shapes, (M, N, 3) uint8: white with black line, or every fill and stroke in the colour of its number."""
    import resvg

    left, top, wide, high = box
    crisp = ' shape-rendering="crispEdges"' if told else ""
    rows = [(f'<svg xmlns="http://www.w3.org/2000/svg" width="{size[1]}" height="{size[0]}" '
             f'viewBox="{left} {top} {wide} {high}"{crisp}>')]  # fmt: skip
    for k, (way, fill, width) in enumerate(shapes, 1):
        inside = "none" if fill is None else f"#{2 * k:06x}" if told else "#ffffff"
        rows.append(f'<path d="{way}" fill="{inside}" stroke="{f"#{2 * k + 1:06x}" if told else "#000000"}" '
                    f'stroke-width="{width}" stroke-linejoin="round"/>')  # fmt: skip
    tree = resvg.usvg.Tree.from_str("".join([*rows, "</svg>"]), resvg.usvg.Options.default())
    back = (0, 0, 0, 255) if told else (255, 255, 255, 255)
    data = resvg.render(tree, (1, 0, 0, 0, 1, 0), bg_size=(size[1], size[0]), bg_color=back)
    return np.asarray(Image.open(io.BytesIO(bytes(data))).convert("RGB"))


def extent(shapes: list) -> tuple[float, float, float, float]:
    """Return left, top, width and height of shapes with a margin."""
    from svgelements import Path as Way

    boxes = np.array([box for way, _, _ in shapes if (box := Way(way).bbox()) is not None])
    low, high = boxes[:, :2].min(axis=0), boxes[:, 2:].max(axis=0)
    pad = 0.03 * max(high - low)
    return (*(low - pad), *(high - low + 2 * pad))


def divided(job: tuple[str, str, Path]) -> str:
    """Divide a drawing as the program does, and keep it with its truth; say what became of it."""
    split, name, folder = job
    path = folder / f"{split}-{zlib.crc32(name.encode()):08x}.npz"
    if path.exists():
        return "kept"
    warnings.simplefilter("ignore")
    try:
        shapes = shapes_of(name)
        if len(shapes) < _LEAST_SHAPES:
            return "few shapes"
        left, top, wide, high = extent(shapes)
        scale = LONG_PX / max(wide, high)
        widths = np.array([width for *_, width in shapes]) * scale
        if not _WIDTHS[0] <= np.median(widths) <= _WIDTHS[1]:
            return "line too thin or thick"
        size = round(high * scale), round(wide * scale)
        double = painted(shapes, (left, top, wide, high), (2 * size[0], 2 * size[1]), told=False)
        of = painted(shapes, (left, top, wide, high), size, told=True).astype(np.int32) @ (65536, 256, 1)
    except Exception as error:  # noqa: BLE001 - of other people's files anything may be wrong
        return type(error).__name__
    ink = 255 - cv2.resize(double[..., 0], size[::-1], interpolation=cv2.INTER_AREA)
    atoms = find_atoms(np.ascontiguousarray(ink))
    region = decide(atoms, gap_px=auto_gap(atoms)).region
    fills = np.array([0, *[int((fill or "#ffffff")[1:], 16) for _, fill, _ in shapes]])
    np.savez_compressed(path, labels=atoms.labels, region=region, areas=atoms.areas, ink=ink, line_px=atoms.line_px,
                        of=of.astype(np.uint16), fills=fills, name=name)  # fmt: skip
    return "divided"


def main() -> None:
    """Divide what is listed, and as many others."""
    asks = argparse.ArgumentParser(description=__doc__)
    asks.add_argument("folder", type=Path)
    asks.add_argument("--count", type=int, default=2500)
    asks.add_argument("--jobs", type=int, default=2)
    asked = asks.parse_args()
    asked.folder.mkdir(parents=True, exist_ok=True)
    every = names()
    others = [one for one in every if one[0] == "more"]
    np.random.default_rng(5).shuffle(others)
    jobs = [(*one, asked.folder) for one in [one for one in every if one[0] != "more"] + others[: asked.count]]
    became: dict[str, int] = {}
    with ProcessPoolExecutor(asked.jobs, initializer=cv2.setNumThreads, initargs=(1,)) as pool:
        for done in as_completed([pool.submit(divided, job) for job in jobs]):
            became[done.result()] = became.get(done.result(), 0) + 1
    print(became)


if __name__ == "__main__":
    main()
