# SPDX-License-Identifier: GPL-3.0-or-later
"""Values of coloured line: holds, and the colour of every other line. Knows core's settings."""

from collections.abc import Mapping
from typing import Literal

import msgspec

from drip_pot.book.values.kind import Colored, Move, PageKind, PageValue, Plane, Whole, moved_path
from drip_pot.book.values.shade import worn
from drip_pot.book.where import Scope
from drip_pot.core.render import Ramp


class Lines(msgspec.Struct, frozen=True):
    """Colour of every line that no hold changes, and of the inside of balloons, '#rrggbb'. Pure black overprints."""

    color: str = "#000000"
    balloon: str = "#ffffff"


LineKind = Literal["outline", "inner", "stroke", "detail", "string", "frame", "solid", "letters", "balloon", "effect"]
LINE_KINDS: dict[LineKind, str] = {
    "outline": "between two parts, or a part and paper",
    "inner": "within one part",
    "stroke": "free strokes: a crease, a whisker",
    "detail": "on detail sheets, and tone",
    "string": "across a ground, or over it",
    "frame": "round panels",
    "solid": "solid blacks",
    "letters": "letters and sounds",
    "balloon": "outlines of balloons",
    "effect": "effects and their sheets",
}
"""What a line can be, and what that means."""
USUAL: tuple[LineKind, ...] = ("outline", "inner", "stroke", "detail")
HoldColor = Literal["darker", "fixed", "ramp", "beneath", "paper"]
HOLD_COLORS: dict[HoldColor, str] = {
    "darker": "darker than what it outlines",
    "fixed": "one colour",
    "ramp": "a ramp over the page",
    "beneath": "knocked out to the colour beneath",
    "paper": "knocked out to paper",
}
Side = Literal["front", "lighter", "darker"]


class Hold(msgspec.Struct, frozen=True):
    """Line in a colour of its own.

    Attributes
    ----------
    scope : Scope
        Whose lines: what they outline lies there.
    kinds : tuple of str
        Which of them, of `LINE_KINDS`.
    spots : tuple of (row, col)
        A page pixel of each stroke picked by hand; then scope and kinds say nothing.
    brushed : bool
        Whether only what was brushed is held; else what was brushed is what was taken out. Marks lie in the plane
        'hold/<number>'.
    how : str
        One of `HOLD_COLORS`.
    amount : float
        How much darker, 0..1; 1 is black.
    chroma : float
        How colourful that is, against the usual, 0..2.
    side : str
        Which of two sides a line belongs to: the one in front, the lighter or the darker one.
    color : str
        '#rrggbb' of one colour.
    ramp : Ramp or None
        Of a ramp.
    strength : float
        0..1.
    feather_mm : float
        How far it fades in where it meets other line, 0..20.
    shown : bool
        Whether it is seen, and printed.
    order : int
        Later ones lie over earlier ones.
    """

    name: str = "Hold"
    scope: Scope = Scope()
    kinds: tuple[LineKind, ...] = USUAL
    spots: tuple[tuple[float, float], ...] = ()
    brushed: bool = False
    how: HoldColor = "darker"
    amount: float = 0.55
    chroma: float = 1.0
    side: Side = "front"
    color: str = "#3a2418"
    ramp: Ramp | None = None
    strength: float = 1.0
    feather_mm: float = 0.0
    shown: bool = True
    order: int = 0


def _holds(found: dict[int, Hold], whole: Whole) -> dict[int, Hold]:
    every: Mapping[int, Hold] = {**whole.shared, **found}
    return dict(sorted(every.items(), key=lambda item: (item[1].order, item[0])))


def _moved(hold: Hold, move: Move) -> Hold:
    return msgspec.structs.replace(hold, spots=moved_path(hold.spots, move))


LINES: PageValue[Lines] = PageValue(
    "lines", Lines, Lines(), "line colours", frozenset({"colors"}),
    colored=Colored("lines", lambda lines: None if lines == Lines() else lines, lambda _, lines: lines or Lines()),
)  # fmt: skip
HOLDS: PageKind[int, Hold] = PageKind(
    "hold", int, Hold, ("hold", "holds"), frozenset({"colors"}),
    moved=_moved,
    filled=_holds,
    goes_with_light=True,
    colored=Colored("holds", lambda hold: (hold.color, hold.ramp), worn),
)  # fmt: skip
MARKS = Plane("hold", lambda values: tuple(values(HOLDS)))
"""What was brushed into a hold or out of it, by its number."""
