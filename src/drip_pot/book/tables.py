# SPDX-License-Identifier: GPL-3.0-or-later
"""Colour and ink tables of a page, built from its pots, holds and press settings. Knows no pixels."""

import threading
from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from functools import cached_property, lru_cache

import msgspec
import numpy as np

from drip_pot.book.book import Book
from drip_pot.book.lines import ColoredLines, color_lines
from drip_pot.book.own_inks import OwnInks, Spot, own_inks, spots_on
from drip_pot.book.scope import Ground, colored_atoms, scope_atoms
from drip_pot.book.sources import PageSources
from drip_pot.book.values import BALLOON, LINES, PAINT, PASSES, POURS, PRESS, WEAR, Pass
from drip_pot.core.arrays import F64, I64, U8, Bool
from drip_pot.core.color import from_hex, srgb8_to_oklab, srgb_to_linear
from drip_pot.core.press import (
    InkTable,
    PaperTexture,
    Plates,
    PressSettings,
    Printing,
    Wear,
    ink_table,
    plates_of,
    rich_black,
    separate_colors,
)
from drip_pot.core.render import (
    Colors,
    EffectSource,
    LineOwners,
    LineWash,
    Local,
    PaintedColors,
    PictureSource,
    Source,
    Wash,
    printed,
)

PAPER = (255, 255, 255)
NEW, _PILE = Wear(), 10007
_LOCAL = Local()
_MOST_KNOWN, _LEAST_DOT = 20_000, 3
_BLACK_L, _BLACK_CHROMA = 0.2, 0.045


@dataclass(frozen=True)
class Tables:
    """What a page is drawn with.

    Attributes
    ----------
    screen : Colors
        Red, green, blue, 255; rows of lines beyond the atoms are lettering, the colours of effects, stroke pieces.
    press : PressSettings
        By which `plates` are worked out, when they are first asked for.
    washes : tuple of LineWash
        What lies over the line's colours, in order.
    is_poured, is_left : (A + 1,) ndarrays of bool
        Atoms that have a pot; atoms that have none and are not kept as paper for lettering.
    stack : tuple of Wash
        What the passes do, in their order.
    wear : Wear
        How old stock looks.
    spots : tuple of Spot
        The inks beside the four.
    own : tuple of (OwnInks, atoms)
        Pots with inks of their own, and where they are.
    textures : tuple of (PaperTexture, PictureSource)
        Pictures of paper on old stock, those whose file can be read.
    held : dict
        Rows of the line's colours that every hold has, by its number.
    told : ColoredLines, optional
        What is known of the line, where there are holds and strokes are known.
    made_plates : Plates, optional
        The inks, where they were worked out already.
    """

    screen: Colors
    press: PressSettings
    is_poured: Bool
    is_left: Bool
    stack: tuple[Wash, ...] = ()
    washes: tuple[LineWash, ...] = ()
    wear: Wear = NEW
    spots: tuple[Spot, ...] = ()
    own: tuple[tuple[OwnInks, tuple[int, ...]], ...] = ()
    textures: tuple[tuple[PaperTexture, PictureSource], ...] = ()
    held: Mapping[int, I64] = field(default_factory=dict)
    told: ColoredLines | None = None

    def inks(self) -> InkTable:
        """Return the inks of any colour, worked out once for a press."""
        return _ink_table(self.press)

    made_plates: Plates | None = None

    @cached_property
    def owners(self) -> LineOwners | None:
        """Whose the line is, where it is coloured and passes lie over the page; None where nothing follows from it."""
        return None if self.told is None or not self.stack else self.told.owners(len(self.screen.line))

    @cached_property
    def depth(self) -> F64 | None:
        """How far in front every atom lies, (A + 1,) 0..1; None where nothing is known of the line."""
        return None if self.told is None else self.told.depth()

    @cached_property
    def plates(self) -> Plates:
        """The inks of the same colours."""
        return self.made_plates or _plates(self.screen, self.washes, self.press, self.spots, self.own)

    def printing(self) -> Printing:
        """Return how the page is printed: the passes that are, and the inks."""
        return Printing(printed(list(self.stack)), self.screen, self.plates, self.inks, self.washes)

    def with_plates(self, plates: Plates) -> "Tables":
        """Return the same tables with inks that know further colours."""
        return replace(self, made_plates=plates)


