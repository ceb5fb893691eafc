# SPDX-License-Identifier: GPL-3.0-or-later
"""The black line alone as a 1-bit TIFF. Knows what a page is painted from."""

from pathlib import Path

import numpy as np
from PIL import Image

from drip_pot.book.derive import BALLOON_LINE, LETTERS, over_rows
from drip_pot.files.delivery.kinds import Delivered, kind


@kind("line", "Black line, 1-bit TIFF", "-line.tif", place=30)
def write_line(path: Path, page: Delivered, part: int = 0) -> None:
    """Write the ink itself, whatever colour lines have; effects in a colour of their own are not in it."""
    shown, first = page.ready.shown, over_rows(len(page.ready.tables.is_poured) - 1)
    effects = (shown.line > first + LETTERS) & (shown.line < first + BALLOON_LINE)
    ink = np.where(effects, 0, shown.ink)
    image = Image.fromarray(np.where(ink >= 128, 0, 255).astype(np.uint8)).convert("1", dither=Image.Dither.NONE)
    dpi = page.sources.page.dpi
    image.save(path, "TIFF", compression="group4", dpi=(dpi, dpi))
