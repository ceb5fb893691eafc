# SPDX-License-Identifier: GPL-3.0-or-later
"""Gaps closed in what is delivered: `python benchmarks/gaps/delivered.py [choose|judge] [EVERY]`.

Every drawing is written as a picture file, black on white, and divided by the command `drip-pot flats`; what the TIFF
that it writes holds is counted against the truth, by pixels alone: this script asks nothing of the engine. Leaks and
regions found are those of `measure.py`; `unlabelled` are pixels without a region.
"""

import subprocess
import sys
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from tempfile import TemporaryDirectory

import cases
import numpy as np
import tifffile
from PIL import Image


def counted(spec: cases.Spec) -> np.ndarray:
    """Leaks, breaks, regions found, true regions, pieces beyond one a region, pixels without a region."""
    drawing = cases.drawing_of(spec)
    with TemporaryDirectory() as folder:
        source, out = Path(folder) / "page.png", Path(folder) / "regions.tif"
        Image.fromarray(255 - drawing.ink).save(source, dpi=(200, 200))
        command = [sys.executable, "-m", "drip_pot", "flats", str(source), "--labels", str(out)]
        subprocess.run(command, check=True, capture_output=True)
        labels = tifffile.imread(out).astype(np.int64)
    return tally(labels, drawing)


def tally(labels: np.ndarray, drawing: cases.art.Drawing) -> np.ndarray:
    """Count what labels, (M, N) int64, are worth against a drawing's truth, as `counted`."""
    kinds = int(drawing.truth.max()) + 1
    joint = (labels * kinds + drawing.truth)[drawing.paper]
    shared = np.bincount(joint, minlength=(int(labels.max()) + 1) * kinds).reshape(-1, kinds)
    most, size, true_size = shared.argmax(axis=0), shared.sum(axis=1), shared.sum(axis=0)
    leaks = sum(most[a] == most[b] for a, b, *_ in drawing.broken)
    with np.errstate(all="ignore"):
        overlap = shared / (size[:, None] + true_size[None] - shared)
    real = np.flatnonzero(true_size[1:] > 0) + 1
    owner = shared.argmax(axis=1)[size >= 12]
    splits = (owner > 0).sum() - len(set(owner[owner > 0].tolist()))
    found = (overlap[:, real].max(axis=0) >= 0.75).sum()
    return np.array([leaks, len(drawing.broken), found, len(real), splits, (labels == 0).sum()])


def main() -> None:
    """Print counts by manner."""
    split, every = sys.argv[1] if len(sys.argv) > 1 else "choose", int(sys.argv[2]) if len(sys.argv) > 2 else 1
    specs = [spec for spec in cases.grid_specs(split, every) if spec.source != "demo"]
    with ThreadPoolExecutor(2) as pool:
        found = list(pool.map(counted, specs))
    groups: dict = {}
    for spec, count in zip(specs, found, strict=True):
        for key in (
            (spec.source, f"{spec.manner} {spec.gap_px:g}"),
            (spec.source, "= broken" if spec.gap_px else "= whole"),
        ):
            groups[key] = groups.get(key, 0) + count
    for (source, manner), (leaks, breaks, hits, regions, splits, bare) in sorted(groups.items()):
        print(
            f"{source:5s} {manner:13s} leaks {100 * leaks / max(breaks, 1):5.1f} % of {breaks:5d}, found "
            f"{100 * hits / regions:5.1f} % of {regions}, splits {100 * splits / regions:5.1f}, unlabelled {bare}"
        )


if __name__ == "__main__":
    main()
