# SPDX-License-Identifier: GPL-3.0-or-later
"""A page at hand: what it is divided into now, as verbs that need it see it. Knows core and the book; no window.

The caller gives the page as it is divided and gets it back as it will be, so that the window, the command line and a
script all work alike and the page is not found again for a stroke.
"""

from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass
from functools import cached_property

import msgspec
import numpy as np

from drip_pot.book.book import Book
from drip_pot.book.derive import Derived, panels_of
from drip_pot.book.scope import Ground, no_pieces
from drip_pot.book.sources import PageSources
from drip_pot.book.store import Edit
from drip_pot.book.values import BALLOON, DAMS, POURS, SOWN, STENCILS, LineState
from drip_pot.core.arrays import I32, I64, U8, Bool, Rect
from drip_pot.core.errors import BadInput, NothingDone
from drip_pot.core.holds import LinePieces
from drip_pot.core.regions import (
    Cut,
    Divided,
    Panels,
    Partition,
    Stencil,
    carry_pots,
    covered_shares,
    divide,
)

Points = list[tuple[float, float]]
OUTSIDE_PICK = "This lies outside what is picked; nothing was changed. Escape lets the pick go."


def _no_other(book: Book, page: int) -> "Hand":
    """Say that other pages cannot be reached from here."""
    raise BadInput("Another page cannot be worked out from here.")


def _told(line: LineState, divided: Divided) -> None:
    """Do nothing with the outcome."""


