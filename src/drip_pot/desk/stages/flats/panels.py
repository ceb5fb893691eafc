# SPDX-License-Identifier: GPL-3.0-or-later
"""Silhouettes and panels poured whole, and panels drawn. Knows the page at hand."""

from collections.abc import Sequence

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QPainter, QPolygonF

from drip_pot.book import verbs
from drip_pot.book.values import PANELS
from drip_pot.core.regions import Panels
from drip_pot.desk.parts import theme
from drip_pot.desk.session.easel import Easel
from drip_pot.desk.stages.flats.flatting import Flatting
from drip_pot.desk.view.senses import Senses
from drip_pot.desk.view.tool import Mods, Tool, draw_with, tool

_REACH_PX = 12.0
_FINDING = "The panels are still being found. Try again in a moment."


@tool("Flats")
class Silhouette(Tool):
    """Fill everything that a ground encloses."""

    name = "Silhouette"
    place = 70
    key = "H"
    group = "whole"
    says = "Click the ground round a figure: all that it encloses takes the pot in hand."
    senses = Senses(ctrl="also what touches the panel's edge", alt="pick what is not of the part in hand")

    def press(self, row: float, col: float, mods: Mods) -> None:
        flatting = self.easel.own(Flatting)
        what = flatting.check_silhouette if mods & Mods.AltModifier else flatting.silhouette
        what(row, col, framed=bool(mods & Mods.ControlModifier))


@tool("Flats")
class PanelTool(Tool):
    """Pour panels, draw and remove them, and confine the other tools to one."""

    name = "Panel"
    place = 80
    key = "F"
    group = "whole"
    says = "Click a panel: what is empty in it takes the pot in hand. Drag: draw a panel, or pull a corner."
    senses = Senses("keep the tools to it", "all of it, poured or not", "take it away: it is no panel")

    def __init__(self, easel: Easel) -> None:
        super().__init__(easel)
        self._start: tuple[float, float] | None = None
        self._shape: list[tuple[float, float]] = []
        self._held: int | None = None
        self._number_held: int | None = None

    def _panels(self) -> Panels | None:
        view = self.easel.view
        return None if view is None or view.flat is None else view.flat.panels

    def press(self, row: float, col: float, mods: Mods) -> None:
        panels = self._panels()
        if panels is None and mods & Mods.ShiftModifier:
            self.easel.said.emit(_FINDING, False)
        elif panels is not None and mods & Mods.ShiftModifier:
            self.easel.confine(panels.at(row, col))
        elif mods & Mods.AltModifier:
            self.easel.hands.start(lambda hand: verbs.remove_panel(hand, row, col))
        else:
            self._start, self._shape = (row, col), []
            if panels is not None:
                self._take_corner(panels, row, col)

    def _take_corner(self, panels: Panels, row: float, col: float) -> None:
        """Take the corner that was pressed on, if any."""
        self._held = self._number_held = None
        best = _REACH_PX / max(self.easel.zoom, 0.01)
        for corners in panels.corners if panels.framed else ():
            away = np.hypot(*(np.array(corners) - (row, col)).T)
            if away.min() < best:
                best, self._held, self._shape = float(away.min()), int(away.argmin()), list(corners)
        sources = self.easel.sources()
        if self._held is not None and sources is not None:
            same = [n for n, drawn in sources[PANELS].items() if drawn.corners == tuple(self._shape)]
            self._number_held = same[-1] if same else None

    def drag(self, row: float, col: float, mods: Mods) -> None:
        if self._start is None:
            return
        if self._held is not None:
            self._shape[self._held] = row, col
        elif self._shape or max(abs(row - self._start[0]), abs(col - self._start[1])) * self.easel.zoom > _REACH_PX / 2:
            top, left = self._start
            self._shape = [(top, left), (top, col), (row, col), (row, left)]
            if self._panels() is None:  # it may be meant for a corner
                self.cancel()
                self.easel.said.emit(_FINDING, False)

    def release(self, row: float, col: float, mods: Mods) -> None:
        start, shape, held, number = self._start, self._shape, self._held, self._number_held
        self.cancel()
        if start is None:
            return
        moved = max(abs(row - start[0]), abs(col - start[1])) * self.easel.zoom > 2
        if shape and (held is None or moved):
            self.easel.hands.start(lambda hand: verbs.draw_panel(hand, tuple(shape), number), [*shape, shape[0]])
        else:
            self.easel.own(Flatting).pour_panel(row, col, everything=bool(mods & Mods.ControlModifier))

    def cancel(self) -> None:
        self._start, self._shape, self._held, self._number_held = None, [], None, None

    def marks(self, painter: QPainter, zoom: float) -> None:
        panels = self._panels()
        for number, corners in enumerate(panels.corners if panels is not None else (), 1):
            _frame(painter, corners, zoom)
            middle = np.array(corners)[np.array(corners).sum(axis=1).argmin()]  # its corner nearest to the page's
            self._number(painter, QPointF(middle[1] + 26 / zoom, middle[0] + 26 / zoom), number)
        if self._shape:
            _frame(painter, self._shape, zoom)

    def _number(self, painter: QPainter, at: QPointF, number: int) -> None:
        """Write a panel's number upright, however the view is turned."""
        middle = painter.worldTransform().map(at)
        confined = number == self.easel.within
        painter.save()
        painter.resetTransform()
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor("#161616" if confined else "#ffffff"))
        spot = QRectF(middle.x() - 14, middle.y() - 13, 28, 26)
        painter.drawEllipse(spot)
        painter.setPen(QColor("#ffffff" if confined else "#161616"))
        painter.setFont(theme.font(18))
        painter.drawText(spot, Qt.AlignmentFlag.AlignCenter, str(number))
        painter.restore()


def _frame(painter: QPainter, corners: Sequence[tuple[float, float]], zoom: float) -> None:
    """Draw a panel's frame, with corners to be pulled; the painter is in page pixels."""
    spots = [QPointF(c, r) for r, c in corners]
    for shade, width in (("#ffffff", 5.0), ("#161616", 2.2)):
        draw_with(painter, shade, width)
        painter.drawPolygon(QPolygonF(spots))
    painter.setBrush(QColor("#ffffff"))
    for spot in spots:
        painter.drawEllipse(spot, 5 / zoom, 5 / zoom)
    painter.setBrush(Qt.BrushStyle.NoBrush)
