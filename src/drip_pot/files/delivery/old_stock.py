# SPDX-License-Identifier: GPL-3.0-or-later
"""A page as old stock, as a PNG. Knows what a page is painted from."""

from pathlib import Path

import numpy as np
from PIL import Image

from drip_pot.core.strips import strips
from drip_pot.files.delivery.kinds import Delivered, kind


@kind("old", "Old stock, PNG", "-old.png", traps=True, place=70)
def write_old(path: Path, page: Delivered, part: int = 0) -> None:
    """Write the page as a worn sheet; without any wear as a proof on the colour of the sheet."""
    shape, dpi = page.ready.shown.labels.shape, page.sources.page.dpi
    out = np.empty((*shape, 3), np.uint8)
    for strip in strips(shape[0], height=512):
        out[strip.rows] = page.ready.old_stock(strip.rows, slice(0, shape[1]), page.trap, (shape[0], shape[1]), dpi)
    top, left, bottom, right = page.rect
    Image.fromarray(out[top:bottom, left:right]).save(path, "PNG", dpi=(dpi, dpi), compress_level=3)
