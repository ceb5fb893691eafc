# SPDX-License-Identifier: GPL-3.0-or-later
"""Pages sent out to somebody and taken back, from the command line. Knows files and the book; no window."""

from pathlib import Path
from typing import Annotated, Literal

import typer

from drip_pot.commands.batch import parse_pages
from drip_pot.core.errors import BadInput
from drip_pot.words import tr, tr_many


def split(
    book: Annotated[Path, typer.Argument(metavar="BOOK", help="A .drip file.", show_default=False)],
    pages: Annotated[str, typer.Option(help="Which pages go out, as 2, 1-4 or 1-2,5.", show_default=False)],
    out: Annotated[Path, typer.Option(help="The .drip file they go out as.", show_default=False)],
    name: Annotated[str, typer.Option(help="Whom they go to, or what for; the name of OUT if not given.")] = "",
    force: Annotated[bool, typer.Option("--force", help="Replace a file that exists.")] = False,
) -> None:
    """Send pages out as a book of their own, to be worked in by somebody else and taken back with merge.

    Example: drip-pot split kites.drip --pages 3-5 --out nora.drip
    """
    from drip_pot.files import check_outputs, send_out, working_in

    if out.suffix.lower() != ".drip":
        raise BadInput("{0} is no name of a book. Name it .drip.", out.name)
    check_outputs([out], [book], force=force)
    with working_in(book) as (file, document):
        every = list(document.pages())
        chosen = [every[place] for place in parse_pages(pages, len(every), book.name)]
        document.apply(send_out(file, document, chosen, out, name or out.stem))
    print(tr_many("wrote {1}: one page", "wrote {1}: {0} pages", len(chosen), len(chosen), out))


def merge(
    book: Annotated[Path, typer.Argument(metavar="BOOK", help="A .drip file.", show_default=False)],
    other: Annotated[Path, typer.Argument(metavar="OTHER", help="A book that went out of it.", show_default=False)],
    clashes: Annotated[
        Literal["ask", "here", "there"],
        typer.Option(help="What was changed on both sides: ask (do nothing), as it is here, or as it is there."),
    ] = "ask",
    dry: Annotated[bool, typer.Option("--dry-run", help="Only tell what would come back.")] = False,
) -> None:
    """Take back what was done to pages that went out; it is one step, and can be undone.

    Example: drip-pot merge kites.drip nora.drip --clashes here
    """
    from drip_pot.book.loans import compare, told_back
    from drip_pot.files import looking_into, take_back, working_in

    with looking_into(other) as theirs, (looking_into if dry else working_in)(book) as (file, document):
        back = compare(document, theirs[1])
        names = {number: page.name for number, page in (theirs[1].pages() | document.pages()).items()}
        for line in told_back(back, names):
            print(line)
        for clash in back.clashes:
            place = tr("The whole book") if clash.page is None else names.get(clash.page, "")
            print(tr("changed on both sides: {0}, {1}", place, clash.what))
        if dry:
            return
        if back.clashes and clashes == "ask":
            raise BadInput("Nothing was taken back: say --clashes here or --clashes there for what both sides changed.")
        if not back.fresh:
            print(tr("Nothing is there that is not here already."))
            return
        take_back(file, document, theirs, back, back.clashes if clashes == "here" else [])
    print(tr("taken back from {0}", other))
