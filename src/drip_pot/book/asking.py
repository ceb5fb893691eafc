# SPDX-License-Identifier: GPL-3.0-or-later
"""Verbs made into orders: each is registered once, and what it does carries what it was asked. Knows no verb."""

import functools
import inspect
from collections.abc import Callable, Iterable, Iterator, Mapping
from contextlib import contextmanager
from typing import Any, TypeVar

import msgspec
import numpy as np

from drip_pot.book.book import Book
from drip_pot.book.door import check

F = TypeVar("F", bound=Callable[..., Any])
VERBS: dict[str, Callable[..., Any]] = {}
"""Every order by name."""


class Asked(msgspec.Struct, frozen=True):
    """An order as it was given: its name, the page it was done to, its arguments, and the run it was part of."""

    order: str
    page: int | None = None
    given: dict[str, Any] = {}
    run: str = ""


def order(verb: F) -> F:
    """Register a verb under its name; its edits carry it.

    A verb is a function of a book, perhaps a page of it, or of a page at hand, and arguments.
    """
    name = verb.__name__.replace("_", "-")
    assert name not in VERBS, name
    signature = inspect.signature(verb)

    @functools.wraps(verb)
    def asked(first: Any, *args: Any, **given: Any) -> Any:
        book: Book = getattr(first, "book", first)  # a page at hand knows its book
        if book.asked is not None:  # another order asked for it
            return verb(first, *args, **given)
        bound = signature.bind(first, *args, **given)
        values = {key: list(v) if _runs_out(v) else v for key, v in list(bound.arguments.items())[1:]}
        bound.arguments |= values
        values.pop("ink", None)  # the line as it is, which who runs the order has at hand
        check(book, first, name, verb, values)
        page: Any = getattr(first, "page", None)
        if isinstance(values.get("page"), int):  # a page that is brought in is a value, not yet a number
            page = values.pop("page")
        with _asking(book, msgspec.json.encode(Asked(name, page, values, book.run), enc_hook=_written).decode()):
            return verb(*bound.args, **bound.kwargs)

    VERBS[name] = asked
    return asked  # type: ignore[return-value]


@contextmanager
def _asking(book: Book, text: str) -> Iterator[None]:
    book.asked = text
    try:
        yield
    finally:
        book.asked = None


def _runs_out(value: object) -> bool:
    """Whether a value can be gone through once only, or has no place in JSON as it is."""
    known = (str, bytes, list, tuple, Mapping, msgspec.Struct, np.ndarray)
    return isinstance(value, Iterable) and not isinstance(value, known)


def _written(value: object) -> object:
    """Write a number of NumPy, or a text that is kept with its values."""
    if isinstance(value, str):
        return str(value)
    if isinstance(value, np.generic):
        return value.item()
    raise NotImplementedError(type(value).__name__)


def read_asked(text: str | None) -> Asked | None:
    """Return an order from JSON text; None where there is none, or it is damaged."""
    try:
        return None if text is None else msgspec.json.decode(text, type=Asked)
    except (ValueError, msgspec.MsgspecError, RecursionError):
        return None


def ask(order: str, **given: Any) -> Asked:
    """Write an order down, to be run later."""
    return Asked(order, None, given)
