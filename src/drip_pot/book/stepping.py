# SPDX-License-Identifier: GPL-3.0-or-later
"""The stepping half of a book: undo, redo, any step of its history. Knows steps and the store, applies nothing."""

from collections.abc import Sequence
from typing import Self

from drip_pot.book.reading import Reading
from drip_pot.book.store import Edit, History, Step, Store


class Stepping(Reading):
    """What goes back and forth over the edits of a book."""

    past: History
    _store: Store

    def still(self) -> Self:
        """Return the book as it is now, which does not change."""
        raise NotImplementedError

    def _brace(self, edit: Edit) -> None:
        """Before the store changes: hold what would be read from it."""
        raise NotImplementedError

    def _do(self, edit: Edit) -> None:
        """Apply an edit that is on disk."""
        raise NotImplementedError

    def undo(self) -> str | None:
        """Take back the last step (and those joined to it), as one; return its title, or None at the beginning."""
        steps = self.past.last()
        self.past.follow(self.past.now)
        self._move([(n, self._store.load(n).inverted(), self.past.same(n)) for n in reversed(steps)])
        return self.history[steps[0]].title if steps else None

    def redo(self) -> str | None:
        """Do the step again that was undone last (and those joined to it), as one; return its title, or None."""
        steps = self.past.next()
        self._move([(number, self._store.load(number), number + 1) for number in steps])
        return self.history[steps[0]].title if steps else None

    @property
    def history(self) -> list[Step]:
        """What was done, oldest first, branches among it."""
        return self.past.steps

    @property
    def position(self) -> int:
        """How many steps of the list lie before where the book is now."""
        return self.past.position

    def _move(self, steps: list[tuple[int, Edit, int]]) -> None:
        """Put kept edits, or their inverses, on disk together; then apply them."""
        if not steps:
            return
        for _, edit, _ in steps:
            self._brace(edit)
        with self._store.transaction():
            for step in steps:
                self._store.move(*step)
        for _, edit, position in steps:
            self.past.position = position
            self._do(edit)

    def go_to(self, position: int) -> None:
        """Undo and redo until the book is as it was after `position` steps of the list, as one; branches included."""
        while 0 < position < len(self.history) and self.history[position].joined:
            position += 1  # to the end of a gesture
        undone, done = self.past.way(position)
        self.past.follow(position)
        self._move([
            *((number, self._store.load(number).inverted(), self.past.same(number)) for number in undone),
            *((number, self._store.load(number), number + 1) for number in done),
        ])  # fmt: skip

    def at(self, position: int) -> Self:
        """Return the book as it was after `position` steps of the list; this one is not changed."""
        past = self.still()
        undone, done = self.past.way(position)
        for edit in (*(self._store.load(n).inverted() for n in undone), *(self._store.load(n) for n in done)):
            past._do(edit)
        return past

    def forget_branches(self) -> int:
        """Forget the steps that lie on neither the way here nor the way on; return how many."""
        kept = sorted(self.past.on_line())
        gone = sum(not step.back for step in self.history) - len(kept)
        if gone:
            self._store.keep_only(kept, sum(number < self.past.now for number in kept))
            self.past.keep_only(kept)
        return gone

    def edit_at(self, number: int) -> Edit:
        """Return a step of the history with all that it changed."""
        return self._store.load(number)

    def done_in(self, run: str) -> set[int]:
        """Return the pages on which something marked with a run was done, and not undone since."""
        here = {position - 1 for position in self.past.line(self.past.now)}
        return {page for number, page in self._store.marked(run) if number in here}

    def pages_of_steps(self, first: int = 0) -> dict[int, int]:
        """Return the page that each step of the history from one on changed, by its number, where it is one page."""
        return self._store.pages(first)

    def page_of(self, numbers: Sequence[int]) -> int:
        """Return the page that steps one after the other changed; 0 where they changed several, or none."""
        pages = set(self._store.pages(numbers[0], numbers[-1] + 1).values()) if numbers else set[int]()
        return pages.pop() if len(pages) == 1 else 0

    def asked_at(self, number: int) -> str | None:
        """Return the order, as JSON text, that a step of the history was asked for with; None where none was kept."""
        return self._store.load(number).asked
