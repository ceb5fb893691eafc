# SPDX-License-Identifier: GPL-3.0-or-later
"""The page as it was after so many steps, and where a step was done. Knows the snapshot and the book only."""

from drip_pot.book import Book, PageSources
from drip_pot.book.store import TILE, Edit
from drip_pot.book.values import POURS
from drip_pot.core.arrays import Rect
from drip_pot.core.errors import NothingDone
from drip_pot.core.regions import divide
from drip_pot.desk.session.page_view import PageView, covers_of, recut


def view_at(view: PageView, book: Book, sources: PageSources, page: int, position: int) -> PageView:
    """Return the page as it was after so many steps.

    Raises
    ------
    NothingDone
        If its line was another one then, or its regions are still being found.
    """
    if view.flat is None:
        raise NothingDone("The regions are still being found. Try again in a moment.")
    past = book.at(position)
    if page not in past.pages() or (old := past.sources(page)).line.uncut != sources.line.uncut:
        raise NothingDone("The line itself was another one then. Choose a later step to compare with.")
    after = divide(view.flat.divided, view.drawing.ink[0], old.line.cuts)
    flat, _ = recut(view.flat, after, past, old)
    return PageView(view.drawing, covers_of(past, page), flat)


def place_of(edit: Edit, view: PageView) -> Rect | None:
    """Return where on the page shown an edit was done: its painted tiles, the regions it names; None for nowhere."""
    found = [(t.row * TILE, t.col * TILE, (t.row + 1) * TILE, (t.col + 1) * TILE) for t in edit.tiles]
    if view.flat is not None:
        kinds = [change.key.split("/")[2:] for change in edit.changes]
        atoms = [int(kind[1]) for kind in kinds if kind[:1] == [POURS.name] and len(kind) == 2 and kind[1].isdecimal()]
        found += view.flat.boxes(atoms)
    if not found:
        return None
    top, left, bottom, right = zip(*found, strict=True)
    return min(top), min(left), max(bottom), max(right)
