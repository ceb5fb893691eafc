# SPDX-License-Identifier: GPL-3.0-or-later
"""Pictures, props and finished flats brought to pages from the command line. Knows files and the book; no window."""

from pathlib import Path
from typing import Annotated

import typer

from drip_pot.core.errors import BadInput
from drip_pot.words import tr


def place_picture(
    book: Annotated[Path, typer.Argument(metavar="BOOK", help="A .drip file.", show_default=False)],
    picture: Annotated[Path, typer.Argument(metavar="PICTURE", help="An image file.", show_default=False)],
    page: Annotated[int, typer.Option(help="The page, counted from 1.")] = 1,
    name: Annotated[str | None, typer.Option(help="What the pass is called; after the file if not given.")] = None,
    flats: Annotated[int, typer.Option(min=0, max=32, help="Reduce it to so many flats; 0 leaves it.")] = 0,
    part: Annotated[list[str] | None, typer.Option(help="Only over this part; may be given again.")] = None,
) -> None:
    """Lay a picture over the flats of a page, as a pass that stays movable; its file is kept in the book.

    Example: drip-pot place kites.drip dusk.png --page 5 --part Sky
    """
    from drip_pot.book import verbs
    from drip_pot.book.where import Scope
    from drip_pot.files import read_placed, working_in

    data, size = read_placed(picture)
    with working_in(book) as (file, document):
        pages = list(document.pages())
        if not 1 <= page <= len(pages):
            raise BadInput("{0} has {1} pages; there is no page {2}.", book.name, len(pages), page)
        by_name = {one.name: number for number, one in document.parts().items()}
        missing = next((one for one in part or () if one not in by_name), None)
        if missing is not None:
            raise BadInput("{0} has no part {1}. It has {2}.", book.name, missing, ", ".join(by_name))
        scope = Scope(parts=tuple(by_name[one] for one in part or ()))
        number = pages[page - 1]
        with document.as_one():
            original = file.add_original(picture.name, data)
            made = verbs.place_picture(document, number, original, size, name or picture.stem, scope)
            if flats:
                verbs.reduce_placed(document, number, made, flats)
    print(tr("{0} lies on page {1} as pass {2}, {3} × {4} px", picture.name, page, made, size[1], size[0]))


def stand_prop(
    book: Annotated[Path, typer.Argument(metavar="BOOK", help="A .drip file.", show_default=False)],
    mesh: Annotated[Path, typer.Argument(metavar="MESH", help="An .obj, .glb or .gltf file.", show_default=False)],
    page: Annotated[int, typer.Option(help="The page, counted from 1.")] = 1,
    at: Annotated[
        str | None, typer.Option(help="Its middle, as row,column in pixels; the middle of the page if not given.")
    ] = None,
    size: Annotated[int | None, typer.Option(help="Its size in pixels; a third of the page if not given.")] = None,
    turn: Annotated[float, typer.Option(help="Turned about its upright, in degrees.")] = 30.0,
    tilt: Annotated[float, typer.Option(help="Tipped towards the eye, in degrees.")] = 20.0,
) -> None:
    """Stand a solid thing on a page as line that hides what is behind it; it stays turnable.

    Example: drip-pot prop kites.drip handcart.obj --page 3 --at 5200,900 --size 900 --turn 40
    """
    from drip_pot.book import verbs
    from drip_pot.files import hand_on, read_mesh, working_in

    data, _ = read_mesh(mesh)
    with working_in(book) as (file, document):
        pages = list(document.pages())
        if not 1 <= page <= len(pages):
            raise BadInput("{0} has {1} pages; there is no page {2}.", book.name, len(pages), page)
        number = pages[page - 1]
        here = document.pages()[number]
        row, col = _spot(at) if at else (here.rows / 2, here.cols / 2)
        wide = size or round(min(here.rows, here.cols) / 3)
        line_px = hand_on(file, document, number).divided.atoms.line_px
        with document.as_one():
            original = file.add_original(mesh.name, data)
            made = verbs.stand_prop(document, number, original, mesh.stem, row, col, wide, max(1.0, line_px))
            verbs.turn_prop(document, number, made, turn_deg=turn, tilt_deg=tilt)
    print(tr("{0} stands on page {1} as sheet {2}", mesh.name, page, made))


def _spot(text: str) -> tuple[float, float]:
    row, comma, col = text.partition(",")
    try:
        return float(row), float(col if comma else "")
    except ValueError as error:
        raise BadInput("'{0}' is no place. Write row,column in pixels, for example 5200,900.", text) from error


def bring_flats(
    book: Annotated[Path, typer.Argument(metavar="BOOK", help="A .drip file; made if it is not there.")],
    flats: Annotated[
        Path, typer.Argument(metavar="FLATS", help="An image of the finished flats, or OpenRaster with layers.")
    ],
    line: Annotated[Path | None, typer.Option(help="The line they belong to: becomes a page of its own.")] = None,
    page: Annotated[int | None, typer.Option(help="The page they are for, counted from 1, without a --line.")] = None,
) -> None:
    """Turn finished flats and their line, two files, into a page with pots and regions.

    Example: drip-pot bring-flats kites.drip page-7-flats.png --line page-7.png
    """
    from drip_pot.files import hand_on, import_page, new_book, open_book, read_flats, take_flats, take_layers

    if (line is None) == (page is None):
        raise BadInput("Say either the line (--line FILE) or the page that has it already (--page N).")
    file, document = open_book(book) if book.exists() or line is None else new_book(book, book.stem, starter=False)
    try:
        pages = list(document.pages())
        if page is not None and not 1 <= page <= len(pages):
            raise BadInput("{0} has {1} pages; there is no page {2}.", book.name, len(pages), page)
        number = import_page(file, document, line)[0] if line is not None else pages[(page or 1) - 1]
        hand = hand_on(file, document, number)
        layered = flats.suffix.lower() == ".ora"
        told = take_layers(hand, flats) if layered else take_flats(hand, read_flats(flats, hand.shape))
        place = list(document.pages()).index(number) + 1
    finally:
        file.close()
    print(tr("page {0}: {1}", place, told))
