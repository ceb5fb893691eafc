# SPDX-License-Identifier: GPL-3.0-or-later
"""Orders found by name, what is given checked before the verb sees it. Knows the registry, no single verb.

Window, command line, findings and scripts in Python run the same verbs. An order whose arguments cannot be written as
JSON (a plane of pixels) is not listed.
"""

import inspect
import types
import typing
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from functools import cache
from typing import Any

import msgspec

from drip_pot.book import verbs  # noqa: F401 - they register themselves
from drip_pot.book.asking import VERBS
from drip_pot.book.book import Book
from drip_pot.book.hand import Hand
from drip_pot.book.numbers import Numbered, renumbered
from drip_pot.core.errors import BadInput
from drip_pot.words import tr


@dataclass(frozen=True)
class Argument:
    """An argument of an order: its name, its type in words, and whether it must be given."""

    name: str
    kind: str
    needed: bool


@dataclass(frozen=True)
class Order:
    """A verb that can be asked for by name.

    Attributes
    ----------
    name, title : str
        For programs ('set-gap') and for people.
    on_page, on_regions : bool
        Whether it is done to a page, rather than to the book; whether it needs the page's regions.
    arguments : tuple of Argument
        What it takes.
    """

    name: str
    title: str
    on_page: bool
    on_regions: bool
    arguments: tuple[Argument, ...]


def orders() -> dict[str, Order]:
    """Return every order by name."""
    return {name: _described(verb) for name, verb in sorted(VERBS.items()) if _is_plain(verb)}


def needs_regions(name: str) -> bool:
    """Whether an order, by name, is done to a page at hand."""
    return _described(VERBS[name]).on_regions


def run(
    book: Book, name: str, given: Mapping[str, object], page: int | None = None,
    hand: Callable[[int], Hand] | None = None,
) -> object:  # fmt: skip
    """Do an order to a book.

    Parameters
    ----------
    book : Book
        It is changed by one gesture, which can be undone.
    name : str
        One of `orders`.
    given : mapping
        Arguments by name, as JSON gives them.
    page : int, optional
        The page's number in the book, for orders on a page.
    hand : callable, optional
        Returns a hand at work on the page of a number, for orders that need its regions.

    Returns
    -------
    object
        What the verb returns: the number of what was made, or None.

    Raises
    ------
    BadInput
        For an unknown order, a missing, unknown or unusable argument, or a page that is not there.
    """
    values = checked(name, given)
    verb, order = VERBS[name], _described(VERBS[name])
    if not order.on_page:
        return verb(book, **values)
    if page is None or page not in book.pages():
        raise BadInput("The order {0} is done to a page. Say which with --page.", name)
    needs_ink = "ink" in typing.get_type_hints(verb)
    if (order.on_regions or needs_ink) and hand is None:
        raise BadInput("The order {0} needs the page worked out, which it is not here.", name)
    if hand is not None and order.on_regions:
        return verb(hand(page), **values)
    if hand is not None and needs_ink:
        values["ink"] = hand(page).ink
    return verb(book, page, **values)


def checked(name: str, given: Mapping[str, object]) -> dict[str, object]:
    """Return the arguments of an order, as JSON gives them, as its verb takes them.

    Raises
    ------
    BadInput
        For an unknown order, or a missing, unknown or unusable argument.
    """
    if name not in VERBS or not _is_plain(VERBS[name]):
        raise BadInput("There is no order '{0}'. List them with: drip-pot orders", name)
    verb, order = VERBS[name], _described(VERBS[name])
    wanted = {argument.name: argument for argument in order.arguments}
    strange = [key for key in given if key not in wanted]
    missing = [key for key, argument in wanted.items() if argument.needed and key not in given]
    if strange or missing:
        told = tr("has no argument {0}", strange[0]) if strange else tr("needs {0}", ", ".join(missing))
        raise BadInput("The order {0} {1}. It takes {2}.", name, told, ", ".join(wanted) or "no arguments")
    hints = typing.get_type_hints(verb, include_extras=True)
    values = dict[str, object]()
    for key, value in given.items():
        try:
            values[key] = msgspec.convert(value, _plain(hints[key]), strict=False)
        except msgspec.ValidationError as error:
            raise BadInput("{0} of the order {1} cannot be used: {2}.", key, name, error) from error
    return values


def translated(name: str, given: Mapping[str, object], tell: Callable[[str, int], int]) -> dict[str, object]:
    """Put other numbers in the place of those that an order speaks of.

    Parameters
    ----------
    name : str
        One of `orders`.
    given : mapping
        Its arguments, as JSON gives them.
    tell : callable
        Returns, for a kind ('pot') and a number of it, the number to be put in; may raise `BadInput`.

    Raises
    ------
    BadInput
        For an unknown order.
    """
    if name not in VERBS:
        raise BadInput("There is no order '{0}'. List them with: drip-pot orders", name)
    hints = typing.get_type_hints(VERBS[name], include_extras=True)
    return {key: renumbered(value, hints.get(key), tell) for key, value in given.items()}


@cache
def _is_plain(verb: Callable[..., Any]) -> bool:
    """Whether all its arguments can be written as JSON."""
    return not any("ndarray" in str(hint) for name, hint in typing.get_type_hints(verb).items() if name != "ink")


@cache
def _described(verb: Callable[..., Any]) -> Order:
    first, *parameters = inspect.signature(verb).parameters.values()
    hints = typing.get_type_hints(verb, include_extras=True)
    on_regions = hints[first.name] is Hand
    on_page = bool(parameters) and parameters[0].name == "page" and hints["page"] is int
    taken = tuple(
        Argument(p.name, _in_words(hints[p.name]), p.default is inspect.Parameter.empty)
        for p in parameters[on_page:]
        if p.kind is not inspect.Parameter.VAR_KEYWORD and p.name != "ink"
    )
    title = (inspect.getdoc(verb) or "").splitlines()[0].rstrip(".")
    return Order(verb.__name__.replace("_", "-"), title, on_page or on_regions, on_regions, taken)


def _plain(hint: Any) -> Any:
    """Replace the loose collections of a hint by lists, which JSON can give."""
    origin = typing.get_origin(hint)
    if origin is not None and getattr(origin, "__name__", "") in ("Iterable", "Sequence"):
        return list[typing.get_args(hint)]  # type: ignore[misc]
    return hint


def _in_words(hint: Any) -> str:
    """Say what an argument is; a number says of what."""
    origin, inner = typing.get_origin(hint), typing.get_args(hint)
    if origin is typing.Annotated:
        kind = next((one.kind for one in hint.__metadata__ if isinstance(one, Numbered)), None)
        return tr("{0} number", kind) if kind else _in_words(inner[0])
    if origin in (typing.Union, types.UnionType):
        return " | ".join(_in_words(one) for one in inner)
    if origin is typing.Literal:
        return " | ".join(map(repr, inner))
    if origin is not None:
        return f"{origin.__name__}[{', '.join('…' if one is Ellipsis else _in_words(one) for one in inner)}]"
    return "None" if hint is type(None) else str(getattr(hint, "__name__", hint))
