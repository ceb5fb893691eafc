"""Colour and ink tables of a page, built from its pots, holds and press settings. Knows no pixels."""

from dataclasses import dataclass

import numpy as np

from drip_pot.book.book import Book
from drip_pot.book.derive import over_rows
from drip_pot.book.model import PageSources
from drip_pot.core.arrays import U8, Bool
from drip_pot.core.color import darker, from_hex
from drip_pot.core.press import Plates, PressSettings, separate_colors
from drip_pot.core.render import Colors, pack

PAPER = (255, 255, 255)


@dataclass(frozen=True)
class Tables:
    """What a page is drawn with.

    Attributes
    ----------
    screen : Colors
        Red, green, blue, 255; rows of lines beyond the atoms are lettering, then the colours of effects.
    plates : Plates
        Inks.
    held : (A + 1,) ndarray of bool
        Atoms whose part has a hold.
    is_poured, is_left : (A + 1,) ndarrays of bool
        Atoms that have a pot; atoms that have none and are not kept as paper for lettering.
    miss : dict
        OKLab distance × 100 between what each colour (r, g, b) should be and what the press can do.
    """

    screen: Colors
    plates: Plates
    held: Bool
    is_poured: Bool
    is_left: Bool
    miss: dict[tuple[int, int, int], float]


def build_tables(book: Book, sources: PageSources, count: int) -> Tables:
    """Build the tables of a page with `count` atoms."""
    pots = book.pots()
    rgb = np.full((2, count + 1, 3), 255, np.uint8)
    over = ["#000000", *sources.over.colors]
    first = over_rows(count) + 1
    line = np.empty((first + len(over), 3), np.uint8)
    line[:] = from_hex(sources.lines.color)
    line[first:] = [from_hex(color) for color in over]
    held = np.zeros(count + 1, bool)
    poured, left = np.zeros(count + 1, bool), np.ones(count + 1, bool)
    for number, atoms in _by_pot(sources, count).items():
        left[atoms] = False
        if number not in pots:
            continue
        pot = pots[number]
        local, shadow = (from_hex(c) for c in book.tone_pair(pot))
        rgb[0, atoms], rgb[1, atoms] = local, shadow
        poured[atoms] = True
        if pot.part in sources.holds:
            line[atoms] = darker(local, sources.holds[pot.part].amount)
            held[atoms] = True
    plates, miss = _plates(rgb.reshape(-1, 3), line, sources.press)
    return Tables(Colors(_opaque(rgb.reshape(-1, 3)), _opaque(line)), plates, held, poured, left, miss)


def _by_pot(sources: PageSources, count: int) -> dict[int, list[int]]:
    found: dict[int, list[int]] = {}
    for atom, pot in sources.pours.items():
        if 0 < atom <= count:
            found.setdefault(pot, []).append(atom)
    return found


def _opaque(rgb: U8) -> np.ndarray[tuple[int], np.dtype[np.uint32]]:
    return pack(np.column_stack([rgb, np.full(len(rgb), 255, np.uint8)]))


_known: dict[tuple[tuple[int, int, int], PressSettings], tuple[tuple[int, ...], float]] = {}


def inks_of(colors: list[tuple[int, int, int]], press: PressSettings) -> list[tuple[tuple[int, ...], float]]:
    """Return, for each colour, its four plate values, 0..255, and how far the print misses it (OKLab × 100)."""
    fresh = [c for c in dict.fromkeys(colors) if (c, press) not in _known]
    if len(_known) + len(fresh) > 20_000:
        _known.clear()
        fresh = list(dict.fromkeys(colors))
    cmyk, miss = separate_colors(np.array(fresh, np.uint8), press)
    for color, inks, distance in zip(fresh, cmyk.tolist(), miss.tolist(), strict=True):
        _known[color, press] = ((0, 0, 0, 0), 0.0) if color == PAPER else (tuple(inks), distance)
    return [_known[c, press] for c in colors]


def inks_for(rgb: tuple[int, int, int], press: PressSettings) -> tuple[tuple[int, ...], float]:
    """Return `inks_of` for one colour."""
    return inks_of([rgb], press)[0]


def _plates(rgb: U8, line: U8, press: PressSettings) -> tuple[Plates, dict[tuple[int, int, int], float]]:
    every, where = np.unique(np.concatenate([rgb, line]).astype(np.int32) @ (65536, 256, 1), return_inverse=True)
    colors = [(c >> 16, c >> 8 & 255, c & 255) for c in every.tolist()]
    known = inks_of(colors, press)
    inks = pack(np.array([k[0] for k in known], np.uint8))
    table = inks[where.reshape(-1)]
    plates = Plates(
        Colors(table[: len(rgb)], table[len(rgb) :]),
        (line == 0).all(axis=1),
        np.concatenate([np.zeros(1, np.uint32), np.unique(inks)]),
    )
    return plates, {c: k[1] for c, k in zip(colors, known, strict=True)}
