# SPDX-License-Identifier: GPL-3.0-or-later
"""Cuts pulled by their points, kept or dropped. Knows the pass in hand."""

import msgspec
import numpy as np
from PyQt6.QtGui import QPainter

from drip_pot.book.values import ShadeCut
from drip_pot.core.shade import Knot, outline, shape_bounds, shape_cover
from drip_pot.desk.session.easel import Easel
from drip_pot.desk.stages.shade.cutting import draw_shape
from drip_pot.desk.stages.shade.shaping import Shaping
from drip_pot.desk.view.senses import Senses
from drip_pot.desk.view.tool import Mods, Tool, tool

_REACH = 9


@tool("Shade")
class Pull(Tool):
    """Take up a cut and pull its points."""

    name = "Pull"
    place = 22
    key = "P"
    group = "cut"
    says = "Click a cut, then drag its points, its edge (a new point) or all of it. Delete: the cut."
    senses = Senses(shift="keep a point's place: corner or curve", alt="take a point away")

    def __init__(self, easel: Easel) -> None:
        super().__init__(easel)
        self._knots: list[Knot] = []
        self._held: int | None = None
        self._from: tuple[float, float] | None = None
        self._begun: list[Knot] = []

    @property
    def _shaping(self) -> Shaping:
        return self.easel.own(Shaping)

    def press(self, row: float, col: float, mods: Mods) -> None:
        reach = _REACH / max(self.easel.zoom, 0.01)
        chosen = self._shaping.cut_in_hand()
        self._held, self._from = None, None
        if chosen is not None:
            self._knots = list(chosen[1].knots)
            place, away = _nearest_knot(self._knots, row, col)
            if away <= reach:
                self._at_knot(place, mods)
                return
            place, away = _nearest_edge(self._knots, row, col)
            if away <= reach and not mods & Mods.AltModifier:
                smooth = self._knots[place][2] or self._knots[(place + 1) % len(self._knots)][2]
                self._knots.insert(place + 1, (row, col, smooth))
                self._held = place + 1
                return
        found = self._at(row, col)
        self._shaping.choose_cut(found)
        if found is not None:
            chosen = self._shaping.cut_in_hand()
            self._knots = list(chosen[1].knots) if chosen else []
            self._from, self._begun = (row, col), list(self._knots)

    def _at_knot(self, place: int, mods: Mods) -> None:
        row, col, smooth = self._knots[place]
        if mods & Mods.AltModifier:
            if len(self._knots) <= 3:
                self.easel.said.emit("A cut needs at least three points. Delete takes the whole cut away.", False)
                return
            del self._knots[place]
            self._keep()
        elif mods & Mods.ShiftModifier:
            self._knots[place] = (row, col, not smooth)
            self._keep()
        else:
            self._held = place

    def _at(self, row: float, col: float) -> int | None:
        """Return the uppermost cut of the pass in hand at a place."""
        view = self.easel.view
        for number, cut in reversed(self._shaping.cuts().items()):
            rect = shape_bounds(cut.knots, 2, view.shape) if view is not None else (0, 0, 0, 0)
            if rect[0] <= row < rect[2] and rect[1] <= col < rect[3] and view is not None:
                at, cover = shape_cover(cut.knots, 2, view.shape)
                if cover[int(row) - at[0], int(col) - at[1]] > 64:
                    return number
        return None

    def drag(self, row: float, col: float, mods: Mods) -> None:
        if self._held is not None:
            self._knots[self._held] = (row, col, self._knots[self._held][2])
        elif self._from is not None:
            down, right = row - self._from[0], col - self._from[1]
            self._knots = [(r + down, c + right, smooth) for r, c, smooth in self._begun]

    def release(self, row: float, col: float, mods: Mods) -> None:
        moved = self._from is not None and np.hypot(row - self._from[0], col - self._from[1]) * self.easel.zoom > 3
        if self._held is not None or moved:
            self._keep()
        self._held = self._from = None
        self.easel.chosen.emit()

    def _keep(self) -> None:
        chosen = self._shaping.cut_in_hand()
        if chosen is not None:
            knots = tuple((round(r, 2), round(c, 2), smooth) for r, c, smooth in self._knots)
            self._shaping.set_cut(msgspec.structs.replace(chosen[1], knots=knots, offered=False))

    def delete(self) -> bool:
        chosen = self._shaping.cut_in_hand()
        if chosen is not None:
            self._shaping.set_cut(None)
        return chosen is not None

    def cancel(self) -> None:
        self._held = self._from = None
        self._shaping.choose_cut(None)

    def marks(self, painter: QPainter, zoom: float) -> None:
        chosen = self._shaping.cut_in_hand()
        for number, cut in self._shaping.cuts().items():
            if chosen is None or number != chosen[0]:
                _draw_quietly(painter, cut, zoom)
        if chosen is not None:
            busy = self._held is not None or self._from is not None
            draw_shape(painter, self._knots if busy else list(chosen[1].knots), zoom)


def _draw_quietly(painter: QPainter, cut: ShadeCut, zoom: float) -> None:
    painter.setOpacity(0.9 if cut.offered else 0.45)
    draw_shape(painter, list(cut.knots), zoom, handles=False)
    painter.setOpacity(1.0)


def _nearest_knot(knots: list[Knot], row: float, col: float) -> tuple[int, float]:
    away = np.hypot(*(np.array([k[:2] for k in knots]) - (row, col)).T)
    return int(away.argmin()), float(away.min())


def _nearest_edge(knots: list[Knot], row: float, col: float) -> tuple[int, float]:
    """Return the knot before the nearest place of the outline, and how far that is."""
    line = outline(knots)
    starts = [int(np.abs(line - k[:2]).sum(axis=1).argmin()) for k in knots]
    ends = np.roll(line, -1, axis=0)
    step = ends - line
    share = np.clip(((row, col) - line) * step, -np.inf, np.inf).sum(axis=1) / np.maximum((step**2).sum(axis=1), 1e-9)
    away = np.hypot(*(line + step * np.clip(share, 0, 1)[:, None] - (row, col)).T)
    place = int(away.argmin())
    before = [k for k, start in enumerate(starts) if start <= place]
    return max(before, key=lambda k: starts[k]) if before else len(knots) - 1, float(away.min())
