# SPDX-License-Identifier: GPL-3.0-or-later
"""Verbs on placed pictures: laid on a page, moved, turned, pulled, reduced. Knows the book alone."""

import math

import msgspec

from drip_pot.book.asking import order
from drip_pot.book.book import Book
from drip_pot.book.numbers import OriginalNumber, PassNumber
from drip_pot.book.values import PASSES, Pass
from drip_pot.book.verbs.passes import EVERYWHERE, known_pass, lay_pass
from drip_pot.book.verbs.setting import put
from drip_pot.book.where import Scope
from drip_pot.core.errors import BadInput
from drip_pot.core.render import Placed, laid_in, meshed
from drip_pot.words import say


@order
def place_picture(
    book: Book,
    page: int,
    original: OriginalNumber,
    size: tuple[int, int],
    name: str = "Picture",
    scope: Scope = EVERYWHERE,
) -> int:
    """Lay a picture that the book has, of some rows and columns, over the passes of a page; return its pass.

    It lies in the middle, as large as the page allows, also where nothing is poured.
    """
    here = book.pages()[page]
    if min(size) < 1:
        raise BadInput("A picture without pixels cannot be laid on a page.")
    placed = Placed(original, laid_in(size, (here.rows, here.cols)))
    return lay_pass(book, page, Pass(name, "picture", mode="normal", strength=1.0, scope=scope, placed=placed))


@order
def move_picture(
    book: Book,
    page: int,
    number: PassNumber,
    down: float = 0.0,
    right: float = 0.0,
    scale: float = 1.0,
    turn_deg: float = 0.0,
) -> None:
    """Move a placed picture by pixels of the page, then scale and turn it (clockwise) about its middle.

    Raises
    ------
    BadInput
        If the pass is no picture, or it would become too small or too large.
    """
    if not (math.isfinite(scale) and 0.01 <= scale <= 100):
        raise BadInput("A picture is scaled by 0.01 to 100, not {0:g}.", scale)
    placed = known_picture(book, page, number)
    row = sum(r for r, _ in placed.grid) / len(placed.grid)
    col = sum(c for _, c in placed.grid) / len(placed.grid)
    cos, sin = scale * math.cos(math.radians(turn_deg)), scale * math.sin(math.radians(turn_deg))
    bend_picture(book, page, number, [
        (row + down + (r - row) * cos + (c - col) * sin, col + right + (c - col) * cos - (r - row) * sin)
        for r, c in placed.grid
    ])  # fmt: skip


@order
def bend_picture(book: Book, page: int, number: PassNumber, grid: list[tuple[float, float]]) -> None:
    """Pull the corners of a placed picture, or the points of its mesh, to places (row, col) on the page."""
    placed = known_picture(book, page, number)
    points = tuple((round(float(r), 2), round(float(c), 2)) for r, c in grid)
    _change(book, page, number, "Move the picture {0}", msgspec.structs.replace(placed, grid=points))


@order
def mesh_picture(book: Book, page: int, number: PassNumber, across: int, down: int) -> None:
    """Give a placed picture a mesh of so many cells, 1 to 8 a side; 1 and 1 pulls it by its corners."""
    placed = known_picture(book, page, number)
    if not (1 <= across <= 8 and 1 <= down <= 8):
        raise BadInput("A mesh has 1 to 8 cells a side, not {0} × {1}.", across, down)
    _change(book, page, number, "Mesh the picture {0}", meshed(placed, across, down))


@order
def reduce_placed(book: Book, page: int, number: PassNumber, flats: int, *, line: bool = True) -> None:
    """Reduce a placed picture to 2 to 32 flats, with a line round them if wanted; 0 shows it as it is."""
    placed = known_picture(book, page, number)
    _change(
        book,
        page,
        number,
        "Reduce the picture {0}",
        msgspec.structs.replace(placed, flats=flats, line=line and flats > 0),
    )


def known_picture(book: Book, page: int, number: int) -> Placed:
    """Return a placed picture; raises `BadInput` where the pass is none."""
    one = known_pass(book, page, number)
    if one.placed is None:
        raise BadInput("The pass {0} is no picture.", one.name)
    return one.placed


def _change(book: Book, page: int, number: int, title: str, placed: Placed) -> None:
    one = known_pass(book, page, number)
    changed = msgspec.structs.replace(one, placed=placed)
    put(book, "set-picture", say(title, one.name), (PASSES.key(page, number), changed))
