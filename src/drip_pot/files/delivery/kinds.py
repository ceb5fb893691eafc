# SPDX-License-Identifier: GPL-3.0-or-later
"""The kinds of files that can be delivered: each in a module of its own, put on the list by `kind`. Knows no kind."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from pathlib import Path

import numpy as np

from drip_pot.book import PageSources
from drip_pot.book.naming import apart
from drip_pot.book.ready import Ready
from drip_pot.core.arrays import U8, U32, Rect
from drip_pot.core.press import finished_plates
from drip_pot.files.delivery.cut import rect_of
from drip_pot.files.delivery.how import PLAIN, How
from drip_pot.files.delivery.spool import Spool
from drip_pot.files.outputs import slug


@dataclass(frozen=True)
class Delivered:
    """A page to be written.

    Attributes
    ----------
    ready : Ready
        What it is painted from.
    sources : PageSources
        What it was made from.
    trap : (M, N) ndarray of uint32, or None
        Its traps, where they are wanted.
    parts : tuple of (str, tuple of int)
        The names of its parts, and the atoms of each.
    laid, whole : Spool, or None
        Its inks without traps and limit, then overprinting black, where they were laid already; its plates, as far as
        they were asked for.
    how : How
        What flat pictures and plates of it are cut to, and how large its copies for screens are.
    drawn : callable, or None
        Works out which of `DRAWN` its line is, (M, N) uint8; None is line alone.
    line_px : float
        How wide its line is.
    """

    ready: Ready
    sources: PageSources
    trap: U32 | None
    parts: tuple[tuple[str, tuple[int, ...]], ...] = ()
    laid: Spool | None = None
    whole: Spool | None = None
    how: How = PLAIN
    drawn: Callable[[], U8] | None = None
    line_px: float = 1.0

    @property
    def names(self) -> dict[str, tuple[str, ...]]:
        """The names that kinds have a part for each of."""
        spots = tuple(spot.name for spot in self.ready.tables.spots)
        return {"spots": spots, "parts": tuple(name for name, _ in self.cut_out)}

    @property
    def cut_out(self) -> tuple[tuple[str, tuple[int, ...]], ...]:
        """The parts of the page that are wanted alone, and the atoms of each."""
        return tuple(part for part in self.parts if self.how.wants(part[0]))

    @property
    def rect(self) -> Rect:
        """The pixels that flat files are cut to: top, left, bottom, right."""
        return rect_of(self.sources.page, self.how.cut)

    def plates(self, rows: slice, *, line_apart: bool = False) -> U8:
        """Return the plates of some rows, (M, N, P) uint8, with traps; `line_apart` as `separate`."""
        trap = None if self.trap is None else self.trap[rows]
        if self.laid is None or self.whole is None:
            return self.ready.plates(rows, trap=trap, line_apart=line_apart)
        if not line_apart and self.whole.has(rows):
            return self.whole.read(rows)
        every = self.laid.read(rows)
        inks, black = np.ascontiguousarray(every[..., :-1]), np.ascontiguousarray(every[..., -1])
        out = finished_plates(inks, black, trap, self.ready.tables.plates, line_apart=line_apart)
        out = self.ready.rubbed_out(out, rows)
        if not line_apart:
            self.whole.write(rows, out)
        return out


Writer = Callable[[Path, Delivered, int], None]
"""Takes a path, the page, and which part of the kind is wanted."""


@dataclass(frozen=True)
class FileKind:
    """A kind of file.

    Attributes
    ----------
    title : str
        What people call it.
    suffix : str
        The end of its name.
    parts : tuple of str
        One for each file it makes of a page, put before the suffix.
    write : callable
        Writes a page, or one part of it, to a path.
    traps : bool
        Whether it needs traps.
    place : int
        Where it stands on the list.
    each : str
        What it has a further part for each of: 'spots', inks beside the four, or 'parts' of the page; empty is nothing.
    """

    title: str
    suffix: str
    write: Writer
    traps: bool = False
    parts: tuple[str, ...] = ("",)
    place: int = 50
    each: str = ""

    def parts_for(self, names: Mapping[str, Sequence[str]]) -> tuple[str, ...]:
        """Return the parts it makes of a page that has inks beside the four, and parts, of some names."""
        told: list[str] = []
        for name in names.get(self.each, ()):
            told.append(apart(slug(name) or self.each, told))
        return (*self.parts, *(f"-{word.replace(' ', '-')}" for word in told))


KINDS: dict[str, FileKind] = {}
"""What can be written, by name."""


def kind(
    name: str, title: str, suffix: str, *, traps: bool = False, parts: tuple[str, ...] = ("",), place: int = 50,
    each: str = "",
) -> Callable[[Writer], Writer]:  # fmt: skip
    """Put a writer on the list."""

    def offer(write: Writer) -> Writer:
        KINDS[name] = FileKind(title, suffix, write, traps, parts, place, each)
        ordered = sorted(KINDS.items(), key=lambda item: item[1].place)
        KINDS.clear()
        KINDS.update(ordered)
        return write

    return offer
