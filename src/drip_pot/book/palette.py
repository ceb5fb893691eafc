"""Colour and ink tables of a page, built from its pots, holds and press settings. Knows no pixels."""

from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from drip_pot.book.book import Book
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
        Red, green, blue, 255.
    plates : Plates
        Inks.
    held : (A + 1,) ndarray of bool
        Atoms whose part has a hold.
    is_poured : (A + 1,) ndarray of bool
        Atoms that have a pot.
    miss : dict
        OKLab distance × 100 between what each colour (r, g, b) should be and what the press can do.
    """

    screen: Colors
    plates: Plates
    held: Bool
    is_poured: Bool
    miss: dict[tuple[int, int, int], float]


def build_tables(book: Book, sources: PageSources, count: int) -> Tables:
    """Build the tables of a page with `count` atoms."""
    pots = book.pots()
    rgb = np.full((2, count + 1, 3), 255, np.uint8)
    line = np.empty((count + 1, 3), np.uint8)
    line[:] = from_hex(sources.lines.color)
    held = np.zeros(count + 1, bool)
    poured = np.zeros(count + 1, bool)
    for number, atoms in _by_pot(sources, count).items():
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
    return Tables(Colors(_opaque(rgb.reshape(-1, 3)), _opaque(line)), plates, held, poured, miss)


def _by_pot(sources: PageSources, count: int) -> dict[int, list[int]]:
    found: dict[int, list[int]] = {}
    for atom, pot in sources.pours.items():
        if 0 < atom <= count:
            found.setdefault(pot, []).append(atom)
    return found


def _opaque(rgb: U8) -> np.ndarray[tuple[int], np.dtype[np.uint32]]:
    return pack(np.column_stack([rgb, np.full(len(rgb), 255, np.uint8)]))


@lru_cache(maxsize=4096)
def inks_for(rgb: tuple[int, int, int], press: PressSettings) -> tuple[tuple[int, ...], float]:
    """Return the four plate values, 0..255, of a colour, and how far the print misses it (OKLab × 100)."""
    if rgb == PAPER:
        return (0, 0, 0, 0), 0.0
    cmyk, miss = separate_colors(np.array([rgb], np.uint8), press)
    return tuple(cmyk[0].tolist()), float(miss[0])


def _plates(rgb: U8, line: U8, press: PressSettings) -> tuple[Plates, dict[tuple[int, int, int], float]]:
    every, where = np.unique(np.concatenate([rgb, line]), axis=0, return_inverse=True)
    known = [inks_for((r, g, b), press) for r, g, b in every.tolist()]
    inks = pack(np.array([k[0] for k in known], np.uint8))
    table = inks[where.reshape(-1)]
    colors = Colors(table[: len(rgb)], table[len(rgb) :])
    spread = np.concatenate([np.zeros(1, np.uint32), np.unique(inks)])
    miss = {(r, g, b): k[1] for (r, g, b), k in zip(every.tolist(), known, strict=True)}
    return Plates(colors, (line == 0).all(axis=1), spread), miss
