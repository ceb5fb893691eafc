# SPDX-License-Identifier: GPL-3.0-or-later
"""Colours of a house that a book follows: kept with it, compared with its pots, taken where asked. Knows the book."""

from collections.abc import Iterable

import msgspec

from drip_pot.book.asking import order
from drip_pot.book.book import Book
from drip_pot.book.numbers import PotNumber
from drip_pot.book.values import HOUSE, POTS, House, HouseColor, Pot
from drip_pot.book.verbs.setting import named, put
from drip_pot.core.color import from_hex, to_hex
from drip_pot.core.errors import BadInput, NothingDone
from drip_pot.words import say, say_many

_MOST = 2000


@order
def follow_house(book: Book, name: str, colors: list[HouseColor], path: str = "") -> None:
    """Follow the colours of a house by a name, read from a file at a path.

    Raises
    ------
    BadInput
        If there is no colour, or one that is none, or more than 2 000.
    """
    if not 0 < len(colors) <= _MOST:
        raise BadInput("A palette of a house has 1 to {0} colours, not {1}.", _MOST, len(colors))
    kept = tuple(
        msgspec.structs.replace(one, local=to_hex(from_hex(one.local)),
                                shadow=None if one.shadow is None else to_hex(from_hex(one.shadow)))
        for one in colors
    )  # fmt: skip
    put(book, "follow-house", say("Follow the colours of {0}", name),
        (HOUSE.key, House(named(name, "palette"), kept, path)))  # fmt: skip


@order
def leave_house(book: Book) -> None:
    """Follow no house any more; the pots stay as they are."""
    put(book, "leave-house", "Follow no palette any more", (HOUSE.key, None))


@order
def take_house(book: Book, numbers: Iterable[PotNumber] | None = None) -> None:
    """Give pots, by number, the colours that the house has for them; all that differ where none are told.

    Raises
    ------
    BadInput
        If the house has no colour for one of them.
    NothingDone
        If none differs.
    """
    house, unlike = house_of(book), unlike_house(book)
    chosen = list(unlike) if numbers is None else list(numbers)
    for number in chosen:
        if number not in unlike:
            raise BadInput("{0} has no other colour for that pot.", house.name)
    if not chosen:
        raise NothingDone("Every pot is as {0} has it.", house.name)
    pairs = []
    for number in chosen:
        pot, wanted = book.read(POTS.key(number), Pot), unlike[number]
        changed = msgspec.structs.replace(pot, local=wanted.local, inks=None, shadow=wanted.shadow or pot.shadow)
        pairs.append((POTS.key(number), changed))
    name = book.pots()[chosen[0]].name
    put(book, "take-house", say_many("{0} as {2} has it", "{1} pots as {2} has them", len(chosen), name, len(chosen),
                                     house.name), *pairs)  # fmt: skip


def house_of(book: Book) -> House:
    """Return the palette that a book follows; raises `BadInput` where it follows none."""
    if book.get(HOUSE.key) is None:
        raise BadInput("This book follows no palette of a house. Choose one first.")
    return book.read(HOUSE.key, House)


def unlike_house(book: Book) -> dict[int, HouseColor]:
    """Return the pots, by number, that are of another colour than the house has for them, and what it has.

    They are the same by name and part; by name alone where the house has that name once.
    """
    if book.get(HOUSE.key) is None:
        return {}
    full: dict[tuple[str, str], HouseColor] = {}
    alone: dict[str, list[HouseColor]] = {}
    for one in house_of(book).colors:
        full.setdefault((_plain(one.part), _plain(one.name)), one)
        alone.setdefault(_plain(one.name), []).append(one)
    found, parts = {}, book.parts()
    for number, pot in book.pots().items():
        name = _plain(pot.name)
        own = full.get((_plain(parts[pot.part].name) if pot.part in parts else "", name))
        if own is None and len(alone.get(name, [])) == 1:
            own = alone[name][0]
        if own is not None and (own.local != pot.local or own.shadow not in (None, book.tone_pair(pot)[1])):
            found[number] = own
    return found


def _plain(name: str) -> str:
    return " ".join(name.split()).casefold()
