# SPDX-License-Identifier: GPL-3.0-or-later
"""The palette of a house that a book follows, from the command line. Knows files and the book; no window."""

import sys
from pathlib import Path
from typing import Annotated

import typer

from drip_pot.words import tr


def follow(
    book: Annotated[Path, typer.Argument(metavar="BOOK", help="A .drip file.", show_default=False)],
    palette: Annotated[
        Path | None, typer.Argument(metavar="PALETTE", help="A .txt, .csv or .json palette; the one followed if none.")
    ] = None,
    take: Annotated[bool, typer.Option("--take", help="Give the pots that differ the colours of the house.")] = False,
) -> None:
    """Follow the palette of a house, and tell which pots differ from it.

    Example: drip-pot house kites.drip house.csv --take
    """
    from drip_pot.book import verbs
    from drip_pot.files import house_colors, working_in

    with working_in(book) as (_, document):
        if palette is not None:
            colors, problems = house_colors(palette)
            for problem in problems:
                print(problem, file=sys.stderr)
            verbs.follow_house(document, palette.stem, colors, str(palette.resolve()))
        name, unlike = verbs.house_of(document).name, verbs.unlike_house(document)
        for number, wanted in unlike.items():
            pot = document.pots()[number]
            local, shadow = document.tone_pair(pot)
            print(tr("{0}: {1}, {2} here; {3}, {4} in {5}", pot.name, local, shadow, wanted.local,
                     wanted.shadow or tr("any shadow"), name))  # fmt: skip
        if not unlike:
            print(tr("Every pot that {0} names is as it has it.", name))
        elif take:
            verbs.take_house(document)
            print(tr("taken from {0}", name))
