# SPDX-License-Identifier: GPL-3.0-or-later
"""Orders about what lies in front of what, for the whole book. Knows the book; no line."""

from drip_pot.book.asking import order
from drip_pot.book.book import Book
from drip_pot.book.numbers import PotNumber
from drip_pot.book.store import Edit
from drip_pot.book.values import DEPTHS, POTS, Depth, Pot
from drip_pot.book.verbs.setting import next_number, put
from drip_pot.core.errors import BadInput, NothingDone
from drip_pot.words import say, say_many


@order
def put_in_front(book: Book, front: PotNumber, behind: PotNumber, *, parts: bool = False) -> None:
    """Say that a pot lies in front of another wherever they meet, on every page; with `parts` that their parts do.

    What was said of the two before is forgotten. Raises `BadInput` for one and the same pot, or part.
    """
    ahead, back = (book.read(POTS.key(number), Pot) for number in (front, behind))
    names, fresh = (ahead.name, back.name), Depth(front, behind)
    if parts:
        if ahead.part == back.part:
            raise BadInput("{0} and {1} are of one part. Say which of the two pots lies in front.", *names)
        known = book.parts()
        for pot in (ahead, back):
            if pot.part not in known:
                raise BadInput("{0} is of no part. Say it of the pot alone.", pot.name)
        names, fresh = (known[ahead.part].name, known[back.part].name), Depth(ahead.part, back.part, parts=True)
    elif front == behind:
        raise BadInput("{0} cannot lie in front of itself.", names[0])
    said = book.depths()
    if fresh in said.values():
        raise NothingDone("{0} lies in front of {1} already.", *names)
    turned = Depth(fresh.behind, fresh.front, parts)
    number = next((n for n, depth in said.items() if depth == turned), next_number(book, DEPTHS))
    put(book, "put-in-front", say("{0} in front of {1}", *names), (DEPTHS.key(number), fresh))


@order
def forget_depths(book: Book) -> None:
    """Forget all that was said to lie in front of something."""
    said = book.depths()
    if not said:
        raise NothingDone("Nothing was said yet to lie in front of anything.")
    changes = tuple(book.change(DEPTHS.key(number), None) for number in said)
    title = say_many("Forget an order of depth", "Forget {0} orders of depth", len(said), len(said))
    book.apply(Edit("forget-depths", title, changes))
