# SPDX-License-Identifier: GPL-3.0-or-later
"""Clean line of an image file without a book: read, clean, write. Knows images and core's inks."""

from dataclasses import dataclass
from pathlib import Path

import cv2
import msgspec
import numpy as np
from PIL import Image

from drip_pot.book.picture import laid_square
from drip_pot.core.arrays import U8, Report, no_report
from drip_pot.core.errors import BadInput
from drip_pot.core.inks import (
    CROWD,
    InkSettings,
    coverage,
    erase_specks,
    estimate_paper,
    fill_holes,
    find_pieces,
    find_skew,
    lay,
    lone_specks,
    remove_paper,
    remove_pencil,
    turned_about,
    turned_round,
)
from drip_pot.files.images import Scan
from drip_pot.files.outputs import in_place


@dataclass(frozen=True)
class Clean:
    """A cleaned line: coverage (M, N) uint8, dpi, specks taken out, and by how many degrees it was turned."""

    ink: U8
    dpi: float
    specks: int
    turn_deg: float


def clean(scan: Scan, settings: InkSettings, *, straighten: bool = False, report: Report = no_report) -> Clean:
    """Turn a scan into line.

    Parameters
    ----------
    scan : Scan
        The drawing.
    settings : InkSettings
        How; `suggest_inks` finds ones that suit.
    straighten : bool
        Turn the page until its frames are upright.
    report : Report
        Progress.
    """
    report(0.2, "Removing the paper")
    scan = laid_square(scan, settings.square)
    gray = scan.gray
    if settings.pencil is not None and scan.rgb is not None:
        gray = remove_pencil(scan.rgb, settings.pencil)
    gray = turned_round(gray, settings)
    evened = remove_paper(gray, estimate_paper(gray) if settings.even_paper else None)
    turn = 0.0
    if straighten:
        report(0.4, "Straightening")
        soft = msgspec.structs.replace(settings, threshold=None)
        turn = find_skew(coverage(evened, soft)) or 0.0
        rows, cols = evened.shape
        place = turned_about((rows - 1) / 2, (cols - 1) / 2, turn)
        evened = lay(evened, place, (rows, cols), int(np.iinfo(evened.dtype).max), hard=False) if turn else evened
    report(0.6, "Looking for specks")
    ink = coverage(evened, settings)
    specks = lone_specks(find_pieces(ink, CROWD * settings.speck_px, evened), settings)
    ink = fill_holes(erase_specks(ink, specks), settings.hole_px)
    return Clean(ink, scan.dpi, len(specks), turn)


def write(found: Clean, out: Path) -> None:
    """Write line as a transparent PNG, or as a TIFF of one bit a pixel if it is two-level.

    Raises
    ------
    BadInput
        If the name ends in neither .png nor .tif.
    CannotWrite
        If the folder or the disk refuses.
    """
    dpi, suffix = (found.dpi, found.dpi), out.suffix.lower()
    if suffix not in (".png", ".tif", ".tiff"):
        raise BadInput("{0} must end in .png (transparent) or .tif.", out.name)
    with in_place(out) as work:
        if suffix == ".png":
            clear = np.zeros((*found.ink.shape, 2), np.uint8)
            clear[..., 1] = found.ink
            Image.fromarray(clear).save(work, "PNG", dpi=dpi, compress_level=3)
            return
        soft = ((found.ink > 0) & (found.ink < 255)).any()
        image = Image.fromarray(cv2.bitwise_not(found.ink))
        if soft:
            image.save(work, "TIFF", compression="tiff_deflate", dpi=dpi)
        else:
            image.convert("1", dither=Image.Dither.NONE).save(work, "TIFF", compression="group4", dpi=dpi)
