# SPDX-License-Identifier: GPL-3.0-or-later
"""Names that nobody gave, and that follow what they became. Knows the book; no single kind of thing that is named."""

import re
from collections.abc import Collection

from drip_pot.book.reading import Reading
from drip_pot.book.scope import said
from drip_pot.book.sources import PageSources
from drip_pot.book.where import Scope


def where_said(book: Reading, sources: PageSources, scope: Scope) -> str:
    """Return what a name says of where something applies: '' everywhere."""
    return "" if scope.is_everywhere else said(book, sources, scope)


def followed(name: str, stems: Collection[str], stem: str, before: str, after: str) -> str:
    """Return the name of something that changed: one that was given by hand stays.

    Parameters
    ----------
    name : str
        Its name: one of `stems`, a number where there are several, and ', ' with where it applied.
    stems : collection of str
        What such things are called by themselves.
    stem : str
        What it is called now; '' is as before.
    before, after : str
        Where it applied and where it does; '' is everywhere.

    Returns
    -------
    str
    """
    usual = "|".join(re.escape(one) for one in sorted(stems, key=len, reverse=True))
    where = f"(?:, {re.escape(before)})?" if before else ""
    found = re.fullmatch(f"({usual})( [0-9]+)?{where}", name)
    if found is None:
        return name
    fresh = f"{stem or found.group(1)}{found.group(2) or ''}"
    return f"{fresh}, {after}" if after else fresh


def apart(name: str, others: Collection[str]) -> str:
    """Return a name that none of the others has: itself, or with a number."""
    if name not in others:
        return name
    stem, comma, where = name.partition(", ")
    bare = re.sub(" [0-9]+$", "", stem)
    named = (f"{bare} {n}{comma}{where}" for n in range(2, len(others) + 3))
    return next(one for one in named if one not in others)
