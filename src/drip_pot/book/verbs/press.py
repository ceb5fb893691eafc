# SPDX-License-Identifier: GPL-3.0-or-later
"""Verbs on press settings. Knows no window, no file."""

from typing import Any, Literal

import msgspec
import numpy as np

from drip_pot.book.asking import order
from drip_pot.book.book import Book
from drip_pot.book.hand import Hand
from drip_pot.book.numbers import PotNumber, TrapNumber
from drip_pot.book.store import Edit
from drip_pot.book.tables import inks_for
from drip_pot.book.values import (
    FLATS,
    LINES,
    POTS,
    PRESS,
    PROFILES,
    TRAPS,
    WEAR,
    EdgeTrap,
    PageValue,
    Pot,
    TrapWay,
)
from drip_pot.book.verbs.pots import set_pot_inks
from drip_pot.book.verbs.setting import put
from drip_pot.book.verbs.wear import forgotten_rubs
from drip_pot.core.color import delta_e, from_hex, srgb8_to_oklab, to_hex
from drip_pot.core.errors import BadInput, NothingDone
from drip_pot.core.press import Condition, PressSettings, appearance, separate_colors
from drip_pot.words import listed, say

_SOLIDS, _NAMES = 16, ("cyan", "magenta", "yellow", "black", "wear")
NOWHERE: set[int] = set()
_COVERS, _WORTH, _WIDEST_MM = 0.9, 5, 1.0


@order
def set_press(book: Book, page: int, press: PressSettings) -> None:
    """Change press settings."""
    put(book, "set-press", "Change the press settings", (PRESS.key(page), press))


_SHARED: dict[str, PageValue[Any]] = {kind.name: kind for kind in (PRESS, LINES, FLATS, WEAR)}


@order
def share_settings(book: Book, page: int, kinds: tuple[str, ...] = ("press",)) -> int:
    """Give every page of the book settings of this one: 'press', 'lines', 'flats', 'wear'; return how many changed.

    Raises
    ------
    BadInput
        For unknown kinds.
    NothingDone
        If every page has them already.
    """
    strange = next((kind for kind in kinds if kind not in _SHARED), None)
    if strange is not None or not kinds:
        raise BadInput("There are no settings '{0}'. Choose from {1}.", strange or "", ", ".join(_SHARED))
    changes = [
        book.change(kind.key(other), book.sources(page)[kind])
        for other in book.pages() for kind in map(_SHARED.__getitem__, kinds)
        if book.sources(other)[kind] != book.sources(page)[kind]
    ]  # fmt: skip
    if not changes:
        raise NothingDone("Every page is set so already.")
    told, wear = listed([_SHARED[kind].words for kind in kinds]), book.sources(page)[WEAR]
    worn = book.pages() if WEAR.name in kinds else ()
    tiles = tuple(tile for other in worn for tile in forgotten_rubs(book, other, wear))
    book.apply(Edit("share-settings", say("The same {0} on every page", told), tuple(changes), tiles))
    return len({change.key.split("/")[1] for change in changes})


def differs(book: Book, page: int) -> list[str]:
    """Return the settings of a page that most pages of the book have otherwise, in words."""
    found = []
    for kind in _SHARED.values():
        mine, every = book.sources(page)[kind], [book.sources(n)[kind] for n in book.pages()]
        if every.count(mine) * 2 < len(every) and len(every) > 2:
            found.append(kind.words)
    return found


@order
def use_profile(book: Book, page: int, name: str, condition: Condition) -> None:
    """Print on a press that was read from a profile; it is kept in the book under a name that tells it from others."""
    if not condition.icc or not name.startswith("profile-"):
        raise BadInput("A press condition of others needs its profile. Open an .icc file of a press.")
    if len(condition.solids) != _SOLIDS:
        raise BadInput("A press condition has {0} solids, not {1}.", _SOLIDS, len(condition.solids))
    with book.as_one():
        put(book, "use-profile", say("Use the profile {0}", condition.title), (PROFILES.key(name), condition))
        press = msgspec.structs.replace(book.sources(page)[PRESS], condition=name)
        put(book, "use-profile", say("Use the profile {0}", condition.title), (PRESS.key(page), press))


