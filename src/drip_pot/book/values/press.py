# SPDX-License-Identifier: GPL-3.0-or-later
"""Values of the press: settings, wear, edges trapped by hand. Knows core's settings."""

from typing import Literal

import msgspec

from drip_pot.book.values.kind import Move, PageKind, PageValue, Plane
from drip_pot.book.values.shade import moved_picture
from drip_pot.core.press import PressSettings, Wear

TrapWay = Literal["into", "back", "both", "none"]


class EdgeTrap(msgspec.Struct, frozen=True):
    """Edges between two regions, trapped as a hand says.

    Attributes
    ----------
    one, two : (row, col)
        A page pixel of either region.
    way : str
        Whether the first spreads into the second, the second back into the first, both by half, or none.
    width_mm : float
        How far, 0..1; 0 is as everywhere on the page.
    """

    one: tuple[float, float]
    two: tuple[float, float]
    way: TrapWay = "into"
    width_mm: float = 0.0


def _moved_trap(trap: EdgeTrap, move: Move) -> EdgeTrap:
    return msgspec.structs.replace(trap, one=move.place.at(*trap.one), two=move.place.at(*trap.two))


def _moved_wear(wear: Wear, move: Move) -> Wear:
    return msgspec.structs.replace(wear, textures=tuple(moved_picture(one, move) for one in wear.textures))


_COLORS = frozenset[Literal["colors"]]({"colors"})
PRESS: PageValue[PressSettings] = PageValue("press", PressSettings, PressSettings(), "press settings", _COLORS)
WEAR: PageValue[Wear] = PageValue("wear", Wear, Wear(), "wear", _COLORS, moved=_moved_wear)
TRAPS: PageKind[int, EdgeTrap] = PageKind(
    "trap", int, EdgeTrap, ("trap", "traps"), _COLORS,
    moved=_moved_trap,
    filled=lambda found, _: dict(sorted(found.items())),
)  # fmt: skip
RUBBED = Plane("plate", lambda _: tuple(range(5)))
"""What was rubbed out of the four plates, and of wear, by its place."""
