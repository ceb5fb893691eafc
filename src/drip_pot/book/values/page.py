# SPDX-License-Identifier: GPL-3.0-or-later
"""Values of a page as a whole: its size, its line as it was divided, how it is divided. Knows core's settings."""

from typing import Any

import msgspec

from drip_pot.book.numbers import PotNumber
from drip_pot.book.values.kind import BookKind, PageKind, PageValue
from drip_pot.book.values.line_state import ENGINE, Beneath, LineState
from drip_pot.core.inks import Place
from drip_pot.core.regions import Cut


class Page(msgspec.Struct, frozen=True):
    """A drawing.

    Attributes
    ----------
    rows, cols, dpi
        Its size in pixels and its resolution.
    original, picture : int
        The file its first sheet was read from, and which picture of that file.
    frame : Place
        Where the page as it was brought in lies on the page as it is now: cropped, grown, straightened.
    trim_mm : tuple of float, or None
        Width and height of the trimmed sheet, which lies in the middle of the page; None is the whole page.
    bleed_mm : float
        How far the art goes beyond the trim.
    """

    name: str
    rows: int
    cols: int
    dpi: float
    original: int
    order: int = 0
    picture: int = 0
    frame: Place = Place()
    trim_mm: tuple[float, float] | None = None
    bleed_mm: float = 0.0


class Flats(msgspec.Struct, frozen=True):
    """How a page is divided: bridges up to a width, regions from a size on, in pixels; None is by the page."""

    gap_px: float | None = None
    least_px: int | None = None


PAGES: BookKind[int, Page] = BookKind("page", int, Page, ("page", "pages"), frozenset({"pages", "sequence"}))
FLATS: PageValue[Flats] = PageValue("flats", Flats, Flats(), "gap width and smallest region", frozenset({"ways"}))
ENGINE_OF: PageValue[int] = PageValue("engine", int, ENGINE, "engine that divided it")
CUT: PageValue[LineState | None] = PageValue(
    "cut", LineState, None, "line that was divided", frozenset({"colors", "engine"})
)
CUT_BY: PageValue[tuple[Cut, ...]] = PageValue("cut-by", tuple[Cut, ...], (), "cuts it was divided by")
BEFORE: PageValue[LineState | None] = PageValue("before", LineState, None, "line before it was replaced")
BENEATH: PageValue[Beneath | None] = PageValue("beneath", Beneath, None, "what lies under sheets that hide others")
LEFT: PageKind[str, Any] = PageKind("left", str, Any, ("finding left alone", "findings left alone"))
PINS: PageKind[int, int] = PageKind("pin", int, PotNumber, ("pot pinned to a key", "pots pinned to keys"))
