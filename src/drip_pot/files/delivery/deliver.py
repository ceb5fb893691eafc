# SPDX-License-Identifier: GPL-3.0-or-later
"""A delivery: files of several pages and a job ticket, all of them or none. Knows delivery and the book."""

from collections.abc import Callable, Sequence
from dataclasses import replace
from pathlib import Path

from drip_pot.book import Book, Derived
from drip_pot.book.values import PRESS
from drip_pot.core.arrays import Report, no_report
from drip_pot.core.errors import BadInput
from drip_pot.files.delivery.cut import CutTo, rect_of
from drip_pot.files.delivery.export import export_targets, laid, write_kinds
from drip_pot.files.delivery.kinds import KINDS
from drip_pot.files.delivery.pdf import add_page, finish, save
from drip_pot.files.delivery.ticket import ticket
from drip_pot.files.outputs import all_in_place, file_stem
from drip_pot.words import listed

ONE_PDF = "book-pdf"
"""The kind that is one PDF of all pages."""
PRESETS: dict[str, tuple[str, ...]] = {
    "printer": (ONE_PDF,),
    "press": ("plates", "line"),
    "editor": ("page",),
    "archive": ("page", "flats", "plates", "separations", "line", "pdf"),
}
"""Kinds of files that go together, by name."""


def delivery_targets(book: Book, pages: Sequence[int], folder: Path, kinds: tuple[str, ...]) -> list[Path]:
    """Return every file that `deliver` would write.

    Raises `BadInput` for an unknown kind, no pages, or pages of several presses in one PDF.
    """
    if not pages:
        raise BadInput("There is no page to deliver. Open the book and bring in a drawing.")
    single = tuple(kind for kind in kinds if kind != ONE_PDF)
    presses = {book.sources(page)[PRESS].press.title for page in pages}
    if ONE_PDF in kinds and len(presses) > 1:
        raise BadInput(
            "One PDF is for one press, and these pages are made for {0}. Give all of them one press condition (Press, "
            "'For every page'), deliver them apart, or write a PDF a page.", listed(sorted(presses)),
        )  # fmt: skip
    targets = [path for page in pages for path in export_targets(book, page, folder, single)]
    stem = file_stem(book.info.title, 0, "").removesuffix("-00")
    if ONE_PDF in kinds:
        targets.append(folder / f"{stem}.pdf")
    return [*targets, folder / f"{stem}-ticket.txt"]


def deliver(
    book: Book, derived: Callable[[int], Derived], pages: Sequence[int], folder: Path, kinds: tuple[str, ...],
    report: Report = no_report, *, cut: CutTo = "page",
) -> list[Path]:  # fmt: skip
    """Write files of pages and a job ticket.

    Parameters
    ----------
    book : Book
        It is not changed.
    derived : callable
        Returns what follows from a page by its number.
    pages : sequence of int
        Numbers of pages.
    folder : Path
        Made if missing; files of the same names (see `delivery_targets`) are replaced when all are complete.
    kinds : tuple of str
        Some of the kinds of files, and `ONE_PDF`.
    report : Report
        Progress; may raise `Cancelled`.
    cut : str
        What pictures, plates and line are cut to, one of `CUTS`; other files hold the whole page.

    Raises
    ------
    BadInput
        For an unknown kind or cut, no pages, or pages of several presses in one PDF.
    CannotWrite
        If the folder or the disk refuses; nothing is left behind then.
    """
    targets = delivery_targets(book, pages, folder, kinds)
    for page in pages:
        rect_of(book.sources(page).page, cut)
    single = tuple(kind for kind in kinds if kind != ONE_PDF)
    with all_in_place(targets) as aside:
        import pikepdf  # read when the first PDF is written

        with pikepdf.new() as pdf:
            for place, page in enumerate(pages):

                def part(fraction: float, doing: str, place: int = place) -> None:
                    report((place + fraction) / len(pages), doing)

                part(0.05, "Working out the page")
                traps = ONE_PDF in kinds or any(KINDS[kind].traps for kind in single)
                with laid(book, derived(page), page, aside, traps=traps) as made:
                    names = [path.name for path in export_targets(book, page, folder, single)]
                    write_kinds(replace(made, cut=cut), single, [aside / name for name in names], part)
                    if ONE_PDF in kinds:
                        part(0.9, "Adding the page to the PDF")
                        add_page(pdf, made)
                        if page == pages[-1]:
                            finish(pdf, book.info.title, made)
                            save(pdf, aside / targets[-2].name)
        (aside / targets[-1].name).write_text(
            ticket(book, pages, [aside / path.name for path in targets[:-1]], cut), encoding="utf-8"
        )
    return targets
