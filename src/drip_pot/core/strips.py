# SPDX-License-Identifier: GPL-3.0-or-later
"""Pages worked on in strips of rows, few at a time, so that memory stays bounded. Knows nothing of the work."""

from collections import deque
from collections.abc import Callable, Iterator
from concurrent.futures import Future, ThreadPoolExecutor
from dataclasses import dataclass
from typing import TypeVar

S = TypeVar("S")
T = TypeVar("T")
_most = 2


@dataclass(frozen=True)
class Strip:
    """Rows of a page.

    Attributes
    ----------
    rows : slice
        The strip itself.
    around : slice
        The strip and its context above and below, less at the page's edges.
    inside : slice
        Where the strip lies in `around`.
    """

    rows: slice
    around: slice
    inside: slice


def strips(rows: int, halo: int = 0, height: int = 1024) -> list[Strip]:
    """Cut `rows` into strips of at most `height` with `halo` rows of context."""
    found = []
    for top in range(0, rows, height):
        bottom = min(top + height, rows)
        start, stop = max(0, top - halo), min(rows, bottom + halo)
        found.append(Strip(slice(top, bottom), slice(start, stop), slice(top - start, bottom - start)))
    return found


def work_on(most: int) -> None:
    """Let at most so many strips be worked on at once from now on; as long as nothing is said there are two."""
    global _most
    _most = max(1, most)


def in_strips(work: Callable[[Strip], T], rows: int, halo: int = 0, height: int = 1024) -> list[T]:
    """Call `work` for every strip of a page, some at a time; return its results in order."""
    return _all_of(work, strips(rows, halo, height))


def each_strip(work: Callable[[Strip], T], rows: int, halo: int = 0, height: int = 1024) -> Iterator[T]:
    """Call `work` for every strip of a page, some at a time, and give its results in order, a few at most ahead."""
    waiting: deque[Future[T]] = deque()
    with ThreadPoolExecutor(_most) as pool:
        for strip in strips(rows, halo, height):
            waiting.append(pool.submit(work, strip))
            if len(waiting) > _most:
                yield waiting.popleft().result()
        while waiting:
            yield waiting.popleft().result()


def in_pieces(work: Callable[[slice], T], count: int, size: int = 4096) -> list[T]:
    """Call `work` for every piece of a list of `count` rows, some at a time; return its results in order."""
    return _all_of(work, [slice(start, min(start + size, count)) for start in range(0, max(count, 1), size)])


def at_once(one: Callable[[], S], two: Callable[[], T]) -> tuple[S, T]:
    """Call both, at the same time where more than one strip may be worked on; return what they return."""
    if _most == 1:
        return one(), two()
    with ThreadPoolExecutor(1) as pool:
        first = pool.submit(one)
        second = two()
        return first.result(), second


def _all_of(work: Callable[[S], T], cut: list[S]) -> list[T]:
    if len(cut) == 1 or _most == 1:
        return [work(one) for one in cut]
    with ThreadPoolExecutor(_most) as pool:
        return list(pool.map(work, cut))
