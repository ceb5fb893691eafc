# SPDX-License-Identifier: GPL-3.0-or-later
"""Values of the press: settings, wear, edges trapped by hand. Knows core's settings."""

from typing import Literal

import msgspec

from drip_pot.book.values.kind import Move, PageKind, PageValue, Plane
from drip_pot.book.values.shade import moved_picture
from drip_pot.core.press import MOST_STEPS, PressSettings, Wear

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
    moved = [msgspec.structs.replace(one, placed=moved_picture(one.placed, move)) for one in wear.textures]
    return msgspec.structs.replace(wear, textures=tuple(moved))


_COLORS = frozenset[Literal["colors"]]({"colors"})
PRESS: PageValue[PressSettings] = PageValue("press", PressSettings, PressSettings(), "press settings", _COLORS)
WEAR: PageValue[Wear] = PageValue("wear", Wear, Wear(), "wear", _COLORS, moved=_moved_wear)
TRAPS: PageKind[int, EdgeTrap] = PageKind(
    "trap", int, EdgeTrap, ("trap", "traps"), _COLORS,
    moved=_moved_trap,
    filled=lambda found, _: dict(sorted(found.items())),
)  # fmt: skip
RUBBED_SPOTS: PageValue[tuple[str, ...]] = PageValue("rubbed", tuple[str, ...], (), "inks that were rubbed out")
"""Names of the inks beside the four that something was rubbed out of, in the order of their planes."""
FIRST_SPOT, MOST_SPOTS = 5, 16
RUBBED = Plane("plate", lambda _: (0, 1, 2, 3, *range(FIRST_SPOT, FIRST_SPOT + MOST_SPOTS)))
"""What was rubbed out of the four plates and, from `FIRST_SPOT` on, of inks beside them."""
KEPT_NEW = Plane("worn", lambda _: tuple(range(MOST_STEPS + 1)))
"""Where the steps of wear were rubbed out, by number; 0 is all of them."""
