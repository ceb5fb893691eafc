# SPDX-License-Identifier: GPL-3.0-or-later
"""The coloured line of three works of the demo book: some for the whole book, some for a page. Knows verbs only."""

from drip_pot.book import Book, verbs
from drip_pot.book.values import Hold
from drip_pot.book.where import Scope
from drip_pot.core.render import Ramp, Stop


def hold_lines(book: Book, page: int, name: str) -> None:
    """Colour the line of one of the finished works by its short name; the first one colours that of the whole book."""
    pots = {pot.name: number for number, pot in book.pots().items()}
    parts = {part.name: number for number, part in book.parts().items()}

    def of_pots(*names: str) -> Scope:
        return Scope(pots=tuple(pots[n] for n in names))

    def of_parts(*names: str) -> Scope:
        return Scope(parts=tuple(parts[n] for n in names))

    def shared(hold: Hold) -> None:
        if hold.name not in {known.name for known in book.holds().values()}:
            verbs.share_hold(book, page, verbs.add_hold(book, page, hold))

    shared(Hold("Far away", of_parts("Distance"), amount=0.36, chroma=0.9, side="darker"))
    shared(Hold("Sun and glow", of_pots("Sun", "Glow", "Halo"), how="beneath"))
    shared(Hold("Skin", of_pots("Skin"), amount=0.5, chroma=1.5))
    rows, cols = book.pages()[page].rows, book.pages()[page].cols
    if name == "page-1":
        verbs.add_hold(
            book,
            page,
            Hold("Bricks and tiles", of_parts("Rooftops"), ("inner", "stroke", "string", "detail"), amount=0.6),
        )
    elif name == "page-4":
        verbs.add_hold(book, page, Hold("Lightning", of_pots("Lightning"), how="fixed", color="#7f95d8"))
        verbs.add_hold(book, page, Hold("Storm clouds", of_pots("Storm cloud", "Storm dark", "Night glow"), amount=0.5))
        verbs.add_hold(book, page, Hold("Town at night", of_parts("Night town"), amount=0.62))
    elif name == "cover":
        run = Ramp((0.0, cols / 2), (0.9 * rows, cols / 2), (Stop(0, "#8c2f1c"), Stop(1, "#3a1c4a")))
        verbs.add_hold(book, page, Hold("Kite lines", of_parts("Kites"), how="ramp", ramp=run))
        verbs.add_hold(book, page, Hold("Clouds", of_parts("Clouds"), amount=0.4))
