# SPDX-License-Identifier: GPL-3.0-or-later
"""What the line of a page, and so its atoms, follow from. Knows core's settings; nothing of colour."""

import msgspec

from drip_pot.book.numbers import PotNumber
from drip_pot.core.inks import Effect, InkSettings, Place
from drip_pot.core.props import PropView
from drip_pot.core.regions import Cut


class InkState(msgspec.Struct, frozen=True):
    """All that decides a sheet's line: settings, and specks erased or kept by hand as (row, col)."""

    settings: InkSettings = InkSettings()
    erased: tuple[tuple[int, int], ...] = ()
    kept: tuple[tuple[int, int], ...] = ()


class SheetLine(msgspec.Struct, frozen=True):
    """What the line of one sheet is made from."""

    original: int
    picture: int
    place: Place
    inks: InkState
    covers: bool = False
    view: PropView | None = None


ENGINE = 11
"""How lines are divided now; raised when the same line comes to give other atoms."""
FIRST_ENGINE = 3
"""How they were when books did not say so."""


class LineState(msgspec.Struct, frozen=True):
    """All that decides the atoms of a page.

    Attributes
    ----------
    rows, cols, frame
        The page.
    sheets : tuple of SheetLine
        Its contour sheets.
    strokes, tones : tuple of (row, col)
        A pixel of each stroke that is detail, and of each area that is tone.
    repair : int
        Checksum of the repair sheet; 0 is an empty one.
    cuts : tuple of paths and stencils
        Dams and cut-outs in the order they were made; kept beside the line in the book, not with it.
    engine : int
        Which way of dividing gave the atoms that colours were poured into.
    """

    rows: int
    cols: int
    frame: Place
    sheets: tuple[SheetLine, ...]
    strokes: tuple[tuple[int, int], ...] = ()
    tones: tuple[tuple[int, int], ...] = ()
    repair: int = 0
    cuts: tuple[Cut, ...] = ()
    engine: int = FIRST_ENGINE

    @property
    def uncut(self) -> "LineState":
        """The same line without cuts, by which the page is found."""
        return msgspec.structs.replace(self, cuts=()) if self.cuts else self

    @property
    def plain(self) -> "LineState":
        """The contour sheets alone: without cuts, mending, detail and tone."""
        return msgspec.structs.replace(self, strokes=(), tones=(), repair=0, cuts=())

    @property
    def by_hand(self) -> "LineState":
        """What was drawn alone, without props; where there is nothing else, all of it."""
        drawn = tuple(sheet for sheet in self.sheets if sheet.view is None)
        return msgspec.structs.replace(self, sheets=drawn) if drawn and drawn != self.sheets else self


class Beneath(msgspec.Struct, frozen=True):
    """What a page was poured with before a sheet came to hide some of it: the line, cuts and all, and its pours."""

    line: LineState
    pours: dict[int, PotNumber]


class OverState(msgspec.Struct, frozen=True):
    """All that lies over the contour: detail, lettering and effect sheets, and effect lines with their colours."""

    details: tuple[SheetLine, ...] = ()
    lettering: tuple[SheetLine, ...] = ()
    effects: tuple[tuple[SheetLine, str], ...] = ()
    drawn: tuple[Effect, ...] = ()

    @property
    def colors(self) -> list[str]:
        """The colours of effects, in order: sheets first."""
        return list(dict.fromkeys([c for _, c in self.effects] + [e.color for e in self.drawn]))
