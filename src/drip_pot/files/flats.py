# SPDX-License-Identifier: GPL-3.0-or-later
"""Flats of an image file without a book: read, divide, write. Knows images and core; no books."""

import json
from dataclasses import dataclass
from pathlib import Path

import numpy as np
from PIL import Image

from drip_pot.core.arrays import I32, I64, Report, no_report
from drip_pot.core.regions import (
    LOUD,
    Atoms,
    Partition,
    auto_gap,
    bridge_verdicts,
    decide,
    find_atoms,
    find_borders,
    loud_colors,
)
from drip_pot.files.images import Scan, read_image
from drip_pot.files.line import clean
from drip_pot.files.outputs import in_place
from drip_pot.files.suggest import suggest_inks
from drip_pot.words import tr

_DEFLATE = 8  # as the TIFF standard numbers it


@dataclass(frozen=True)
class FoundFlats:
    """Regions of a drawing.

    Attributes
    ----------
    labels : (M, N) ndarray of int32
        From 1 to `count`.
    count : int
        Regions.
    gap_px, dpi : float
        The gap width used, and the resolution.
    bridges : list of dict
        Every bridge that was found: its feet (row, col), width, how likely it is meant, whether it is shut, and the
        regions it parts.
    """

    labels: I32
    count: int
    gap_px: float
    dpi: float
    bridges: list[dict[str, object]]


def read(path: Path, picture: int = 0) -> Scan:
    """Read an image; parameters and errors are those of `read_image`."""
    return read_image(path, picture)[1]


def find(
    scan: Scan, gap_px: float | None = None, report: Report = no_report, *, least_px: int | None = None
) -> FoundFlats:
    """Divide a drawing into regions; gap width and smallest region are worked out from the page where not given."""
    report(0.1, "Removing the paper")
    settings, notes = suggest_inks(scan, squares=False)  # its regions lie on the picture as it is
    scan.notes.extend(notes)
    atoms = find_atoms(clean(scan, settings).ink, report=lambda f, t: report(0.2 + 0.6 * f, t))
    gap = auto_gap(atoms) if gap_px is None else gap_px
    part = decide(atoms, gap_px=gap, least_px=least_px)
    roots = np.unique(part.region[1:])
    number: I64 = np.zeros(len(part.region), np.int64)
    number[roots] = np.arange(1, len(roots) + 1)
    numbers = number[part.region]
    labels = numbers.astype(np.int32)[atoms.labels]
    return FoundFlats(labels, len(roots), gap, scan.dpi, _listed(atoms, part, numbers))


def _listed(atoms: Atoms, part: Partition, number: I64) -> list[dict[str, object]]:
    likely = bridge_verdicts(atoms)
    parts: dict[int, set[int]] = {}
    for a, b, bridge in atoms.edges.tolist():
        parts.setdefault(bridge, set()).update((int(number[a]), int(number[b])))
    return [
        {"from": atoms.bridges.feet[k, :2].tolist(), "to": atoms.bridges.feet[k, 2:].tolist(),
         "width_px": round(float(atoms.bridges.width_px[k]), 1), "likely": round(float(likely[k]), 3),
         "shut": bool(part.closed[k]), "regions": sorted(parts[k])}
        for k in sorted(parts)
    ]  # fmt: skip


def write(
    found: FoundFlats, labels: Path | None, png: Path | None, report: Report = no_report, bridges: Path | None = None
) -> list[Path]:
    """Write regions as a 32-bit TIFF, as a PNG in working colours, and bridges as JSON; raises `CannotWrite`."""
    import tifffile

    written = []
    if labels is not None:
        report(0.85, tr("Writing {0}", labels.name))
        with in_place(labels) as work:
            tifffile.imwrite(work, found.labels.astype(np.uint32), compression=_DEFLATE, predictor=True,
                             resolution=(found.dpi, found.dpi), resolutionunit="inch", metadata=None)  # fmt: skip
        written.append(labels)
    if png is not None:
        report(0.92, tr("Writing {0}", png.name))
        chosen = loud_colors(np.arange(1, found.count + 1), find_borders(found.labels).pairs)
        table = np.array([0, *(chosen[r] for r in range(1, found.count + 1))], np.uint8)
        rows, cols = found.labels.shape
        image = Image.frombytes("P", (cols, rows), table[found.labels].tobytes())
        image.putpalette(LOUD.tobytes())
        with in_place(png) as work:
            image.save(work, "PNG", dpi=(found.dpi, found.dpi))
        written.append(png)
    if bridges is not None:
        told = {"gap_px": found.gap_px, "dpi": found.dpi, "regions": found.count, "bridges": found.bridges}
        with in_place(bridges) as work:
            work.write_text(json.dumps(told, indent=1))
        written.append(bridges)
    return written
