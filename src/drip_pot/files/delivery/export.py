# SPDX-License-Identifier: GPL-3.0-or-later
"""A page written as files of several kinds, each complete or not there. Knows the book and what follows from it."""

from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from dataclasses import replace
from pathlib import Path

import numpy as np

from drip_pot.book import Book, Derived, PageSources, build_tables, verbs
from drip_pot.book.own_inks import spots_on
from drip_pot.book.ready import Ready, marks_of
from drip_pot.book.rubbed import rubbed_of
from drip_pot.book.values import COVER, PASSES, POURS
from drip_pot.core.arrays import Report, no_report
from drip_pot.core.errors import BadInput
from drip_pot.core.press import Composed, bare_plates
from drip_pot.core.render import printed
from drip_pot.files.delivery.cut import rect_of
from drip_pot.files.delivery.how import PLAIN, How
from drip_pot.files.delivery.kinds import KINDS, Delivered
from drip_pot.files.delivery.spool import Spool
from drip_pot.files.outputs import all_in_place, file_stem
from drip_pot.words import tr


def export_page(
    book: Book, derived: Derived, page: int, folder: Path, *,
    kinds: tuple[str, ...] | None = None, how: How = PLAIN, report: Report = no_report,
) -> list[Path]:  # fmt: skip
    """Write a page.

    Parameters
    ----------
    book, derived, page
        The page and what follows from it.
    folder : Path
        Made if missing; files of the same names (see `export_targets`) are replaced when all are complete.
    kinds : tuple of str
        Some of `KINDS`; None is all of them.
    how : How
        How they are made; its schemes are for `deliver` alone.
    report : Report
        Progress; may raise `Cancelled`.

    Returns
    -------
    list of Path
        The files written.

    Raises
    ------
    BadInput
        For an unknown kind or cut.
    CannotWrite
        If the folder or the disk refuses; nothing is left behind then.
    """
    rect_of(book.sources(page).page, how.cut)
    kinds = tuple(KINDS) if kinds is None else kinds
    targets = export_targets(book, page, folder, kinds, how=how)
    report(0.05, "Working out the page")
    with all_in_place(targets) as aside:
        traps = any(KINDS[kind].traps for kind in kinds)
        with laid(book, derived, page, aside, traps=traps) as made:
            write_kinds(replace(made, how=how), kinds, [aside / target.name for target in targets], report)
    return targets


def write_kinds(made: Delivered, kinds: tuple[str, ...], paths: Sequence[Path], report: Report = no_report) -> None:
    """Write files of a page, kind by kind and part by part, to paths in the same order; may raise `Cancelled`."""
    names = made.names
    wanted = [(KINDS[kind], part) for kind in kinds for part in range(len(KINDS[kind].parts_for(names)))]
    for place, ((kind, part), path) in enumerate(zip(wanted, paths, strict=True)):
        report(0.3 + 0.7 * place / len(wanted), tr("Writing {0}", kind.title))
        kind.write(path, made, part)


def export_targets(
    book: Book, page: int, folder: Path, kinds: tuple[str, ...], mark: str = "", how: How = PLAIN
) -> list[Path]:  # fmt: skip
    """Return the files that `export_page` would write, kind by kind, with a mark in their names.

    Raises `BadInput` for an unknown kind.
    """
    for kind in kinds:
        if kind not in KINDS:
            raise BadInput("There is nothing called '{0}' to export. Choose from {1}.", kind, ", ".join(KINDS))
    pages, sources = book.pages(), book.sources(page)
    parts = tuple(name for name, _ in _parts(book, sources) if how.wants(name))
    names = {"spots": tuple(spot.name for spot in spots_on(book, sources)), "parts": parts}
    stem = file_stem(book.info.title, list(pages).index(page) + 1, pages[page].name) + mark
    return [folder / f"{stem}{part}{KINDS[kind].suffix}" for kind in kinds for part in KINDS[kind].parts_for(names)]


@contextmanager
def laid(book: Book, derived: Derived, page: int, folder: Path, *, traps: bool) -> Iterator[Delivered]:
    """Work out what a page is painted from, with its inks in a file of `folder` as long as this lasts.

    Without traps nothing is laid, and the disk is left alone; raises OSError where it refuses.
    """
    if not traps:
        yield prepared(book, derived, page, traps=False)
        return
    size = book.sources(page).page
    inks = 4 + len(spots_on(book, book.sources(page)))
    bare, whole = Spool(folder, (size.rows, size.cols, inks + 1)), Spool(folder, (size.rows, size.cols, inks))
    try:
        yield replace(prepared(book, derived, page, traps=True, spool=bare), laid=bare, whole=whole)
    finally:
        bare.close()
        whole.close()


def prepared(book: Book, derived: Derived, page: int, *, traps: bool, spool: Spool | None = None) -> Delivered:
    """Work out what a page is painted from; the book is not changed.

    Where traps are worked out, the inks that are laid for them go to the `spool` as well, if that is given.
    """
    sources = book.sources(page)
    named = [name for name, _ in _parts(book, sources)]  # as `export_targets` knows them
    atoms = derived.regions.atoms(sources.line)
    if sources.cut != sources.line:
        book = book.still()  # what is only read is not changed
        verbs.recut(book, page, *derived.regions.carried(sources))
        sources = book.sources(page)
        atoms = derived.regions.atoms(sources.line)
    tables = build_tables(book, sources, atoms.count, derived.ground(sources))
    tables = replace(tables, stack=tuple(printed(list(tables.stack))))
    covers = tuple(book.plane(COVER.key(page, number)).copy() for number in sources[PASSES])
    shown = derived.painted.shown(sources)
    shown = replace(shown, feathers=derived.painted.feathers(sources, shown, tables.washes))
    ready = Ready(shown, covers, tables, marks=marks_of(book, page), rubbed=rubbed_of(book, page))
    trap = None
    if traps:
        printing = tables.printing()

        def keep(rows: slice, made: Composed) -> None:
            if spool is not None:
                inks, black = bare_plates(made, printing)
                spool.write(rows, np.concatenate([inks, black[..., None]], axis=2))

        region = derived.regions.partition(sources).region
        found = derived.press.traps(sources, ready.composing(keep), object(), region)
        ready, trap = ready.trapped_by(found), found.spread
    held = dict(_parts(book, sources))
    parts = tuple((name, held.get(name, ())) for name in named)
    return Delivered(ready, sources, trap, parts, drawn=lambda: derived.painted.drawn(sources), line_px=atoms.line_px)


def _parts(book: Book, sources: PageSources) -> tuple[tuple[str, tuple[int, ...]], ...]:
    """Return the names of the parts on a page in shelf order, and the atoms of each."""
    pots = book.pots()
    found: dict[int, list[int]] = {}
    for atom, number in sources[POURS].items():
        if number in pots:
            found.setdefault(pots[number].part, []).append(atom)
    return tuple((part.name, tuple(found[n])) for n, part in book.parts().items() if n in found)
