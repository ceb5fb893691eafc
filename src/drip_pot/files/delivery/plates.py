"""The four plates as a TIFF. Knows what a page is painted from."""

import zlib
from collections.abc import Iterator
from pathlib import Path

import numpy as np
import tifffile

from drip_pot.core.strips import strips
from drip_pot.files.delivery.kinds import Delivered, kind

_STRIP = 256
_DEFLATE = 8  # as the TIFF standard numbers it


@kind("plates", "CMYK plates, TIFF", "-cmyk.tif", traps=True)
def write_plates(path: Path, page: Delivered) -> None:
    """Write cyan, magenta, yellow and black with traps."""
    rows, cols = page.ready.shown.labels.shape
    dpi = page.sources.page.dpi

    def compressed() -> Iterator[bytes]:
        for strip in strips(rows, height=_STRIP):
            trap = None if page.trap is None else page.trap[strip.rows]
            yield zlib.compress(page.ready.plates(strip.rows, trap=trap).tobytes(), 6)

    tifffile.imwrite(
        path, compressed(), shape=(rows, cols, 4), dtype=np.uint8, photometric="separated", planarconfig="contig",
        rowsperstrip=_STRIP, compression=_DEFLATE, resolution=(dpi, dpi), resolutionunit="inch",
        extratags=[(332, "H", 1, 1, True)], metadata=None, software="Drip Pot",
    )  # fmt: skip
