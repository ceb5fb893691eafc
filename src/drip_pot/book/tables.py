"""Colour and ink tables of a page, built from its pots, holds and press settings. Knows no pixels."""

from dataclasses import dataclass
from functools import cached_property, lru_cache

import numpy as np

from drip_pot.book.book import Book
from drip_pot.book.derive import over_rows
from drip_pot.book.model import PageSources
from drip_pot.book.scope import Ground, colored_atoms, scope_atoms
from drip_pot.core.arrays import U8, Bool
from drip_pot.core.color import darker, from_hex, srgb8_to_oklab
from drip_pot.core.press import InkTable, Plates, PressSettings, Wear, ink_table, plates_of, rich_black, separate_colors
from drip_pot.core.render import Colors, Wash

PAPER = (255, 255, 255)
NEW = Wear()
_MOST_KNOWN, _LEAST_DOT = 20_000, 3
_BLACK_L, _BLACK_CHROMA = 0.2, 0.045


@dataclass(frozen=True)
class Tables:
    """What a page is drawn with.

    Attributes
    ----------
    screen : Colors
        Red, green, blue, 255; rows of lines beyond the atoms are lettering, then the colours of effects.
    press : PressSettings
        By which `plates` are worked out, when they are first asked for.
    held : (A + 1,) ndarray of bool
        Atoms whose part has a hold.
    is_poured, is_left : (A + 1,) ndarrays of bool
        Atoms that have a pot; atoms that have none and are not kept as paper for lettering.
    stack : tuple of Wash
        What the passes do, in their order.
    wear : Wear
        How old stock looks.
    """

    screen: Colors
    press: PressSettings
    held: Bool
    is_poured: Bool
    is_left: Bool
    stack: tuple[Wash, ...] = ()
    wear: Wear = NEW

    def inks(self) -> InkTable:
        """Return the inks of any colour, worked out once for a press."""
        return _ink_table(self.press)

    @cached_property
    def plates(self) -> Plates:
        """The inks of the same colours."""
        return _plates(self.screen.flat[:, :3], self.screen.lines[:, :3], self.press)


def build_tables(book: Book, sources: PageSources, count: int, ground: Ground | None = None) -> Tables:
    """Build the tables of a page with `count` atoms; `ground` is what scopes of passes are laid on."""
    pots = book.pots()
    rgb = np.full((2, count + 1, 3), 255, np.uint8)
    over = ["#000000", *sources.over.colors]
    first = over_rows(count) + 1
    line = np.empty((first + len(over), 3), np.uint8)
    line[:] = from_hex(sources.lines.color)
    line[first:] = [from_hex(color) for color in over]
    dark = line.copy()
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
            amount = sources.holds[pot.part].amount
            line[atoms], dark[atoms] = darker(local, amount), darker(shadow, amount)
            held[atoms] = True
    return Tables(
        Colors(_opaque(rgb.reshape(-1, 3)), _opaque(line), _opaque(dark) if held.any() else None),
        sources.press,
        held,
        poured,
        left,
        _stack(book, sources, count, ground),
        sources.wear,
    )


def _by_pot(sources: PageSources, count: int) -> dict[int, list[int]]:
    found: dict[int, list[int]] = {}
    for atom, pot in sources.pours.items():
        if 0 < atom <= count:
            found.setdefault(pot, []).append(atom)
    return found


def _stack(book: Book, sources: PageSources, count: int, ground: Ground | None) -> tuple[Wash, ...]:
    found = []
    colored = colored_atoms(sources, count)  # what is laid where no colour is yet is kept, and shows once it comes
    for one in sources.passes.values():
        r, g, b = from_hex(one.color).tolist()
        strength = one.strength if one.shown else 0.0
        inside = scope_atoms(book, sources, one.scope, count, ground)
        within = colored if inside is None else colored & inside
        source = {"ramp": one.ramp, "finish": one.finish}.get(one.kind)
        found.append(Wash(one.kind == "tone", (r, g, b), one.mode, strength, within, source))
    return tuple(found)


@lru_cache(maxsize=8)
def _ink_table(press: PressSettings) -> InkTable:
    return ink_table(press)


def _opaque(rgb: U8) -> U8:
    return np.column_stack([rgb, np.full(len(rgb), 255, np.uint8)])


_known: dict[tuple[tuple[int, int, int], PressSettings], tuple[tuple[int, ...], float]] = {}


def inks_of(colors: list[tuple[int, int, int]], press: PressSettings) -> list[tuple[tuple[int, ...], float]]:
    """Return, for each colour, its four plate values, 0..255, and how far the print misses it (OKLab × 100).

    The values stand for whole per cent; what would print dots under 3 % is left out or raised, as they do not hold.
    """
    found = {c: _known.get((c, press)) for c in dict.fromkeys(colors)}
    fresh = [c for c, known in found.items() if known is None]
    cmyk, miss = separate_colors(np.array(fresh, np.uint8), press)
    if len(_known) + len(fresh) > _MOST_KNOWN:
        _known.clear()
    for color, inks, distance in zip(fresh, cmyk.tolist(), miss.tolist(), strict=True):
        whole = _in_per_cent(inks, press.ink_limit)
        found[color] = _known[color, press] = ((0, 0, 0, 0), 0.0) if color == PAPER else (whole, distance)
    return [known for c in colors if (known := found[c]) is not None]


def _in_per_cent(inks: list[int], limit: int) -> tuple[int, ...]:
    parts = [round(v / 2.55) for v in inks]
    parts = [0 if p < 2 else max(p, _LEAST_DOT) for p in parts]
    while sum(parts) > limit:
        most = max(range(3), key=lambda k: parts[k])
        parts[most] -= 1
    return tuple(round(p * 2.55) for p in parts)


def inks_for(rgb: tuple[int, int, int], press: PressSettings) -> tuple[tuple[int, ...], float]:
    """Return `inks_of` for one colour."""
    return inks_of([rgb], press)[0]


def _plates(rgb: U8, lines: U8, press: PressSettings) -> Plates:
    """Return plates of flats and of lines, in light and then in shadow."""
    every, where = np.unique(np.concatenate([rgb, lines]).astype(np.int32) @ (65536, 256, 1), return_inverse=True)
    colors = [(c >> 16, c >> 8 & 255, c & 255) for c in every.tolist()]
    table = np.array([inks for inks, _ in inks_of(colors, press)], np.uint8)[where.reshape(-1)]
    rich = rich_black(press) if press.enrich else None
    half = len(lines) // 2
    is_black, line, dark = prints_black(lines[:half]), *(table[len(rgb) :][cut].copy() for cut in
                                                         (slice(half), slice(half, None)))  # fmt: skip
    line[is_black] = dark[is_black] = (0, 0, 0, 255)
    same = np.array_equal(line, dark)
    return plates_of(table[: len(rgb)], line, is_black, int(press.ink_limit * 2.55), rich, None if same else dark)


def prints_black(rgb: U8) -> Bool:
    """Tell which line colours, (N, 3) uint8, print as black ink alone: those that look black, whatever their number."""
    lab = srgb8_to_oklab(rgb)
    return np.asarray((lab[:, 0] < _BLACK_L) & (np.hypot(lab[:, 1], lab[:, 2]) < _BLACK_CHROMA))
