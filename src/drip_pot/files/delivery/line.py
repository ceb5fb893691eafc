"""The black line alone as a 1-bit TIFF. Knows what a page is painted from."""

from pathlib import Path

import numpy as np
from PIL import Image

from drip_pot.files.delivery.kinds import Delivered, kind


@kind("line", "Black line, 1-bit TIFF", "-line.tif")
def write_line(path: Path, page: Delivered) -> None:
    """Write the line that prints in black."""
    shown, black = page.ready.shown, page.ready.tables.plates.is_black
    ink = shown.ink if black.all() else np.where(black[shown.line], shown.ink, 0)
    image = Image.fromarray(np.where(ink >= 128, 0, 255).astype(np.uint8)).convert("1", dither=Image.Dither.NONE)
    dpi = page.sources.page.dpi
    image.save(path, "TIFF", compression="group4", dpi=(dpi, dpi))
