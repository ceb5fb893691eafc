# SPDX-License-Identifier: GPL-3.0-or-later
"""Every order with values of the right type and the wrong sort; each is done whole, or refused in a sentence."""

import random
import types
import typing
from collections.abc import Callable
from pathlib import Path
from typing import Any

import cv2
import msgspec
import numpy as np

from drip_pot.book import Book, Derived, InkState, Page, Picture, orders, verbs
from drip_pot.book.asking import VERBS
from drip_pot.book.hand import Hand, hand_at
from drip_pot.core.errors import DripPotError
from drip_pot.core.inks import InkSettings

_INTS = (-1, 0, 0, 1, 1, 1, 2, 2, 3, 4, 7, 99, 300, 10**6, 10**9, 2**63, -(2**70))
_FLOATS = (float("nan"), float("inf"), float("-inf"), -1.0, 0.0, 0.3, 0.5, 1.0, 1.0, 2.0, 40.0, 1e6, 1e308, 1e-308)
_TEXTS = ("", " ", "Ember", "Fog", "Fog", "#102030", "#fff", "#12", "\udc80", "a\x00b", "\x1b[2J", "x" * 20_000, "é",
          "{0}", "\u202e", "multiply", "tint", "darker", "Night/1")  # fmt: skip


def a_book() -> tuple[Book, Derived, int]:
    """Return a book in memory with one small page, two parts, three pots, passes, holds and a scheme."""
    ink = np.zeros((90, 120), np.uint8)
    cv2.rectangle(ink, (10, 10), (109, 79), 255, 3)
    cv2.line(ink, (60, 10), (60, 79), 255, 3)
    book = Book()
    for part in ("Figure", "Ground"):
        verbs.add_part(book, part)
    for name, part, local in (("Ember", 1, "#e2553a"), ("Sky", 2, "#a8d4e0"), ("Moss", 2, "#5d7a3a")):
        verbs.add_pot(book, name, part, local)
    plain = InkState(InkSettings(white=252, black=4, even_paper=False))
    page = verbs.add_page(book, Page("one", 90, 120, 300.0, 1), plain)
    for atom in (1, 2):
        verbs.pour(book, page, {atom}, atom)
    verbs.add_pass(book, page, "Fog", "#203060")
    verbs.hold_part(book, page, 1, 0.5)
    verbs.add_scheme(book, "Dusk")
    return book, Derived(lambda *_: Picture(255 - ink)), page


def made(chance: random.Random, hint: Any) -> Any:
    """Return a value of a type as JSON gives it, right or wrong."""
    origin, inner = typing.get_origin(hint), typing.get_args(hint)
    if origin is typing.Annotated:
        return made(chance, inner[0])
    if origin in (typing.Union, types.UnionType):
        return made(chance, chance.choice(inner))
    if origin is typing.Literal:
        return chance.choice((*inner, *inner, "nope"))
    if hint is bool:
        return chance.random() < 0.5
    if hint in (int, float, str):
        return chance.choice({int: _INTS, float: (*_FLOATS, *_INTS), str: _TEXTS}[hint])
    if isinstance(hint, type) and issubclass(hint, msgspec.Struct):
        fields = typing.get_type_hints(hint, include_extras=True)
        needed = {f.name for f in msgspec.structs.fields(hint) if f.required}
        return {k: made(chance, of) for k, of in fields.items() if k in needed or chance.random() < 0.3}
    if (origin is not None and "Mapping" in origin.__name__) or origin is dict:
        return {made(chance, inner[0]): made(chance, inner[1]) for _ in range(chance.choice((0, 1, 2)))}
    if origin is tuple and inner[-1:] != (Ellipsis,):
        return [made(chance, one) for one in inner]
    if origin is not None:
        return [made(chance, inner[0]) for _ in range(chance.choice((0, 1, 2, 3, 5)))]
    return None


def attacked(number: int) -> tuple[str, Book]:
    """Run one order on a fresh book; return what was said, and the book, which must be as readable as before."""
    chance = random.Random(number)
    book, derived, page = a_book()
    hand: Callable[[int], Hand] = lambda n: hand_at(book, n, derived)  # noqa: E731
    known = sorted(orders.orders())
    name = known[number % len(known)]
    hints = typing.get_type_hints(VERBS[name], include_extras=True)
    wanted = orders.orders()[name].arguments
    given = {a.name: made(chance, hints[a.name]) for a in wanted if a.needed or chance.random() < 0.4}
    before = book.values(), book.tiles()
    try:
        said = str(orders.run(book, name, given, page, hand))
    except DripPotError as error:
        said = f"refused: {error}"
        assert (book.values(), book.tiles()) == before, f"{name} was refused and changed something"
    assert book.unread_shared() == [], f"{name} {given} left what cannot be read: {book.unread_shared()}"
    for one in book.pages():
        assert book.unread(one) == [], f"{name} {given} left what cannot be read: {book.unread(one)}"
        book.sources(one)
    while book.undo():
        pass
    assert book.values() == {}
    return f"{name}: {said}", book


def case(number: int, folder: Path) -> None:
    """Run one order."""
    print(attacked(number)[0].encode("ascii", "backslashreplace").decode())