def build_tables(book: Book, sources: PageSources, count: int, ground: Ground | None = None) -> Tables:
    """Build the tables of a page with `count` atoms; `ground` is what scopes of passes are laid on."""
    pots = book.pots()
    rgb = np.full((2, count + 1, 3), 255, np.uint8)
    poured, left = np.zeros(count + 1, bool), np.ones(count + 1, bool)
    paper = [0]
    by_pot = _by_pot(sources, count)
    for number, atoms in by_pot.items():
        left[atoms] = False
        if number not in pots:
            paper += atoms if number == BALLOON else []
            continue
        rgb[0, atoms], rgb[1, atoms] = (from_hex(c) for c in book.tone_pair(pots[number]))
        poured[atoms] = True
    rgb[:, paper] = from_hex(sources[LINES].balloon)
    found = color_lines(book, sources, count, rgb, ["#000000", *sources.over.colors], ground)
    same = np.array_equal(found.light, found.dark)
    spots = spots_on(book, sources)
    own = tuple((one, tuple(by_pot.get(one.pot, ()))) for one in own_inks(book, sources, spots))
    follows = found.follows if found.follows.any() else None
    return Tables(
        Colors(_opaque(rgb.reshape(-1, 3)), _opaque(found.light), None if same else _opaque(found.dark), follows),
        sources[PRESS],
        poured,
        left,
        _stack(book, sources, count, ground),
        found.washes,
        _sheet_of(sources),
        spots,
        own,
        _textures(book, sources),
        found.held,
        found.told,
    )


def _textures(book: Book, sources: PageSources) -> tuple[tuple[PaperTexture, PictureSource], ...]:
    read = [(one, book.pictures(one.placed)) for one in sources[WEAR].textures]
    return tuple((one, PictureSource(one.placed, levels)) for one, levels in read if levels is not None)


def _sheet_of(sources: PageSources) -> Wear:
    """Return the wear of a page with a seed of its own, so that no two pages of a book are worn alike."""
    wear = sources[WEAR]
    return msgspec.structs.replace(wear, seed=wear.seed * _PILE + sources.number)


def _by_pot(sources: PageSources, count: int) -> dict[int, list[int]]:
    found: dict[int, list[int]] = {}
    for atom, pot in sources[POURS].items():
        if 0 < atom <= count:
            found.setdefault(pot, []).append(atom)
    return found


def _stack(book: Book, sources: PageSources, count: int, ground: Ground | None) -> tuple[Wash, ...]:
    found = []
    paper = np.zeros(count + 1, bool)
    paper[[0, *(a for a, pot in sources[POURS].items() if pot == BALLOON and a <= count)]] = True
    colored = colored_atoms(sources, count)  # what is laid where no colour is yet is kept, and shows once it comes
    for number, one in sources[PASSES].items():
        r, g, b = from_hex(one.color).tolist()
        strength = one.strength if one.shown else 0.0
        inside = scope_atoms(book, sources, one.scope, count, ground)
        where = ~paper if one.kind in ("picture", "effect") else colored
        within = where if inside is None else where & inside
        source = _source(book, sources.number, number, one)
        strength = 0.0 if one.kind == "picture" and source is None else strength
        found.append(Wash(one.kind == "tone", (r, g, b), one.mode, strength, within, source, one.printed))
    return tuple(found)


def _source(book: Book, page: int, number: int, one: Pass) -> Source | None:
    """Return what gives a pass its colours; None for one colour, and for a picture that cannot be read."""
    if one.placed is not None:
        levels = book.pictures(one.placed)
        return None if levels is None else PictureSource(one.placed, levels)
    if one.effect is not None:
        r, g, b = from_hex(one.color).tolist()
        return EffectSource(one.effect, (r, g, b), (book.pages()[page].rows, book.pages()[page].cols))
    if one.kind == "paint":
        red, green, blue = (book.plane(kind.key(page, number)).copy() for kind in PAINT)
        return PaintedColors((red, green, blue))
    return {"ramp": one.ramp, "finish": one.finish, "values": one.values, "local": _LOCAL}.get(one.kind)


@lru_cache(maxsize=8)
def _ink_table(press: PressSettings) -> InkTable:
    return ink_table(press)


def _opaque(rgb: U8) -> U8:
    return np.column_stack([rgb, np.full(len(rgb), 255, np.uint8)])


_known: dict[tuple[tuple[int, int, int], PressSettings], tuple[tuple[int, ...], float]] = {}
_known_lock = threading.Lock()


