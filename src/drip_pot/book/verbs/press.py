# SPDX-License-Identifier: GPL-3.0-or-later
"""Verbs on press settings. Knows no window, no file."""

from typing import Any, Literal

import msgspec
import numpy as np

from drip_pot.book.asking import order
from drip_pot.book.book import Book
from drip_pot.book.hand import Hand
from drip_pot.book.numbers import AtomNumber, OriginalNumber, PotNumber, TrapNumber
from drip_pot.book.store import Edit, TileChange
from drip_pot.book.tables import inks_for
from drip_pot.book.values import (
    FLATS,
    LINES,
    POTS,
    PRESS,
    PROFILES,
    RUBBED,
    TRAPS,
    WEAR,
    EdgeTrap,
    PageValue,
    Pot,
    TrapWay,
)
from drip_pot.book.verbs.cutting import Reach, leashed_from
from drip_pot.book.verbs.pots import set_pot_inks
from drip_pot.book.verbs.setting import put
from drip_pot.core.color import delta_e, from_hex, srgb8_to_oklab, to_hex
from drip_pot.core.errors import BadInput, NothingDone
from drip_pot.core.press import Condition, PressSettings, Wear, appearance, separate_colors
from drip_pot.core.render import Placed, laid_in
from drip_pot.core.shade import laid, mist
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
    told = listed([_SHARED[kind].words for kind in kinds])
    book.apply(Edit("share-settings", say("The same {0} on every page", told), tuple(changes)))
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
def rub_plates(
    hand: Hand, plates: tuple[int, ...], points: list[tuple[float, float, float]], width_px: float,
    softness: float = 0.5, flow: float = 1.0, *, away: bool = False, only: AtomNumber = 0, reach: Reach = "region",
    inside: set[AtomNumber] = NOWHERE,
) -> None:  # fmt: skip
    """Rub ink out of some of the four plates (0 is cyan, 3 black) under a stroke (row, col, pressure), or put it back.

    Plate 4 is the wear of old stock: rubbed out, the sheet is as it was printed. What is separated stays as it is;
    `away` takes back what was rubbed out. It stays in the atoms `inside`, if there are any, and, from an atom `only`
    on, in its region, pot or part (`reach`).
    """
    if not plates or not all(0 <= plate < len(_NAMES) for plate in plates):
        raise BadInput("Ink is rubbed out of cyan (0), magenta (1), yellow (2) or black (3), and wear (4).")
    rect, cover = mist(points, width_px, softness, flow, hand.shape)
    wanted = (leashed_from(hand, only, reach) if only else None, inside or None)
    for atoms in (set(found) for found in wanted if found is not None):
        allowed = np.zeros(len(hand.areas), bool)
        allowed[[a for a in atoms if 0 < a < len(allowed)]] = True
        cover = cover * allowed[hand.labels[rect[0] : rect[2], rect[1] : rect[3]]].view(np.uint8)
    if not cover.any():
        raise NothingDone("Nothing of this stroke lies where it may rub; nothing was changed.")
    tiles: list[TileChange] = []
    for plate in dict.fromkeys(plates):
        name = RUBBED.key(hand.page, plate)
        plane = hand.book.plane(name)
        tiles += plane.replaced(name, rect, laid(plane.read(rect), cover, away=away))
    what = ", ".join(_NAMES[plate] for plate in dict.fromkeys(plates))
    hand.book.apply(Edit("rub-plates", f"{'Put back' if away else 'Rub out'} {what}", (), tuple(tiles)))


@order
def set_wear(book: Book, page: int, wear: Wear) -> None:
    """Change how old stock looks."""
    put(book, "set-wear", "Change the wear", (WEAR.key(page), wear))


@order
def lay_texture(book: Book, page: int, original: OriginalNumber, size: tuple[int, int]) -> None:
    """Lay a picture of paper that the book has, of some rows and columns, over the worn sheet, again and again.

    One as large as the page covers it once. Raises `BadInput` for one without pixels, or where there are four already.
    """
    if min(size) < 1:
        raise BadInput("A picture without pixels cannot be laid on a page.")
    here, wear = book.pages()[page], book.sources(page)[WEAR]
    covers = min(size[0] / here.rows, size[1] / here.cols) > _COVERS
    corners = laid_in(size, (here.rows, here.cols)) if covers else (
        (0.0, 0.0), (0.0, float(size[1])), (float(size[0]), 0.0), (float(size[0]), float(size[1])))  # fmt: skip
    textures = (*wear.textures, Placed(original, corners, repeats=True))
    put(book, "lay-texture", "Lay a texture", (WEAR.key(page), msgspec.structs.replace(wear, textures=textures)))


@order
def change_texture(book: Book, page: int, place: int, *, turn: bool = False) -> None:
    """Turn a texture, counted from 0, by a quarter about the page's middle, or take it away."""
    wear, here = book.sources(page)[WEAR], book.pages()[page]
    if not 0 <= place < len(wear.textures):
        raise BadInput("This page has {0} textures; there is no number {1}.", len(wear.textures), place)
    textures = list(wear.textures)
    if turn:
        row, col = (here.rows - 1) / 2, (here.cols - 1) / 2
        grid = tuple((row + (c - col), col - (r - row)) for r, c in textures[place].grid)
        textures[place] = msgspec.structs.replace(textures[place], grid=grid)
    else:
        del textures[place]
    changed = msgspec.structs.replace(wear, textures=tuple(textures))
    title = "Turn a texture" if turn else "Take a texture away"
    put(book, "change-texture", title, (WEAR.key(page), changed))


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