@dataclass(frozen=True)
class Hand:
    """A hand at work on a page.

    Attributes
    ----------
    divided : Divided
        The page as it is now.
    ink : (M, N) ndarray of uint8
        Its contour.
    partition : Partition
        Its regions.
    adopt : callable
        Told the line and the division that an edit leads to, just before the edit is made.
    within : int
        The panel that work is confined to; 0 is none.
    picked : frozenset of int
        The atoms that work is confined to; none is everywhere.
    known_panels : Panels, optional
        Of this partition, where they are known.
    pieces : callable
        Returns the stroke pieces of the page; None while they are not known.
    others : callable
        Returns a hand at work on another page of a book, by its number; it is worked out if need be.
    """

    book: Book
    page: int
    divided: Divided
    ink: U8
    partition: Partition
    adopt: Callable[[LineState, Divided], object] = _told
    within: int = 0
    picked: frozenset[int] = frozenset()
    known_panels: Panels | None = None
    pieces: Callable[[], LinePieces | None] = no_pieces
    others: Callable[[Book, int], "Hand"] = _no_other

    @property
    def sources(self) -> PageSources:
        """The page's sources as they are now."""
        return self.book.sources(self.page)

    @property
    def labels(self) -> I32:
        """Atom of every pixel, (M, N) int32."""
        return self.divided.atoms.labels

    @property
    def areas(self) -> I64:
        """Pixels of every atom."""
        return self.divided.atoms.areas

    @property
    def shape(self) -> tuple[int, int]:
        """Rows and columns of the page."""
        return self.labels.shape[0], self.labels.shape[1]

    @cached_property
    def panels(self) -> Panels:
        """The panels of the page."""
        return self.known_panels or panels_of(self.labels, self.partition.region, self.divided.boxes, self.sources)

    @property
    def ground(self) -> Ground:
        """What scopes are laid on."""
        return Ground(self.labels, lambda: self.panels, self.pieces)

    def spots_of(self, atoms: Iterable[int]) -> tuple[tuple[float, float], ...]:
        """Return a pixel of each of some atoms."""
        spots = []
        for atom in sorted(atoms):
            top, left, bottom, right = self.divided.boxes[atom].tolist()
            rows, cols = np.nonzero(self.labels[top:bottom, left:right] == atom)
            if len(rows):
                spots.append((float(top + rows[len(rows) // 2]), float(left + cols[len(cols) // 2])))
        return tuple(spots)

    @property
    def next(self) -> int:
        """The number of the next dam or cut-out."""
        sources = self.sources
        return max(sources.by_hand, default=0) + 1

    # What lies where

    def atom_at(self, row: float, col: float) -> int:
        """Return the atom at a page position; 0 beside the page."""
        r, c = int(row), int(col)
        inside = 0 <= r < self.shape[0] and 0 <= c < self.shape[1]
        return int(self.labels[r, c]) if inside else 0

    def region_of(self, atom: int) -> set[int]:
        """Return all atoms of the region an atom belongs to."""
        region = self.partition.region
        return set() if atom == 0 else {int(a) for a in np.flatnonzero(region == region[atom]) if a}

    def pot_of(self, atom: int) -> int | None:
        """Return an atom's pot; None for paper."""
        pot = self.sources[POURS].get(atom)
        return None if pot == BALLOON else pot

    def in_pot(self, pot: int | None) -> set[int]:
        """Return all atoms that have a pot; for None, all that have none."""
        pours = self.sources[POURS]
        if pot is None:
            return {a for a in range(1, len(self.areas)) if a not in pours}
        return {a for a, p in pours.items() if p == pot}

    def confined(self, atoms: set[int]) -> set[int]:
        """Return those of some atoms that lie in the panel, and among those picked, that work is confined to."""
        if self.picked:
            atoms = atoms & self.picked
        if not self.within:
            return atoms
        panel = self.panels.panel
        return {a for a in atoms if a < len(panel) and panel[a] == self.within}

    def no_room(self) -> NothingDone:
        """Return what is to be said where nothing lies in what work is confined to."""
        if self.picked:
            return NothingDone(OUTSIDE_PICK)
        return NothingDone("Tools are confined to panel {0}. Escape frees them.", self.within)

    def regions_in(self, rect: Rect, mask: Bool, least: float) -> Bool:
        """Tell which regions a mask covers by a share of their area, (A + 1,)."""
        region, areas = self.partition.region, self.areas
        share = covered_shares(self.labels[rect[0] : rect[2], rect[1] : rect[3]], mask, areas)
        inside = np.bincount(region, weights=share * areas, minlength=len(areas))
        whole = np.bincount(region, weights=areas, minlength=len(areas))
        return np.asarray((inside >= least * np.maximum(whole, 1)) & (whole > 0))

    def atoms_in(self, regions: Bool) -> set[int]:
        """Return the atoms of the regions told by (A + 1,) bool."""
        return set(np.flatnonzero(regions[self.partition.region] & (self.areas > 0)).tolist())

    def masked(self, rect: Rect, mask: Bool, allowed: set[int] | None = None) -> Bool:
        """Keep a mask within what work is confined to, panel and pick, and within some atoms."""
        table = np.ones(len(self.areas), bool)
        if self.picked:
            table[:] = False
            table[[a for a in self.picked if a < len(table)]] = True
        if self.within:
            table &= self.panels.panel[: len(table)] == self.within
        if allowed is not None:
            inside = np.zeros_like(table)
            inside[list(allowed)] = True
            table &= inside
        return mask if table.all() else np.asarray(mask & table[self.labels[rect[0] : rect[2], rect[1] : rect[3]]])

    # Cutting

    def lay(
        self, changes: Mapping[int, Cut | None], name: str, title: str, *,
        pots: Mapping[int, int | None] | None = None, more: Iterable[tuple[str, object]] = (),
    ) -> Divided:  # fmt: skip
        """Add, change or take away (None) dams and cut-outs by number.

        Parameters
        ----------
        changes : dict
            Dam or cut-out by number.
        name, title : str
            Of the edit.
        pots : dict, optional
            Pot (None for paper) of cut-outs by number; others take the pot they lie on most.
        more : pairs of key and value
            What else the edit changes; pours here win over those that are carried.

        Raises
        ------
        BadInput
            If the regions are out of date, or a cut-out is damaged.
        """
        sources = self.sources
        if sources.cut != sources.line:
            raise BadInput("The regions are still being found; nothing was changed. Try again in a moment.")
        every: dict[int, Cut | None] = {**sources.by_hand}
        pairs: dict[str, object] = {}
        for number, cut in changes.items():
            kind = STENCILS if isinstance(cut or every.get(number), Stencil) else DAMS
            pairs[kind.key(self.page, number)] = every[number] = cut
        laid = {number: cut for number, cut in sorted(every.items()) if cut is not None}
        cuts, order = tuple(laid.values()), list(laid)
        after = divide(self.divided, self.ink, cuts)
        carried = carry_pots(self.divided, after, sources[POURS])
        for number, pot in (pots or {}).items():
            step = after.steps[order.index(number)]
            if step.rect[2] > step.rect[0]:
                carried[step.count + 1] = pot
        pairs |= {POURS.key(self.page, atom): pot for atom, pot in carried.items()}
        sown = carry_pots(self.divided, after, sources[SOWN])
        pairs |= {SOWN.key(self.page, atom): seed for atom, seed in sown.items()}
        pairs |= dict(more)
        self.adopt(msgspec.structs.replace(sources.line, cuts=cuts), after)
        self.book.apply(Edit(name, title, tuple(self.book.change(key, value) for key, value in pairs.items())))
        return after


def hand_at(book: Book, page: int, derived: Derived) -> Hand:
    """Return a hand at work on a page, which is worked out if need be; raises `BadInput` for no such page."""
    sources = book.sources(page)
    divided, ink = derived.regions.divided(sources.line), derived.inks.contour(sources.line)
    part, adopt = derived.regions.partition(sources), derived.regions.adopt
    return Hand(book, page, divided, ink, part, adopt, pieces=lambda: derived.painted.pieces(book.sources(page)))
