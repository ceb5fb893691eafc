# SPDX-License-Identifier: GPL-3.0-or-later
"""The history as a tree kept in one list: what was undone stays when something else is done. Knows steps only.

A position is how many steps of the list lie before it. Where something is done after steps were undone, a marker comes
first that leads back over all that is abandoned: the position behind the marker is the same state of the book as the
one it leads back to. So no step is lost, and a history without branches is just a list.
"""

from collections.abc import Sequence
from itertools import pairwise

from drip_pot.book.store.store import Step


class History:
    """What was done to a book.

    Attributes
    ----------
    steps : list of Step
        Oldest first.
    position : int
        How many of them lie before where the book is now.
    """

    def __init__(self, steps: Sequence[Step] = (), position: int = 0) -> None:
        self.steps, self.position = list(steps), position
        self._taken: dict[int, int] = {}

    def copy(self) -> "History":
        """Return the same history, to go back to."""
        other = History(self.steps, self.position)
        other._taken = dict(self._taken)
        return other

    @property
    def now(self) -> int:
        """The least position at which the book is as it is now."""
        return self.same(self.position)

    @property
    def is_at_end(self) -> bool:
        """Whether a step can be added without leaving a branch."""
        return self.same(len(self.steps)) == self.now

    def same(self, position: int) -> int:
        """Return the least position at which the book is the same: markers are gone back over."""
        while position > 0 and self.steps[position - 1].back:
            position -= 1 + self.steps[position - 1].back
        return max(position, 0)

    def line(self, position: int) -> list[int]:
        """Return the positions from one back to the beginning."""
        found = [self.same(position)]
        while found[-1] > 0:
            found.append(self.same(found[-1] - 1))
        return found

    def last(self) -> list[int]:
        """Return the steps of the last gesture by number, first to last; none at the beginning."""
        end = self.now
        first = max(end - 1, 0)
        while first and self.steps[first].joined:
            first -= 1
        return list(range(first, end))

    def next(self, position: int | None = None) -> list[int]:
        """Return the steps of the gesture to redo: where there are several, the one that was undone, or the newest."""
        now = self.now if position is None else self.same(position)
        after = self._taken.get(now)
        if after is None:
            every = range(len(self.steps), now, -1)
            after = next((a for a in every if not self.steps[a - 1].back and self.same(a - 1) == now), None)
        if after is None:
            return []
        first = after - 1
        while after < len(self.steps) and self.steps[after].joined:
            after += 1
        return list(range(first, after))

    def way(self, position: int, start: int | None = None) -> tuple[list[int], list[int]]:
        """Return the steps to undo, then those to do, by number, that lead to a position."""
        up, down = self.line(self.position if start is None else start), self.line(position)
        shared = set(up) & set(down)
        return [p - 1 for p in up if p not in shared], [p - 1 for p in reversed(down) if p not in shared]

    def on_line(self) -> set[int]:
        """Return the numbers of the steps that are done, and of those that redo would do."""
        found = {p - 1 for p in self.line(self.position) if p}
        coming = self.next()
        while coming:
            found.update(coming)
            coming = self.next(coming[-1] + 1)
        return found

    def add(self, *steps: Step) -> None:
        """Add steps, of which the last leads to where the book is then."""
        now = self.now
        self.steps += steps
        self.position = len(self.steps)
        self._taken[now] = self.position

    def follow(self, position: int) -> None:
        """Let redo go the way to a position wherever there are several."""
        self._taken |= {before: after for after, before in pairwise(self.line(position))}

    def keep_only(self, numbers: list[int]) -> None:
        """Forget all other steps."""
        self.position = sum(number < self.now for number in numbers)
        self.steps = [self.steps[number] for number in numbers]
        self._taken.clear()
