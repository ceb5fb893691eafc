# SPDX-License-Identifier: GPL-3.0-or-later
"""What a book and its pages hold, as plain values for programs. Knows the book and what is derived from it."""

from collections.abc import Callable, Iterable
from typing import Any

import msgspec
import numpy as np

from drip_pot.book.book import Book
from drip_pot.book.derive import Derived
from drip_pot.book.findings import find
from drip_pot.book.leftovers import leftovers, regions_left
from drip_pot.book.loans import loans_of
from drip_pot.book.tables import build_tables
from drip_pot.book.values import COVER, DOUBTS, FIGURES, FOLLOWING, HOLDS, HOUSE, LAMPS, PASSES, POURS, SHADE_CUTS
from drip_pot.book.verbs.house import house_of
from drip_pot.core.regions import regions_of


def tell(book: Book, derive: Callable[[int], Derived], pages: Iterable[int] | None = None) -> dict[str, Any]:
    """Return a book as plain values.

    Parameters
    ----------
    book : Book
        It is not changed.
    derive : callable
        Returns what follows from a page by its number.
    pages : iterable of int, optional
        The pages that are told of, by number; all of them if not given.

    Returns
    -------
    dict
        `title`, `parts`, `pots` (with `number` each), `schemes`, `sequences`, `out` (pages that were sent out, by
        number, and to whom), `house` (the palette followed, or null), and `pages`: for each page `number`, `name`,
        `rows`, `cols`, `dpi`, `regions`, `unpoured` (regions without colour), `passes`, `lamps`, `holds`, `frame` (the
        sequence it belongs to and its place there, or null), `doubts` (colours carried, and how sure), `following`
        (markings taken along), `figures` (of other pages, offered here) and `findings` by stage. Lists are there even
        where a stage has none.
    """
    return {
        "title": book.info.title,
        "parts": [{"number": n, **msgspec.to_builtins(part)} for n, part in book.parts().items()],
        "pots": [
            {"number": n, **msgspec.to_builtins(pot), "shadow": book.tone_pair(pot)[1]}
            for n, pot in book.pots().items()
        ],
        "schemes": [{"number": n, "name": s.name, "in_hand": n == book.scheme} for n, s in book.schemes().items()],
        "sequences": [{"number": n, **msgspec.to_builtins(s)} for n, s in book.sequences().items()],
        "out": [{"name": sent.name, "pages": list(sent.pages)} for sent in loans_of(book).values()],
        "house": None if book.get(HOUSE.key) is None else house_of(book).name,
        "pages": [_page(book, number, derive(number)) for number in (book.pages() if pages is None else pages)],
    }


def _page(book: Book, number: int, derived: Derived) -> dict[str, Any]:
    sources = book.sources(number)
    atoms, part = derived.regions.atoms(sources.line), derived.regions.partition(sources)
    pours = sources[POURS] if sources.cut == sources.line else derived.regions.carried(sources)[0]
    empty = np.ones(len(atoms.areas), bool)
    empty[[a for a in pours if a < len(empty)]] = False
    left = leftovers(atoms.areas, empty, derived.regions.panels(sources))
    tables = build_tables(book, sources, atoms.count, derived.ground(sources))
    findings = find(book, sources, derived, tables)
    return {
        "number": number,
        "name": sources.page.name,
        "rows": sources.page.rows,
        "cols": sources.page.cols,
        "dpi": sources.page.dpi,
        "regions": len(regions_of(part.region, atoms.areas)),
        "unpoured": len(regions_left(part.region, left)),
        "passes": [
            {"number": n, **msgspec.to_builtins(one), "painted": book.plane(COVER.key(number, n)).any(),
             "cuts": sum(cut.into == n for cut in sources[SHADE_CUTS].values())}
            for n, one in sources[PASSES].items()
        ],
        "lamps": [{"number": n, **msgspec.to_builtins(lamp)} for n, lamp in sources[LAMPS].items()],
        "holds": [{"number": n, **msgspec.to_builtins(hold)} for n, hold in sources[HOLDS].items()],
        "frame": _frame(book, number),
        "doubts": [{"row": r, "col": c, **msgspec.to_builtins(d)} for (r, c), d in sources[DOUBTS].items()],
        "following": [{"from": o, **msgspec.to_builtins(mark)} for o, mark in sources[FOLLOWING].items()],
        "figures": [{"number": n, **msgspec.to_builtins(offer)} for n, offer in sources[FIGURES].items()],
        "findings": {
            stage: [
                {"key": f.key, "title": f.title, "sentence": f.sentence, "verb": f.verb,
                 "rect": list(f.rect) if f.rect else None}
                for f in found
            ]
            for stage, found in findings.items()
        },
    }  # fmt: skip


def _frame(book: Book, number: int) -> dict[str, int] | None:
    found = book.sequence_of(number)
    return None if found is None else {"sequence": found[0], "place": found[1].pages.index(number) + 1}
