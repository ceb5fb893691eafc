# SPDX-License-Identifier: GPL-3.0-or-later
"""What the numbers in orders and values are numbers of, so that another book or page can be told what is meant.

A number is annotated with its kind; to all else it is an int. Knows nothing of books.
"""

import types
import typing
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass
from functools import lru_cache
from typing import Annotated, Any

import msgspec

from drip_pot.core.render import Placed


@dataclass(frozen=True)
class Numbered:
    """The kind of thing that a number stands for.

    Attributes
    ----------
    kind : str
        As in the book's keys: 'pot', 'pass', …
    at_home : tuple of int
        Numbers that mean the same everywhere: paper, the tone of every pot, the first sheet, the gutter.
    """

    kind: str
    at_home: tuple[int, ...] = ()


AtomNumber = Annotated[int, Numbered("atom")]
PotNumber = Annotated[int, Numbered("pot")]
PouredNumber = Annotated[int, Numbered("pot", (0,))]
"""A pot, or paper kept for lettering."""
PartNumber = Annotated[int, Numbered("part")]
PassNumber = Annotated[int, Numbered("pass", (0, 1))]
HoldNumber = Annotated[int, Numbered("hold")]
SheetNumber = Annotated[int, Numbered("sheet", (0,))]
SchemeNumber = Annotated[int, Numbered("scheme")]
ScopeNumber = Annotated[int, Numbered("scope")]
SequenceNumber = Annotated[int, Numbered("sequence")]
PageNumber = Annotated[int, Numbered("page")]
PanelNumber = Annotated[int, Numbered("panel", (0,))]
LampNumber = Annotated[int, Numbered("lamp")]
CutNumber = Annotated[int, Numbered("shade-cut")]
BorderNumber = Annotated[int, Numbered("border")]
DamNumber = Annotated[int, Numbered("dam")]
DoorNumber = Annotated[int, Numbered("door")]
SeedNumber = Annotated[int, Numbered("seed")]
TrapNumber = Annotated[int, Numbered("trap")]
EffectNumber = Annotated[int, Numbered("effect")]
FigureNumber = Annotated[int, Numbered("figure")]
DrawnPanelNumber = Annotated[int, Numbered("drawn panel")]
ReferenceNumber = Annotated[int, Numbered("reference")]
OriginalNumber = Annotated[int, Numbered("original", (0,))]
_OF_CORE: dict[tuple[type, str], Any] = {(Placed, "original"): OriginalNumber}
"""What numbers are in values that know of no book."""


def hints_of(verb: Callable[..., Any]) -> dict[str, Any]:
    """Return the type of every argument of an order, with what its numbers are numbers of."""
    return _hints(verb)


@lru_cache(maxsize=1024)
def _hints(of: Any) -> dict[str, Any]:
    return typing.get_type_hints(of, include_extras=True)


def renumbered(value: Any, hint: Any, tell: Callable[[str, int], int]) -> Any:
    """Return a value as JSON gives it with other numbers, by what its type says that they are numbers of.

    `tell` returns the number to be put in for a kind ('pot') and a number; it may raise `BadInput`.
    """
    origin, inner = typing.get_origin(hint), typing.get_args(hint)
    if origin is typing.Annotated:
        kind = next((one for one in inner[1:] if isinstance(one, Numbered)), None)
        if kind is None:
            return renumbered(value, inner[0], tell)
        whole = isinstance(value, int) and not isinstance(value, bool)
        return tell(kind.kind, value) if whole and value not in kind.at_home else value
    if origin in (typing.Union, types.UnionType):
        for one in inner:
            if value is not None and one is not type(None):
                value = renumbered(value, one, tell)
        return value
    if isinstance(hint, type) and issubclass(hint, msgspec.Struct) and isinstance(value, Mapping):
        fields = _hints(hint)
        return {key: renumbered(one, _OF_CORE.get((hint, key), fields.get(key)), tell) for key, one in value.items()}
    if isinstance(value, Mapping) and inner:
        kind, of = inner[0], inner[-1]
        return {_key(key, kind, tell): renumbered(one, of, tell) for key, one in value.items()}
    if isinstance(value, list | tuple) and inner:
        kinds = inner if origin is tuple and inner[-1] is not Ellipsis else [inner[0]] * len(value)
        return [renumbered(one, kind, tell) for one, kind in zip(value, kinds, strict=False)]
    return value


def _key(key: Any, kind: Any, tell: Callable[[str, int], int]) -> Any:
    """Renumber a key, which JSON has as text."""
    number = int(key) if isinstance(key, str) and key.isdecimal() else key
    return renumbered(number, kind, tell)


@lru_cache(maxsize=4096)
def speaks(hint: Any) -> bool:
    """Whether values of a type may hold numbers of something."""
    origin, inner = typing.get_origin(hint), typing.get_args(hint)
    if origin is Annotated and any(isinstance(one, Numbered) for one in inner[1:]):
        return True
    if isinstance(hint, type) and issubclass(hint, msgspec.Struct):
        return any(speaks(field) or field is Any for field in _hints(hint).values())
    return any(speaks(one) for one in (inner[:1] if origin is Annotated else inner) if one is not Ellipsis)


def spoken(value: Any, hint: Any) -> Iterator[tuple[Numbered, int]]:
    """Yield every number that a value of a type speaks of, and what it is a number of; those at home are left out."""
    if not _hashable(hint) or not speaks(hint) or value is None:
        return
    origin, inner = typing.get_origin(hint), typing.get_args(hint)
    if origin is Annotated:
        kind = next((one for one in inner[1:] if isinstance(one, Numbered)), None)
        if kind is None:
            yield from spoken(value, inner[0])
        elif isinstance(value, int) and not isinstance(value, bool) and value not in kind.at_home:
            yield kind, value
    elif origin in (typing.Union, types.UnionType):
        for one in inner:
            yield from spoken(value, one)
    elif isinstance(hint, type) and isinstance(value, hint):
        for key, of in _hints(hint).items():
            yield from spoken(getattr(value, key), of)
    elif isinstance(value, Mapping) and len(inner) == 2:
        for key, one in value.items():
            yield from spoken(key, inner[0])
            yield from spoken(one, inner[1])
    elif isinstance(value, list | tuple | set | frozenset) and inner:
        kinds = inner if origin is tuple and inner[-1] is not Ellipsis else [inner[0]] * len(value)
        for one, of in zip(value, kinds, strict=False):
            yield from spoken(one, of)


def _hashable(hint: Any) -> bool:
    try:
        hash(hint)
    except TypeError:
        return False
    return True
