"""Verbs on shade: loops cut into shadow or light. Knows a page at hand; no window, no file."""

import numpy as np

from drip_pot.book.asking import order
from drip_pot.book.book import Book
from drip_pot.book.hand import Hand, Points
from drip_pot.book.model import BALLOON
from drip_pot.book.store import Edit
from drip_pot.core.arrays import Bool, Rect
from drip_pot.core.shade import cut, loop_mask


@order
def cut_shade(hand: Hand, points: Points, *, light: bool = False, only: int = 0) -> None:
    """Cut a loop into shadow, or into light, where there is colour; `only` keeps it inside the region of an atom."""
    rect, mask = loop_mask(points, hand.shape)
    allowed = np.zeros(len(hand.areas), bool)
    allowed[[a for a, pot in hand.sources.pours.items() if pot != BALLOON and a < len(allowed)]] = True
    if only:
        inside = np.zeros_like(allowed)
        inside[list(hand.region_of(only))] = True
        allowed &= inside
    where = allowed[hand.labels[rect[0] : rect[2], rect[1] : rect[3]]]
    shade_mask(hand.book, hand.page, rect, mask, where, light=light)


def shade_mask(book: Book, page: int, rect: Rect, mask: Bool, allowed: Bool, *, light: bool) -> None:
    """Cut a mask into shadow, or into light; `mask` and `allowed` cover `rect`."""
    name = f"page/{page}/shade"
    plane = book.plane(name)
    tiles = plane.replaced(name, rect, cut(plane.read(rect), mask, allowed, light=light))
    book.apply(Edit("cut-light" if light else "cut-shade", "Cut light" if light else "Cut shade", (), tiles))
