# SPDX-License-Identifier: GPL-3.0-or-later
"""Where a book lives and what is read from there. Knows edits; no file format."""

from collections.abc import Iterable, Iterator, Mapping
from contextlib import AbstractContextManager, contextmanager, suppress
from dataclasses import dataclass
from typing import Protocol

import msgspec

from drip_pot.book.store.edit import Edit
from drip_pot.core.arrays import Rect
from drip_pot.words import read_out


@dataclass(frozen=True)
class Step:
    """A line of the history; `says` and `back` as of an edit."""

    says: str
    joined: bool
    back: int = 0

    @property
    def title(self) -> str:
        """What was done, in the language of the person."""
        return read_out(self.says)


@dataclass(frozen=True)
class Touched:
    """What an edit changed: keys, and a rectangle for each plane."""

    keys: frozenset[str]
    planes: dict[str, Rect]

    def of(self, top: str) -> dict[str, Rect]:
        """Return the planes whose names begin in one way."""
        return {name: rect for name, rect in self.planes.items() if name.startswith(top)}


class Store(Protocol):
    """Where a book lives. Every call is durable when it returns, or raises and has changed nothing."""

    def append(self, number: int, edit: Edit) -> None:
        """Forget edits from `number` on, then apply `edit` and keep it as that number."""

    def move(self, number: int, edit: Edit, position: int) -> None:
        """Apply `edit` (kept edit `number`, or its inverse); `position` edits are done then."""

    def load(self, number: int) -> Edit:
        """Return a kept edit."""

    def marked(self, run: str) -> list[tuple[int, int]]:
        """Return the number and the page of all edits whose order was part of a run."""

    def pages(self, first: int = 0, stop: int | None = None) -> dict[int, int]:
        """Return the page that each of some edits changed, by its number; those of several or none are left out."""

    def keep_only(self, numbers: list[int], position: int) -> None:
        """Forget all edits but these, ascending, which are numbered anew; `position` of them are done."""

    def transaction(self) -> AbstractContextManager[None]:
        """All calls within are durable together at its end; when something is raised, none is."""


class Contents(Protocol):
    """What a book is read from, a page at a time. Calls may come from any thread."""

    def shared(self) -> Mapping[str, str]:
        """Return JSON text by key of all that lies below no page, and of the pages themselves ('page/3')."""

    def page(self, number: int) -> Mapping[str, str]:
        """Return JSON text of all that lies below a page, by what follows it in the key."""

    def tiles(self, plane: str) -> Iterable[tuple[int, int]]:
        """Return row and column of the tiles of a plane."""

    def tile(self, plane: str, row: int, col: int) -> bytes | None:
        """Return a compressed tile."""


def marked_in(asked: Iterable[tuple[int, str | None]], run: str) -> list[tuple[int, int]]:
    """Return the number and the page of orders, given as JSON text by number, that were part of a run."""
    found = []
    for number, text in asked:
        with suppress(ValueError, msgspec.MsgspecError, RecursionError):
            told = msgspec.json.decode(text or "null")
            if isinstance(told, dict) and told.get("run") == run and isinstance(told.get("page"), int):
                found.append((number, told["page"]))
    return found


def one_page(names: Iterable[tuple[int, str]]) -> dict[int, int]:
    """Return the page that edits changed, from the names of what each changed, given by number; where it is one."""
    found: dict[int, set[str]] = {}
    for number, name in names:
        first, _, rest = name.partition("/")
        if first == "page":
            found.setdefault(number, set()).add(rest.partition("/")[0])
    return {
        number: int(*pages) for number, pages in found.items() if len(pages) == 1 and all(map(str.isdecimal, pages))
    }


class MemoryStore:
    """A store that lasts as long as the process."""

    def __init__(self) -> None:
        self._edits: list[Edit] = []

    @property
    def edits(self) -> list[Edit]:
        """What was appended."""
        return list(self._edits)

    def append(self, number: int, edit: Edit) -> None:
        """Keep an edit."""
        self._edits[number:] = [edit]

    def move(self, number: int, edit: Edit, position: int) -> None:
        """Nothing to do: the book itself is all there is."""

    def load(self, number: int) -> Edit:
        """Return a kept edit."""
        return self._edits[number]

    def marked(self, run: str) -> list[tuple[int, int]]:
        """Return the number and the page of all edits of a run."""
        return marked_in(((n, edit.asked) for n, edit in enumerate(self._edits)), run)

    def pages(self, first: int = 0, stop: int | None = None) -> dict[int, int]:
        """Return the page that each of some edits changed, where it is one."""
        return one_page((n, name) for n, edit in enumerate(self._edits[first:stop], first) for name in edit.names())

    def keep_only(self, numbers: list[int], position: int) -> None:
        """Forget all other edits."""
        self._edits = [self._edits[number] for number in numbers]

    @contextmanager
    def transaction(self) -> Iterator[None]:
        """Forget what was appended meanwhile when something is raised."""
        before = list(self._edits)
        try:
            yield
        except BaseException:
            self._edits = before
            raise


class MemoryContents:
    """Contents given as dicts: JSON text by key, compressed tiles by (plane, row, column)."""

    def __init__(
        self, values: Mapping[str, str] | None = None, tiles: Mapping[tuple[str, int, int], bytes] | None = None
    ) -> None:
        self._values, self._tiles = values or {}, tiles or {}

    def shared(self) -> Mapping[str, str]:
        """Return what lies below no page, and the pages."""
        return {key: text for key, text in self._values.items() if is_shared(key)}

    def page(self, number: int) -> Mapping[str, str]:
        """Return what lies below a page."""
        top = f"page/{number}/"
        return {key[len(top) :]: text for key, text in self._values.items() if key.startswith(top)}

    def tiles(self, plane: str) -> Iterable[tuple[int, int]]:
        """Return where a plane has tiles."""
        return [(row, col) for name, row, col in self._tiles if name == plane]

    def tile(self, plane: str, row: int, col: int) -> bytes | None:
        """Return a tile."""
        return self._tiles.get((plane, row, col))


def is_shared(key: str) -> bool:
    """Whether a key lies below no page."""
    return not key.startswith("page/") or key.count("/") == 1
