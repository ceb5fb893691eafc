# SPDX-License-Identifier: GPL-3.0-or-later
"""Deliveries of many books from the command line, and what work on many books shares. Knows files; no window.

Books are independent jobs on the cores of this machine, or of several; one that fails never stops the others.
"""

from collections.abc import Callable, Mapping
from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Any, NamedTuple

import typer

from drip_pot.commands.spread import KeyFolder, Outcome, Report, ReportFile, SchedulerAddress, spread
from drip_pot.core.errors import BadInput, DripPotError
from drip_pot.words import tr

if TYPE_CHECKING:
    from drip_pot.book import Book


def parse_pages(text: str, count: int, name: str) -> list[int]:
    """Return places, from 0, of '2', '1-4' or '1-2,5' among `count` pages; raises `BadInput`."""
    found: list[int] = []
    for piece in text.split(","):
        first, dash, last = piece.strip().partition("-")
        if not first.isdecimal() or (dash and not last.isdecimal()):
            raise BadInput("'{0}' names no pages. Write for example 2, 1-4 or 1-2,5.", text)
        low, high = int(first), int(last or first)
        if not 1 <= low <= high <= count:
            raise BadInput("{0} has {1} pages; there are no pages {2}.", name, count, piece.strip())
        found += range(low - 1, high)
    return list(dict.fromkeys(found))


def deliver_all(
    books: Annotated[list[Path], typer.Argument(metavar="BOOK...", help=".drip files.", show_default=False)],
    to: Annotated[Path, typer.Option(help="Folder; each book has one of its own in it.", show_default=False)],
    kind: Annotated[str, typer.Option(help="Kinds, or a preset: printer, plates, editor, archive.")] = "printer",
    jobs: Annotated[int, typer.Option(min=1, max=64, help="How many books at once.")] = 1,
    scheduler: SchedulerAddress = None,
    tls: KeyFolder = None,
    report: ReportFile = None,
    cut: Annotated[str, typer.Option(help="Cut pictures, plates and line to: page, bleed or trim.")] = "page",
    web: Annotated[
        str, typer.Option(help="Size of web copies: height=…, width=… or megapixels=…; with smooth edges: …,smooth.")
    ] = "height=1600",
    schemes: Annotated[str, typer.Option(help="Schemes by name, as Noon,Dusk, or all; the one in hand else.")] = "",
    parts: Annotated[str, typer.Option(help="Parts that are cut out, as Kite,Coat; all if not given.")] = "",
    force: Annotated[bool, typer.Option("--force", help="Replace files that exist.")] = False,
) -> None:
    """Deliver many books, each whole or not at all. Ends with code 1 if any failed.

    Example: drip-pot deliver-all kites.drip storm.drip --to press --jobs 2 --report press.jsonl
    """
    from drip_pot.files import cut_of, web_size

    cut_of(cut), web_size(web)  # before any book is opened
    wanted = _Wanted(kind, cut, web, schemes, parts, force)
    todo = [(book.resolve(), (to / book.stem).resolve(), wanted) for book in books]
    folders = [folder for _, folder, _ in todo]
    twice = next((f for k, f in enumerate(folders) if f in folders[:k]), None)
    if twice is not None:
        raise BadInput("Two of these books would be written into {0}. Give them names of their own.", twice)
    what = tr("deliver {0}", " ".join(filter(None, wanted[:5])))
    each_book(_delivered, todo, what, jobs, scheduler, tls, open_report(report, books))


def open_report(path: Path | None, inputs: list[Path]) -> Report:
    """Open a report, which may be one begun before but no file of another kind."""
    from drip_pot.files import check_outputs

    if path is not None:
        check_outputs([path], inputs, replaces=b'{"')
    return Report(path)


def kinds_of(text: str) -> tuple[str, ...]:
    """Return the kinds of files that a list of kinds and presets names."""
    from drip_pot.files import PRESETS

    return tuple(dict.fromkeys(k for word in text.split(",") for k in PRESETS.get(word.strip(), (word.strip(),))))


def names_in(text: str) -> tuple[str, ...]:
    """Return the names of a list, 'Kite,Coat'."""
    return tuple(filter(None, (word.strip() for word in text.split(","))))


def schemes_of(book: "Book", text: str) -> tuple[int, ...]:
    """Return the numbers of schemes that are named, or of 'all'; raises `BadInput` for an unknown name."""
    names = {number: scheme.name for number, scheme in book.schemes().items()}
    return _numbers_of(names, text, "This book has no scheme {0}. It has {1}.")


def parts_of(book: "Book", text: str) -> tuple[int, ...]:
    """Return the numbers of parts that are named, or of 'all'; raises `BadInput` for an unknown name."""
    names = {number: part.name for number, part in book.parts().items()}
    return _numbers_of(names, text, "This book has no part {0}. It has {1}.")


def _numbers_of(named: Mapping[int, str], text: str, refusal: str) -> tuple[int, ...]:
    known = {name.lower(): number for number, name in named.items()}
    if text.strip().lower() == "all":
        return tuple(named)
    names = names_in(text)
    for name in names:
        if name.lower() not in known:
            raise BadInput(refusal, name, ", ".join(named.values()) or tr("none; add one first"))
    return tuple(known[name.lower()] for name in names)


def each_book(
    work: Callable[..., Outcome], todo: list[tuple[Any, ...]], what: str, jobs: int, scheduler: str | None,
    tls: Path | None, noted: Report,
) -> None:  # fmt: skip
    """Do a job on every book that is not done yet; say what came of each, and end with code 1 if any failed."""
    left = [job for job in todo if f"{what}: {job[0]}" not in noted.done]
    failed = 0
    for count, (place, said) in enumerate(spread(work, left, jobs, scheduler, tls), 1):
        book = left[place][0]
        failed += not said[0]
        noted.add(f"{what}: {book}", said)
        for line in said[1]:
            print(tr("[{0} of {1}] {2}: {3}", count, len(left), book.name, line), flush=True)
    before = tr(", {0} were done before", len(todo) - len(left)) if len(left) < len(todo) else ""
    print(tr("{0} of {1} books done{2}", len(left) - failed, len(left), before))
    if failed:
        raise typer.Exit(1)


class _Wanted(NamedTuple):
    """What is delivered of every book, in the words of the command line."""

    kind: str
    cut: str
    web: str
    schemes: str
    parts: str
    force: bool


def _delivered(book: Path, folder: Path, wanted: _Wanted) -> Outcome:
    """Deliver a book; return whether it went well, and what is to be said."""
    from drip_pot.files import How, check_outputs, cut_of, deliver, delivery_targets, derive, looking_into, web_size

    try:
        with looking_into(book) as (file, document):
            pages, kinds = list(document.pages()), kinds_of(wanted.kind)
            schemes = schemes_of(document, wanted.schemes)
            how = How(cut_of(wanted.cut), web_size(wanted.web), schemes, names_in(wanted.parts))
            check_outputs(delivery_targets(document, pages, folder, kinds, how), [book], force=wanted.force)
            written = deliver(document, lambda n: derive(file, document, n), pages, folder, kinds, how=how)
    except DripPotError as error:
        return False, [str(error)]
    return True, [tr("{0} files in {1}", len(written), folder)]
