# SPDX-License-Identifier: GPL-3.0-or-later
"""Which number takes which pot in hand: those pinned on a page, and those of a part. Knows the book; no keyboard."""

from drip_pot.book.book import Book
from drip_pot.book.values import PINS


def pot_keys(book: Book, page: int, part: int) -> dict[int, int]:
    """Return pots by the number that takes them in hand, on a page with a pot of some part in hand.

    Pots pinned to numbers of the page have those, wherever they are; the pots of the part are counted in shelf order,
    and where a number is another pot's, theirs is none.
    """
    pots = book.pots()
    found = dict(enumerate((number for number, pot in pots.items() if pot.part == part), 1))
    pinned = {key: pot for key, pot in book.sources(page)[PINS].items() if pot in pots}
    return {key: pot for key, pot in found.items() if pot not in pinned.values()} | pinned
