"""Delivery: a page written as files that printers and editors open. Knows the book and what is derived from it.

Every file is complete or not there.
"""

import zlib
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from pathlib import Path

import cv2
import numpy as np
import tifffile
from PIL import Image

from drip_pot.book import Book, Derived, PageSources, Tables, build_tables, verbs
from drip_pot.book.findings import STAGES
from drip_pot.core.arrays import I32, U8, U16, Report, no_report
from drip_pot.core.errors import BadInput
from drip_pot.core.press import appearance, separate
from drip_pot.core.render import Colors, pack, paint
from drip_pot.core.strips import strips
from drip_pot.files.outputs import file_stem, in_place

KINDS = {
    "page": "Flattened page, PNG",
    "flats": "Flats alone, PNG",
    "plates": "CMYK plates, TIFF",
    "line": "Black line, 1-bit TIFF",
}
"""What can be written, and what to call it."""
_SUFFIXES = {"page": ".png", "flats": "-flats.png", "plates": "-cmyk.tif", "line": "-line.tif"}
_STRIP = 256
_DEFLATE = 8  # as the TIFF standard numbers it


@dataclass(frozen=True)
class _Ready:
    sources: PageSources
    labels: I32
    line: I32
    ink: U8
    shade: U8
    trap: U16 | None
    tables: Tables


def export_page(
    book: Book, derived: Derived, page: int, folder: Path, *,
    kinds: tuple[str, ...] = tuple(KINDS), report: Report = no_report,
) -> list[Path]:  # fmt: skip
    """Write a page.

    Parameters
    ----------
    book, derived, page
        The page and what follows from it.
    folder : Path
        Made if missing; files of the same names (see `export_targets`) are replaced, each once it is complete.
    kinds : tuple of str
        Some of `KINDS`.
    report : Report
        Progress; may raise `Cancelled`.

    Returns
    -------
    list of Path
        The files written.

    Raises
    ------
    BadInput
        For an unknown kind.
    CannotWrite
        If the folder or the disk refuses.
    """
    targets = export_targets(book, page, folder, kinds)
    writers: dict[str, Callable[[Path, _Ready], None]] = {
        "page": _write_page, "flats": _write_flats, "plates": _write_plates, "line": _write_line,
    }  # fmt: skip
    report(0.05, "Working out the page")
    ready = _prepare(book, derived, page, "plates" in kinds)
    for place, (kind, target) in enumerate(zip(kinds, targets, strict=True)):
        report(0.3 + 0.7 * place / len(kinds), f"Writing {KINDS[kind]}")
        with in_place(target) as work:
            writers[kind](work, ready)
    return targets


def export_targets(book: Book, page: int, folder: Path, kinds: tuple[str, ...] = tuple(KINDS)) -> list[Path]:
    """Return the files that `export_page` would write, one a kind; raises `BadInput` for an unknown kind."""
    for kind in kinds:
        if kind not in KINDS:
            raise BadInput(f"There is nothing called '{kind}' to export. Choose from {', '.join(KINDS)}.")
    pages = book.pages()
    stem = file_stem(book.info.title, list(pages).index(page) + 1, pages[page].name)
    return [folder / f"{stem}{_SUFFIXES[kind]}" for kind in kinds]


def _prepare(book: Book, derived: Derived, page: int, with_traps: bool) -> _Ready:
    sources = book.sources(page)
    atoms = derived.regions.atoms(sources.line)
    if sources.cut != sources.line:
        book = book.still()  # what is only read is not changed
        verbs.recut(book, page, *derived.regions.carried(sources))
        sources = book.sources(page)
        atoms = derived.regions.atoms(sources.line)
    tables = build_tables(book, sources, atoms.count)
    shade = book.plane(f"page/{page}/shade").whole()
    shown = derived.painted.shown(sources, tables.held)
    trap = None
    if with_traps:
        trap = derived.press.traps(sources, shade, -1, shown, tables.plates, sources.press.trap_mm).spread
    return _Ready(sources, shown.labels, shown.line, shown.ink, shade, trap, tables)


def picture(book: Book, derived: Derived, page: int, stage: str = "Press", scale: float = 1.0) -> U8:
    """Return a page as a stage of the window shows it.

    Parameters
    ----------
    book, derived, page
        The page and what follows from it.
    stage : str
        Inks (line alone), Flats (local colours under black line), Shade (in two tones), Holds (with coloured line) or
        Press (the plates as ink on paper).
    scale : float
        Above 0, at most 1: size of the picture over that of the page.

    Returns
    -------
    (M, N, 3) ndarray of uint8
        sRGB.

    Raises
    ------
    BadInput
        For an unknown stage or an unusable scale.
    """
    if stage not in STAGES:
        raise BadInput(f"There is no stage {stage}. Choose from {', '.join(STAGES)}.")
    if not 0 < scale <= 1:
        raise BadInput(f"A picture has 0 to 1 times the size of the page, not {scale:g}.")
    ready = _prepare(book, derived, page, stage == "Press")
    rows, cols = ready.labels.shape
    out = np.empty((rows, cols, 3), np.uint8)
    for strip in strips(rows):
        out[strip.rows] = _seen(ready, stage, strip.rows)
    if scale < 1:
        size = max(1, round(cols * scale)), max(1, round(rows * scale))
        return np.asarray(cv2.resize(out, size, interpolation=cv2.INTER_AREA), np.uint8)
    return out


