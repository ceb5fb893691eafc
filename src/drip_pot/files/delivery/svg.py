# SPDX-License-Identifier: GPL-3.0-or-later
"""The regions of a page as SVG: one shape each, in the local colour of its pot. Knows what a page is painted from.

Outlines follow the pixels they go between; straight runs are one line. Each shape is drawn a little beyond its edge in
its own colour, so that nothing shows between neighbours.
"""

from collections.abc import Iterator
from html import escape
from pathlib import Path

import cv2
import numpy as np

from drip_pot.core.arrays import I32, U8
from drip_pot.core.regions import label_areas, label_boxes
from drip_pot.files.delivery.kinds import Delivered, kind


@kind("svg", "Flats as shapes, SVG", "-flats.svg", place=22)
def write_svg(path: Path, page: Delivered, part: int = 0) -> None:
    """Write every poured region as a path within the group of its part."""
    shown, tables = page.ready.shown, page.ready.tables
    rows, cols = shown.labels.shape
    mm = 25.4 / page.sources.page.dpi
    local = tables.screen.flat[: len(tables.is_poured), :3]
    count = len(local) - 1
    boxes, areas = label_boxes(shown.labels, count).tolist(), label_areas(shown.labels, count)
    with path.open("w", encoding="utf-8") as out:
        out.write('<?xml version="1.0" encoding="UTF-8"?>\n')
        out.write(f'<svg xmlns="http://www.w3.org/2000/svg" width="{cols * mm:.3f}mm" height="{rows * mm:.3f}mm" '
                  f'viewBox="0 0 {cols} {rows}" shape-rendering="geometricPrecision">\n')  # fmt: skip
        out.write(f"<title>{escape(page.sources.page.name)}</title>\n")
        for name, atoms in page.parts:
            out.write(f'<g id="{escape(name)}" fill-rule="evenodd" stroke-width="1" stroke-linejoin="round">\n')
            for atom in atoms:
                if 0 < atom <= count and areas[atom]:
                    color = "#" + bytes(local[atom].tolist()).hex()
                    data = " ".join(_outline(shown.labels, atom, boxes[atom]))
                    out.write(f'<path id="region-{atom}" fill="{color}" stroke="{color}" d="{data}"/>\n')
            out.write("</g>\n")
        out.write("</svg>\n")


def _outline(labels: I32, atom: int, box: list[int]) -> Iterator[str]:
    """Yield the closed outlines of a region along the edges of its pixels, holes too."""
    top, left, bottom, right = box
    mask = np.pad((labels[top:bottom, left:right] == atom).view(np.uint8), 1)
    for path in _edges_of(mask):
        spots = [f"{x + left - 1},{y + top - 1}" for x, y in path]
        yield f"M{spots[0]}L{' '.join(spots[1:])}Z"


def _edges_of(mask: U8) -> Iterator[list[tuple[int, int]]]:
    """Yield the corners of every outline of a padded mask, as x, y of pixel edges."""
    fine = cv2.resize(mask, None, fx=2, fy=2, interpolation=cv2.INTER_NEAREST)
    found, _ = cv2.findContours(fine, cv2.RETR_CCOMP, cv2.CHAIN_APPROX_SIMPLE)
    for contour in found:
        spots = [((int(x) + 1) // 2, (int(y) + 1) // 2) for x, y in contour[:, 0]]
        kept = [at for k, at in enumerate(spots) if at != spots[k - 1]]
        if len(kept) > 2:
            yield kept
