"""What a book holds: plain values with names. Knows core's settings; nothing of files, edits or windows."""

import msgspec

from drip_pot.core.inks import InkSettings
from drip_pot.core.press import PressSettings


class BookInfo(msgspec.Struct, frozen=True):
    """The book's own name."""

    title: str = "Untitled book"


class Part(msgspec.Struct, frozen=True):
    """A named group of pots; `order` sorts parts on the shelf."""

    name: str
    order: int = 0


class Pot(msgspec.Struct, frozen=True):
    """A named colour.

    Attributes
    ----------
    part : int
        Number of its part.
    local, shadow : str
        '#rrggbb'; a shadow of None is worked out from the local colour by the book's tone rule.
    order : int
        Sorts pots within their part.
    """

    name: str
    part: int
    local: str
    shadow: str | None = None
    order: int = 0


class Page(msgspec.Struct, frozen=True):
    """A drawing: its size in pixels, its resolution, and the number of its original image."""

    name: str
    rows: int
    cols: int
    dpi: float
    original: int
    order: int = 0


class InkState(msgspec.Struct, frozen=True):
    """All that decides a page's line: settings, and specks erased by hand as (row, col)."""

    settings: InkSettings = InkSettings()
    erased: tuple[tuple[int, int], ...] = ()


class Flats(msgspec.Struct, frozen=True):
    """How gaps are closed: the width in pixels, or None to work it out from the page."""

    gap_px: float | None = None


class Lines(msgspec.Struct, frozen=True):
    """Colour of every line that no hold changes, '#rrggbb'. Pure black overprints."""

    color: str = "#000000"


class Hold(msgspec.Struct, frozen=True):
    """Lines of a part, darker than the colour they border by `amount` (0..1; 1 is black)."""

    amount: float = 0.55


class PageSources(msgspec.Struct, frozen=True):
    """Everything a page is derived from, as one unchanging snapshot.

    Attributes
    ----------
    choices : tuple of (row, col, keep)
        Bridges decided by hand.
    pours : dict
        Pot by atom; atoms are numbered as `cut` numbers them.
    cut : InkState
        The ink that the atoms in `pours` were found in.
    """

    page: Page
    inks: InkState
    flats: Flats
    choices: tuple[tuple[float, float, bool], ...]
    cut: InkState
    pours: dict[int, int]
    lines: Lines
    holds: dict[int, Hold]
    press: PressSettings
    left: frozenset[str]
