# SPDX-License-Identifier: GPL-3.0-or-later
"""The demo book built from its works, and the works written as files with their truth. Knows works, books, files.

The book opens as work half done: page one finished through Press, page two (a scan) at Flats with things to look at,
page three unpoured, page four and the cover in flats, the first frame of the sequence poured and carried on to three more.
"""

import json
import shutil
from dataclasses import asdict
from pathlib import Path
from tempfile import TemporaryDirectory

import numpy as np
import platformdirs
import tifffile
from PIL import Image

from drip_pot.book import Book, Derived, verbs
from drip_pot.book.hand import Hand, hand_at
from drip_pot.book.values import POURS
from drip_pot.core.arrays import I32, U8, Bool, Report, no_report
from drip_pot.demo.finish import FINISHED, finish
from drip_pot.demo.holds import hold_lines
from drip_pot.demo.scheme import SCHEME, in_light, schemes
from drip_pot.demo.studies import handcart, paper, stain, study
from drip_pot.demo.works import WORKS, DemoDrawing, DemoWork, colored, draw
from drip_pot.files import (
    BookFile,
    add_sheets,
    all_in_place,
    check_outputs,
    cut_strays,
    derive,
    hand_on,
    import_page,
    in_place,
    new_book,
    open_book,
    read_page,
)

TITLE = "The Kite Infirmary"
_CARRIED = 3
VERSION = 17
READING_DPI = 150
"""At which the demo is made within a minute, and can be read."""
_STUDIES = (("noon", "page-1"), ("dusk", "cover"), ("storm", "page-4"))
_DEFLATE = 8


def home(dpi: float) -> Path:
    """Return where the demo book of a resolution is kept for this person."""
    return Path(platformdirs.user_data_dir("drip-pot")) / f"kite-infirmary-{VERSION}-{dpi:g}.drip"


def first_look(dpi: float) -> tuple[Path, tuple[Path, float] | None]:
    """Return the demo book to open now, and, if that is only a first look, the whole book still to be made.

    The first look is page one at a low resolution, made in a second or two.
    """
    whole = home(dpi)
    if whole.exists():
        return whole, None
    first = whole.with_name(f"{whole.stem}-first-look.drip")
    build_book(first, min(dpi, READING_DPI), works=WORKS[:1])
    return first, (whole, dpi)


def render(folder: Path, dpi: float, report: Report = no_report, *, force: bool = False) -> list[Path]:
    """Write every work with its truth, the studies, the textures and the mesh into a folder, all of it or nothing.

    What an earlier call wrote there in the same version and resolution is left as it is; another file of one of the
    names is replaced only by `force`.

    Raises
    ------
    CannotWrite
        If the folder refuses, or a file of such a name is there.
    """
    stamp = folder / "drawn.json"
    drawn = _drawn(stamp, dpi)
    if drawn:
        report(1.0, "All is there already")
        return drawn
    check_outputs([folder / f"{work.name}.png" for work in WORKS], force=force)
    with TemporaryDirectory(prefix="drip-pot-") as drawn_in:
        drawn = _render(Path(drawn_in), dpi, report)
        (Path(drawn_in) / stamp.name).write_text(
            json.dumps({"version": VERSION, "dpi": dpi, "files": [path.name for path in drawn]})
        )
        written = [folder / path.name for path in drawn]
        check_outputs(written, force=force)
        with all_in_place([*written, stamp]) as aside:
            for path in (*written, stamp):
                shutil.move(Path(drawn_in) / path.name, aside)
    return written


def _render(folder: Path, dpi: float, report: Report) -> list[Path]:
    """Draw and write everything into an empty folder."""
    written: list[Path] = []
    for place, work in enumerate(WORKS):
        report(0.9 * place / len(WORKS), f"Drawing {work.title}")
        drawing = draw(work.name, dpi)
        written += [_write_line(folder, drawing), *_write_truth(folder, drawing)]
    report(0.92, "Painting the studies")
    for light, name in _STUDIES:
        pairs = {
            pot: in_light(c, "noon" if part in ("Storm", "Night town") else light)
            for part, pots in SCHEME.items()
            for pot, c in pots.items()
        }
        path = folder / f"study-{light}.png"
        Image.fromarray(study(colored(draw(name, min(dpi, 200)), pairs, 900), 5)).save(path)
        written.append(path)
    return [*written, *_write_rest(folder)]


def _drawn(stamp: Path, dpi: float) -> list[Path]:
    """Return the files of an earlier rendering in the same version and resolution, if all are there still."""
    try:
        told = json.loads(stamp.read_text())
        files = [stamp.parent / str(name) for name in told["files"]]
        same = told["version"] == VERSION and told["dpi"] == dpi
    except (OSError, ValueError, KeyError, TypeError):
        return []
    return files if same and all(path.is_file() for path in files) else []


