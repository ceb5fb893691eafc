# SPDX-License-Identifier: GPL-3.0-or-later
"""The line alone as 1-bit TIFFs of 600 to 1200 dots an inch. Knows what a page is painted from."""

from collections.abc import Callable
from pathlib import Path

import numpy as np
from PIL import Image

from drip_pot.book.derive import BALLOON_LINE, LETTERS, over_rows
from drip_pot.core.arrays import U8
from drip_pot.core.strips import Strip, each_strip
from drip_pot.files.delivery.kinds import Delivered, kind
from drip_pot.files.delivery.mask import HALO, dots, fineness

_STRIP, _PHOTOMETRIC, _WHITE_IS_ZERO = 256, "PhotometricInterpretation", 0  # as the TIFF standard numbers them


@kind("line", "Black line, 1-bit TIFF", "-line.tif", place=30)
def write_line(path: Path, page: Delivered, part: int = 0) -> None:
    """Write the ink itself, whatever colour lines have; effects in a colour of their own are not in it."""
    shown, first = page.ready.shown, over_rows(len(page.ready.tables.is_poured) - 1)

    def ink(rows: slice) -> U8:
        line = shown.line[rows]
        effects = (line > first + LETTERS) & (line < first + BALLOON_LINE)
        return np.where(effects, 0, shown.ink[rows]).astype(np.uint8)

    _write(path, page, ink)


@kind("black", "What prints black, 1-bit TIFF", "-overprint.tif", place=31)
def write_black(path: Path, page: Delivered, part: int = 0) -> None:
    """Write the line that is printed in black ink alone, over all others."""
    _write(path, page, page.ready.black_line)


def _write(path: Path, page: Delivered, ink: Callable[[slice], U8]) -> None:
    rows, dpi = page.ready.shown.labels.shape[0], page.sources.page.dpi
    factor, (top, left, bottom, right) = fineness(dpi), page.rect

    def packed(strip: Strip) -> bytes:
        start, stop = max(strip.rows.start, top), min(strip.rows.stop, bottom)
        if start >= stop:
            return b""
        fine = dots(ink(strip.around), strip, factor)[(start - strip.rows.start) * factor :]
        return np.packbits(fine[: (stop - start) * factor, left * factor : right * factor], axis=1).tobytes()

    data = b"".join(each_strip(packed, rows, HALO, _STRIP))
    image = Image.frombytes("1", ((right - left) * factor, (bottom - top) * factor), data)
    image.save(path, "TIFF", compression="group4", dpi=(dpi * factor, dpi * factor))
    import tifffile

    with tifffile.TiffFile(path, mode="r+") as file:  # Pillow takes a hundred times as long when told so beforehand
        file.pages.first.tags[_PHOTOMETRIC].overwrite(_WHITE_IS_ZERO)
