# SPDX-License-Identifier: GPL-3.0-or-later
"""Verbs on a page as a whole: added, named, sized, turned. Knows no window, no file."""

from collections.abc import Sequence
from typing import Any

import msgspec

from drip_pot.book.asking import order
from drip_pot.book.book import Book
from drip_pot.book.numbers import PageNumber
from drip_pot.book.store import TILE, Change, Edit, TileChange, pack_tile
from drip_pot.book.values import (
    BALLOON,
    BENEATH,
    CUT,
    CUT_BY,
    INKS,
    LINES,
    PAGE_KINDS,
    PAGES,
    POURS,
    PRESS,
    SHEETS,
    SOWN,
    Beneath,
    InkState,
    LineState,
    Move,
    Page,
    PageKind,
    PageValue,
    Sheet,
)
from drip_pot.book.verbs.layers import beneath
from drip_pot.book.verbs.setting import named, next_number, put
from drip_pot.core.arrays import U8, Rect
from drip_pot.core.errors import BadInput
from drip_pot.core.inks import Place, lay, turned_about
from drip_pot.words import say

PAGE_MOST, PAGE_MOST_PX = 30_000, 160_000_000


@order
def add_page(book: Book, page: Page, inks: InkState, sheets: Sequence[tuple[Sheet, InkState]] = ()) -> int:
    """Add a page whose originals are in the store already; return its number.

    `inks` belong to its first sheet; `sheets` are further ones, or, if the first of them has the page's own original
    and picture, all of them. What every page of the book has alike of press settings and line colours it has as well.
    """
    number = next_number(book, PAGES)
    page = msgspec.structs.replace(page, order=len(book.pages()))
    pairs: list[tuple[str, object]] = [(PAGES.key(number), page), (INKS.key(number, 0), inks)]
    first = bool(sheets) and (sheets[0][0].original, sheets[0][0].picture) == (page.original, page.picture)
    for place, (sheet, state) in enumerate(sheets, 0 if first else 1):
        pairs.append((SHEETS.key(number, place), msgspec.structs.replace(sheet, order=place)))
        pairs.append((INKS.key(number, place), state))
    for kind in (PRESS, LINES):
        every = [book.sources(n)[kind] for n in book.pages()]
        if len(every) > 1 and all(one == every[0] for one in every) and every[0] != kind.default:
            pairs.append((kind.key(number), every[0]))
    put(book, "add-page", say("Add page {0}", page.name), *dict(pairs).items())
    recut(book, number, {})
    return number


@order
def name_page(book: Book, number: PageNumber, name: str) -> None:
    """Give a page another name."""
    page = msgspec.structs.replace(book.read(PAGES.key(number), Page), name=named(name, "page"))
    put(book, "name-page", say("Name the page {0}", page.name), (PAGES.key(number), page))


@order
def set_print(
    book: Book, page: int, *, dpi: float, trim_mm: tuple[float, float] | None, bleed_mm: float
) -> None:  # fmt: skip
    """Change a page's resolution, trim size and bleed; no pixel changes."""
    old = book.read(PAGES.key(page), Page)
    if not 30 <= dpi <= 4800:
        raise BadInput("A page has 30 to 4800 dpi, not {0:g}.", dpi)
    if not 0 <= bleed_mm <= 50:
        raise BadInput("Bleed goes from 0 to 50 mm, not {0:g} mm.", bleed_mm)
    size = old.cols / dpi * 25.4, old.rows / dpi * 25.4
    if trim_mm is not None and not (0 < trim_mm[0] <= size[0] + 0.01 and 0 < trim_mm[1] <= size[1] + 0.01):
        raise BadInput(
            "The trim of {0:g} × {1:g} mm does not fit on the page of {2:.1f} × {3:.1f} mm. Grow the page first.",
            trim_mm[0],
            trim_mm[1],
            size[0],
            size[1],
        )
    page_now = msgspec.structs.replace(old, dpi=dpi, trim_mm=trim_mm, bleed_mm=bleed_mm)
    put(book, "set-print", "Change size and trim", (PAGES.key(page), page_now))


@order
def crop_page(book: Book, page: int, rect: Rect, title: str = "") -> None:
    """Make the page end at a rectangle in its own pixels, which may lie beyond its edges (the page then grows)."""
    top, left, bottom, right = rect
    if not 0 < bottom - top <= PAGE_MOST or not 0 < right - left <= PAGE_MOST:
        raise BadInput("A page has 1 to {0} px a side, not {1} × {2} px.", PAGE_MOST, right - left, bottom - top)
    if (bottom - top) * (right - left) > PAGE_MOST_PX:
        raise BadInput("A page has up to {0:.0f} megapixels, not {1:.0f}.", PAGE_MOST_PX / 1e6,
                       (bottom - top) * (right - left) / 1e6)  # fmt: skip
    old = book.read(PAGES.key(page), Page)
    grows = top < 0 or left < 0 or bottom > old.rows or right > old.cols
    _reframe(book, page, Place(0.0, 1.0, -top, -left), (bottom - top, right - left),
             title or ("Grow the page" if grows else "Crop the page"))  # fmt: skip