@order
def ease_pot(book: Book, page: int, number: PotNumber) -> None:
    """Print a pot with less ink: the same colour with as much black as it bears, fixed in whole per cent.

    Raises `NothingDone` where that saves nothing.
    """
    pot, press = book.read(POTS.key(number), Pot), book.sources(page)[PRESS]
    leaner = msgspec.structs.replace(press, black=1.0, black_from=0.0)
    eased, saved = [], 0
    for color, fixed in zip(book.tone_pair(pot), (pot.inks, pot.shadow_inks), strict=True):
        rgb = from_hex(color)[None]
        now = separate_colors(rgb, press)[0][0] if fixed is None else np.array(fixed) * 2.55
        lean = separate_colors(rgb, leaner)[0][0]
        four = tuple(int(v) for v in (lean / 2.55).astype(int))
        saved = max(saved, int(now.sum() / 2.55) - sum(four))
        eased.append((four[0], four[1], four[2], four[3]))
    if saved < _WORTH:
        raise NothingDone("{0} is printed with as little ink as its colour bears.", pot.name)
    set_pot_inks(book, number, eased[0], eased[1], pot.spot)


@order
def print_nearest(book: Book, page: int, number: PotNumber, tone: Literal["local", "shadow"] = "local") -> None:
    """Give a pot the colour that the press prints in its place."""
    pot, press = book.read(POTS.key(number), Pot), book.sources(page)[PRESS]
    r, g, b = from_hex(book.tone_pair(pot)[tone == "shadow"]).tolist()
    inks, _ = inks_for((r, g, b), press)
    color = to_hex(appearance(np.array([inks], np.uint8), press.condition)[0])
    changed = msgspec.structs.replace(pot, **{tone: color})
    put(book, "print-nearest", say("Nearest printable colour for {0}", pot.name), (POTS.key(number), changed))


@order
def gather_spot(book: Book, number: PotNumber, within: float = 6.0) -> list[int]:
    """Print pots whose colour is within some ΔE (OKLab × 100) of a pot's with its ink; return their numbers.

    They are printed with a solid of it. Raises `BadInput` where the pot has no ink of its own, `NothingDone` where no
    other is as near.
    """
    pot, known = book.read(POTS.key(number), Pot), book.pots()
    if not pot.spot:
        raise BadInput("{0} has no ink of its own. Give it one in its editor first.", pot.name)
    if not 0 <= within <= 50:
        raise BadInput("Colours are gathered within 0 to 50 ΔE, not {0:g}.", within)
    mine = srgb8_to_oklab(from_hex(pot.local))
    near = [n for n, other in known.items()
            if not other.spot and float(delta_e(mine, srgb8_to_oklab(from_hex(other.local)))) <= within]  # fmt: skip
    if not near:
        raise NothingDone("No other pot is within {0:g} ΔE of {1}.", within, pot.name)
    changes = [(POTS.key(n), msgspec.structs.replace(known[n], spot=pot.spot)) for n in near]
    put(book, "gather-spot", say("Print {0} more pots in {1}", len(near), pot.spot), *changes)
    return near


@order
def widen_trap(book: Book, page: int) -> None:
    """Make traps a little wider than plates may stray."""
    press = book.sources(page)[PRESS]
    set_press(book, page, msgspec.structs.replace(press, trap_mm=round(press.tolerance_mm + 0.02, 3)))


@order
def set_trap(
    hand: Hand, one: tuple[float, float], two: tuple[float, float], way: TrapWay = "into", width_mm: float = 0.0
) -> None:
    """Trap the edges between two regions by hand; a trap that they had by hand is replaced.

    `one` and `two` are page pixels (row, col) of them; the first spreads into the second, 'back' the other way, 'both'
    by half, 'none' not at all, `width_mm` (0..1) far, or as everywhere at 0.
    """
    if not 0 <= width_mm <= _WIDEST_MM:
        raise BadInput("Trap width goes from 0 to {0:g} mm, not {1:g}.", _WIDEST_MM, width_mm)
    first, second = (_region_at(hand, at) for at in (one, two))
    if first == second:
        raise NothingDone("Both places lie in one region. Draw from one region into another.")
    known = {
        number: {_region_at(hand, at) for at in (trap.one, trap.two)} for number, trap in hand.sources[TRAPS].items()
    }
    number = next((n for n, both in known.items() if both == {first, second}), max(known, default=0) + 1)
    trap = EdgeTrap((float(one[0]), float(one[1])), (float(two[0]), float(two[1])), way, width_mm)
    put(hand.book, "set-trap", "Trap an edge by hand", (TRAPS.key(hand.page, number), trap))


@order
def remove_trap(book: Book, page: int, number: TrapNumber) -> None:
    """Trap edges again as everywhere on the page."""
    if number not in book.sources(page)[TRAPS]:
        raise BadInput("This page has no trap {0} set by hand.", number)
    put(book, "remove-trap", "Trap an edge as the others", (TRAPS.key(page, number), None))


def _region_at(hand: Hand, at: tuple[float, float]) -> int:
    atom = hand.atom_at(*at)
    if not atom:
        raise NothingDone("There is no region at that place.")
    return int(hand.partition.region[atom])