def _seen(r: _Ready, stage: str, cut: slice) -> U8:
    labels, line, ink, shade = r.labels[cut], r.line[cut], r.ink[cut], r.shade[cut]
    if stage == "Inks":
        return np.asarray(cv2.merge([255 - ink] * 3), np.uint8)
    if stage == "Press":
        trap = None if r.trap is None else r.trap[cut]
        return appearance(separate(labels, shade, ink, line, r.tables.plates, trap))
    colors = r.tables.screen
    if stage != "Holds":
        colors = Colors(colors.flat, np.full_like(colors.line, pack(np.array([0, 0, 0, 255], np.uint8))))
    return np.ascontiguousarray(paint(labels, None if stage == "Flats" else shade, ink, line, colors)[..., :3])


def write_picture(path: Path, pixels: U8, dpi: float) -> None:
    """Write a picture, (M, N, 3) uint8 sRGB, as a PNG; raises `CannotWrite`."""
    with in_place(path) as work:
        Image.fromarray(pixels).save(work, "PNG", dpi=(dpi, dpi), compress_level=3)


def _write_page(path: Path, r: _Ready) -> None:
    out = np.empty((*r.labels.shape, 3), np.uint8)
    for strip in strips(len(out)):
        cut = strip.rows
        out[cut] = paint(r.labels[cut], r.shade[cut], r.ink[cut], r.line[cut], r.tables.screen)[..., :3]
    dpi = r.sources.page.dpi
    Image.fromarray(out).save(path, "PNG", dpi=(dpi, dpi), compress_level=3)


def _write_flats(path: Path, r: _Ready) -> None:
    """Write an indexed PNG whose palette is the pots; bare paper is transparent."""
    local = r.tables.screen.flat[: len(r.tables.is_poured)].view(np.uint8).reshape(-1, 4)[:, :3]
    colors, index = np.unique(local[r.tables.is_poured], axis=0, return_inverse=True)
    dpi = (r.sources.page.dpi, r.sources.page.dpi)
    if len(colors) > 255:
        rgba = np.zeros((len(local), 4), np.uint8)
        rgba[:, :3], rgba[:, 3] = local, np.where(r.tables.is_poured, 255, 0)
        rgba[~r.tables.is_poured] = 0
        Image.fromarray(rgba[r.labels]).save(path, "PNG", dpi=dpi, compress_level=3)
        return
    table = np.zeros(len(local), np.uint8)
    table[r.tables.is_poured] = index.reshape(-1) + 1
    rows, cols = r.labels.shape
    image = Image.frombytes("P", (cols, rows), table[r.labels].tobytes())
    image.putpalette(np.concatenate([np.zeros((1, 3), np.uint8), colors]).tobytes())
    image.save(path, "PNG", dpi=dpi, transparency=0, compress_level=6)


def _write_plates(path: Path, r: _Ready) -> None:
    rows, cols = r.labels.shape

    def compressed() -> Iterator[bytes]:
        for strip in strips(rows, height=_STRIP):
            cut = strip.rows
            trap = None if r.trap is None else r.trap[cut]
            plates = separate(r.labels[cut], r.shade[cut], r.ink[cut], r.line[cut], r.tables.plates, trap)
            yield zlib.compress(plates.tobytes(), 6)

    tifffile.imwrite(
        path, compressed(), shape=(rows, cols, 4), dtype=np.uint8, photometric="separated", planarconfig="contig",
        rowsperstrip=_STRIP, compression=_DEFLATE, resolution=(r.sources.page.dpi,) * 2,
        resolutionunit="inch", extratags=[(332, "H", 1, 1, True)], metadata=None, software="Drip Pot",
    )  # fmt: skip


def _write_line(path: Path, r: _Ready) -> None:
    black = r.tables.plates.is_black
    ink = r.ink if black.all() else np.where(black[r.line], r.ink, 0)
    image = Image.fromarray(np.where(ink >= 128, 0, 255).astype(np.uint8)).convert("1", dither=Image.Dither.NONE)
    image.save(path, "TIFF", compression="group4", dpi=(r.sources.page.dpi, r.sources.page.dpi))
