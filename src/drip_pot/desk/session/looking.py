# SPDX-License-Identifier: GPL-3.0-or-later
"""What is left to look at on the page in use, found when the hand rests. Knows the page shown and the book's findings.

It waits until nothing was done for a while, and stops when something is: it never holds up what is seen.
"""

from collections.abc import Callable

from PyQt6.QtCore import QObject, QTimer

from drip_pot.book import Book, PageSources, Tables
from drip_pot.book.derive import Derived
from drip_pot.book.findings import STAGES, Finding, find
from drip_pot.core.arrays import Report
from drip_pot.core.regions import Fringe
from drip_pot.desk.session.work import Work

AT_REST_MS = 1000
"""How long nothing is done before the page is looked at."""
AtHand = tuple[Book, PageSources, Derived, Tables]
_Found = tuple[dict[str, list[Finding]], Fringe]


class Looking(QObject):
    """Looks for findings.

    Parameters
    ----------
    at_hand : callable
        Returns the page as it is shown; None where that is not up to date.
    told : callable
        Called when there is news.

    Attributes
    ----------
    findings : dict
        By stage; `done` tells whether they are of the page as it is.
    fringe : Fringe or None
        Paper between flat and line.
    """

    def __init__(self, parent: QObject, at_hand: Callable[[], AtHand | None], told: Callable[[], object]) -> None:
        super().__init__(parent)
        self.work = Work(self, patience=19)
        self._at_hand, self._told = at_hand, told
        self._rest = QTimer(self)
        self._rest.setSingleShot(True)
        self._rest.timeout.connect(self._look)
        self.forget()

    def forget(self) -> None:
        """Forget the page, and look at nothing."""
        self._rest.stop()
        self.work.drop()
        self.findings: dict[str, list[Finding]] = {stage: [] for stage in STAGES}
        self.fringe: Fringe | None = None
        self.done = False

    def close(self) -> None:
        """Stop."""
        self._rest.stop()
        self.work.close()

    def later(self) -> None:
        """Stop looking, and look again after a rest."""
        self.work.drop()
        self._rest.start(AT_REST_MS)

    def busy(self) -> bool:
        """Whether it looks, or is about to."""
        return self.work.busy() or self._rest.isActive()

    def mended(self, gone: set[str]) -> None:
        """Take findings off the list at once; the page is looked at again anyway."""
        self.findings = {stage: [f for f in found if f.key not in gone] for stage, found in self.findings.items()}
        self._told()

    def _look(self) -> None:
        found = self._at_hand()
        if found is None:
            return
        book, sources, derived, tables = found
        still = book.still()

        def look(report: Report) -> _Found:
            return find(still, sources, derived, tables, report), derived.regions.fringe(sources, tables.is_poured)

        self.work.start("findings", look, self._on_found)

    def _on_found(self, found: _Found) -> None:
        (self.findings, self.fringe), self.done = found, True
        self._told()
