# SPDX-License-Identifier: GPL-3.0-or-later
"""Verbs on references: pictures pinned beside the pages, never printed. Knows the book alone."""

from drip_pot.book.asking import order
from drip_pot.book.book import Book
from drip_pot.book.numbers import OriginalNumber, ReferenceNumber
from drip_pot.book.values import REFERENCES, Reference
from drip_pot.book.verbs.setting import named, next_number, put
from drip_pot.core.errors import BadInput
from drip_pot.words import say


@order
def pin_reference(book: Book, original: OriginalNumber, name: str) -> int:
    """Pin a picture that the book has beside its pages; return its number."""
    number = next_number(book, REFERENCES)
    made = Reference(named(name, "reference"), original)
    put(book, "pin-reference", say("Pin {0}", made.name), (REFERENCES.key(number), made))
    return number


@order
def unpin_reference(book: Book, number: ReferenceNumber) -> None:
    """Take a reference off the board."""
    known = book.references()
    if number not in known:
        raise BadInput("No reference {0} is pinned.", number)
    put(book, "unpin-reference", say("Unpin {0}", known[number].name), (REFERENCES.key(number), None))
