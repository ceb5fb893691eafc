# SPDX-License-Identifier: GPL-3.0-or-later
"""Verbs on the line: sheets, ink, mending, effects. Knows no window, no file."""

from collections.abc import Iterable
from typing import Literal

import msgspec
import numpy as np

from drip_pot.book.asking import order
from drip_pot.book.book import Book
from drip_pot.book.numbers import EffectNumber, SheetNumber
from drip_pot.book.values import BEFORE, EFFECTS, INKS, SHEETS, STROKES, TONES, InkState, Role, Sheet
from drip_pot.book.verbs.pages import crop_page
from drip_pot.book.verbs.setting import named, put
from drip_pot.core.color import from_hex
from drip_pot.core.errors import BadInput
from drip_pot.core.inks import Effect, squared_by
from drip_pot.words import say

_MADE: dict[Role, str] = {
    "contour": "Make {0} contour", "detail": "Make {0} detail", "lettering": "Make {0} lettering",
    "effect": "Make {0} an effect",
}  # fmt: skip
_ADDED = {"burst": "Add a burst", "speed": "Add speed lines", "focus": "Add focus lines"}
_CHANGED = {"burst": "Change a burst", "speed": "Change speed lines", "focus": "Change focus lines"}
_REMOVED = {"burst": "Remove a burst", "speed": "Remove speed lines", "focus": "Remove focus lines"}


@order
def set_inks(book: Book, page: int, inks: InkState, title: str = "Adjust the line", sheet: SheetNumber = 0) -> None:
    """Change how a sheet's line is made; pours are carried over by `recut` once it is known."""
    put(book, "set-inks", title, (INKS.key(page, sheet), inks))


@order
def add_sheet(book: Book, page: int, sheet: Sheet, inks: InkState) -> int:
    """Lay another sheet on a page; return its number."""
    sheets = book.sources(page)[SHEETS]
    number = max(sheets) + 1
    sheet = msgspec.structs.replace(
        sheet, name=named(sheet.name, "sheet"), order=max(s.order for s in sheets.values()) + 1
    )
    put(book, "add-sheet", say("Add sheet {0}", sheet.name), (SHEETS.key(page, number), sheet),
         (INKS.key(page, number), inks))  # fmt: skip
    return number


@order
def set_sheet(book: Book, page: int, number: SheetNumber, title: str = "", **values: object) -> None:
    """Change a sheet's name, role, place, color or whether it is shown."""
    old = book.sources(page)[SHEETS][number]
    sheet = msgspec.structs.replace(old, **values)
    named(sheet.name, "sheet")
    from_hex(sheet.color)
    said = title or say("Change sheet {0}", old.name)
    if sheet.role != old.role:
        said = say(_MADE[sheet.role], sheet.name)
    elif sheet.shown != old.shown:
        said = say("Show sheet {0}" if sheet.shown else "Hide sheet {0}", sheet.name)
    elif sheet.name != old.name:
        said = say("Name a sheet {0}", sheet.name)
    put(book, "set-sheet", said, (SHEETS.key(page, number), sheet))


@order
def move_sheet(book: Book, page: int, number: SheetNumber, step: int) -> None:
    """Move a sheet along the shelf: -1 is one place to the left."""
    sheets = book.sources(page)[SHEETS]
    order = list(sheets)
    place = order.index(number)
    target = min(max(place + step, 0), len(order) - 1)
    order.insert(target, order.pop(place))
    pairs = [(SHEETS.key(page, n), msgspec.structs.replace(sheets[n], order=k)) for k, n in enumerate(order)]
    if target != place:
        put(book, "move-sheet", say("Move sheet {0}", sheets[number].name), *pairs)


@order
def remove_sheet(book: Book, page: int, number: SheetNumber) -> None:
    """Take a sheet off a page; its file stays in the book, so undo brings it back.

    Raises
    ------
    BadInput
        For the page's first sheet, which can be hidden, replaced or given another role instead.
    """
    name = book.sources(page)[SHEETS][number].name
    if number == 0:
        raise BadInput("{0} is the page's first sheet and cannot be taken off. Hide it or replace it.", name)
    put(book, "remove-sheet", say("Remove sheet {0}", name), (SHEETS.key(page, number), None),
         (INKS.key(page, number), None))  # fmt: skip


