# SPDX-License-Identifier: GPL-3.0-or-later
"""The inks of a page by number, and how it is printed with them. Knows tables; not how inks were chosen, no pixels."""

from collections.abc import Callable
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from drip_pot.core.arrays import F64, U8, U16, Bool
from drip_pot.core.press.lut import InkTable, inks_at
from drip_pot.core.render import Colors, LineWash, Wash

NO_WASHES: list[tuple[U8, U8, Bool]] = []


@dataclass(frozen=True)
class WashInks:
    """The inks of what lies over the line: numbers by row in light and in shadow, (R,) uint16, and which are black."""

    light: U16
    dark: U16
    is_black: Bool


@dataclass(frozen=True)
class Plates:
    """The inks of a page, by colour number, and the numbers by atom.

    Attributes
    ----------
    inks : (C + 1, P) ndarray of uint8
        Every colour once: cyan, magenta, yellow, black, then further plates; 255 is solid. Entry 0 is empty.
    flat : (2 * (A + 1),) ndarray of uint16
        Numbers of the local colours, then of the shadow colours.
    line : (A + 1,) ndarray of uint16
        Numbers of the line's colours.
    is_black : (A + 1,) ndarray of bool
        Where the line is black: it overprints. Other lines print in their own inks, and leave out what is under them.
    limit : int
        Most ink on one spot, in 255ths of a solid over all plates; applied last of all.
    rich : int
        Number of the one mixture under large blacks; 0 is none.
    line_shadow : (A + 1,) ndarray of uint16, or None
        Numbers of the line's colours in shadow; None are the same.
    washes : tuple of WashInks
        Of the washes over the line, in their order.
    condition : str
        The press, one of `CONDITIONS`.
    own : (2 * (A + 1),) ndarray of bool, or None
        Flats whose inks were not worked out from their colour; None is nowhere.
    solids : (P - 4, 3) ndarray of float64, or None
        Linear light, 0..1, that a solid of every further plate leaves.
    """

    inks: U8
    flat: U16
    line: U16
    is_black: Bool
    limit: int = 255 * 32
    rich: int = 0
    line_shadow: U16 | None = None
    washes: tuple[WashInks, ...] = ()
    condition: str = "coated"
    own: Bool | None = None
    solids: F64 | None = None

    @property
    def all_black(self) -> bool:
        """Whether every line overprints."""
        return not self.washes and bool(self.is_black.all())

    @cached_property
    def colors(self) -> Colors:
        """The inks of flats and lines as tables by atom."""
        dark = None if self.line_shadow is None else self.inks[self.line_shadow]
        return Colors(self.inks[self.flat], self.inks[self.line], dark)


@dataclass(frozen=True)
class Printing:
    """How a page is printed: what lies on its flats and lines, and in which inks.

    Attributes
    ----------
    stack : list of Wash
        The passes that are printed.
    screen : Colors
        What it is drawn with on a screen; where passes mix colours, inks follow from it.
    plates : Plates
        Ink tables; flats and hard shadows keep these inks exactly.
    mixed : callable
        Returns the inks of mixed colours; called only where there are any.
    washes : tuple of LineWash
        What lies over the line's colours, as numbered in `plates`.
    """

    stack: list[Wash]
    screen: Colors
    plates: Plates
    mixed: Callable[[], InkTable]
    washes: tuple[LineWash, ...] = ()

    def looked_up(self, rgb: U8) -> U8:
        """Return the inks of mixed colours, (K, 3) uint8 sRGB to (K, P) uint8."""
        out = np.zeros((len(rgb), self.plates.inks.shape[1]), np.uint8)
        out[:, :4] = inks_at(self.mixed(), np.ascontiguousarray(rgb))
        return out


def plates_of(
    flat: U8, line: U8, is_black: Bool, limit: int = 255 * 32, rich: U8 | None = None, line_shadow: U8 | None = None,
    washes: list[tuple[U8, U8, Bool]] = NO_WASHES, condition: str = "coated",
) -> Plates:  # fmt: skip
    """Give numbers to the inks of flats, (2 * (A + 1), P) uint8, and lines, (A + 1, P) uint8, in light and in shadow.

    `rich` (P,) uint8 is the one mixture under large blacks; `washes` are the inks of what lies over the line, in light
    and in shadow, and where they are black.
    """
    dark = [] if line_shadow is None else [line_shadow]
    every = [flat, line, *dark, *(table for light, shade, _ in washes for table in (light, shade))]
    inks, number = np.unique(np.concatenate(every), axis=0, return_inverse=True)
    ends = np.cumsum([len(table) for table in every])[:-1]
    numbers = np.split((number.reshape(-1) + 1).astype(np.uint16), ends)
    count = flat.shape[1]
    tables = [np.zeros((1, count), np.uint8), inks]
    if rich is not None:
        tables.append(np.pad(rich, (0, count - len(rich)))[None])
    table = np.concatenate(tables)
    rest = numbers[2 + len(dark) :]
    washed = tuple(WashInks(rest[2 * k], rest[2 * k + 1], black) for k, (_, _, black) in enumerate(washes))
    return Plates(table, numbers[0], numbers[1], is_black, limit, 0 if rich is None else len(table) - 1,
                  numbers[2] if dark else None, washed, condition)  # fmt: skip
