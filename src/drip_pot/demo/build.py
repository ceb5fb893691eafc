"""The demo book built from its drawings: pages rendered, pots and parts named, page one finished. Knows files.

Page one is the clean drawing, finished through Press; page two is the same drawing as a flawed scan, at Flats.
"""

import json
from dataclasses import asdict
from functools import lru_cache
from pathlib import Path

import numpy as np
import platformdirs
from PIL import Image

from drip_pot.book import Book, verbs
from drip_pot.core.arrays import I32, U8, Bool, Report, no_report
from drip_pot.core.errors import CannotWrite
from drip_pot.demo.page_one import draw_page_one
from drip_pot.demo.pen import Gap, Pen
from drip_pot.devices import Dust, flawed_scan
from drip_pot.files import BookFile, derive, import_page, new_book

TITLE = "The Kite Infirmary"
VERSION = 1

SCHEME: dict[str, dict[str, str]] = {
    "Wren": {
        "Skin": "#efbf98", "Hair": "#5b3024", "Scarf": "#e0a02f", "Coat": "#3a726d", "Cuff": "#d8c48f",
        "Trousers": "#59607a", "Boots": "#7a4a33", "Eye": "#fbf6ea",
    },
    "Bram": {"Bram coat": "#6d4a5e", "Beard": "#e9e2d6", "Hat": "#9a7a4c"},
    "Kites": {"Ember": "#e2553a", "Straw": "#f1dfae", "Cobalt": "#2f62a8", "Saffron": "#eeb240"},
    "Rooftops": {
        "Tile": "#c26a48", "Slate": "#6f7f92", "Brick": "#a3543c", "Stone": "#b6ab9c", "Plaster": "#ead9bd",
        "Window": "#47586a", "Far wall": "#c9d2cf", "Far roof": "#a9b5bd", "Hill": "#b9cfb0",
    },
    "Sky": {
        "Air": "#a8d4e0", "Flash": "#f3c75c", "Dusk": "#f2a979",
        "Sun": "#fbe3a0", "Band": "#d9828a",
    },
    "Clouds": {"Cloud": "#fbf5ea", "Smoke": "#d6d2d2"},
    "Workshop": {"Room": "#cbb79a", "Wood": "#9c6b45", "Brass": "#c99a45", "Glass": "#9fb8ae"},
}  # fmt: skip


def home(dpi: float) -> Path:
    """Return where the demo book of a resolution is kept for this person."""
    return Path(platformdirs.user_data_dir("drip-pot")) / f"kite-infirmary-{VERSION}-{dpi:g}.drip"


class Drawing:
    """A rendered page and the truth about it.

    Attributes
    ----------
    ink, broken : (M, N) ndarrays of uint8
        Coverage of the whole line, and of the line with its planted gaps.
    pot : (M, N) ndarray of uint8
        Index into `pots` of the pot that belongs at each pixel.
    shade : (M, N) ndarray of uint8
        1 where shadow belongs.
    gaps : list of Gap
        The planted gaps.
    """

    def __init__(self, dpi: float) -> None:
        pen = Pen(dpi)
        draw_page_one(pen)
        self.dpi = dpi
        self.ink: U8 = pen.ink.copy()
        pen.break_lines()
        self.broken: U8 = pen.ink
        self.pot, self.shade, self.pots = pen.pot_plane, pen.shade_plane, pen.pots
        self.gaps: list[Gap] = pen.gaps


@lru_cache(maxsize=2)
def draw(dpi: float) -> Drawing:
    """Render the page at a resolution (30..1200 dpi); the newest two are kept."""
    return Drawing(dpi)


def render(folder: Path, dpi: float, report: Report = no_report) -> list[Path]:
    """Write the works as files: the clean page (transparent PNG), the scan (grey PNG), the truth (JSON).

    Raises
    ------
    CannotWrite
        If the folder refuses.
    """
    report(0.05, "Drawing page one")
    drawing = draw(dpi)
    report(0.5, "Scanning it")
    scan, dust = flawed_scan(drawing.broken, dpi)
    paths = [folder / name for name in ("page-1-line.png", "page-2-scan.png", "truth.json")]
    try:
        folder.mkdir(parents=True, exist_ok=True)
        report(0.7, "Writing files")
        clear = np.zeros((*drawing.ink.shape, 2), np.uint8)
        clear[..., 1] = drawing.ink
        Image.fromarray(clear).save(paths[0], dpi=(dpi, dpi), compress_level=1)
        Image.fromarray(scan).save(paths[1], dpi=(dpi, dpi), compress_level=1)
        paths[2].write_text(json.dumps(_truth(drawing, dust), indent=1))
    except OSError as error:
        raise CannotWrite(f"{folder} cannot be written: {error.strerror or error}. Choose another folder.") from error
    return paths


