# SPDX-License-Identifier: GPL-3.0-or-later
"""Work done once and kept until what it needs changes. Knows nothing of what is worked out.

A node is a method that says, beside its work, what it needs: as long as the needs are equal, what was worked out is
handed out again. Every name is kept once, so that memory stays bounded by the number of nodes.
"""

import functools
import threading
from collections.abc import Callable
from typing import Any, TypeVar

F = TypeVar("F", bound=Callable[..., Any])
T = TypeVar("T")


class Graph:
    """What was worked out, by name, with what it needed then. Safe to use from several threads."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._kept: dict[str, tuple[Any, Any]] = {}
        self._at_work: dict[str, threading.RLock] = {}

    def once(self, name: str, needs: Any, work: Callable[[], T]) -> T:
        """Return what was worked out under a name for equal needs, or work it out.

        Who asks for the same meanwhile waits for it; who asks for something else does not.
        """
        kept = self._kept.get(name)
        if kept is None or kept[0] != needs:
            with self._lock:
                turn = self._at_work.setdefault(name, threading.RLock())
            with turn:
                kept = self._kept.get(name)  # another one may have done it meanwhile
                if kept is None or kept[0] != needs:
                    self._kept.pop(name, None)
                    kept = (needs, work())
                    self._kept[name] = kept
        result: T = kept[1]
        return result

    def put(self, name: str, needs: Any, value: Any) -> None:
        """Keep what was worked out elsewhere; waits for nothing, as it replaces one entry at a stroke."""
        self._kept[name] = (needs, value)

    def value(self, name: str, default: Any = None) -> Any:
        """Return what is kept under a name, whatever it needed."""
        return self._kept.get(name, (None, default))[1]

    def needs(self, name: str) -> Any:
        """Return what a node needed; an object's address would not do, as it can be used again."""
        return self._kept.get(name, (None, None))[0]


def node(name: str, needs: Callable[..., Any]) -> Callable[[F], F]:
    """Make a method of an object with a `graph` a node.

    Parameters
    ----------
    name : str
        A format of the method's arguments, counted from 0: 'raw {1.original}'.
    needs : callable
        Called with the object and the arguments; returns what the work depends on, to be compared.
    """

    def wrap(work: F) -> F:
        @functools.wraps(work)
        def asked(self: Any, *args: Any) -> Any:
            return self.graph.once(name.format(*args), needs(self, *args), lambda: work(self, *args))

        return asked  # type: ignore[return-value]

    return wrap