@order
def reink(book: Book, page: int, number: SheetNumber, sheet: Sheet, inks: InkState) -> None:
    """Put a corrected drawing in the place of a sheet; what was drawn before is remembered for Look here."""
    before = book.sources(page).line
    put(book, "reink", say("Re-ink {0}", sheet.name), (SHEETS.key(page, number), sheet),
         (INKS.key(page, number), inks), (BEFORE.key(page), before.uncut))  # fmt: skip


@order
def mark_spots(
    book: Book, page: int, kind: Literal["stroke", "tone"], spots: Iterable[tuple[int, int]], title: str, *, on: bool
) -> None:
    """Mark strokes ('stroke') as detail, or areas ('tone') as flat tint, each by one pixel; or take marks off."""
    marks = {one.name: one for one in (STROKES, TONES)}[kind]
    pairs = [(marks.key(page, (row, col)), True if on else None) for row, col in spots]
    put(book, f"mark-{kind}", title, *pairs)


@order
def set_effect(book: Book, page: int, number: EffectNumber | None, effect: Effect | None) -> int:
    """Add effect lines (number None), change them, or take them away (effect None); return their number."""
    known = book.sources(page)[EFFECTS]
    if effect is None and number is None:
        raise BadInput("Say which effect lines are to be taken away.")
    number = max(known, default=0) + 1 if number is None else number
    from_hex(effect.color if effect is not None else "#000000")
    kind = effect.kind if effect is not None else known[number].kind
    titles = _REMOVED if effect is None else _CHANGED if number in known else _ADDED
    put(book, "set-effect", titles[kind], (EFFECTS.key(page, number), effect))
    return number


@order
def square_sheet(book: Book, page: int, corners: list[tuple[float, float]], sheet: SheetNumber = 0) -> None:
    """Lay a drawing that was photographed at a slant square, by the corners of its paper on the page as it is.

    They go round clockwise from the drawing's top left; beside the page they may lie, too. A page of one sheet becomes
    as large as the paper.

    Raises
    ------
    BadInput
        If they are no corners of paper, or the sheet is a prop.
    """
    sources = book.sources(page)
    known, inks = sources[SHEETS][sheet], sources[INKS][sheet]
    if known.view is not None:
        raise BadInput("A prop is turned, not squared.")
    back = known.place.then(sources.line.frame).inverse()
    points = np.array([back.at(row, col) for row, col in corners], np.float64).reshape(-1, 2)
    before = inks.settings.square
    if before is not None:
        points = before.in_photograph(points)
    if points.shape != (4, 2):
        raise BadInput("Paper has four corners, that lie in the photograph or near it.")
    here = sources.page
    square = squared_by(points, (here.rows, here.cols) if before is None else before.photograph)
    with book.as_one(say("Lay {0} square", known.name)):
        settings = msgspec.structs.replace(inks.settings, square=square)
        set_inks(book, page, InkState(settings), "", sheet)
        if len(sources[SHEETS]) == 1 and back.at(0, 0) == (0, 0):
            crop_page(book, page, (0, 0, square.rows, square.cols))


@order
def erase_speck(book: Book, page: int, sheet: SheetNumber, row: int, col: int) -> None:
    """Take a speck out of a sheet."""
    inks = book.sources(page)[INKS][sheet]
    set_inks(book, page, msgspec.structs.replace(inks, erased=(*inks.erased, (row, col))), "Remove a speck", sheet)


@order
def take_paper_out(book: Book, page: int, white: int) -> None:
    """Make all that is as light as a grey of 0..255 paper, on the first sheet."""
    inks = book.sources(page)[INKS][0]
    settings = msgspec.structs.replace(inks.settings, white=white, black=min(inks.settings.black, white - 1))
    set_inks(book, page, msgspec.structs.replace(inks, settings=settings), "Take the paper out")
