# SPDX-License-Identifier: GPL-3.0-or-later
"""How often what Look here names is there, by kind, on scans of drawings nobody here made and of the demo's works.

    python benchmarks/findings.py [choose|judge] [EVERY]

Every drawing of the list (see gaps/art.py), pages of panels composed of them whose frames are broken, and every work of
the demo is scanned by the stand-in, at 300 dpi (the demo at 200), brought into a book, and all that Inks and Flats name
is held against what is known: where the scan's dust and hairs are, which regions the drawing has, where its frames are
broken, that it lies straight (but for page 2 of the demo), has no dotted tone and no lettering. A gap is open where it
parts two regions of the drawing.
"""

import sys
from collections import Counter
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path
from tempfile import TemporaryDirectory

import cv2
import numpy as np
from PIL import Image

sys.path.insert(0, str(Path(__file__).with_name("gaps")))
import art
import damage
from cases import owners_of, shares

from drip_pot.book import build_tables
from drip_pot.book.findings import Finding, find
from drip_pot.devices import flawed_scan
from drip_pot.files import derive, import_page, new_book

SPLIT, EVERY = sys.argv[1] if len(sys.argv) > 1 else "choose", int(sys.argv[2]) if len(sys.argv) > 2 else 1
DPI, DEMO_DPI = 300, 200
WORKS = ("page-1", "page-2", "page-3", "page-4", "cover", "sequence-1", "sequence-2", "sequence-3")
ASKEW = ("page-2",)
PAGES, BREAK_PX = 12, 12.0


def judged(kind: str, name: str) -> Counter:
    """Count findings of a work by kind and whether they are right; breaks of frames that none names are 'missed'."""
    dpi = DEMO_DPI if kind == "demo" else DPI
    draw, long_px = {"demo": (art.demo, 2000), "drawing": (art.drawing, 1400), "page": (_paged, 2400)}[kind]
    whole = draw(name, long_px)
    broken, seed = whole, len(name)
    if kind == "page":
        broken, seed = damage.frame_breaks(whole, BREAK_PX, np.random.default_rng(int(name))), int(name)
    cut = ((whole.ink > 127) & (broken.ink < 128)).astype(np.uint8)
    grey, dust = flawed_scan(broken.ink, dpi, seed)
    count: Counter = Counter()
    with TemporaryDirectory() as folder:
        Image.fromarray(grey).save(f"{folder}/scan.png", dpi=(dpi, dpi))
        file, book = new_book(Path(folder) / "book.drip", "Scans")
        try:
            page, _ = import_page(file, book, Path(folder) / "scan.png")
            sources, derived = book.sources(page), derive(file, book, page)
            atoms = derived.regions.atoms(sources.line)
            tables = build_tables(book, sources, atoms.count, derived.ground(sources))
            shared, lies = shares(atoms.labels, atoms.count, whole)
            owner, region = owners_of(shared, lies), derived.regions.partition(sources).region
            found = find(book, sources, derived, tables, stages=("Inks", "Flats"))
            ends = {}
            for one, two, bridge in atoms.edges.tolist():
                middle = (atoms.bridges.feet[bridge, :2] + atoms.bridges.feet[bridge, 2:]) / 2
                ends.setdefault(tuple(middle.tolist()), []).append((owner[one], owner[two]))
            for finding in [*found["Inks"], *found["Flats"]]:
                if finding.title == "Broken frame":
                    top, left, bottom, right = (max(0, side) for side in finding.rect)
                    count[finding.title, bool(cut[top:bottom, left:right].any())] += 1
                    cut[top:bottom, left:right] = 0
                    continue
                if finding.title == "Through a frame":
                    own = shared[region == int(finding.key.split(":")[1])].sum(axis=0)[1:]
                    count[finding.title, bool((own > 0.02 * own.sum()).sum() > 1)] += 1
                    continue
                count[finding.title, _is_there(finding, whole, grey, dust, ends, askew=name in ASKEW)] += 1
            missed = cv2.connectedComponentsWithStats(cv2.dilate(cut, np.ones((9, 9), np.uint8)))[2][1:, 4]
            count["missed"] += int((missed > 150).sum())
        finally:
            file.close()
    return count


