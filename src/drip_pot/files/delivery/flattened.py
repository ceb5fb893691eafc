# SPDX-License-Identifier: GPL-3.0-or-later
"""The flattened page as a PNG. Knows what a page is painted from."""

from pathlib import Path

import numpy as np
from PIL import Image

from drip_pot.core.arrays import U8
from drip_pot.core.strips import strips
from drip_pot.files.delivery.kinds import Delivered, kind


@kind("page", "Flattened page, PNG", ".png", place=10)
def write_page(path: Path, page: Delivered, part: int = 0) -> None:
    """Write the page as it is seen."""
    dpi = page.sources.page.dpi
    Image.fromarray(seen(page)).save(path, "PNG", dpi=(dpi, dpi), compress_level=3)


def seen(page: Delivered) -> U8:
    """Return the page as it is seen, cut as it is to be, (M, N, 3) uint8."""
    top, left, bottom, right = page.rect
    out = np.empty((*page.ready.shown.labels.shape, 3), np.uint8)
    for strip in strips(len(out)):
        out[strip.rows] = page.ready.screen(strip.rows)[..., :3]
    return out[top:bottom, left:right]