def _truth(drawing: Drawing, dust: list[Dust]) -> dict[str, object]:
    return {
        "dpi": drawing.dpi,
        "gaps": [asdict(gap) for gap in drawing.gaps],
        "dust": [asdict(speck) for speck in dust],
    }


def build_book(path: Path, dpi: float, report: Report = no_report) -> None:
    """Make the demo book at `path`, replacing one that is there; its pages are rendered at `dpi`."""
    work = path.with_name(f".{path.name}.part")
    work.unlink(missing_ok=True)
    pages = work.with_name(f".{path.stem}-pages")
    files = render(pages, dpi, lambda f, t: report(0.35 * f, t))
    file, book = new_book(work, TITLE, starter=False)
    try:
        _name_pots(book)
        clean, _ = import_page(file, book, files[0], name="Torn in the wind")
        scan, _ = import_page(file, book, files[1], name="Scan of page one")
        report(0.5, "Finding the regions of page one")
        _finish(file, book, clean, draw(dpi))
        report(0.75, "Finding the regions of page two")
        _start(file, book, scan, draw(dpi))
    finally:
        file.close()
        for written in files:
            written.unlink(missing_ok=True)
        pages.rmdir()
    work.replace(path)


def _name_pots(book: Book) -> None:
    for part, pots in SCHEME.items():
        number = verbs.add_part(book, part)
        for name, local in pots.items():
            verbs.add_pot(book, name, number, local)


def pour_truth(book: Book, page: int, labels: I32, count: int, drawing: Drawing, within: Bool | None = None) -> None:
    """Pour the finished scheme: every atom takes the pot that belongs on most of it; part by part, as edits."""
    names = {pot.name: number for number, pot in book.pots().items()}
    best = majority(labels, count, drawing.pot, len(drawing.pots))
    filled: dict[int, list[int]] = {}
    for atom in range(1, count + 1):
        pot = names.get(drawing.pots[best[atom]])
        if pot is not None and (within is None or within[atom]):
            filled.setdefault(pot, []).append(atom)
    for pot, atoms in filled.items():
        verbs.pour(book, page, atoms, pot, len(atoms))


def majority(labels: I32, count: int, plane: U8, kinds: int) -> list[int]:
    """Return for every label, 0..count, the value of `plane` (0..kinds - 1) that covers most of it."""
    votes = np.bincount(labels.ravel().astype(np.int64) * kinds + plane.ravel(), minlength=(count + 1) * kinds)
    best: list[int] = votes.reshape(count + 1, kinds).argmax(axis=1).tolist()
    return best


def _finish(file: BookFile, book: Book, page: int, drawing: Drawing) -> None:
    derived = derive(file, book, page)
    inks = book.sources(page).inks
    atoms = derived.atoms(inks)
    pour_truth(book, page, atoms.labels, atoms.count, drawing)
    poured = np.zeros(atoms.count + 1, bool)
    poured[list(book.sources(page).pours)] = True
    rows, cols = drawing.shade.shape
    third = rows * 2 // 5
    for top, bottom in ((0, third), (third, rows)):
        cut = slice(top, bottom)
        verbs.cut_shade(
            book, page, (top, 0, bottom, cols), drawing.shade[cut] > 0, poured[atoms.labels[cut]], light=False
        )
    parts = {part.name: number for number, part in book.parts().items()}
    verbs.set_hold(book, page, parts["Clouds"], 0.45)
    verbs.set_hold(book, page, parts["Kites"], 0.62)


def _start(file: BookFile, book: Book, page: int, drawing: Drawing) -> None:
    """Pour the upper panel of the scan but for its roofs."""
    derived = derive(file, book, page)
    inks = book.sources(page).inks
    atoms, facts = derived.atoms(inks), derived.facts(inks)
    upper = (facts.boxes[:, 2] < 0.43 * drawing.ink.shape[0]) & (facts.boxes[:, 2] > 0)
    best = majority(atoms.labels, atoms.count, drawing.pot, len(drawing.pots))
    ground = np.array([drawing.pots[kind] in SCHEME["Rooftops"] for kind in best])
    pour_truth(book, page, atoms.labels, atoms.count, drawing, upper & ~ground)
