# SPDX-License-Identifier: GPL-3.0-or-later
"""What every tool is: a gesture with its marks, and strokes drawn by hand. Knows the easel and Qt's painter.

A tool is a class in a file of its own, put at the disposal of its stages by `tool`; that is all it takes.
"""

from collections.abc import Callable
from itertools import pairwise
from typing import TypeVar

from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QColor, QPainter, QPen, QPolygonF

from drip_pot.book.verbs import Reach
from drip_pot.desk.session.easel import Easel
from drip_pot.desk.view.senses import NONE

Mods = Qt.KeyboardModifier
T = TypeVar("T", bound="type[Tool]")
_OFFERED: dict[str, list["type[Tool]"]] = {}


def tool(*stages: str) -> Callable[[T], T]:
    """Offer a tool in stages; in their column it stands by its `place`."""

    def offer(kind: T) -> T:
        for stage in stages:
            _OFFERED.setdefault(stage, []).append(kind)
        return kind

    return offer


def tools_of(stage: str) -> dict[str, "type[Tool]"]:
    """Return the tools of a stage by name, in order."""
    return {kind.name: kind for kind in sorted(_OFFERED.get(stage, []), key=lambda kind: kind.place)}


class Tool:
    """A tool; positions are page pixels (row, col).

    Attributes
    ----------
    name, key : str
        What it is called (its icon has the same name), and its letter.
    place : int
        Where it stands among the tools of its stage.
    group : str
        What it stands with there; a rule parts groups.
    says : str
        What it does, for the status line.
    senses : Senses
        What the modifier keys change.
    pans : bool
        Whether dragging moves the page.
    """

    name = ""
    key = ""
    place = 100
    group = ""
    pans = False
    says = ""
    senses = NONE
    cursor = Qt.CursorShape.CrossCursor

    def __init__(self, easel: Easel) -> None:
        self.easel = easel

    def hint(self) -> str:
        """Return what it does now, for the status line."""
        return self.says

    def press(self, row: float, col: float, mods: Mods) -> None:
        """Begin a gesture."""

    def drag(self, row: float, col: float, mods: Mods) -> None:
        """Go on with it."""

    def release(self, row: float, col: float, mods: Mods) -> None:
        """Finish it."""

    @property
    def is_midway(self) -> bool:
        """Whether something is half drawn that a cancel gives up."""
        return False

    def cancel(self) -> None:
        """Give it up without a trace."""

    def dropped(self) -> None:
        """Forget what is half done, as another tool is taken up."""
        self.cancel()

    def widen(self, factor: float) -> bool:
        """Make it so many times as wide; return whether it has a width."""
        return False

    def finish(self) -> bool:
        """End what is drawn step by step; return whether there was anything."""
        return False

    def confirm(self) -> bool:
        """Do what it offers, where nothing else is to be confirmed; return whether it offers anything."""
        return False

    def delete(self) -> bool:
        """Take away what it has in hand; return whether there was anything."""
        return False

    def marks(self, painter: QPainter, zoom: float) -> None:
        """Draw marks; the painter is in page pixels."""


class StrokeTool(Tool):
    """A tool that draws a line or loop: collects points, shows them, and does something when it is let go."""

    closed = True

    def __init__(self, easel: Easel) -> None:
        super().__init__(easel)
        self._points: list[tuple[float, float]] = []

    def press(self, row: float, col: float, mods: Mods) -> None:
        self._points = [(row, col)]

    def drag(self, row: float, col: float, mods: Mods) -> None:
        if self._points and abs(row - self._points[-1][0]) + abs(col - self._points[-1][1]) >= 1:
            self._points.append((row, col))

    def release(self, row: float, col: float, mods: Mods) -> None:
        points, self._points = self._points, []
        if points:
            self.done(points, mods)

    def done(self, points: list[tuple[float, float]], mods: Mods) -> None:
        """Do what the stroke means."""

    @property
    def is_midway(self) -> bool:
        return bool(self._points)

    def cancel(self) -> None:
        self._points = []

    def marks(self, painter: QPainter, zoom: float) -> None:
        if len(self._points) < 2:
            return
        loop = QPolygonF([QPointF(c, r) for r, c in self._points])
        for shade, width in (("#ffffff", 3.2), ("#161616", 1.4)):
            draw_with(painter, shade, width)
            if self.closed:
                painter.drawPolygon(loop)
            else:
                painter.drawPolyline(loop)


class PressedStroke(StrokeTool):
    """A stroke that knows how hard the hand pressed, and how far it tilted the pen at most (0 upright, 1 flat)."""

    closed = False
    tilt = 0.0

    def __init__(self, easel: Easel) -> None:
        super().__init__(easel)
        self._pressures: list[float] = []

    def press(self, row: float, col: float, mods: Mods) -> None:
        super().press(row, col, mods)
        self._pressures, self.tilt = [self.easel.pressure], self.easel.tilt

    def drag(self, row: float, col: float, mods: Mods) -> None:
        before = len(self._points)
        super().drag(row, col, mods)
        if len(self._points) > before:
            self._pressures.append(self.easel.pressure)
            self.tilt = max(self.tilt, self.easel.tilt)

    def done(self, points: list[tuple[float, float]], mods: Mods) -> None:
        self.drawn([(r, c, p) for (r, c), p in zip(points, self._pressures, strict=True)], mods)

    def drawn(self, stroke: list[tuple[float, float, float]], mods: Mods) -> None:
        """Do what the stroke (row, col, pressure) means."""


def kept_in(easel: Easel, at: tuple[float, float], mods: Mods) -> tuple[int, Reach]:
    """Return the atom a stroke keeps to, and whether to its region (Shift), all of its pot (Ctrl) or part (both)."""
    shift, ctrl = bool(mods & Mods.ShiftModifier), bool(mods & Mods.ControlModifier)
    atom = easel.atom_at(*at) if shift or ctrl else 0
    return atom, "part" if shift and ctrl else "pot" if ctrl else "region"


def draw_brush(painter: QPainter, points: list[tuple[float, float]], width: float, shade: str = "#46161616") -> None:
    """Draw a stroke as wide as it is on the page."""
    if not points:
        return
    pen = QPen(QColor(shade), width)
    pen.setCapStyle(Qt.PenCapStyle.RoundCap)
    pen.setJoinStyle(Qt.PenJoinStyle.RoundJoin)
    painter.setPen(pen)
    painter.drawPolyline(QPolygonF([QPointF(c, r) for r, c in [*points, points[-1]]]))


def draw_with(painter: QPainter, shade: str, width: float) -> None:
    """Draw with a pen that is as wide on the screen at every zoom."""
    pen = QPen(QColor(shade), width)
    pen.setCosmetic(True)
    painter.setPen(pen)
    painter.setBrush(Qt.BrushStyle.NoBrush)


def length(points: list[tuple[float, float]]) -> float:
    """Return how long a stroke is, its rows and columns added up."""
    return sum(abs(a[0] - b[0]) + abs(a[1] - b[1]) for a, b in pairwise(points))
