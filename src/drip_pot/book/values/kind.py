# SPDX-License-Identifier: GPL-3.0-or-later
"""The record of a kind of value: all that there is to know of it but what verbs do. Knows keys; no single kind.

A kind says here how it is spelled in the book, how it is read, how it moves with the page, what follows from it, and
what it is called. Nothing else in the program lists kinds by name.
"""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import Any, Generic, Literal, NamedTuple, TypeVar

import msgspec

from drip_pot.book.store import ReadAs
from drip_pot.core.inks import Effect, Place

K = TypeVar("K")
V = TypeVar("V")
Feed = Literal["drawing", "cuts", "ways", "engine", "effects", "colors", "passes", "marks"]
"""What follows from a value of a page: the drawing, cuts by hand, which atoms are one region, the engine that divides,
effect lines, colours, passes, and marks over the page."""


class Move(NamedTuple):
    """How a page is moved: where what lay on it lies now, and its size now, in pixels."""

    place: Place
    shape: tuple[int, int]


class Whole(NamedTuple):
    """What values that are there without being kept follow from: the page, the holds of the whole book, its values."""

    page: Any
    shared: Mapping[int, Any]
    found: Mapping[str, Any]


@dataclass(frozen=True)
class Colored(Generic[V]):
    """The colours of values that a scheme holds.

    Attributes
    ----------
    field : str
        Which field of a scheme holds them.
    told : callable
        Returns the colours of a value; None where it has none to keep.
    worn : callable
        Returns a value in other colours.
    """

    field: str
    told: Callable[[V], Any]
    worn: Callable[[V, Any], V]


@dataclass(frozen=True, eq=False)
class PageKind(Generic[K, V]):
    """A kind that a page has many values of.

    Attributes
    ----------
    name : str
        How keys name it.
    by : callable
        Reads what it is kept by from the last part of a key: a number, or a place of the page.
    type : type
        Of its values.
    words : tuple of str
        What one and many of them are called.
    feeds : frozenset of str
        What follows from it.
    moved : callable, optional
        Returns a value where it lies after the page was moved; None where it is gone then.
    moved_key : callable, optional
        The same for what it is kept by.
    filled : callable, optional
        Returns all values in order, those that need not be kept among them.
    written : callable
        Writes the last part of a key.
    goes_with_light : bool
        Whether it goes along when a page is lit as another drawing is.
    colored : Colored, optional
        What a scheme holds of it.
    number_of : str
        What of the whole book it is kept by the number of, as 'part'; empty where its numbers are its own.
    """

    name: str
    by: Callable[[str], K]
    type: Any
    words: tuple[str, str]
    feeds: frozenset[Feed] = frozenset()
    moved: Callable[[V, Move], V | None] | None = None
    moved_key: Callable[[K, Place], K] | None = None
    filled: Callable[[dict[K, V], Whole], dict[K, V]] | None = None
    written: Callable[[K], str] = str
    goes_with_light: bool = False
    colored: Colored[V] | None = None
    number_of: str = ""

    def key(self, page: int, by: K) -> str:
        """Return where the book keeps a value."""
        rest = self.written(by)
        return f"page/{page}/{self.name}/{rest}" if rest else f"page/{page}/{self.name}"

    def below(self, page: int) -> str:
        """Return what the keys of all of them on a page begin with."""
        return f"page/{page}/{self.name}/"

    @property
    def read(self) -> ReadAs:
        """How typed tables read it."""
        return ReadAs(self.by, self.type)


@dataclass(frozen=True, eq=False)
class PageValue(Generic[V]):
    """A kind that a page has one value of; see `PageKind`.

    Attributes
    ----------
    default
        What it is where none is kept.
    """

    name: str
    type: Any
    default: V
    words: str
    feeds: frozenset[Feed] = frozenset()
    moved: Callable[[V, Move], V | None] | None = None
    colored: Colored[V] | None = None

    def key(self, page: int) -> str:
        """Return where the book keeps it."""
        return f"page/{page}/{self.name}"

    @property
    def read(self) -> ReadAs:
        """How typed tables read it."""
        return ReadAs(str, self.type)


@dataclass(frozen=True, eq=False)
class BookKind(Generic[K, V]):
    """A kind that the book has many values of.

    Attributes
    ----------
    feeds : frozenset of str
        What of the whole book follows from it, and is remembered by that name; 'colors' are those of pages.
    """

    name: str
    by: Callable[[str], K]
    type: Any
    words: tuple[str, str]
    feeds: frozenset[str] = field(default=frozenset())

    def key(self, by: K) -> str:
        """Return where the book keeps a value."""
        return f"{self.name}/{by}"

    @property
    def below(self) -> str:
        """What the keys of all of them begin with."""
        return f"{self.name}/"


@dataclass(frozen=True, eq=False)
class BookValue(Generic[V]):
    """A kind that the book has one value of; its name is its key."""

    name: str
    type: Any
    words: str
    feeds: frozenset[str] = field(default=frozenset())

    @property
    def key(self) -> str:
        """Where the book keeps it."""
        return self.name


@dataclass(frozen=True, eq=False)
class Plane:
    """A kind of painted plane of a page.

    Attributes
    ----------
    name : str
        How its names begin.
    numbers : callable
        Returns the numbers of those that there can be, from the values of a page by kind; None: there is one.
    """

    name: str
    numbers: Callable[[Callable[[PageKind[int, Any]], Mapping[int, Any]]], tuple[int, ...]] | None = None

    def key(self, page: int, number: int | None = None) -> str:
        """Return its name in the book."""
        top = f"page/{page}/{self.name}"
        return top if number is None else f"{top}/{number}"

    def below(self, page: int) -> str:
        """Return what the names of all of them on a page begin with."""
        return f"page/{page}/{self.name}/"


def spot_of(key: str) -> tuple[int, int]:
    """Read a pixel (row, col) from the last part of a key."""
    row, _, col = key.partition(":")
    return int(row), int(col)


def written_spot(spot: tuple[float, float]) -> str:
    """Write a place (row, col) of a page as the last part of a key."""
    return ":".join(str(int(at)) if float(at).is_integer() else f"{at:.10g}" for at in spot)


def moved_spot(spot: tuple[int, int], place: Place) -> tuple[int, int]:
    """Return the pixel that another one lies at now."""
    row, col = place.at(*spot)
    return round(row), round(col)


def moved_effect(effect: Effect, move: Move) -> Effect:
    """Return effect lines where they lie now."""
    row, col = move.place.at(effect.row, effect.col)
    shape = tuple(move.place.at(*at) for at in effect.shape)
    turn_deg = effect.turn_deg + move.place.turn_deg
    return msgspec.structs.replace(effect, shape=shape, row=row, col=col, turn_deg=turn_deg)


def moved_path(path: tuple[tuple[float, float], ...], move: Move) -> tuple[tuple[float, float], ...]:
    """Return a stroke where it lies now."""
    return tuple(move.place.at(*at) for at in path)
