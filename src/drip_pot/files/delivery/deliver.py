# SPDX-License-Identifier: GPL-3.0-or-later
"""A delivery: files of several pages and a job ticket, all of them or none. Knows delivery and the book."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from pathlib import Path

from drip_pot.book import Book, Derived, verbs
from drip_pot.book.values import PRESS
from drip_pot.core.arrays import Report, no_report
from drip_pot.core.errors import BadInput
from drip_pot.files.delivery.cut import rect_of
from drip_pot.files.delivery.export import export_targets, laid, write_kinds
from drip_pot.files.delivery.how import PLAIN, How
from drip_pot.files.delivery.kinds import KINDS
from drip_pot.files.delivery.pdf import add_page, finish, save
from drip_pot.files.delivery.ticket import ticket
from drip_pot.files.outputs import all_in_place, file_stem, slug
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


def delivery_targets(
    book: Book, pages: Sequence[int], folder: Path, kinds: tuple[str, ...], how: How = PLAIN
) -> list[Path]:
    """Return every file that `deliver` would write.

    Raises `BadInput` for an unknown kind or scheme, no pages, or pages of several presses in one PDF.
    """
    if not pages:
        raise BadInput("There is no page to deliver. Open the book and bring in a drawing.")
    known = [part.name for part in book.parts().values()]
    lost = [name for name in how.parts if name.casefold() not in {one.casefold() for one in known}]
    if lost:
        raise BadInput("This book has no part {0}. It has {1}.", lost[0], ", ".join(known))
    presses = {book.sources(page)[PRESS].press.title for page in pages}
    if ONE_PDF in kinds and len(presses) > 1:
        raise BadInput(
            "One PDF is for one press, and these pages are made for {0}. Give all of them one press condition (Press, "
            "'For every page'), deliver them apart, or write a PDF a page.", listed(sorted(presses)),
        )  # fmt: skip
    targets = [path for mark in _marks(book, how) for path in _targets(_Run(book, mark), pages, folder, kinds, how)]
    return [*targets, folder / f"{_stem(book)}-ticket.txt"]


def deliver(
    book: Book, derived: Callable[[int], Derived], pages: Sequence[int], folder: Path, kinds: tuple[str, ...],
    report: Report = no_report, *, how: How = PLAIN,
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
    how : How
        How they are made.

    Raises
    ------
    BadInput
        For an unknown kind, cut or scheme, no pages, or pages of several presses in one PDF.
    CannotWrite
        If the folder or the disk refuses; nothing is left behind then.
    """
    targets = delivery_targets(book, pages, folder, kinds, how)
    for page in pages:
        rect_of(book.sources(page).page, how.cut)
    runs = _runs(book, how)
    with all_in_place(targets) as aside:
        for place, run in enumerate(runs):

            def part(fraction: float, doing: str, place: int = place) -> None:
                report((place + fraction) / len(runs), doing)

            _write(run, derived, pages, (aside, kinds, how), part)
        (aside / targets[-1].name).write_text(
            ticket(book, pages, [aside / path.name for path in targets[:-1]], how.cut), encoding="utf-8"
        )
    return targets


@dataclass(frozen=True)
class _Run:
    """A book in one of its schemes, and what its files are marked with."""

    book: Book
    mark: str


def _runs(book: Book, how: How) -> list[_Run]:
    """Return the book in every scheme that is wanted; raises `BadInput` for an unknown one."""
    if not how.schemes:
        return [_Run(book, "")]
    found = [_Run(book.still(), mark) for mark in _marks(book, how)]
    for number, run in zip(how.schemes, found, strict=True):
        if number != run.book.scheme:
            verbs.use_scheme(run.book, number)
    return found


def _marks(book: Book, how: How) -> list[str]:
    """Return what the files of every scheme that is wanted are marked with; raises `BadInput` for an unknown one."""
    found: list[str] = []
    for number in how.schemes:
        mark = f"-{slug(verbs.known_scheme(book, number).name) or number}"
        found.append(f"{mark}-{number}" if mark in found else mark)
    return found or [""]


def _stem(book: Book) -> str:
    return file_stem(book.info.title, 0, "").removesuffix("-00")


def _targets(run: _Run, pages: Sequence[int], folder: Path, kinds: tuple[str, ...], how: How) -> list[Path]:
    single = tuple(kind for kind in kinds if kind != ONE_PDF)
    found = [path for page in pages for path in export_targets(run.book, page, folder, single, run.mark, how)]
    return [*found, folder / f"{_stem(run.book)}{run.mark}.pdf"] if ONE_PDF in kinds else found


def _write(
    run: _Run, derived: Callable[[int], Derived], pages: Sequence[int], what: tuple[Path, tuple[str, ...], How],
    report: Report,
) -> None:  # fmt: skip
    """Write all files of pages in one scheme, of some kinds, into a folder."""
    import pikepdf  # read when the first PDF is written

    aside, kinds, how = what
    single = tuple(kind for kind in kinds if kind != ONE_PDF)
    with pikepdf.new() as pdf:
        for place, page in enumerate(pages):

            def part(fraction: float, doing: str, place: int = place) -> None:
                report((place + fraction) / len(pages), doing)

            part(0.05, "Working out the page")
            traps = ONE_PDF in kinds or any(KINDS[kind].traps for kind in single)
            with laid(run.book, derived(page), page, aside, traps=traps) as made:
                names = export_targets(run.book, page, aside, single, run.mark, how)
                write_kinds(replace(made, how=how), single, names, part)
                if ONE_PDF in kinds:
                    part(0.9, "Adding the page to the PDF")
                    add_page(pdf, made)
                    if page == pages[-1]:
                        finish(pdf, run.book.info.title, made)
                        save(pdf, _targets(run, pages, aside, (ONE_PDF,), how)[-1])
