# SPDX-License-Identifier: GPL-3.0-or-later
"""The flats alone as an indexed PNG. Knows what a page is painted from."""

from pathlib import Path

import numpy as np
from PIL import Image

from drip_pot.files.delivery.kinds import Delivered, kind


@kind("flats", "Flats alone, PNG", "-flats.png", place=20)
def write_flats(path: Path, page: Delivered, part: int = 0) -> None:
    """Write an indexed PNG whose palette is the pots; bare paper is transparent."""
    r, labels = page.ready, page.ready.shown.labels
    local = r.tables.screen.flat[: len(r.tables.is_poured), :3]
    colors, index = np.unique(local[r.tables.is_poured], axis=0, return_inverse=True)
    dpi = (page.sources.page.dpi, page.sources.page.dpi)
    if len(colors) > 255:
        rgba = np.zeros((len(local), 4), np.uint8)
        rgba[:, :3], rgba[:, 3] = local, np.where(r.tables.is_poured, 255, 0)
        rgba[~r.tables.is_poured] = 0
        Image.fromarray(rgba[labels]).save(path, "PNG", dpi=dpi, compress_level=3)
        return
    table = np.zeros(len(local), np.uint8)
    table[r.tables.is_poured] = index.reshape(-1) + 1
    rows, cols = labels.shape
    image = Image.frombytes("P", (cols, rows), table[labels].tobytes())
    image.putpalette(np.concatenate([np.zeros((1, 3), np.uint8), colors]).tobytes())
    image.save(path, "PNG", dpi=dpi, transparency=0, compress_level=6)
