# SPDX-License-Identifier: GPL-3.0-or-later
"""Gestures that take time to work out, one after another in the background. Knows the easel and the page at hand.

A gesture is worked out on a snapshot of the book, and its edits are then done to the book itself; where that was
changed meanwhile, it is worked out again. So nothing a hand does holds up the window.
"""

from collections import deque
from collections.abc import Callable
from dataclasses import replace

from PyQt6.QtCore import QObject

from drip_pot.book import Edit, LineState
from drip_pot.book.hand import Hand, Points
from drip_pot.core.arrays import Rect, Report
from drip_pot.core.errors import NothingDone
from drip_pot.core.regions import Divided
from drip_pot.desk.session.deriving import Deriving
from drip_pot.desk.session.in_use import FINDING, InUse
from drip_pot.desk.session.page_view import Flatted, recut
from drip_pot.desk.session.work import Work

Verb = Callable[[Hand], object]
"""What it returns is told, if it is a sentence."""
_Found = tuple[list[Edit], tuple[Flatted, Rect | None] | None, object]


class Hands(QObject):
    """The gestures that are being worked out.

    Attributes
    ----------
    ghosts : deque of Points
        What was drawn for each of them, to be shown until it is done.
    """

    def __init__(self, easel: InUse, deriving: Deriving) -> None:
        super().__init__(easel)
        self.easel, self.deriving = easel, deriving
        self.work = Work(self, patience=4)
        self._waiting: deque[tuple[Verb, Callable[[], object]]] = deque()
        self.ghosts: deque[Points] = deque()
        self.work.problem.connect(lambda _: self._forget())
        easel.refreshed.connect(self._next)

    def start(self, verb: Verb, ghost: Points | None = None, then: Callable[[], object] = lambda: None) -> None:
        """Work a gesture out, after those that came before; `then` is called when it is done."""
        deriving = self.deriving
        if deriving.view is None or deriving.view.flat is None or any(map(deriving.work.busy, ("ink", "regions"))):
            self.easel.said.emit(FINDING, False)
            deriving.drop_preview()
            return
        self._waiting.append((verb, then))
        self.ghosts.append(ghost or [])
        self.easel.repaint.emit([])
        self._next()

    def busy(self) -> bool:
        """Whether a gesture is being worked out or waits."""
        return bool(self._waiting)

    def give_up(self) -> bool:
        """Give up what is not done yet; return whether there was anything."""
        if not self._waiting:
            return False
        self.drop()
        self.deriving.drop_preview()
        return True

    def drop(self) -> None:
        """Forget everything that is not done."""
        self._waiting.clear()
        self.ghosts.clear()
        self.work.drop()

    def close(self) -> None:
        """Forget everything."""
        self._waiting.clear()
        self.ghosts.clear()
        self.work.close()

    def _next(self) -> None:
        if not self._waiting or self.work.busy():
            return
        hand = self.deriving.hand()
        if hand is None:  # the page is being cut anew; it tells when it is
            return
        book, page, view = hand.book, hand.page, self.deriving.view
        assert view is not None
        assert view.flat is not None
        flat, position, verb = view.flat, book.position, self._waiting[0][0]
        still = book.still()
        self.deriving.work.cancel("line")

        def work(report: Report) -> _Found:
            report(0.1, "Working it out")
            coming: list[tuple[LineState, Divided]] = []
            told = verb(replace(hand, book=still, adopt=lambda line, after: coming.append((line, after))))
            cut = recut(flat, coming[-1][1], still, still.sources(page)) if coming else None
            return still.made(), cut, told

        self.work.start("hand", work, lambda found: self._done(found, position), self._failed)

    def _done(self, found: _Found, position: int) -> None:
        edits, cut, told = found
        book, deriving = self.easel.book, self.deriving
        if book is None or not self._waiting:
            return
        if book.position != position:
            self._next()
            return
        _, then = self._waiting.popleft()
        self.ghosts.popleft()
        if cut is not None:
            deriving.coming = cut

        def apply() -> None:
            with book.as_one():
                for edit in edits:
                    book.apply(edit)

        if self.easel.trying(apply) and isinstance(told, str):
            self.easel.said.emit(told, False)
        then()
        self.easel.repaint.emit([])
        self._next()

    def _failed(self, error: Exception) -> None:
        self._forget()
        self.easel.said.emit(str(error), not isinstance(error, NothingDone))
        self.deriving.drop_preview()
        self._next()

    def _forget(self) -> None:
        """Forget the gesture that was being worked out."""
        if self._waiting:
            self._waiting.popleft()
            self.ghosts.popleft()
