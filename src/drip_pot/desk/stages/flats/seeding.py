# SPDX-License-Identifier: GPL-3.0-or-later
"""Scribbles that spread by themselves. Knows the page at hand."""

import numpy as np
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QColor, QPainter

from drip_pot.book.values import SEEDS
from drip_pot.book.verbs.setting import thinned
from drip_pot.core.regions import Path
from drip_pot.desk.session.easel import Easel
from drip_pot.desk.stages.flats.flatting import Flatting
from drip_pot.desk.view.senses import Senses
from drip_pot.desk.view.tool import Mods, StrokeTool, tool

_APART = 13.0


@tool("Flats")
class SeedTool(StrokeTool):
    """Scribble colours that spread by themselves."""

    name = "Seed"
    place = 40
    key = "E"
    group = "colour"
    closed = False
    says = (
        "Scribble the pot in hand: it spreads to the next line, gap bridged or other seed; paper keeps others out. "
        "Drag a seed to move it."
    )
    senses = Senses(shift="keep a seed where it is, recolour it", alt="take it away")

    def __init__(self, easel: Easel) -> None:
        super().__init__(easel)
        self._held: int | None = None
        self._from = (0.0, 0.0)
        self._path: Path = ()
        self._met = 0

    def press(self, row: float, col: float, mods: Mods) -> None:
        sources = self.easel.sources()
        reach = 10 / max(self.easel.zoom, 0.01)
        self._held, self._from = None, (row, col)
        for number, seed in sources[SEEDS].items() if sources is not None else ():
            if min(np.hypot(row - r, col - c) for r, c in seed.path) > reach:
                continue
            if mods & Mods.AltModifier:
                self.easel.own(Flatting).sow(None, number)
            elif mods & Mods.ShiftModifier:
                self.easel.own(Flatting).sow(seed.path, number, recolor=True)
            else:
                self._held, self._path = number, seed.path
                self._points = list(seed.path)
            return
        if not mods & Mods.AltModifier:
            super().press(row, col, mods)

    def drag(self, row: float, col: float, mods: Mods) -> None:
        if self._held is None:
            super().drag(row, col, mods)
        else:
            down, right = row - self._from[0], col - self._from[1]
            self._points = [(r + down, c + right) for r, c in self._path]
        met = self.easel.atom_at(row, col)
        if met and met != self._met:
            self._met = met
            self.easel.own(Flatting).preview_sow(self._points, self._held)

    def done(self, points: list[tuple[float, float]], mods: Mods) -> None:
        held, self._held, self._met = self._held, None, 0
        if held is None or points != list(self._path):
            self.easel.own(Flatting).sow(thinned(points), held)
        else:
            self.easel.deriving.drop_preview()

    def cancel(self) -> None:
        super().cancel()
        self._held = None
        if self._met:
            self._met = 0
            self.easel.deriving.drop_preview()

    def marks(self, painter: QPainter, zoom: float) -> None:
        sources, book = self.easel.sources(), self.easel.book
        known = book.pots() if book is not None else {}
        for number, seed in sources[SEEDS].items() if sources is not None else ():
            if number != self._held:
                pot = known.get(seed.pot or 0)
                self._draw(painter, list(seed.path), pot.local if pot is not None else "#ffffff", zoom)
        if self._points:
            pot = known.get(self.easel.pot or 0)
            self._draw(painter, self._points, pot.local if pot is not None else "#ffffff", zoom)

    @staticmethod
    def _draw(painter: QPainter, path: list[tuple[float, float]], shade: str, zoom: float) -> None:
        """Draw the grains that a stroke sows."""
        grains = [QPointF(col, row) for row, col in _grains(path, _APART / zoom)]
        for color, radius in (("#ffffff", 5.5), ("#161616", 4.4), (shade, 3.2)):
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(QColor(color))
            for at in grains:
                painter.drawEllipse(at, radius / zoom, radius / zoom)


def _grains(path: list[tuple[float, float]], apart: float) -> list[tuple[float, float]]:
    """Return places along a stroke, from its beginning to its end, about so far apart."""
    line = np.array(path, float)
    way = np.concatenate([[0.0], np.hypot(*np.diff(line, axis=0).T).cumsum()]) if len(line) > 1 else np.zeros(1)
    places = np.linspace(0, way[-1], max(2, round(way[-1] / apart) + 1)) if way[-1] > 0 else way[:1]
    return [(float(np.interp(at, way, line[:, 0])), float(np.interp(at, way, line[:, 1]))) for at in places]
