# SPDX-License-Identifier: GPL-3.0-or-later
"""Pots poured by clicks, loops and a wide brush. Knows the page at hand."""

from PyQt6.QtGui import QPainter, QPainterPath

from drip_pot.core.regions import runs_over
from drip_pot.desk.parts import theme
from drip_pot.desk.session.easel import Easel
from drip_pot.desk.stages.flats.flatting import Flatting
from drip_pot.desk.view.outline import outline
from drip_pot.desk.view.senses import Senses
from drip_pot.desk.view.tool import Mods, StrokeTool, Tool, draw_brush, draw_with, tool
from drip_pot.words import listed, tr


@tool("Flats")
class Pour(Tool):
    """Fill regions with the pot in hand."""

    name = "Pour"
    place = 10
    key = "P"
    group = "colour"
    says = "Click a region to pour. Drag over several that are like it."
    senses = Senses("keep to what is empty", "all of its pot by a click, over everything by a drag", "take its pot")

    def __init__(self, easel: Easel) -> None:
        super().__init__(easel)
        self._atoms: set[int] = set()
        self._last: tuple[float, float] | None = None
        self._asked: frozenset[int] = frozenset()
        self._outline, self._page = QPainterPath(), 0
        self._like: int | None = None
        self._first: frozenset[int] = frozenset()

    def _asks(self, atom: int) -> bool:
        """Ask, by its outline, before a region that reaches over panels takes colour; whether it asked just now."""
        view = self.easel.view
        flat = None if view is None else view.flat
        if flat is None or flat.panels is None:
            return False
        atoms = frozenset(flat.region(atom))
        over = runs_over(flat.panels, set(atoms), flat.atoms.areas)
        was, self._asked, self._page = self._asked, frozenset(), self.easel.page
        if not over or atoms == was:
            return False
        self._asked, self._outline = atoms, outline(flat, atoms, len(flat.labels) - 1)
        named = listed([tr("panel {0}", p) if p else "the gutter" for p in over])
        where = tr("reaches over {0}", named) if len(over) > 1 else tr("is a great part of the page")
        self.easel.said.emit(
            tr("This region {0}. Click it again to pour it all; Look here names its leaks.", where), False
        )
        self.easel.repaint.emit([])
        return True

    def marks(self, painter: QPainter, zoom: float) -> None:
        if self._asked and self._page == self.easel.page:
            for shade, width in (("#ffffff", 6.0), (theme.bench().mark, 3.0)):
                draw_with(painter, shade, width)
                painter.drawPath(self._outline)

    def press(self, row: float, col: float, mods: Mods) -> None:
        atom = self.easel.atom_at(row, col)
        if not atom:
            return
        if mods & Mods.AltModifier:
            self.easel.choose_pot(self.easel.pot_of(atom))
        elif not self._asks(atom):
            self._atoms, self._last, self._like = set(), (row, col), self.easel.pot_of(atom)
            self._first = frozenset(self.easel.region_atoms(atom))
            self._add(atom, mods)

    def drag(self, row: float, col: float, mods: Mods) -> None:
        if self._last is None:
            return
        steps = int(max(abs(row - self._last[0]), abs(col - self._last[1])) // 4) + 1
        for step in range(1, steps + 1):
            part = step / steps
            at = self._last[0] + (row - self._last[0]) * part, self._last[1] + (col - self._last[1]) * part
            self._add(self.easel.atom_at(*at), mods)
        self._last = row, col

    def release(self, row: float, col: float, mods: Mods) -> None:
        if self._last is not None:
            atoms, self._atoms, self._last = self._atoms, set(), None
            if mods & Mods.ControlModifier and self._like is not None and atoms <= self._first:  # a click
                atoms |= set(self.easel.atoms_of_pot(self._like))
            self.easel.own(Flatting).pour(atoms)

    def cancel(self) -> None:
        self._atoms, self._last, self._asked = set(), None, frozenset()
        self.easel.deriving.drop_preview()

    def _add(self, atom: int, mods: Mods) -> None:
        """Add a region that is like where the pour began, and of one that is poured in part what is empty still.

        So finished colour is safe from a slip of the hand.
        """
        everything, empty = bool(mods & Mods.ControlModifier), bool(mods & Mods.ShiftModifier)
        if not atom or atom in self._atoms or not (everything or self.easel.pot_of(atom) == self._like):
            return
        fresh = self.easel.region_atoms(atom)
        if empty or (not everything and self._like is None):
            fresh = [one for one in fresh if self.easel.pot_of(one) is None]
        self._atoms.update(fresh)
        self.easel.own(Flatting).preview_pour(fresh)


@tool("Flats")
class Corral(StrokeTool):
    """Fill everything that lies wholly inside a loop."""

    name = "Corral"
    place = 20
    key = "C"
    group = "colour"
    says = "Loop round things: what lies wholly inside takes the pot in hand."
    senses = Senses(shift="keep to what is empty")

    def done(self, points: list[tuple[float, float]], mods: Mods) -> None:
        if len(points) >= 3:
            self.easel.own(Flatting).corral(points, only_empty=bool(mods & Mods.ShiftModifier))


@tool("Flats")
class Sweep(StrokeTool):
    """Fill what is still empty under a wide brush."""

    name = "Sweep"
    place = 30
    key = "S"
    group = "colour"
    closed = False
    says = "Rub over a dense area: only what is empty still takes the pot in hand. [ and ]: width."

    def done(self, points: list[tuple[float, float]], mods: Mods) -> None:
        self.easel.own(Flatting).sweep(points)

    def widen(self, factor: float) -> bool:
        self.easel.own(Flatting).widen("Sweep", factor)
        return True

    def marks(self, painter: QPainter, zoom: float) -> None:
        draw_brush(painter, self._points, self.easel.own(Flatting).widths["Sweep"])
