# SPDX-License-Identifier: GPL-3.0-or-later
"""The easel: which book, page, stage, tool and pot are in use, and one way to do a thing to them.

It holds no truth of its own about the book. Knows the book; of stages only their names and those of their tools.
"""

from collections.abc import Callable, Mapping, Sequence
from functools import partial
from typing import Any, TypeVar

import msgspec
from PyQt6.QtCore import QObject, QTimer

from drip_pot.book import BALLOON, Book, Touched, verbs
from drip_pot.book.findings import Finding, mend, needs_hand
from drip_pot.book.hand import Hand
from drip_pot.book.values import POURS
from drip_pot.desk.session.ahead import Ahead
from drip_pot.desk.session.deriving import Deriving
from drip_pot.desk.session.hands import Hands
from drip_pot.desk.session.in_use import FINDING, InUse
from drip_pot.desk.session.opening import Opening
from drip_pot.desk.session.page_view import PageView
from drip_pot.desk.session.regions_by_key import RegionKeys
from drip_pot.words import say

S = TypeVar("S")
_REST_MS = 3000


class Easel(InUse):
    """The state of one window.

    Parameters
    ----------
    tools : mapping
        Names of the tools of every stage, in order.
    """

    def __init__(self, tools: Mapping[str, Sequence[str]], parent: QObject | None = None) -> None:
        super().__init__(tools, parent)
        self._owned: dict[type, Any] = {}
        self.deriving = Deriving(self)
        self.hands = Hands(self, self.deriving)
        self.keys = RegionKeys(lambda: None if self.view is None else self.view.flat)
        self.opening = Opening(self, self)
        self.ahead = Ahead(self, lambda: self.deriving.is_settled() and not self.hands.busy())
        self._rest = QTimer(self)
        self._rest.setSingleShot(True)
        self._rest.setInterval(_REST_MS)
        self._rest.timeout.connect(self.opening.settle)

    def own(self, kind: Callable[["Easel"], S]) -> S:
        """Return what a stage keeps in use here, made at its first use: settings of its tools, what is picked."""
        if kind not in self._owned:
            self._owned[kind] = kind(self)  # type: ignore[index]
        kept: S = self._owned[kind]  # type: ignore[index]
        return kept

    # What is in use

    @property
    def view(self) -> PageView | None:
        """The page as it is shown."""
        return self.deriving.view

    @property
    def findings(self) -> dict[str, list[Finding]]:
        """What is left to look at, by stage."""
        return self.deriving.looking.findings

    def hand(self) -> Hand | None:
        """Return a hand at work on the page as it is shown; None while its regions are being found."""
        return self.deriving.hand()

    def choose_stage(self, stage: str) -> None:
        """Go to a stage."""
        if stage != self.stage:
            self.stage = stage
            self.deriving.set_preview(None)
            self.chosen.emit()
            self.repaint.emit(None)
            self.deriving.later()

    def begin_anew(self, stage: str) -> None:
        """Go to a stage with the first tool of every stage in hand."""
        self.tools = {name: names[0] for name, names in self.offered.items()}
        self.choose_stage(stage)
        self.chosen.emit()

    def choose_sheet(self, number: int) -> None:
        """Take a sheet in hand; the settings of Inks are its."""
        if number != self.sheet:
            self.sheet = number
            self.chosen.emit()
            self.deriving.draw()

    def show_page(self, page: int) -> None:
        """Show a page of the open book."""
        self.page, self.sheet, self.within, self.picked = page, 0, 0, frozenset()
        self.keys.leave()
        self.hands.drop()
        self.deriving.show(page)
        self.opened.emit()
        self.edited.emit()
        self.chosen.emit()
        if page:
            self.deriving.draw()

    def let_go(self) -> None:
        """Let go of the book; everything is on disk already."""
        self._rest.stop()
        self.ahead.close()
        self.hands.close()
        self.deriving.close()
        if self.book is not None:
            self.book.changed.disconnect(self._on_changed)
        self.book, self.page = None, 0

    def take_up(self, book: Book) -> None:
        """Listen to a book."""
        self.book = book
        book.changed.connect(self._on_changed)
        self.pot = next(iter(book.pots()), None)
        self.strength, self.picked, self.within = 1.0, frozenset(), 0

    def _on_changed(self, touched: Touched) -> None:
        if self.book is not None and self.page and self.page not in self.book.pages():
            self.show_page(next(iter(self.book.pages()), 0))  # it was removed, or its coming undone
            return
        self.deriving.changed(touched)
        pots = self.book.pots() if self.book is not None else {}
        if self.pot is not None and self.pot not in pots:
            self.pot = next(iter(pots), None)
            self.chosen.emit()
        self.edited.emit()
        self.refreshed.emit()
        self._rest.start()

    # Doing

    def do_here(self, verb: Callable[[Hand], object]) -> bool:
        """Call a verb of the page at hand at once; a problem is said and False returned."""
        hand = self.hand()
        if hand is None:
            self.said.emit(FINDING, False)
            self.deriving.drop_preview()
            return False
        return self.trying(lambda: verb(hand))

    def undo(self) -> None:
        """Take back the last gesture."""
        if not self.hands.give_up() and self.book is not None:
            self._go_to(self.book.past.last())
            self.do(lambda book, _: book.undo())

    def redo(self) -> None:
        """Do the last undone gesture again."""
        if self.book is not None:
            self._go_to(self.book.past.next())
            self.do(lambda book, _: book.redo())

    def _go_to(self, steps: list[int]) -> None:
        """Show the page that steps of the history changed, where it is another one."""
        assert self.book is not None
        page = self.book.page_of(steps)
        if page != self.page and page in self.book.pages():
            self.show_page(page)

    def mend(self, finding: Finding) -> None:
        """Do what a finding asks for."""
        self.mend_all([finding])

    def mend_all(self, findings: list[Finding]) -> None:
        """Do what several findings ask for as one step."""
        if self.book is None:
            return
        if any(map(needs_hand, findings)):
            gone = {finding.key for finding in findings}

            def mended(hand: Hand) -> None:
                with hand.book.as_one(_said_of(findings)):
                    for finding in findings:
                        mend(hand.book, hand.page, finding, hand)

            self.hands.start(mended, then=lambda: self.deriving.looking.mended(gone))
            return
        done = set()
        with self.book.as_one(_said_of(findings)):
            for finding in findings:
                if not self.do(partial(_mend, finding)):
                    break
                done.add(finding.key)
        self.deriving.looking.mended(done)

    def leave(self, finding: Finding) -> None:
        """Take a finding off the list."""
        if self.do(lambda book, page: verbs.leave(book, page, finding.key)):
            self.deriving.looking.mended({finding.key})

    # What lies where, as it is shown

    def atom_at(self, row: float, col: float) -> int:
        """Return the atom at a page pixel; 0 outside the page or before regions are known."""
        flat = None if self.view is None else self.view.flat
        if flat is None:
            return 0
        rows, cols = flat.labels[0].shape
        return int(flat.labels[0][int(row), int(col)]) if 0 <= row < rows and 0 <= col < cols else 0

    def region_atoms(self, atom: int) -> list[int]:
        """Return all atoms of the region an atom belongs to."""
        return [] if self.view is None or self.view.flat is None else self.view.flat.region(atom)

    def pot_of(self, atom: int) -> int | None:
        """Return an atom's pot, or None for paper."""
        sources = self.sources()
        pot = None if sources is None else sources[POURS].get(atom)
        return None if pot == BALLOON else pot

    def atoms_of_pot(self, pot: int | None) -> list[int]:
        """Return all atoms that have a pot; for None, all that have none."""
        hand = self.hand()
        return [] if hand is None else sorted(hand.in_pot(pot))

    # Previews

    def preview(self, atoms: Sequence[int], pair: tuple[str, str]) -> None:
        """Show atoms in a pair of colours until their real ones are shown again."""
        self.deriving.preview(list(atoms), pair)

    def recolor_pot(self, local: str) -> None:
        """Give the pot in hand another local colour."""
        book, number = self.book, self.pot
        if book is not None and number in book.pots() and number is not None:
            changed = msgspec.structs.replace(book.pots()[number], local=local)
            self.do(lambda book, _: verbs.set_pot(book, number, changed))

    def preview_pot(self, number: int, local: str) -> None:
        """Show a pot in another colour while it is being mixed."""
        if self.book is not None:
            pot = self.book.pots()[number]
            shown = self.book.tone_pair(msgspec.structs.replace(pot, local=local))
            self.preview(self.atoms_of_pot(number), shown)


def _mend(finding: Finding, book: Book, page: int) -> None:
    mend(book, page, finding)


def _said_of(findings: list[Finding]) -> str:
    """Return what is said of doing the verb of several findings; nothing of one, which says it itself."""
    first = findings[0] if findings else None
    if first is None or len(findings) < 2:
        return ""
    return say("{0} all {1}: {2}", say(first.verb), len(findings), say(first.title))
