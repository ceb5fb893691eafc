# SPDX-License-Identifier: GPL-3.0-or-later
"""The page as it was after so many steps, to compare with. Knows the snapshot and the book; changes nothing."""

from drip_pot.book import Book, PageSources
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
