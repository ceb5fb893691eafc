# SPDX-License-Identifier: GPL-3.0-or-later
"""Borders without ink, and doors through a line. Knows the page at hand."""

from collections.abc import Sequence

import numpy as np
from PyQt6.QtCore import QPointF
from PyQt6.QtGui import QColor, QPainter, QPolygonF

from drip_pot.book import verbs
from drip_pot.book.values import DAMS, DOORS
from drip_pot.book.verbs.setting import thinned
from drip_pot.core.regions import Path
from drip_pot.desk.session.easel import Easel
from drip_pot.desk.view.senses import Senses
from drip_pot.desk.view.tool import Mods, StrokeTool, draw_with, length, tool


@tool("Flats")
class Dam(StrokeTool):
    """Draw a border without ink; move its ends; remove it."""

    name = "Dam"
    place = 120
    key = "A"
    group = "border"
    kind = "dam"
    closed = False
    says = "Draw a border without ink, which is never printed. Drag an end of one to move it."
    senses = Senses(shift="keep it straight", alt="take one away")

    def __init__(self, easel: Easel) -> None:
        super().__init__(easel)
        self._held: tuple[int, int] | None = None

    def _known(self) -> dict[int, Path]:
        sources = self.easel.sources()
        if sources is None:
            return {}
        return sources[DAMS] if self.kind == "dam" else sources[DOORS]

    def press(self, row: float, col: float, mods: Mods) -> None:
        reach = 12 / max(self.easel.zoom, 0.01)
        self._held = None
        for number, path in self._known().items():
            away = [float(np.hypot(row - r, col - c)) for r, c in path]
            if mods & Mods.AltModifier and min(away) <= reach:
                self._keep(None, number)
                return
            if min(away[0], away[-1]) <= reach:
                self._held = number, 0 if away[0] <= away[-1] else len(path) - 1
                self._points = list(path)
                return
        if not mods & Mods.AltModifier:
            super().press(row, col, mods)

    def drag(self, row: float, col: float, mods: Mods) -> None:
        if self._held is not None:
            self._points[self._held[1]] = (row, col)
        elif mods & Mods.ShiftModifier and self._points:
            self._points = [self._points[0], (row, col)]
        else:
            super().drag(row, col, mods)

    def done(self, points: list[tuple[float, float]], mods: Mods) -> None:
        number = None if self._held is None else self._held[0]
        self._held = None
        if len(points) < 2 or length(points) < 3:
            return
        self._keep(thinned(points), number)

    def _keep(self, path: Path | None, number: int | None) -> None:
        if self.kind == "dam":
            self.easel.hands.start(lambda hand: verbs.set_dam(hand, path, number), [*path] if path else None)
        else:
            self.easel.do(lambda book, page: verbs.set_door(book, page, path, number))

    def cancel(self) -> None:
        super().cancel()
        self._held = None

    def marks(self, painter: QPainter, zoom: float) -> None:
        for number, path in self._known().items():
            if self._held is None or self._held[0] != number:
                draw_dam(painter, path, zoom)
        if len(self._points) > 1:
            draw_dam(painter, self._points, zoom)


def draw_dam(painter: QPainter, path: Sequence[tuple[float, float]], zoom: float) -> None:
    """Draw a border made by hand, with ends to be grabbed; the painter is in page pixels."""
    line = QPolygonF([QPointF(c, r) for r, c in path])
    for shade, width in (("#ffffff", 4.0), ("#161616", 1.8)):
        draw_with(painter, shade, width)
        painter.drawPolyline(line)
    painter.setBrush(QColor("#ffffff"))
    for end in (line.first(), line.last()):
        painter.drawEllipse(end, 4 / zoom, 4 / zoom)


@tool("Flats")
class Door(Dam):
    """Let colour through a line."""

    name = "Door"
    place = 130
    key = "O"
    group = "border"
    kind = "door"
    says = "Draw across a line to let colour through. Drag an end to move it."
