# SPDX-License-Identifier: GPL-3.0-or-later
"""Placed pictures moved, turned and pulled on the page. Knows the pass in hand."""

import math

import cv2
import numpy as np
from PyQt6.QtCore import QPointF
from PyQt6.QtGui import QColor, QPainter

from drip_pot.book import verbs
from drip_pot.core.render import Placed
from drip_pot.desk.session.easel import Easel
from drip_pot.desk.stages.shade.shading import Shading
from drip_pot.desk.view.senses import Senses
from drip_pot.desk.view.tool import Mods, Tool, draw_with, tool

_REACH = 12
_STEPS = {"move": "Drag to move the picture", "turn": "Turn", "scale": "Scale", "pull": "Pull the corner"}
Grid = list[tuple[float, float]]


@tool("Shade")
class PlaceTool(Tool):
    """Move the picture in hand, or pull it by its points."""

    name = "Place"
    place = 55
    key = "Z"
    group = "soft"
    says = "Drag a picture to move it, a corner or a point of its mesh to pull it, from beside it to turn it."
    senses = Senses(shift="keep its shape: larger or smaller")

    def __init__(self, easel: Easel) -> None:
        super().__init__(easel)
        self._grid: Grid = []
        self._from: tuple[float, float] = (0.0, 0.0)
        self._held: int | None = None
        self._start: Grid = []
        self._turns = False

    def _placed(self) -> Placed | None:
        held = self.easel.own(Shading).in_hand()
        return None if held is None else held[1].placed

    def press(self, row: float, col: float, mods: Mods) -> None:
        placed = self._placed()
        if placed is None:
            self.easel.said.emit("Take a pass with a picture in hand, or add one under Add, A picture.", False)
            return
        self._start = self._grid = list(placed.grid)
        self._from = (row, col)
        reach = _REACH / max(self.easel.zoom, 0.01)
        apart = [math.hypot(row - r, col - c) for r, c in self._start]
        nearest = int(np.argmin(apart))
        self._held = nearest if apart[nearest] <= reach else None
        self._turns = self._held is None and not _is_on(placed, row, col)

    def drag(self, row: float, col: float, mods: Mods) -> None:
        if self._start:
            self._grid = _dragged(self._start, self._held, self._from, (row, col), turns=self._turns, mods=mods)

    def release(self, row: float, col: float, mods: Mods) -> None:
        grid, start = self._grid, self._start
        self.cancel()
        held = self.easel.own(Shading).in_hand()
        if held is not None and grid != start:
            number = held[0]
            self.easel.do(lambda book, page: verbs.bend_picture(book, page, number, grid))

    def cancel(self) -> None:
        self._grid, self._start, self._held = [], [], None

    def marks(self, painter: QPainter, zoom: float) -> None:
        placed = self._placed()
        if placed is None:
            return
        grid = self._grid or list(placed.grid)
        spots = [QPointF(c, r) for r, c in grid]
        wide = placed.across + 1
        for shade, width in (("#ffffff", 3.6), ("#161616", 1.4)):
            draw_with(painter, shade, width)
            for k, spot in enumerate(spots):
                if (k + 1) % wide:
                    painter.drawLine(spot, spots[k + 1])
                if k + wide < len(spots):
                    painter.drawLine(spot, spots[k + wide])
        painter.setBrush(QColor("#ffffff"))
        for spot in spots:
            painter.drawEllipse(spot, 5 / zoom, 5 / zoom)


def _is_on(placed: Placed, row: float, col: float) -> bool:
    """Whether a place lies on a picture, as its outer points lie."""
    wide, grid = placed.across + 1, placed.grid
    right, left = range(2 * wide - 1, len(grid), wide), range(len(grid) - 2 * wide, 0, -wide)
    around = [*range(wide), *right, *range(len(grid) - 2, len(grid) - wide - 1, -1), *left]
    edge = np.array([grid[k] for k in around], np.float32)
    return cv2.pointPolygonTest(edge.reshape(-1, 1, 2), (row, col), measureDist=False) >= 0


def _dragged(
    start: Grid, held: int | None, begun: tuple[float, float], at: tuple[float, float], *, turns: bool, mods: Mods
) -> Grid:  # fmt: skip
    """Return the points of a picture as a drag leaves them."""
    points = np.array(start)
    middle = points.mean(axis=0)
    now, before = np.array(at) - middle, np.array(begun) - middle
    if turns:
        turn = math.atan2(now[1], now[0]) - math.atan2(before[1], before[0])
        cos, sin = math.cos(turn), math.sin(turn)
        points = (points - middle) @ np.array([[cos, sin], [-sin, cos]]) + middle
    elif mods & Mods.ShiftModifier:
        scale = float(np.hypot(*now)) / max(float(np.hypot(*before)), 1.0)
        points = (points - middle) * max(scale, 0.02) + middle
    elif held is not None:
        points[held] = at
    else:
        points = points + (np.array(at) - np.array(begun))
    return [(float(r), float(c)) for r, c in points]
