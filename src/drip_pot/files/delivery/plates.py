# SPDX-License-Identifier: GPL-3.0-or-later
"""The plates as TIFF: all in one, or one a file. Knows what a page is painted from."""

from collections.abc import Callable, Iterator
from functools import lru_cache
from pathlib import Path

import numpy as np

from drip_pot.book.values import PRESS
from drip_pot.core.arrays import U8
from drip_pot.core.press import PressSettings, icc_profile, under_dots
from drip_pot.core.strips import Strip, each_strip
from drip_pot.files.delivery.kinds import Delivered, kind

_STRIP = 256
_DEFLATE = 8  # as the TIFF standard numbers it
_NAMES = ("-cyan", "-magenta", "-yellow", "-black")


@lru_cache(maxsize=8)
def profile_of(press: PressSettings) -> bytes:
    """Return the ICC profile of a press, worked out once."""
    return press.press.icc or icc_profile(press)


@kind("plates", "CMYK plates, TIFF", "-cmyk.tif", traps=True, place=40)
def write_plates(path: Path, page: Delivered, part: int = 0) -> None:
    """Write cyan, magenta, yellow and black, then inks beside them, with traps, and the profile of the press."""
    _write_all(path, page, page.plates)


@kind("colour", "Colour without line, CMYK TIFF", "-colour.tif", traps=True, place=41)
def write_color(path: Path, page: Delivered, part: int = 0) -> None:
    """Write the plates without the black that overprints, which goes beside them as a file of its own.

    Where that black covers at all, they leave room for a solid of it within the ink limit.
    """

    def colored(rows: slice) -> U8:
        limit = page.ready.tables.plates.limit
        return under_dots(page.plates(rows, line_apart=True), page.ready.black_line(rows) > 0, limit)

    _write_all(path, page, colored)


@kind("separations", "One grey TIFF a plate", ".tif", traps=True, parts=_NAMES, place=45, each="spots")
def write_separation(path: Path, page: Delivered, part: int = 0) -> None:
    """Write one plate, dark where it prints."""
    _write(path, page, lambda rows: 255 - page.plates(rows)[..., part], (), "minisblack", [])


def _write_all(path: Path, page: Delivered, inks: Callable[[slice], U8]) -> None:
    """Write all plates in one file."""
    profile, spots = profile_of(page.sources[PRESS]), page.ready.tables.spots
    tags: list[object] = [(332, "H", 1, 1 if not spots else 2, True), (34675, "B", len(profile), profile, True)]
    if spots:  # ink names, and how many inks there are, as the TIFF standard has them
        names = "\0".join(["Cyan", "Magenta", "Yellow", "Black", *(spot.name for spot in spots)])
        tags += [
            (333, "s", 0, names.encode("ascii", "replace").decode("ascii"), True),
            (334, "H", 1, 4 + len(spots), True),
        ]
    _write(path, page, inks, (4 + len(spots),), "separated", tags)


def _write(
    path: Path, page: Delivered, inks: Callable[[slice], U8], channels: tuple[int, ...], photometric: str,
    tags: list[object],
) -> None:  # fmt: skip
    import imagecodecs
    import tifffile

    top, left, bottom, right = page.rect
    rows, cols, dpi = bottom - top, right - left, page.sources.page.dpi

    def compressed() -> Iterator[bytes]:
        def packed(strip: Strip) -> bytes:
            made = inks(slice(top + strip.rows.start, top + strip.rows.stop))[:, left:right]
            return bytes(imagecodecs.zlibng_encode(np.ascontiguousarray(made).tobytes(), 6))

        yield from each_strip(packed, rows, height=_STRIP)

    tifffile.imwrite(
        path, compressed(), shape=(rows, cols, *channels), dtype=np.uint8, photometric=photometric,
        planarconfig="contig" if channels else None, rowsperstrip=_STRIP, compression=_DEFLATE, resolution=(dpi, dpi),
        resolutionunit="inch", extratags=tags, metadata=None,
        extrasamples=(0,) * (channels[0] - 4) if channels and channels[0] > 4 else None, software="Drip Pot",
    )  # fmt: skip
