# SPDX-License-Identifier: GPL-3.0-or-later
"""The flattened page as a PNG. Knows what a page is painted from."""

from pathlib import Path

import cv2
import numpy as np
from PIL import Image

from drip_pot.core.arrays import U8
from drip_pot.core.render import EDGE_REACH, smooth_edges
from drip_pot.core.strips import strips
from drip_pot.files.delivery.kinds import Delivered, kind


@kind("page", "Flattened page, PNG", ".png", place=10)
def write_page(path: Path, page: Delivered, part: int = 0) -> None:
    """Write the page as it is seen."""
    dpi = page.sources.page.dpi
    Image.fromarray(seen(page)).save(path, "PNG", dpi=(dpi, dpi), compress_level=3)


def seen(page: Delivered, *, smooth: bool = False) -> U8:
    """Return the page as it is seen, cut as it is to be, (M, N, 3) uint8; edges of colours can be smooth."""
    top, left, bottom, right = page.rect
    return whole(page, smooth=smooth)[top:bottom, left:right]


def whole(page: Delivered, *, smooth: bool = False) -> U8:
    """Return the whole page as it is seen, (M, N, 3) uint8; edges of colours can be smooth."""
    out = np.empty((*page.ready.shown.labels.shape, 3), np.uint8)
    for strip in strips(len(out), EDGE_REACH if smooth else 0):
        if smooth:
            colors = smooth_edges(np.ascontiguousarray(page.ready.screen(strip.around, lines=False)[..., :3]))
            out[strip.rows] = _under(colors[strip.inside], page.ready.line(strip.rows))
        else:
            out[strip.rows] = page.ready.screen(strip.rows)[..., :3]
    return out


def _under(colors: U8, line: U8) -> U8:
    """Lay line, (M, N, 4) uint8, over colours, (M, N, 3) uint8."""
    share = cv2.merge([line[..., 3]] * 3)
    over = cv2.multiply(np.ascontiguousarray(line[..., :3]), share, scale=1 / 255)
    return np.asarray(cv2.add(over, cv2.multiply(colors, 255 - share, scale=1 / 255)), np.uint8)
