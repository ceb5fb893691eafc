"""The registry of orders: verbs by name, with arguments that can be written as JSON. Knows the book's verbs.

Window, command line and scripts in Python call the same verbs; here they are found by name, and what is given is
checked before the verb sees it. Orders that need a hand's plane of pixels (mending, loops of shade) are not listed.
"""

import inspect
import typing
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any

import msgspec

from drip_pot.book import pots, verbs
from drip_pot.book.book import Book
from drip_pot.core.errors import BadInput

_VERBS: tuple[Callable[..., Any], ...] = (
    verbs.name_book, verbs.add_part, verbs.add_pot, verbs.set_pot, verbs.rename_part, verbs.name_page, verbs.set_tone,
    verbs.set_inks, verbs.move_sheet, verbs.remove_sheet, verbs.set_print, verbs.crop_page, verbs.straighten_page,
    verbs.keep_balloon, verbs.set_effect, verbs.set_gap, verbs.set_least, verbs.set_door, verbs.join,
    verbs.choose_bridge, verbs.pour, verbs.set_lines, verbs.set_hold, verbs.set_press, verbs.leave, verbs.mark_spots,
    pots.move_pot, pots.remove_pot, pots.move_part, pots.remove_part, pots.add_pots, pots.mix_pour,
    pots.shift_colors, pots.own_pot, pots.to_part, pots.keep_ink_set,
)  # fmt: skip


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
    on_page : bool
        Whether it is done to a page, rather than to the book.
    arguments : tuple of Argument
        What it takes.
    """

    name: str
    title: str
    on_page: bool
    arguments: tuple[Argument, ...]


def orders() -> dict[str, Order]:
    """Return every order by name."""
    return {order.name: order for order in map(_described, _VERBS)}


def run(book: Book, name: str, given: Mapping[str, object], page: int | None = None) -> object:
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

    Returns
    -------
    object
        What the verb returns: the number of what was made, or None.

    Raises
    ------
    BadInput
        For an unknown order, a missing, unknown or unusable argument, or a page that is not there.
    """
    found = {_name_of(verb): verb for verb in _VERBS}
    if name not in found:
        raise BadInput(f"There is no order '{name}'. List them with: drip-pot orders")
    verb, order = found[name], _described(found[name])
    wanted = {argument.name: argument for argument in order.arguments}
    strange = [key for key in given if key not in wanted]
    missing = [key for key, argument in wanted.items() if argument.needed and key not in given]
    if strange or missing:
        told = f"has no argument {strange[0]}" if strange else f"needs {', '.join(missing)}"
        raise BadInput(f"The order {name} {told}. It takes {', '.join(wanted) or 'no arguments'}.")
    hints = typing.get_type_hints(verb)
    values = {}
    for key, value in given.items():
        try:
            values[key] = msgspec.convert(value, _plain(hints[key]), strict=False)
        except msgspec.ValidationError as error:
            raise BadInput(f"{key} of the order {name} cannot be used: {error}.") from error
    if not order.on_page:
        return verb(book, **values)
    if page is None or page not in book.pages():
        raise BadInput(f"The order {name} is done to a page. Say which with --page.")
    return verb(book, page, **values)


def _name_of(verb: Callable[..., Any]) -> str:
    return verb.__name__.replace("_", "-")


def _described(verb: Callable[..., Any]) -> Order:
    parameters = list(inspect.signature(verb).parameters.values())[1:]
    on_page = bool(parameters) and parameters[0].name == "page"
    hints = typing.get_type_hints(verb)
    taken = tuple(
        Argument(p.name, _in_words(hints[p.name]), p.default is inspect.Parameter.empty)
        for p in parameters[on_page:]
        if p.kind is not inspect.Parameter.VAR_KEYWORD
    )
    title = (inspect.getdoc(verb) or "").splitlines()[0].rstrip(".")
    return Order(_name_of(verb), title, on_page, taken)


def _plain(hint: Any) -> Any:
    """Replace the loose collections of a hint by lists, which JSON can give."""
    origin = typing.get_origin(hint)
    if origin is not None and getattr(origin, "__name__", "") in ("Iterable", "Sequence"):
        return list[typing.get_args(hint)]  # type: ignore[misc]
    return hint


def _in_words(hint: Any) -> str:
    return (
        str(hint).replace("collections.abc.", "").replace("drip_pot.", "")
        if typing.get_origin(hint)
        else getattr(hint, "__name__", str(hint))
    )
