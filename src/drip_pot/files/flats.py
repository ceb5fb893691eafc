"""Flats of an image file without a book: read, divide, write. Knows images and what is derived from a page."""

from dataclasses import dataclass
from pathlib import Path

import numpy as np
import tifffile
from PIL import Image

from drip_pot.book import Derived, InkState, LineState, SheetLine
from drip_pot.core.arrays import I32, I64, Report, no_report
from drip_pot.core.errors import CannotWrite
from drip_pot.core.inks import Place
from drip_pot.core.regions import (
    LOUD,
    auto_gap,
    decide,
    find_borders,
    label_areas,
    least_region_px,
    loud_colors,
)
from drip_pot.files.images import Scan, read_image
from drip_pot.files.pages import suggest_inks

_DEFLATE = 8  # as the TIFF standard numbers it


@dataclass(frozen=True)
class Found:
    """Regions of a drawing: `labels` (M, N) int32 from 1 to `count`, the gap width used, the dpi."""

    labels: I32
    count: int
    gap_px: float
    dpi: float


def read(path: Path, picture: int = 0) -> Scan:
    """Read an image; parameters and errors are those of `read_image`."""
    return read_image(path, picture)[1]


def find(scan: Scan, gap_px: float | None = None, report: Report = no_report) -> Found:
    """Divide a drawing into regions; a `gap_px` of None is worked out from the page."""
    report(0.1, "Removing the paper")
    settings, notes = suggest_inks(scan)
    scan.notes.extend(notes)
    sheet = SheetLine(0, 0, Place(), InkState(settings))
    line = LineState(scan.gray.shape[0], scan.gray.shape[1], Place(), (sheet,))
    atoms = Derived(lambda *_: scan).atoms(line, lambda f, t: report(0.2 + 0.6 * f, t))
    gap = auto_gap(atoms.bridges, atoms.line_px) if gap_px is None else gap_px
    areas = label_areas(atoms.labels, atoms.count)
    part = decide(areas, atoms.bridges, atoms.edges, gap_px=gap, least_px=least_region_px(atoms.line_px))
    roots = np.unique(part.region[1:])
    number: I64 = np.zeros(len(part.region), np.int64)
    number[roots] = np.arange(1, len(roots) + 1)
    labels = number[part.region].astype(np.int32)[atoms.labels]
    return Found(labels, len(roots), gap, scan.dpi)


def write(found: Found, labels: Path | None, png: Path | None, report: Report = no_report) -> list[Path]:
    """Write regions as a one-channel 32-bit TIFF and as a PNG in working colours; raises `CannotWrite`."""
    written = []
    try:
        if labels is not None:
            report(0.85, f"Writing {labels.name}")
            tifffile.imwrite(labels, found.labels.astype(np.uint32), compression=_DEFLATE, predictor=True,
                             resolution=(found.dpi, found.dpi), resolutionunit="inch", metadata=None)  # fmt: skip
            written.append(labels)
        if png is not None:
            report(0.92, f"Writing {png.name}")
            chosen = loud_colors(np.arange(1, found.count + 1), find_borders(found.labels).pairs)
            table = np.array([0, *(chosen[r] for r in range(1, found.count + 1))], np.uint8)
            rows, cols = found.labels.shape
            image = Image.frombytes("P", (cols, rows), table[found.labels].tobytes())
            image.putpalette(LOUD.tobytes())
            image.save(png, "PNG", dpi=(found.dpi, found.dpi))
            written.append(png)
    except (OSError, ValueError) as error:
        place = labels if labels is not None and labels not in written else png
        raise CannotWrite(f"{place} cannot be written: {getattr(error, 'strerror', None) or error}.") from error
    return written