def _write_line(folder: Path, drawing: DemoDrawing) -> Path:
    """Write the line as it comes in: a grey scan, or transparent ink."""
    path, dpi = folder / f"{drawing.work.name}.png", (drawing.dpi, drawing.dpi)
    if drawing.scan is not None:
        Image.fromarray(drawing.scan).save(path, dpi=dpi, compress_level=1)
    else:
        clear = np.zeros((*drawing.broken.shape, 2), np.uint8)
        clear[..., 1] = drawing.broken if drawing.work.name == "cover" else drawing.ink
        Image.fromarray(clear).save(path, dpi=dpi, compress_level=1)
    return path


def _write_truth(folder: Path, drawing: DemoDrawing) -> list[Path]:
    name, dpi = drawing.work.name, (drawing.dpi, drawing.dpi)
    paths = [folder / f"{name}-regions.tif", folder / f"{name}-truth.json"]
    tifffile.imwrite(
        paths[0], drawing.things.astype(np.uint32), compression=_DEFLATE, predictor=True, resolution=dpi, metadata=None
    )
    truth = {
        "title": drawing.work.title,
        "dpi": drawing.dpi,
        "pots": drawing.pots,
        "gaps": [asdict(gap) for gap in drawing.gaps],
        "dust": [asdict(speck) for speck in drawing.dust],
        "strokes": [[s.sheet, s.width, s.points] for s in drawing.strokes],
    }
    paths[1].write_text(json.dumps(truth))
    if drawing.lettering.any():
        paths.append(_write_lettering(folder, drawing))
    return paths


def _write_lettering(folder: Path, drawing: DemoDrawing) -> Path:
    """Write the lettering sheet: ink on white balloons, transparent elsewhere."""
    sheet = np.zeros((*drawing.lettering.shape, 2), np.uint8)
    sheet[..., 0] = 255 - drawing.lettering
    sheet[..., 1] = np.maximum(drawing.lettering, drawing.balloons)
    path = folder / f"{drawing.work.name}-lettering.png"
    Image.fromarray(sheet).save(path, dpi=(drawing.dpi, drawing.dpi), compress_level=1)
    return path


def _add_lettering(file: BookFile, book: Book, page: int, folder: Path, drawing: DemoDrawing) -> None:
    """Lay the lettering over a page as a sheet of its own."""
    image = _write_lettering(folder, drawing)
    try:
        incoming = read_page(image)
        number = add_sheets(book, page, incoming, file.add_original(incoming.name, incoming.data))[0]
        verbs.set_sheet(book, page, number, name="Lettering", role="lettering")
    finally:
        image.unlink(missing_ok=True)


def _write_rest(folder: Path) -> list[Path]:
    paths = [folder / name for name in ("schemes.json", "paper.png", "stain.png", "handcart.obj")]
    paths[0].write_text(json.dumps(schemes(), indent=1))
    Image.fromarray(paper(900, 900, 3)).save(paths[1])
    Image.fromarray(stain(600, 4)).save(paths[2])
    paths[3].write_text(handcart())
    return paths


def build_book(
    path: Path, dpi: float, report: Report = no_report, works: tuple[DemoWork, ...] = WORKS, *, finished: bool = True
) -> None:  # fmt: skip
    """Make the demo book at `path`, replacing one that is there; its works are rendered at `dpi`.

    Unless `finished`, nothing lies over the flats but hard shade. Raises `BookLocked` where a window has that book open.
    """
    if path.exists():
        open_book(path)[0].close()  # raises where a window has it
    with in_place(path) as place:
        file, book = new_book(place, TITLE, starter=False)
        try:
            _fill(file, book, place.parent, dpi, report, works, finished=finished)
        finally:
            file.close()


def _fill(
    file: BookFile, book: Book, folder: Path, dpi: float, report: Report, works: tuple[DemoWork, ...], *, finished: bool
) -> None:
    """Put the works into a book; what they are read from lies in a folder meanwhile."""
    for part, pots in SCHEME.items():
        number = verbs.add_part(book, part)
        for name, local in pots.items():
            verbs.add_pot(book, name, number, local)
    for place, work in enumerate(works):
        report(place / len(works), f"Drawing {work.title}")
        drawing = draw(work.name, dpi)
        image = _write_line(folder, drawing)
        try:
            page, _ = import_page(file, book, image, work.title)
        finally:
            image.unlink(missing_ok=True)
        if drawing.lettering.any():
            _add_lettering(file, book, page, folder, drawing)
        report((place + 0.6) / len(works), f"Finding the regions of {work.title}")
        derived = _begin(file, book, page, drawing)
        if finished and work.name in FINISHED:
            report((place + 0.8) / len(works), f"Lighting {work.title}")
            if work.name == "cover":
                _cut_leaks(hand_at(book, page, derived), drawing)
            finish(hand_at(book, page, derived), work.name)
            hold_lines(book, page, work.name)
        if finished and work.name == "page-3":
            _stand_cart(file, book, page)
    if finished:
        _add_schemes(book)
    _begin_sequence(file, book)


