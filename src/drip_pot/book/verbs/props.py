# SPDX-License-Identifier: GPL-3.0-or-later
"""Verbs on props: a solid thing stood on a page, turned, moved, coloured by the lamp. Knows a page at hand."""

from contextlib import suppress
from functools import partial

import msgspec
import numpy as np

from drip_pot.book.asking import order
from drip_pot.book.book import Book
from drip_pot.book.hand import Hand
from drip_pot.book.numbers import OriginalNumber, PotNumber, SheetNumber
from drip_pot.book.values import POTS, SHEETS, TONE, InkState, Pot, Sheet
from drip_pot.book.verbs.flats import pour
from drip_pot.book.verbs.layers import paint
from drip_pot.book.verbs.setting import put
from drip_pot.book.verbs.sheets import add_sheet
from drip_pot.core.arrays import U8, Bool
from drip_pot.core.errors import BadInput, NothingDone
from drip_pot.core.inks import InkSettings, Place, lay
from drip_pot.core.props import PropView, draw_prop, lit
from drip_pot.words import say

_PLAIN = InkState(InkSettings(255, 0, even_paper=False))
_INSIDE = 0.6


@order
def stand_prop(
    book: Book,
    page: int,
    original: OriginalNumber,
    name: str,
    row: float,
    col: float,
    size_px: int,
    line_px: float = 4.0,
) -> int:
    """Stand a mesh that the book has on a page, its middle at a place; return the number of its sheet.

    It is a sheet of line that hides the line behind it.
    """
    view = PropView(size_px=size_px, line_px=line_px)
    place = _about(row, col, view)
    return add_sheet(book, page, Sheet(name, "contour", original, place=place, view=view, covers=True), _PLAIN)


@order
def turn_prop(
    book: Book, page: int, number: SheetNumber, turn_deg: float | None = None, tilt_deg: float | None = None,
    roll_deg: float | None = None, depth: float | None = None, size_px: int | None = None, line_px: float | None = None,
) -> None:  # fmt: skip
    """Look at a prop in another way; it stays where its middle is."""
    sheet = known_prop(book, page, number)
    assert sheet.view is not None
    given = {"turn_deg": turn_deg, "tilt_deg": tilt_deg, "roll_deg": roll_deg, "depth": depth, "size_px": size_px,
             "line_px": line_px}  # fmt: skip
    view = msgspec.structs.replace(sheet.view, **{k: v for k, v in given.items() if v is not None})
    PropView(*msgspec.structs.astuple(view))  # checked as it was when it was made
    row, col = _middle(sheet)
    sizes = {name for name, value in given.items() if value is not None} <= {"size_px"}
    title = "Change the size of {0}" if sizes else "Turn {0}"
    _change(book, page, number, title, msgspec.structs.replace(sheet, view=view, place=_about(row, col, view)))


@order
def move_prop(book: Book, page: int, number: SheetNumber, row: float, col: float) -> None:
    """Stand a prop elsewhere: its middle at a place of the page as it was brought in."""
    sheet = known_prop(book, page, number)
    assert sheet.view is not None
    _change(book, page, number, "Move {0}", msgspec.structs.replace(sheet, place=_about(row, col, sheet.view)))


@order
def light_prop(
    hand: Hand, number: SheetNumber, pot: PotNumber, right: float = -0.5, up: float = 0.7, toward: float = 0.5
) -> None:
    """Pour a pot into a prop and lay its shadow where it is turned from the light, which points right, up, to us.

    Raises
    ------
    BadInput
        If the sheet is no prop, its mesh is missing, or there is no such pot.
    NothingDone
        If none of its regions is found on the page.
    """
    book, page = hand.book, hand.page
    sheet = known_prop(book, page, number)
    mesh = book.meshes(sheet.original)
    book.read(POTS.key(pot), Pot)
    if mesh is None or sheet.view is None:
        raise BadInput("The mesh of {0} is damaged or missing. Remove the prop and stand it again.", sheet.name)
    drawing = draw_prop(mesh, sheet.view)
    place, shape = sheet.place.then(hand.sources.line.frame), hand.shape
    solid = lay(drawing.solid, place, shape, 0, hard=True) > 0
    if not solid.any():
        raise NothingDone("{0} lies beside the page.", sheet.name)
    rows, cols = np.flatnonzero(solid.any(axis=1)), np.flatnonzero(solid.any(axis=0))
    rect = int(rows[0]), int(cols[0]), int(rows[-1]) + 1, int(cols[-1]) + 1
    cut = slice(rect[0], rect[2]), slice(rect[1], rect[3])
    atoms = hand.atoms_in(hand.regions_in(rect, solid[cut], _INSIDE)) - {0}
    if not atoms:
        raise NothingDone("No region of {0} was found. Close the gaps in its line first.", sheet.name)
    light = lit(mesh, sheet.view, drawing, (right, up, toward))
    dark = lay(np.where(drawing.face >= 0, 1 - light, 0).astype(np.uint8), place, shape, 0, hard=True) > 0
    mine = np.zeros(len(hand.areas), bool)
    mine[list(atoms)] = True
    with book.as_one():
        pour(book, page, atoms, pot, len(atoms))
        inside = mine[hand.labels[cut]]
        shaded = dark[cut] & inside
        for where, away in ((inside & ~shaded, True), (shaded, False)):
            if where.any():
                with suppress(NothingDone):  # it is lit so already
                    paint(hand, TONE, rect, where, partial(_laid, where, away), say("Light {0}", sheet.name), away=away)


def _laid(where: Bool, away: bool, under: U8) -> U8:
    return np.where(where, 0 if away else 255, under).astype(np.uint8)


def known_prop(book: Book, page: int, number: int) -> Sheet:
    """Return a prop's sheet; raises `BadInput` where the sheet is none."""
    sheet = book.sources(page)[SHEETS].get(number)
    if sheet is None or sheet.view is None:
        raise BadInput("Sheet {0} of this page is no prop.", number)
    return sheet


def _about(row: float, col: float, view: PropView) -> Place:
    return Place(0.0, 1.0, float(round(row - view.size_px / 2)), float(round(col - view.size_px / 2)))


def _middle(sheet: Sheet) -> tuple[float, float]:
    half = 0 if sheet.view is None else sheet.view.size_px / 2
    return sheet.place.down_px + half, sheet.place.right_px + half


def _change(book: Book, page: int, number: int, title: str, sheet: Sheet) -> None:
    put(book, "set-prop", say(title, sheet.name), (SHEETS.key(page, number), sheet))