@order
def straighten_page(book: Book, page: int, turn_deg: float) -> None:
    """Turn the page by some degrees, clockwise, about its middle; shade and repair turn with it."""
    if not -45 <= turn_deg <= 45:
        raise BadInput("A page is straightened by up to 45 degrees, not {0:g}.", turn_deg)
    old = book.read(PAGES.key(page), Page)
    turn = turned_about((old.rows - 1) / 2, (old.cols - 1) / 2, turn_deg)
    _reframe(book, page, turn, (old.rows, old.cols), say("Turn the page by {0:g} degrees", turn_deg))


def _reframe(book: Book, page: int, place: Place, shape: tuple[int, int], title: str) -> None:
    """Move everything on a page: planes, and all that is remembered by its position; pours follow by `recut`."""
    old, sources, move = book.read(PAGES.key(page), Page), book.sources(page), Move(place, shape)
    moved = msgspec.structs.replace(old, rows=shape[0], cols=shape[1], frame=old.frame.then(place))
    changes = [book.change(PAGES.key(page), moved)]
    for kind in PAGE_KINDS.values():
        changes += _one_moved(book, page, kind, move) if isinstance(kind, PageValue) else (
            _all_moved(book, page, kind, move))  # fmt: skip
    if sources.cut.cuts:
        changes.append(book.change(CUT_BY.key(page), sources.cut.cuts))
    tiles: list[TileChange] = []
    for name in book.planes(page):
        if book.plane(name).any():
            plane = book.plane(name).whole()
            tiles += _replaced(name, plane, lay(beneath(book, page, name, plane), place, shape, 0, hard=True))
    book.apply(Edit("reframe", title, _settled(changes), tuple(tiles)))


def _one_moved(book: Book, page: int, kind: PageValue[Any], move: Move) -> list[Change]:
    """Return what makes the one value of a kind lie where it is after the page was moved."""
    if kind.moved is None:
        return []
    value = book.sources(page)[kind]
    moved = kind.moved(value, move)
    return [] if moved == value else [book.change(kind.key(page), moved)]


def _all_moved(book: Book, page: int, kind: PageKind[Any, Any], move: Move) -> list[Change]:
    """Return what makes the values of a kind lie where they are after the page was moved."""
    values = book.sources(page)[kind]
    if kind.moved is not None:
        found = {by: kind.moved(value, move) for by, value in values.items()}
        return [book.change(kind.key(page, by), value) for by, value in found.items() if value != values[by]]
    if kind.moved_key is None:
        return []
    gone = [book.change(kind.key(page, by), None) for by in values]
    return gone + [book.change(kind.key(page, kind.moved_key(by, move.place)), value) for by, value in values.items()]


def _settled(changes: list[Change]) -> tuple[Change, ...]:
    """Join changes of the same key: the first 'before' and the last 'after'."""
    found: dict[str, Change] = {}
    for change in changes:
        known = found.get(change.key)
        found[change.key] = Change(change.key, known.before if known else change.before, change.after)
    return tuple(found.values())


def _replaced(name: str, old: U8, new: U8) -> list[TileChange]:
    """List all tiles of a plane that becomes another, of any size."""
    tiles = []
    rows, cols = (-(-max(a, b) // TILE) for a, b in zip(old.shape, new.shape, strict=True))
    for row in range(rows):
        for col in range(cols):
            cut = slice(row * TILE, (row + 1) * TILE), slice(col * TILE, (col + 1) * TILE)
            before, after = (pack_tile(plane[cut]) if plane[cut].size else None for plane in (old, new))
            if before is not None or after is not None:
                tiles.append(TileChange(name, row, col, before, after))
    return tiles


def recut(
    book: Book, page: int, pours: dict[int, int], sown: dict[int, int] | None = None, beneath: Beneath | None = None
) -> None:
    """Renumber pours, and what is sown, for the present line; undone together with the change before it.

    `beneath` is what lies under sheets that hide others now.
    """
    changes = recut_changes(book, page, book.sources(page).line.uncut, pours, sown or {})
    changes += (book.change(BENEATH.key(page), beneath),)
    book.apply(Edit("recut", "Carry colours to the new line", changes, joined=True))


def recut_changes(
    book: Book, page: int, line: LineState, pours: dict[int, int], sown: dict[int, int]
) -> tuple[Change, ...]:
    """Return what makes pours, and what is sown, those of a line without cuts."""
    changes: list[Change] = [book.change(CUT.key(page), line), book.change(CUT_BY.key(page), None)]
    known = {BALLOON, *book.pots()}
    pours = {atom: pot for atom, pot in pours.items() if pot in known}  # what was hidden may have been of one removed
    for kind, now in ((POURS, pours), (SOWN, sown)):
        old = book.sources(page)[kind]
        moved = (atom for atom in sorted(old.keys() | now.keys()) if old.get(atom) != now.get(atom))
        changes.extend(book.change(kind.key(page, atom), now.get(atom)) for atom in moved)
    return tuple(changes)