def _add_schemes(book: Book) -> None:
    """Have the book's colours as noon, and the same flats at dusk and in a storm."""
    for light in ("dusk", "storm"):
        number = verbs.add_scheme(book, light.capitalize())
        verbs.use_scheme(book, 1)
        pots: dict[int, tuple[str, str | None]] = {n: in_light(pot.local, light) for n, pot in book.pots().items()}
        verbs.set_scheme_colors(book, number, pots)
    verbs.rename_scheme(book, 1, "Noon")


def _stand_cart(file: BookFile, book: Book, page: int) -> None:
    """Stand the handcart among the people of the market."""
    here = book.pages()[page]
    original = file.add_original("handcart.obj", handcart().encode())
    line_px = max(1.0, here.dpi / 62)
    number = verbs.stand_prop(book, page, original, "Handcart", 0.608 * here.rows, 0.475 * here.cols,
                              round(0.25 * here.cols), line_px)  # fmt: skip
    verbs.turn_prop(book, page, number, turn_deg=-35, tilt_deg=18, depth=0.5)


def _begin_sequence(file: BookFile, book: Book) -> None:
    """Have the frames as a sequence, with the colours of the first carried a little way."""
    places = [k for k, page in enumerate(book.pages().values(), 1) if page.name.startswith("Turning")]
    if len(places) < 2:
        return
    pages = list(book.pages())
    verbs.make_sequence(book, places, "Turning")
    for place in places[1 : 1 + _CARRIED]:
        verbs.carry_colors(hand_on(file, book, pages[place - 1]))


def _begin(file: BookFile, book: Book, page: int, drawing: DemoDrawing) -> Derived:
    """Take a page as far as its flats and hard shade go."""
    derived = derive(file, book, page)
    atoms = derived.regions.atoms(book.sources(page).line)
    name = drawing.work.name
    if name in ("page-1", "page-4", "cover", "sequence-1"):
        pour_truth(book, page, atoms.labels, atoms.count, drawing)
    if name == "page-2":
        best = majority(atoms.labels, atoms.count, drawing.pot, len(drawing.pots))
        done = np.array([drawing.pots[kind] in ("Dusk", "Band", "Flash", *SCHEME["Pim"]) for kind in best])
        pour_truth(book, page, atoms.labels, atoms.count, drawing, done)
    if name in ("page-1", "page-4"):
        _cut_truth(book, page, atoms.labels, drawing)
    if name == "page-1":
        parts = {part.name: number for number, part in book.parts().items()}
        verbs.hold_part(book, page, parts["Clouds"], 0.45)
        verbs.hold_part(book, page, parts["Kites"], 0.62)
    return derived


def pour_truth(
    book: Book, page: int, labels: I32, count: int, drawing: DemoDrawing, within: Bool | None = None
) -> None:
    """Pour the finished scheme: every atom takes the pot that belongs on most of it; pot by pot, as edits."""
    names = {pot.name: number for number, pot in book.pots().items()}
    best = majority(labels, count, drawing.pot, len(drawing.pots))
    filled: dict[int, list[int]] = {}
    for atom in range(1, count + 1):
        pot = names.get(drawing.pots[best[atom]])
        if pot is not None and (within is None or within[atom]):
            filled.setdefault(pot, []).append(atom)
    for pot, atoms in filled.items():
        verbs.pour(book, page, atoms, pot, len(atoms))


def _cut_truth(book: Book, page: int, labels: I32, drawing: DemoDrawing) -> None:
    """Cut the finished shade, in two loops."""
    poured = np.zeros(int(labels.max()) + 1, bool)
    poured[list(book.sources(page)[POURS])] = True
    rows, cols = drawing.shade.shape
    half = rows * 2 // 5
    for cut in (slice(0, half), slice(half, rows)):
        rect = cut.start, 0, cut.stop, cols
        verbs.shade_mask(book, page, rect, drawing.shade[cut] > 0, poured[labels[cut]], light=False)


def _cut_leaks(hand: Hand, drawing: DemoDrawing) -> None:
    """Cut out what colour ran into through a line that does not close, as a colourist would."""
    names = {pot.name: number for number, pot in hand.book.pots().items()}
    cut_strays(hand, np.array([names.get(name, 0) for name in drawing.pots], np.int32)[drawing.pot], drawing.ink)


def majority(labels: I32, count: int, plane: U8, kinds: int) -> list[int]:
    """Return for every label, 0..count, the value of `plane` (0..kinds - 1) that covers most of it."""
    votes = np.bincount(labels.ravel().astype(np.int64) * kinds + plane.ravel(), minlength=(count + 1) * kinds)
    best: list[int] = votes.reshape(count + 1, kinds).argmax(axis=1).tolist()
    return best
