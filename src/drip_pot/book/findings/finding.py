# SPDX-License-Identifier: GPL-3.0-or-later
"""What a finding is, and what the stages share in looking for them. Knows the book; looks for nothing."""

from collections.abc import Callable, Sequence

import msgspec

from drip_pot.book.asking import Asked
from drip_pot.book.book import Book
from drip_pot.book.sources import PageSources
from drip_pot.book.values import POURS
from drip_pot.core.arrays import Rect, Report


class Finding(msgspec.Struct, frozen=True):
    """Something to look at.

    Attributes
    ----------
    key : str
        Stays the same while the cause does.
    title, sentence, verb : str
        What it is, where and how much, and the one thing to do about it ('' where there is only looking).
    rect : Rect or None
        Where on the page.
    color : str or None
        '#rrggbb' to show where there is no place.
    asks : Asked or None
        The order that mends it.
    pot : int or None
        The pot that it is about, where that is to be looked at.
    drops : Asked or None
        The order that does the opposite of the verb.
    opposite : str
        The word for that, where it is as likely wanted.
    """

    key: str
    title: str
    sentence: str
    verb: str
    rect: Rect | None = None
    color: str | None = None
    asks: Asked | None = None
    pot: int | None = None
    drops: Asked | None = None
    opposite: str = ""


def around_spot(row: float, col: float, half: float) -> Rect:
    """Return a square of twice `half` pixels a side about a place."""
    return int(row - half), int(col - half), int(row + half), int(col + half)


def in_turn(kinds: Sequence[Callable[[], list[Finding]]], report: Report, doing: str) -> list[Finding]:
    """Look for one kind of finding after the other; `report` is called before each and may raise `Cancelled`."""
    found: list[Finding] = []
    for place, look in enumerate(kinds):
        report(place / len(kinds), doing)
        found += look()
    return found


def used_pots(book: Book, sources: PageSources) -> set[int]:
    """Return the pots that a page uses."""
    return set(sources[POURS].values()) & book.pots().keys()
