# SPDX-License-Identifier: GPL-3.0-or-later
"""Verbs on the list of pages: ordered, duplicated, removed. Knows no window, no file."""

import msgspec

from drip_pot.book.asking import order
from drip_pot.book.book import Book
from drip_pot.book.numbers import PageNumber
from drip_pot.book.store import Change, Edit, TileChange
from drip_pot.book.values import PAGES, Page
from drip_pot.book.verbs.setting import next_number, put
from drip_pot.words import say, tr


@order
def move_page(book: Book, number: PageNumber, step: int) -> None:
    """Move a page in the book: 1 is one place later."""
    page = book.read(PAGES.key(number), Page)
    line = list(book.pages())
    place = line.index(number)
    target = min(max(place + step, 0), len(line) - 1)
    line.insert(target, line.pop(place))
    if target != place:
        known = book.pages()
        pairs = [(PAGES.key(n), msgspec.structs.replace(known[n], order=k)) for k, n in enumerate(line)]
        put(book, "move-page", say("Move the page {0}", page.name), *pairs)


@order
def duplicate_page(book: Book, number: PageNumber) -> int:
    """Copy a page with all that is on it, right after it; return the number of the copy."""
    page, fresh = book.read(PAGES.key(number), Page), next_number(book, PAGES)
    line = list(book.pages())
    line.insert(line.index(number) + 1, fresh)
    known = book.pages() | {fresh: msgspec.structs.replace(page, name=tr("{0} copy", page.name))}
    changes = [book.change(PAGES.key(n), msgspec.structs.replace(known[n], order=k)) for k, n in enumerate(line)]
    top, its = f"{PAGES.key(number)}/", f"{PAGES.key(fresh)}/"
    changes += [Change(its + key, None, text) for key, text in book.below(top)]
    tiles = [TileChange(its + name.removeprefix(top), *at, None, plane.packed(*at))
             for name in book.planes(number) for plane in [book.plane(name)] for at in plane]  # fmt: skip
    book.apply(Edit("duplicate-page", say("Copy the page {0}", page.name), tuple(changes), tuple(tiles)))
    return fresh


@order
def remove_page(book: Book, number: PageNumber) -> None:
    """Remove a page and all that is on it; its drawing stays in the file, so that this can be undone."""
    page = book.read(PAGES.key(number), Page)
    tiles = [TileChange(name, *at, plane.packed(*at), None)
             for name in book.planes(number) for plane in [book.plane(name)] for at in plane]  # fmt: skip
    top = f"{PAGES.key(number)}/"
    changes = [book.change(top + key, None) for key, _ in list(book.below(top))]
    changes.append(book.change(PAGES.key(number), None))
    book.apply(Edit("remove-page", say("Remove the page {0}", page.name), tuple(changes), tuple(tiles)))
