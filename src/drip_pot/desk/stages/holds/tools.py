# SPDX-License-Identifier: GPL-3.0-or-later
"""Lines held by hand: strokes picked, brushed, faded, knocked out. Knows the hold in hand."""

import cv2
import numpy as np
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QPainter, QPolygonF

from drip_pot.book import verbs
from drip_pot.desk.session.easel import Easel
from drip_pot.desk.stages.holds.holding import Holding
from drip_pot.desk.stages.taking import Take
from drip_pot.desk.view.senses import Senses
from drip_pot.desk.view.tool import Mods, PressedStroke, StrokeTool, Tool, draw_brush, draw_with, tool

_REACH = 1.5


class _Picking(Tool):
    """Strokes gathered under the pointer while it is pressed."""

    def __init__(self, easel: Easel) -> None:
        super().__init__(easel)
        self._found: dict[int, tuple[float, float]] = {}

    def press(self, row: float, col: float, mods: Mods) -> None:
        self._found = {}
        self.drag(row, col, mods)

    def drag(self, row: float, col: float, mods: Mods) -> None:
        view = self.easel.view
        flat = None if view is None else view.flat
        pieces = None if flat is None else flat.painted.pieces
        if flat is not None and pieces is not None:
            piece = pieces.at(row, col, flat.atoms.line_px / 2 + _REACH)
            if piece and piece not in self._found:
                self._found[piece] = (row, col) if pieces.plane[int(row), int(col)] == piece else (
                    Holding.place_of(pieces, piece) or (row, col))  # fmt: skip

    def release(self, row: float, col: float, mods: Mods) -> None:
        found, self._found = self._found, {}
        holding = self.easel.own(Holding)
        if holding.pieces() is None:
            return
        spots = list(found.values())
        if mods & Mods.ControlModifier and found:
            spots = [place for piece in found for place in holding.like(piece)]
        self.picked(spots, (row, col), mods)

    def picked(self, spots: list[tuple[float, float]], at: tuple[float, float], mods: Mods) -> None:
        """Do something with strokes, each told by a place."""

    def cancel(self) -> None:
        self._found = {}

    def marks(self, painter: QPainter, zoom: float) -> None:
        view = self.easel.view
        pieces = None if view is None or view.flat is None else view.flat.painted.pieces
        if pieces is None:
            return
        draw_with(painter, "#d0401a", 2.0)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for piece in self._found:
            top, left, bottom, right = pieces.boxes[piece].tolist()
            mask = (pieces.plane[top:bottom, left:right] == piece).view(np.uint8)
            for edge in cv2.findContours(mask, cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_SIMPLE)[0]:
                painter.drawPolygon(QPolygonF([QPointF(left + x + 0.5, top + y + 0.5) for x, y in edge[:, 0].tolist()]))


@tool("Holds")
class HoldTool(_Picking):
    """Colour strokes, or the lines of a part."""

    name = "Hold"
    place = 10
    key = "H"
    says = "Click a stroke, or drag across several, to colour it. Click colour: the lines of its part."
    senses = Senses(ctrl="all like it", alt="let it go")

    def picked(self, spots: list[tuple[float, float]], at: tuple[float, float], mods: Mods) -> None:
        holding = self.easel.own(Holding)
        away = bool(mods & Mods.AltModifier)
        if not spots:
            holding.hold_part(*at, away=away)
        elif away:
            holding.let_go(spots)
        else:
            holding.pick(spots)


@tool("Holds")
class BrushHold(PressedStroke):
    """Colour the line under a brush."""

    name = "Brush hold"
    place = 20
    key = "B"
    says = "Brush over line: it alone takes the colour. [ and ]: width."
    senses = Senses(alt="let it go")

    def drawn(self, stroke: list[tuple[float, float, float]], mods: Mods) -> None:
        self.easel.own(Holding).brush(stroke, away=bool(mods & Mods.AltModifier))

    def widen(self, factor: float) -> bool:
        self.easel.own(Holding).widen(factor)
        return True

    def marks(self, painter: QPainter, zoom: float) -> None:
        draw_brush(painter, self._points, self.easel.own(Holding).width_px, "#30161616")


@tool("Holds")
class Fade(StrokeTool):
    """Let a coloured line run out."""

    name = "Fade"
    place = 30
    key = "F"
    says = "Drag along a coloured stroke to its end: its colour runs out on the way, and is gone where you let go."
    closed = False

    def done(self, points: list[tuple[float, float]], mods: Mods) -> None:
        self.easel.own(Holding).fade(points)


@tool("Holds")
class KnockOut(_Picking):
    """Leave strokes out, to the colour beneath."""

    name = "Knock out"
    place = 40
    key = "K"
    says = "Click a stroke, or drag across several, to leave it out: the colour beneath shows."
    senses = Senses(ctrl="all like it", alt="let it go")

    def picked(self, spots: list[tuple[float, float]], at: tuple[float, float], mods: Mods) -> None:
        if spots and mods & Mods.AltModifier:
            self.easel.own(Holding).let_go(spots)
        elif spots:
            self.easel.own(Holding).pick(spots, "Strokes knocked out by hand")
        else:
            self.easel.said.emit("There is no stroke here. Click on a line.", False)


@tool("Holds")
class InFront(StrokeTool):
    """Say what lies in front."""

    name = "In front"
    place = 50
    key = "O"
    says = "Drag from what lies in front onto what lies behind it: it owns the line between them, on every page."
    senses = Senses(ctrl="all of both parts", alt="behind it")
    closed = False

    def done(self, points: list[tuple[float, float]], mods: Mods) -> None:
        pots = [self.easel.pot_of(self.easel.atom_at(*at)) for at in (points[0], points[-1])]
        if mods & Mods.AltModifier:
            pots.reverse()
        front, behind = pots
        if front is None or behind is None:
            self.easel.said.emit("Paper has no depth. Drag from one poured region onto another.", False)
        elif front == behind:
            self.easel.said.emit("Drag onto another colour: onto what lies behind.", False)
        else:
            parts = bool(mods & Mods.ControlModifier)
            self.easel.do(lambda book, _: verbs.put_in_front(book, front, behind, parts=parts))


@tool("Holds")
class TakeHold(Take):
    """Take a hold from a stroke, or a pot from the colour."""

    says = "Click a stroke to take its hold in hand, or colour to take its pot."

    def press(self, row: float, col: float, mods: Mods) -> None:
        if not self.easel.own(Holding).take(row, col):
            super().press(row, col, mods)
