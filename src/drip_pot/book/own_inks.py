# SPDX-License-Identifier: GPL-3.0-or-later
"""Inks that pots have of their own: fixed by hand in whole per cent, or an ink beside the four. Knows the book."""

from dataclasses import dataclass

import numpy as np

from drip_pot.book.reading import Reading
from drip_pot.book.sources import PageSources
from drip_pot.book.values import POURS, Pot
from drip_pot.core.color import from_hex, srgb8_to_oklab

_MOST_SHADOW = 0.7


@dataclass(frozen=True)
class Spot:
    """An ink beside the four: its name, and '#rrggbb' of a solid of it."""

    name: str
    color: str


@dataclass(frozen=True)
class OwnInks:
    """What a pot prints with: plate values of 0..255 in light and, where they are fixed too, in shadow."""

    pot: int
    local: tuple[int, ...]
    shadow: tuple[int, ...] | None


def spots_on(book: Reading, sources: PageSources) -> tuple[Spot, ...]:
    """Return the inks beside the four that a page is printed with, in shelf order."""
    used = set(sources[POURS].values())
    found: dict[str, Spot] = {}
    for number, pot in book.pots().items():
        if pot.spot and number in used:
            found.setdefault(pot.spot, Spot(pot.spot, pot.local))
    return tuple(found.values())


def own_inks(book: Reading, sources: PageSources, spots: tuple[Spot, ...]) -> tuple[OwnInks, ...]:
    """Return the inks of the pots on a page that have their own."""
    used = set(sources[POURS].values())
    names = [spot.name for spot in spots]
    found = []
    for number, pot in book.pots().items():
        if number in used and (pot.inks or pot.spot):
            found.append(_own(number, pot, book.tone_pair(pot)[1], names))
    return tuple(found)


def _own(number: int, pot: Pot, shadow: str, names: list[str]) -> OwnInks:
    none = (0,) * len(names)
    if not pot.spot:
        assert pot.inks is not None
        dark = None if pot.shadow_inks is None else (*_plates(pot.shadow_inks), *none)
        return OwnInks(number, (*_plates(pot.inks), *none), dark)
    solid = tuple(255 if name == pot.spot else 0 for name in names)
    light, dark_l = (float(srgb8_to_oklab(from_hex(c))[0]) for c in (pot.local, shadow))
    black = round(100 * float(np.clip(1 - dark_l / max(light, 1e-6), 0, _MOST_SHADOW)))
    under = pot.inks or (0, 0, 0, 0)
    over = pot.shadow_inks or (*under[:3], max(under[3], black))
    return OwnInks(number, (*_plates(under), *solid), (*_plates(over), *solid))


def _plates(inks: tuple[int, int, int, int]) -> tuple[int, ...]:
    return tuple(round(share * 2.55) for share in inks)
