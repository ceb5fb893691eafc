# SPDX-License-Identifier: GPL-3.0-or-later
"""Verbs on sequences: which pages are frames of a movement, how fast and how long they are shown. Knows the book."""

from collections.abc import Iterable
from typing import Annotated

import msgspec

from drip_pot.book.asking import order
from drip_pot.book.book import Book
from drip_pot.book.numbers import SequenceNumber
from drip_pot.book.values import MOST_HELD, SEQUENCES, Rate, Sequence
from drip_pot.book.verbs.setting import named, next_number, put
from drip_pot.core.errors import BadInput
from drip_pot.words import say, say_many


@order
def make_sequence(book: Book, places: Iterable[int], name: str) -> int:
    """Make pages, by their places in the book from 1, the frames of a movement in that order; return its number.

    Raises
    ------
    BadInput
        If it has fewer than two pages, a page is not there, given twice, or a frame of another movement.
    """
    pages, known = tuple(places), list(book.pages())
    if len(pages) < 2:
        raise BadInput("A sequence needs two pages or more. Choose its frames on the contact sheet.")
    wrong = next((p for p in pages if not 1 <= p <= len(known)), None)
    if wrong is not None:
        raise BadInput("There is no page {0}; this book has {1} pages.", wrong, len(known))
    if len(set(pages)) < len(pages):
        raise BadInput("A page can be a frame only once. To show it longer, hold it.")
    numbers = tuple(known[p - 1] for p in pages)
    taken = next((s for n in numbers if (s := book.sequence_of(n)) is not None), None)
    if taken is not None:
        raise BadInput("Some of these pages are frames of {0} already. Take that sequence apart first.", taken[1].name)
    number = next_number(book, SEQUENCES)
    made = Sequence(named(name, "sequence"), numbers)
    put(book, "make-sequence", say("Make the sequence {0}", made.name), (SEQUENCES.key(number), made))
    return number


@order
def set_sequence(book: Book, number: SequenceNumber, name: str | None = None, rate_fps: Rate | None = None) -> None:
    """Give a sequence another name, or play it at another rate, 1 to 60 frames a second."""
    old = known_sequence(book, number)
    changed = msgspec.structs.replace(
        old, name=old.name if name is None else named(name, "sequence"), rate_fps=rate_fps or old.rate_fps
    )
    put(book, "set-sequence", say("Set the sequence {0}", changed.name), (SEQUENCES.key(number), changed))


@order
def hold_frame(book: Book, page: int, frames: Annotated[int, msgspec.Meta(ge=1, le=MOST_HELD)]) -> None:
    """Show a page for so many frames, 1 to 240; raises `BadInput` where it is no frame."""
    found = book.sequence_of(page)
    if found is None:
        raise BadInput("This page is no frame of a sequence. Make one of its pages first, on the contact sheet.")
    number, old = found
    held = {p: n for p, n in {**old.held, page: frames}.items() if n > 1}
    name = book.pages()[page].name
    title = say_many("Hold {0} for a frame", "Hold {0} for {1} frames", frames, name, frames)
    put(book, "hold-frame", title, (SEQUENCES.key(number), msgspec.structs.replace(old, held=held)))


@order
def remove_sequence(book: Book, number: SequenceNumber) -> None:
    """Take a sequence apart; its pages stay."""
    old = known_sequence(book, number)
    put(book, "remove-sequence", say("Take the sequence {0} apart", old.name), (SEQUENCES.key(number), None))


def known_sequence(book: Book, number: int) -> Sequence:
    """Return a sequence; raises `BadInput` where there is none of that number."""
    known = book.sequences()
    if number not in known:
        has = ", ".join(f"{n} ({s.name})" for n, s in known.items()) or "none"
        raise BadInput("This book has no sequence {0}. It has {1}.", number, has)
    return known[number]
