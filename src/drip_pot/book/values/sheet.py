# SPDX-License-Identifier: GPL-3.0-or-later
"""Values of sheets: what they are for, their ink, effect lines, and line told apart by hand. Knows core's settings."""

from typing import Literal

import msgspec

from drip_pot.book.numbers import OriginalNumber
from drip_pot.book.values.kind import (
    Colored,
    Move,
    PageKind,
    Plane,
    Whole,
    moved_effect,
    moved_spot,
    spot_of,
    written_spot,
)
from drip_pot.book.values.line_state import InkState
from drip_pot.core.inks import Effect, Place
from drip_pot.core.props import PropView

Role = Literal["contour", "detail", "lettering", "effect"]
ROLES: dict[Role, str] = {
    "contour": "Contour: bounds colour",
    "detail": "Detail: drawn on top, bounds nothing",
    "lettering": "Lettering: balloons and letters on white, hidden while flatting",
    "effect": "Effect: in a colour of its own, bounds nothing",
}
"""What a sheet can be for, and what that means."""


class Sheet(msgspec.Struct, frozen=True):
    """A line sheet of a page.

    Attributes
    ----------
    role : str
        One of `ROLES`.
    original, picture : int
        The file it was read from, and which picture of that file.
    place : Place
        Where it lies on the page as that was brought in.
    shown : bool
        Hidden sheets are not drawn; a hidden contour bounds colour all the same.
    color : str
        '#rrggbb' of an effect.
    covers : bool
        Whether it hides the line of sheets below it where its picture is not transparent.
    view : PropView, optional
        Of a prop: its original is a mesh, drawn as it is looked at.
    """

    name: str = "Contour"
    role: Role = "contour"
    original: OriginalNumber = 0
    picture: int = 0
    place: Place = Place()
    order: int = 0
    shown: bool = True
    color: str = "#000000"
    covers: bool = False
    view: PropView | None = None


def _sheets(found: dict[int, Sheet], whole: Whole) -> dict[int, Sheet]:
    every = {0: Sheet(original=whole.page.original, picture=whole.page.picture)} | found
    return dict(sorted(every.items(), key=lambda item: (item[1].order, item[0])))


def _inks(found: dict[int, InkState], whole: Whole) -> dict[int, InkState]:
    return {number: found.get(number) or InkState() for number in whole.found[SHEETS.name]}


def _moved_inks(inks: InkState, move: Move) -> InkState:
    erased, kept = (tuple(moved_spot(at, move.place) for at in group) for group in (inks.erased, inks.kept))
    return InkState(inks.settings, erased, kept)


_DRAWING = frozenset[Literal["drawing"]]({"drawing"})
SHEETS: PageKind[int, Sheet] = PageKind(
    "sheet", int, Sheet, ("sheet", "sheets"), _DRAWING,
    filled=_sheets,
    colored=Colored(
        "sheets",
        lambda sheet: sheet.color if sheet.role == "effect" else None,
        lambda sheet, color: msgspec.structs.replace(sheet, color=color),
    ),
)  # fmt: skip
INKS: PageKind[int, InkState] = PageKind(
    "inks", lambda key: int(key or 0), InkState, ("ink of a sheet", "ink of sheets"), _DRAWING,
    moved=_moved_inks,
    filled=_inks,
    written=lambda number: str(number or ""),
)  # fmt: skip
EFFECTS: PageKind[int, Effect] = PageKind(
    "effect", int, Effect, ("effect", "effects"), frozenset({"effects"}),
    moved=moved_effect,
    colored=Colored(
        "effects", lambda effect: effect.color, lambda effect, color: msgspec.structs.replace(effect, color=color)
    ),
)  # fmt: skip
STROKES: PageKind[tuple[int, int], bool] = PageKind(
    "stroke", spot_of, bool, ("stroke that is detail", "strokes that are detail"), _DRAWING,
    moved_key=moved_spot,
    written=written_spot,
)  # fmt: skip
TONES: PageKind[tuple[int, int], bool] = PageKind(
    "tone", spot_of, bool, ("area of tone", "areas of tone"), _DRAWING,
    moved_key=moved_spot,
    written=written_spot,
)  # fmt: skip
REPAIR = Plane("repair")
"""Ink mended by hand, painted over the contour."""