def _paged(name: str, long_px: int) -> art.Drawing:
    """A page of panels of drawings of a split, by its number."""
    names = list(art.listed()[SPLIT])
    np.random.default_rng(int(name)).shuffle(names)
    return art.composed(names[:12], int(name), long_px)


def _is_there(finding: Finding, whole: art.Drawing, grey: np.ndarray, dust: list, ends: dict, *, askew: bool) -> bool:
    if finding.title == "May be dust":
        top, left, bottom, right = finding.rect
        row, col = (top + bottom) / 2, (left + right) / 2
        if any(np.hypot(d.row - row, d.col - col) < d.radius_px + 4 for d in dust):
            return True
        ink = whole.ink[max(0, round(row) - 2) : round(row) + 3, max(0, round(col) - 2) : round(col) + 3]
        return not (ink > 60).any()  # a bit of a hair
    if finding.title in ("Faint line", "Grey tone", "Grey run"):
        top, left, bottom, right = finding.rect
        ink, seen = whole.ink[top:bottom, left:right], grey[top:bottom, left:right]
        if finding.title.startswith("Grey"):
            return ((ink > 25) & (ink < 230)).mean() > 0.2
        bare = cv2.dilate(ink, np.ones((5, 5), np.uint8)) < 20
        weak = (ink > 20) & (cv2.dilate(ink, np.ones((5, 5), np.uint8)) < 200)
        return (bare & (seen < 200)).sum() >= 8 or 8 <= weak.sum() < 0.2 * weak.size  # a hair, or drawn faintly
    if finding.title == "Open gap":
        spot = tuple(float(part) for part in finding.key.split(":")[1:])
        return any(a != b for a, b in ends[spot])
    if finding.title == "Detail":
        spots = finding.asks.given["spots"]
        return _bound_nothing(whole, spots)
    return finding.title == "Low resolution" or (finding.title == "Askew" and askew)


def _bound_nothing(whole: art.Drawing, spots: list) -> bool:
    """Whether a drawing without some strokes has as many regions of size as before."""
    line = (whole.ink > 127).astype(np.uint8)
    _, pieces = cv2.connectedComponents(line, connectivity=8)
    near = {int(p) for r, c in spots for p in np.unique(pieces[max(0, r - 3) : r + 4, max(0, c - 3) : c + 4]) if p}
    without = np.where(np.isin(pieces, list(near)), 0, line)

    def regions(barrier: np.ndarray) -> int:
        _, _, stats, _ = cv2.connectedComponentsWithStats(1 - barrier.astype(np.uint8), connectivity=4)
        return int((stats[1:, 4] >= art.LEAST_PX).sum())

    return regions(without) == regions(line)


def main() -> None:
    """Print how many findings of each kind were right."""
    jobs = [("drawing", name) for name in art.listed()[SPLIT][::EVERY]]
    jobs += [("page", str(70 + k)) for k in range(PAGES)] + [("demo", name) for name in WORKS]
    with ProcessPoolExecutor(2, initializer=cv2.setNumThreads, initargs=(1,)) as pool:
        counts = list(pool.map(judged, *zip(*jobs, strict=True)))
    for title in ("drawing", "page", "demo"):
        total = sum((count for count, (kind, _) in zip(counts, jobs, strict=True) if kind == title), Counter())
        missed = total.pop("missed", 0)
        for kind in sorted({kind for kind, _ in total}):
            right, wrong = total[kind, True], total[kind, False]
            print(f"{title:9s} {kind:18s} {right:4d} right, {wrong:4d} wrong: {100 * right / (right + wrong):.0f} %")
        if title == "page":
            print(f"{title:9s} {missed} breaks of frames named by none")


if __name__ == "__main__":
    main()
