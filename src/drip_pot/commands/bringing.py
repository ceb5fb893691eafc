# SPDX-License-Identifier: GPL-3.0-or-later
"""Pages, parts and schemes of another book brought in from the command line. Knows files and the book; no window."""

from pathlib import Path
from typing import Annotated, Literal

import typer

from drip_pot.commands.batch import parse_pages, parts_of, schemes_of
from drip_pot.core.errors import BadInput
from drip_pot.words import tr, tr_many


def bring(
    book: Annotated[Path, typer.Argument(metavar="BOOK", help="A .drip file.", show_default=False)],
    other: Annotated[Path, typer.Argument(metavar="OTHER", help="The book to bring in from.", show_default=False)],
    pages: Annotated[str, typer.Option(help="Which pages come with all that is on them, as 2, 1-4 or 1-2,5.")] = "",
    parts: Annotated[str, typer.Option(help="Which parts come with their pots, as Kite,Coat, or all.")] = "",
    schemes: Annotated[str, typer.Option(help="Which schemes come, as Noon,Dusk, or all.")] = "",
    same: Annotated[
        Literal["ask", "here", "own"],
        typer.Option(
            help="Pots that are here by name in other colours: ask (do nothing), the ones here, or their own."
        ),
    ] = "ask",
) -> None:
    """Bring pages, parts and schemes of another book into this one; it is one step, and can be undone.

    Example: drip-pot bring kites.drip storm.drip --pages 1-2 --schemes Dusk --same here
    """
    from drip_pot.book.bringing import ToBring, same_named
    from drip_pot.files import bring_from, looking_into, working_in

    with looking_into(other) as theirs, working_in(book) as (file, document):
        every = list(theirs[1].pages())
        wanted = ToBring(
            tuple(every[place] for place in parse_pages(pages, len(every), other.name)) if pages else (),
            parts_of(theirs[1], parts), schemes_of(theirs[1], schemes),
        )  # fmt: skip
        alike = same_named(document, theirs[1], wanted)
        for number in alike:
            print(tr("here by name in other colours: {0}", theirs[1].pots()[number].name))
        if alike and same == "ask":
            raise BadInput("Nothing was brought in: say --same here or --same own for pots that are here by name.")
        own = frozenset(alike) if same == "own" else frozenset()
        made = bring_from(file, document, theirs, ToBring(wanted.pages, wanted.parts, wanted.schemes, own))
    print(tr_many("brought in from {1}: one page", "brought in from {1}: {0} pages", len(made), len(made), other))
