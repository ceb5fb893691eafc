# SPDX-License-Identifier: GPL-3.0-or-later
"""Look here: what needs an eye, per stage, worst first, each with the one order that mends it.

One module a stage. Knows the book and what is derived from it; draws nothing.
"""

from collections.abc import Callable, Iterable

from drip_pot.book.book import Book
from drip_pot.book.derive import Derived
from drip_pot.book.findings.finding import Finding
from drip_pot.book.findings.flats import find_flats, leaks
from drip_pot.book.findings.holds import find_holds
from drip_pot.book.findings.inks import find_inks
from drip_pot.book.findings.press import find_press
from drip_pot.book.findings.shade import find_shade
from drip_pot.book.hand import Hand
from drip_pot.book.orders import needs_regions, run
from drip_pot.book.sources import PageSources
from drip_pot.book.tables import Tables
from drip_pot.book.values import LEFT
from drip_pot.core.arrays import Report, no_report

__all__ = ["STAGES", "Finding", "find", "leaks", "mend"]
STAGES = ("Inks", "Flats", "Shade", "Holds", "Press")
_MOST = 40


def find(
    book: Book, sources: PageSources, derived: Derived, tables: Tables, report: Report = no_report,
    stages: Iterable[str] = STAGES,
) -> dict[str, list[Finding]]:  # fmt: skip
    """List what is left to look at in stages of a page; `report` may raise `Cancelled` between two kinds."""
    every: dict[str, Callable[[], list[Finding]]] = {
        "Inks": lambda: find_inks(sources, derived, report),
        "Flats": lambda: find_flats(book, sources, derived, tables, report),
        "Shade": lambda: find_shade(book, sources, derived, report),
        "Holds": lambda: find_holds(book, sources, derived, tables),
        "Press": lambda: find_press(book, sources, derived),
    }
    return {stage: [f for f in every[stage]() if f.key not in sources[LEFT]][:_MOST] for stage in stages}


def mend(book: Book, page: int, finding: Finding, hand: Hand | None = None) -> None:
    """Do what a finding asks for; `hand` is at work on its page, where that `needs_hand`."""
    if finding.asks is not None:
        run(book, finding.asks.order, finding.asks.given, page, None if hand is None else lambda _: hand)


def needs_hand(finding: Finding) -> bool:
    """Whether what a finding asks for needs the regions of its page."""
    return finding.asks is not None and needs_regions(finding.asks.order)
