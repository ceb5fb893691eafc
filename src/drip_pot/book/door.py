# SPDX-License-Identifier: GPL-3.0-or-later
"""The door of orders: what no verb could use, or no book could keep, is refused before any verb sees it.

Knows the book and the kinds of numbers; no single verb.
"""

import math
import re
from collections.abc import Callable, Iterable, Mapping
from typing import Any

import msgspec
import numpy as np

from drip_pot.book.book import Book
from drip_pot.book.numbers import hints_of, spoken
from drip_pot.book.values import FIGURES, PANELS, SEEDS, places_of, word_of
from drip_pot.core.errors import BadInput
from drip_pot.words import tr

_MOST, _MOST_TEXT = 2**31, 4000
_CONTROL = re.compile("[\x00-\x08\x0b-\x1f\x7f-\x9f\u2028\u2029\ud800-\udfff\ufffe\uffff]")
"""What SVG, OpenRaster and a terminal cannot hold."""
_FREE = {PANELS.name, SEEDS.name, FIGURES.name}
"""What is numbered otherwise as well: panels as they are found; seeds and figures, whose verbs say what is wrong."""


def check(book: Book, first: object, name: str, verb: Callable[..., Any], given: Mapping[str, Any]) -> None:
    """Refuse what cannot be meant.

    Parameters
    ----------
    book : Book
        Where it is to be done.
    first : object
        The book, or the page at hand.
    name, verb
        The order.
    given : mapping
        Its arguments by name, but for the first.

    Raises
    ------
    BadInput
        For numbers that are none or beyond all measure, texts that cannot be written in a file, and numbers of things
        that the book or the page does not have.
    """
    hints = hints_of(verb)
    page = given.get("page", getattr(first, "page", None))
    for key, value in given.items():
        problem = _problem(value)
        if problem:
            raise BadInput("{0} of the order {1} cannot be used: {2}.", key, name, problem)
        for kind, number in spoken(value, hints.get(key)):
            if not _is_there(book, first, page, kind.kind, number):
                raise BadInput("There is no {0} {1} here; nothing was changed.", word_of(kind.kind), number)


def _problem(value: object) -> str:
    """Say what is wrong with a value, however deep; empty where nothing is."""
    if value is None or isinstance(value, bool | bytes):
        return ""
    if isinstance(value, int):
        return "" if -_MOST <= value < _MOST else "such a number is beyond all measure"
    if isinstance(value, float):
        return "" if math.isfinite(value) and abs(value) < _MOST else "it must be a number, and within all measure"
    if isinstance(value, str):
        return _wrong_text(value)
    if isinstance(value, np.ndarray):
        whole = value.dtype.kind != "f" or bool(np.isfinite(value).all())
        return "" if whole else "it must be numbers"
    if isinstance(value, msgspec.Struct):
        return next(filter(None, (_problem(getattr(value, f)) for f in value.__struct_fields__)), "")
    if isinstance(value, Mapping):
        return next(filter(None, map(_problem, (*value.keys(), *value.values()))), "")
    if isinstance(value, Iterable):
        return _wrong_among(value)
    return ""


def _wrong_among(values: Iterable[object]) -> str:
    """Say what is wrong among many values; strokes of thousands of points are looked through at once."""
    some = list(values)
    if some and all(isinstance(one, tuple | list) and len(one) in (2, 3) for one in some):
        flat = [number for one in some for number in one]  # type: ignore[attr-defined]
        if all(type(number) is float or type(number) is int for number in flat):
            found = np.abs(np.array(flat, np.float64))
            return "" if bool((found < _MOST).all()) else "it must be numbers, and within all measure"
    return next(filter(None, map(_problem, some)), "")


def _wrong_text(text: str) -> str:
    if len(text) > _MOST_TEXT:
        return tr("a text has at most {0} signs", _MOST_TEXT)
    return "it holds signs that cannot be written in a file" if _CONTROL.search(text) else ""


def _is_there(book: Book, first: object, page: object, kind: str, number: int) -> bool:
    """Whether the book, or the page, has a thing of a number; what is not numbered in keys is believed."""
    if kind == "atom":
        areas = getattr(first, "areas", None)
        return number >= 0 and (areas is None or number < len(areas))
    keys = places_of(kind, page if isinstance(page, int) else None)
    if kind in _FREE or not keys:
        return number >= 0
    return any(book.get(f"{place}{number}") is not None for place in keys)
