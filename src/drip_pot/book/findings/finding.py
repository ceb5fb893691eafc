# SPDX-License-Identifier: GPL-3.0-or-later
"""What a finding is, and what the stages share in looking for them. Knows the book; looks for nothing."""

from collections.abc import Callable, Sequence
from typing import Any

import msgspec
import numpy as np

from drip_pot.book.asking import Asked, ask
from drip_pot.book.book import Book
from drip_pot.book.following import marking, rect_of, to_look_at
from drip_pot.book.sources import PageSources
from drip_pot.book.values import POURS, PageKind
from drip_pot.core.arrays import Rect, Report
from drip_pot.words import tr


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


def slid_markings(sources: PageSources, *kinds: PageKind[int, Any]) -> list[Finding]:
    """List the markings of some kinds that were taken along and may have slid, the farthest first."""
    found = []
    slid = to_look_at(sources, *kinds)
    for origin, mark in sorted(slid.items(), key=lambda item: -(item[1].slid_px or np.inf)):
        value = marking(sources, origin)
        text = (
            tr("It lies where the drawing may have gone; nothing about it says so. Move it, or keep it.")
            if mark.slid_px is None
            else tr("It lies some {0:.1f} px off, against the line about it. Move it, or keep it.", mark.slid_px)
        )
        rect = None if value is None else rect_of(value)
        found.append(Finding(f"following:{origin}", "Carried marking", text, "Keep", rect,
                             asks=ask("keep-markings", origins=[origin]),
                             drops=ask("drop-markings", origins=[origin]), opposite="Drop"))  # fmt: skip
    return found


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