def inks_of(colors: list[tuple[int, int, int]], press: PressSettings) -> list[tuple[tuple[int, ...], float]]:
    """Return, for each colour, its four plate values, 0..255, and how far the print misses it (OKLab × 100).

    The values stand for whole per cent; what would print dots under 3 % is left out or raised, as they do not hold.
    """
    with _known_lock:
        found = {c: _known.get((c, press)) for c in dict.fromkeys(colors)}
    fresh = [c for c, known in found.items() if known is None]
    if not fresh:
        return [known for c in colors if (known := found[c]) is not None]
    cmyk, miss = separate_colors(np.array(fresh, np.uint8), press)
    for color, inks, distance in zip(fresh, cmyk.tolist(), miss.tolist(), strict=True):
        whole = _in_per_cent(inks, press.ink_limit)
        found[color] = ((0, 0, 0, 0), 0.0) if color == PAPER else (whole, distance)
    with _known_lock:
        if len(_known) + len(fresh) > _MOST_KNOWN:
            _known.clear()
        _known.update({(color, press): known for color in fresh if (known := found[color]) is not None})
    return [known for c in colors if (known := found[c]) is not None]


def _in_per_cent(inks: list[int], limit: int) -> tuple[int, ...]:
    parts = [round(v / 2.55) for v in inks]
    parts = [0 if p < 2 else max(p, _LEAST_DOT) for p in parts]
    while sum(parts) > limit:
        most = max(range(3), key=lambda k: parts[k])
        parts[most] -= 1
    return tuple(round(p * 2.55) for p in parts)


def learn_inks(book: Book, press: PressSettings) -> None:
    """Separate every pot's colours, so that `inks_of` knows them when they are asked for."""
    pairs = [color for pot in book.pots().values() for color in book.tone_pair(pot)]
    inks_of([(r, g, b) for r, g, b in (from_hex(color).tolist() for color in pairs)], press)


def inks_for(rgb: tuple[int, int, int], press: PressSettings) -> tuple[tuple[int, ...], float]:
    """Return `inks_of` for one colour."""
    return inks_of([rgb], press)[0]


def _plates(
    screen: Colors, washes: tuple[LineWash, ...], press: PressSettings, inks_beside: tuple[Spot, ...],
    own: tuple[tuple[OwnInks, tuple[int, ...]], ...],
) -> Plates:  # fmt: skip
    """Return plates of flats and of lines, in light and then in shadow, and of what lies over the lines."""
    every = [screen.flat[:, :3], screen.line[:, :3]]
    every += [] if screen.line_shadow is None else [screen.line_shadow[:, :3]]
    every += [table[:, :3] for wash in washes for table in (wash.light, wash.dark)]
    codes, where = np.unique(np.concatenate(every).astype(np.int32) @ (65536, 256, 1), return_inverse=True)
    colors = [(c >> 16, c >> 8 & 255, c & 255) for c in codes.tolist()]
    table = np.array([inks for inks, _ in inks_of(colors, press)], np.uint8)[where.reshape(-1)]
    spots = len(inks_beside)
    table = np.pad(table, ((0, 0), (0, spots)))
    flat, line, *rest = np.split(table, np.cumsum([len(t) for t in every])[:-1])
    dark = rest.pop(0) if screen.line_shadow is not None else None
    is_black = prints_black(screen.line[:, :3])
    for inks, colors_ in zip([line, *([] if dark is None else [dark]), *rest], every[1:], strict=True):
        inks[prints_black(colors_)] = (0, 0, 0, 255, *(0,) * spots)
    half = len(flat) // 2
    by_hand = np.zeros(len(flat), bool)
    for one, atoms in own:
        flat[list(atoms)], by_hand[list(atoms)] = one.local, True
        if one.shadow is not None:
            dark_of = [half + a for a in atoms]
            flat[dark_of], by_hand[dark_of] = one.shadow, True
    over = [(rest[2 * k], rest[2 * k + 1], prints_black(wash.light[:, :3])) for k, wash in enumerate(washes)]
    rich = rich_black(press) if press.enrich else None
    made = plates_of(flat, line, is_black, int(press.ink_limit * 2.55), rich, dark, over, press.condition)
    solids = (
        srgb_to_linear(np.array([from_hex(spot.color) for spot in inks_beside], np.float64) / 255)
        if inks_beside
        else None
    )
    return replace(made, own=by_hand if by_hand.any() else None, solids=solids)


def prints_black(rgb: U8) -> Bool:
    """Tell which line colours, (N, 3) uint8, print as black ink alone: those that look black, whatever their number."""
    lab = srgb8_to_oklab(rgb)
    return np.asarray((lab[:, 0] < _BLACK_L) & (np.hypot(lab[:, 1], lab[:, 2]) < _BLACK_CHROMA))
