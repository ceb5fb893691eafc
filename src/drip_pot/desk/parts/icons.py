# SPDX-License-Identifier: GPL-3.0-or-later
"""Icons drawn for this program as strokes of a brush that swell and thin, in whatever grey they are asked for.

One gesture each, that says what the hand does. Knows Qt only.

An icon is written as marks on a field of 24 × 24, parted by ';': a letter, a width, then the points it goes through.
s swells in the middle, t begins full and tapers, g begins thin and grows, l is drawn with a hard pen from corner to
corner; d is a dab of that radius; f is filled. A letter followed by '~' is faint.
"""

from functools import lru_cache

import numpy as np
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QColor, QIcon, QPainter, QPainterPath, QPen, QPixmap, QPolygonF

from drip_pot.core.arrays import F64

_STEPS = 14
_SHAPES = {
    "Roam": "d 1 3,20; d 1.3 6.5,16.5; d 1.6 10.5,14.8; d 1.8 14,12; s 2.6 16.8,9.5 15.6,5.4 19,3.2 21.6,6.4 19.6,9.6 16.8,9.5",
    "Speck": "d 2.5 7.5,16.5; t 2.8 11,13.5 15.5,10.5 20.5,3.5; t 1.8 4,10.5 5.5,8.5 6,5.5; t 1.8 13.5,19.5 16,19.5 19,18",
    "Keep speck": "d 2.6 12,8; s 3.6 3.5,9 5.5,17.5 12,20.5 18.5,17.5 20.5,9",
    "Pour": "s 3 3,10.5 8.5,4.6 16,5.4; g 7 15.6,6.5 16.6,11 16.6,18.6",
    "Take": "d 2.6 7,17; s 2.2 10.4,20.8 4.4,21.6 2,16.6 5.2,12.6 9.6,13; t 3.4 10,14 15,9.5 21,2.5",
    "Bridge": "t 3.2 2,17 5,15.8 8,12.5; t 3.2 22,17 19,15.8 16,12.5; s 3.4 7,10 12,5.6 17,10",
    "Dam": "s 4.4 12.5,1.5 10.8,8 13.4,15 11.6,22.5; d 2.1 4.8,12.5; d 2.1 19.6,11.5",
    "Door": "t 3.4 12,1.5 12.4,5 12,8.6; g 3.4 12,15.4 11.6,19 12,22.5; g 3.4 2,12.6 10,11 20,12; l 1.9 16.4,7.8 21,12 16.4,16.2",
    "Corral": "s 3 14,21.5 5.5,19.5 2.5,12 7,4.6 16,3.6 21.5,9.5 19,16 9.5,17.6; d 1.7 8,9.2; d 1.9 14.8,8.4; d 1.6 12.6,13.2",
    "Sweep": "s 2.9 2.5,6.5 12,3.6 20.5,4.2; s 2.9 20.5,4.2 11,8.6 3.5,12.4; s 2.9 3.5,12.4 13,9.8 20.5,11; s 2.9 20.5,11 12,15.6 6,20.4",
    "Seed": "d 2.5 5.8,18.2; t 2.6 6.2,14.2 7.5,9 6.5,3; t 2.6 9,15.4 13.5,11 19.5,5.5; t 2.6 9.8,18.4 15,19.4 21.5,17",
    "Leash": "s 2 17.5,20 5,21.5 2.4,12 6.5,3.6 16,2.6 21.6,9.5 19.6,18.5 15,21; s 6.4 7.5,14.5 11,8.5 15.8,10.5",
    "Cut-out": "l 1.9 4,8.5 14,3.5 20,10.5 15.5,18.5 6.5,17 4,8.5; t 3 2,22 8,15.5 13.5,10.8",
    "Silhouette": "f 0 13,2.5 19,9 13,19 7.5,9.5; s 2 13,19 9.5,20.5 8,22.5 5,22; s 1.7 17.5,19.5 22.5,10 17.5,2.4; s 1.7 8,3 3.2,9.5 6.5,16.5",
    "Panel": "l 2 3,3.5 13,4 12.8,11.5 3.2,11.2 3,3.5; l 2 16.5,4 21.2,3.6 21,11.4 16.4,11.6 16.5,4; l 2 3.2,15 21,14.6 20.8,20.6 3,20.4 3.2,15",
    "Pick": "s 3 4,14.5 5.5,20.8 14,21.5 19.5,17.5 18,12.5; d 2.6 11.5,13.5; t 2.2 12,9 12.2,6.5 12,3; t 2.2 8.2,9.8 6.8,7.5 4.8,5.5; t 2.2 15.8,9.8 17.2,7.5 19.4,5.5",
    "Pen": "s 4.6 2.5,19.5 8.5,18.5 10.5,9 16,6.5 21.5,3",
    "Scraper": "t 3.4 2,15.5 5.5,14.6 9,15; g 3.4 16,11.6 19,10.8 22,11.4; s 3 8.4,21.5 12,12 17.5,3; d .9 12.5,20; d .8 16,18.5",
    "Mirror": "s 1.5 12,2 12,12 12,22; s 2.4 9,6 3.2,8.5 3.6,15.5 9,18.5; f 0 15,5.6 20.6,8.5 20.4,15.5 15,18.8",
    "Effect": "t 3 12,1.5 12,4.5 12,8; t 3 12,22.5 12,19.5 12,16; t 3 1.5,12 4.5,12 8,12; t 3 22.5,12 19.5,12 16,12; "
    "t 2.2 4.4,4.4 6.5,6.5 8.8,8.8; t 2.2 19.6,4.4 17.5,6.5 15.2,8.8; t 2.2 4.4,19.6 6.5,17.5 8.8,15.2; t 2.2 19.6,19.6 17.5,17.5 15.2,15.2",
    "Effect pass": "t 3 12,1.5 12,3.5 12,6.5; t 3 1.5,12 3.5,12 6,12; t 3 22.5,12 20.5,12 18,12; t 2.2 4,4 6,6 7.6,7.6; "
    "t 2.2 20,4 18,6 16.4,7.6; s 2.2 6.5,22.5 8.2,16.4 12,15.2 15.8,16.4 17.5,22.5; d 3.4 12,11.4",
    "Square": "l 1.7 4.5,5.5 19,3 21.5,20 2.5,18 4.5,5.5; d 1.9 4.5,5.5; d 1.9 19,3; d 1.9 21.5,20; d 1.9 2.5,18; s 1.5 8,9.5 12,8.6 15.6,8.4",
    "Crop": "l 2.1 7,2 6.8,17 22,17.2; l 2.1 2,6.8 17.2,7 17,22",
    "Cut shade": "s 2 12,3 4.5,6 3.5,15 10,21 18.5,18.5 21,10 12,3; f 0 20.4,8.5 20.5,14 17,19.5 10.5,20.8 15.5,15",
    "Cut light": "f 0 12,3 4.5,6 3.5,15 10,21 16,14.5 17.5,6; s 2 12,3 4.5,6 3.5,15 10,21 18.5,18.5 21,10 12,3",
    "Pull": "s 2.2 19.5,4.5 7,5 3.4,13 8.5,19; l 1.8 6.4,16.8 10.6,17 10.4,21.2 6.2,21 6.4,16.8; t 2.4 12,17.5 16.5,16.4 21.5,14",
    "Divide": "s 3.4 14.5,1.5 10.5,7.5 14.2,14.5 10.8,22.5; f 0 3,6 7.8,4.5 7.2,10.5 9.4,15.5 7,20 3.2,18.5",
    "Lamp": "f 0 12,4.4 16.6,7.6 16.2,12.6 12,15 7.8,12.6 7.4,7.6; t 2.2 12,18 12,20.5 12,22.8; t 2.2 5.4,15.6 3.6,17.4 2,19; t 2.2 18.6,15.6 20.4,17.4 22,19",
    "Fill": "s 2.2 12,2.5 4.5,5 2.5,13 8,20.5 17,20 21.5,12 18.5,4.6 12,2.5; f 0 12,6 7,7.5 5.8,13 9.4,17.6 15.6,17.2 18,12 16,7.4",
    "Dropper": "s 5 21,3 17.5,6.5 15,9; t 3.4 15.5,8.5 9,15 3.5,20.5; l 2 11.5,6 18,12.5; d 1.2 3,22",
    "Crayon": "s~ 5 3,16 8,10 13,11.5 18,6; f 0 17.5,3.5 21.5,7.5 19,10 15,6; t 2 4,21 10,18.5 16,19.5",
    "Streak": "t 2 3,18 9,9 20,3.5; t 2.4 4.5,20 11,11 21.5,6; t 1.8 7,21.5 13.5,13.5 21,9.5; t 2 10,22 15.5,16.5 20,14",
    "Prop": "l 2.2 3,9 12,4 21,8 20.6,17 12,21.4 3.2,17.4 3,9; l 2 3,9 12,13 21,8; l 2 12,13 12,21.4",
    "Place": "l 2 3,5.5 20.6,3.4 21,18.4 4,20.6 3,5.5; s 2.6 6.5,16.5 10,10.8 13,13.6 17.5,9.4 18.4,15.2; d 1.7 8.2,8.6; d 1.6 3,5.5; d 1.6 20.6,3.4; d 1.6 21,18.4; d 1.6 4,20.6",
    "Ramp": "s 4.6 4,3 3.8,12 4.2,21; s 3.4 9.6,3 9.4,12 9.8,21; s 2.2 14.8,3 14.6,12 15,21; s 1.2 19.6,3 19.4,12 19.8,21",
    "Mist": "s~ 6.5 3,17 7,11 13,12.5 21,5.5; s 2.2 3,17 7,11 13,12.5 21,5.5; s~ 2 5,21.5 12,18.6 20,19",
    "Hold": "s 4.4 2.5,18.5 7,9 12.5,12.5; s~ 4.4 11.5,12.3 16.5,12 21.5,4.5",
    "Brush hold": "s~ 3 2,20.5 9,15.8 16.5,16.8 22,12; s 5 5,18.2 9,15.8 13.5,16.2; t 3.2 12.6,14 16.5,8.5 20.5,2.5",
    "Fade": "t 5.4 2.5,18.5 8,10.5 14,12.5; d .9 17.2,10.8; d .7 19.6,8.4; d .5 21.6,5.8",
    "Knock out": "s~ 1.7 2,14.5 8,11 14,13.5 22,9; t 4.4 2,14.5 4.5,12.6 7,11.5; g 4.4 17,12.4 19.5,10.8 22,9",
    "In front": "s~ 2.2 14.5,2.5 8.5,4 8.8,11 14.5,13.4 20.6,11.4 20.8,4.6 14.5,2.5; f 0 9.5,10 3.4,12.5 3.2,19 9,21.8 15.4,19.4 15.6,12.8",
    "eye": "s 2.4 2,12.5 12,5.8 22,12.5; s 1.9 2,12.5 12,18.4 22,12.5; d 3 12,12.2",
    "undo": "t 3.2 17,20 20.4,13 15,8.6 5.5,9; l 2.2 9.4,4.2 4.4,9 9.4,13.8",
    "redo": "t 3.2 7,20 3.6,13 9,8.6 18.5,9; l 2.2 14.6,4.2 19.6,9 14.6,13.8",
    "Rub out": "f 0 3.5,14.5 9.5,8 16,12.6 10,19.6; t 3 15.5,8.5 18.5,5.5 21.5,2.5; t 1.8 3,21.5 9,21.8 16,21",
    "Ease": "f 0 9,2 9.02,2 13,8.4 13.4,12.8 9,16 4.8,12.8 5.2,8.4 8.98,2; s 2.4 17,8.5 17.3,14 17,20.6; l 2 13.8,17.4 17,21 20.2,17.2",
    "Trap": "l 2 3.5,4 13,4.3 13,20 3.6,19.6 3.5,4; f 0 10,8.2 21,8.6 20.8,15.8 10,16",
    "contact": "l 1.9 3.5,3.5 10,3.8 9.8,10.4 3.2,10.2 3.5,3.5; l 1.9 14,3.6 20.6,3.4 20.8,10 14.2,10.3 14,3.6; l 1.9 3.4,14 9.8,14.2 10,20.6 3.3,20.5 3.4,14; f 0 14,14 20.5,13.8 20.7,20.4 14.2,20.6",
    "bench": "s 2 12,3.5 5,6 3.5,12 6,18.5 12,20.5 18.5,18 20.5,12 18,5.5 12,3.5; f 0 12,3.5 18,5.5 20.5,12 18.5,18 12,20.5",
    "close": "s 3 5,5.5 12,11.5 19,18.5; s 3 19,5 12,12 5,19",
    "plus": "s 3.2 12,4 12.2,12 11.8,20; s 3.2 4,12.2 12,11.8 20,12",
    "help": "s 3.2 7.5,8.6 10.5,4.4 16,5.6 16,10.5 12.2,12.4 12,15.5; d 1.6 12,19.8",
    "drop": "f 0 12,1.5 12.02,1.5 15.8,7.5 18.3,14 16.4,19.4 12,21.5 7.6,19.4 5.7,14 8.2,7.5 11.98,1.5",
}  # fmt: skip
_PLAIN = "s 4.4 3,19 9,8 14,14 21,5"
"""A stroke, for what has no icon of its own."""


@lru_cache(maxsize=256)
def pixmap(name: str, color: str, size: int, ratio: float = 1.0) -> QPixmap:
    """Draw an icon: `size` logical pixels, `ratio` device pixels for each."""
    picture = QPixmap(round(size * ratio), round(size * ratio))
    picture.fill(Qt.GlobalColor.transparent)
    painter = QPainter(picture)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.scale(picture.width() / 24, picture.height() / 24)
    for mark in _SHAPES.get(name, _PLAIN).split(";"):
        kind, width, *spots = mark.split()
        ink = QColor(color)
        ink.setAlphaF(0.38 if kind.endswith("~") else 1.0)
        points = np.array([[float(v) for v in spot.split(",")] for spot in spots])
        _draw(painter, kind[0], float(width), points, ink)
    painter.end()
    picture.setDevicePixelRatio(ratio)
    return picture


def _draw(painter: QPainter, kind: str, width: float, points: F64, ink: QColor) -> None:
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(ink)
    if kind == "d":
        painter.drawEllipse(QPointF(*points[0]), width, width * 0.92)
    elif kind == "l":
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(ink, width, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap, Qt.PenJoinStyle.MiterJoin))
        painter.drawPolyline(_polygon(points))
    elif kind == "f":
        painter.drawPolygon(_polygon(_smooth(points, closed=True)))
    else:
        painter.drawPath(_brushed(_smooth(points, closed=bool((points[0] == points[-1]).all())), kind, width))


def _brushed(line: F64, kind: str, width: float) -> QPainterPath:
    """Return the outline of a stroke of a brush along a line, (N, 2)."""
    along = np.linspace(0, 1, len(line))
    swell = {"s": 0.3 + 0.7 * np.sin(np.pi * along) ** 0.8, "t": 1 - 0.86 * along**1.3, "g": 0.14 + 0.86 * along**1.3}
    half = width / 2 * swell[kind]
    way = np.gradient(line, axis=0)
    side = np.stack([-way[:, 1], way[:, 0]], axis=1) / np.maximum(np.hypot(*way.T), 1e-9)[:, None]
    path = QPainterPath()
    path.setFillRule(Qt.FillRule.WindingFill)
    path.addPolygon(_polygon(np.concatenate([line + side * half[:, None], (line - side * half[:, None])[::-1]])))
    path.closeSubpath()
    for end in (0, -1):
        cap = QPainterPath()
        cap.addEllipse(QPointF(*line[end]), half[end], half[end])
        path = path.united(cap)
    return path


def _smooth(points: F64, *, closed: bool) -> F64:
    """Return a curve through points, (N, 2): a Catmull-Rom spline."""
    ring = closed and len(points) > 3
    if ring and (points[0] == points[-1]).all():
        points = points[:-1]
    if ring:
        knots = np.concatenate([points[-1:], points, points[:2]])
    else:
        knots = np.concatenate([2 * points[:1] - points[1:2], points, 2 * points[-1:] - points[-2:-1]])
    t = np.linspace(0, 1, _STEPS, endpoint=False)[:, None]
    pieces = []
    for a, b, c, d in zip(knots, knots[1:], knots[2:], knots[3:], strict=False):
        pieces.append(0.5 * (2 * b + (c - a) * t + (2 * a - 5 * b + 4 * c - d) * t**2 + (3 * b - a - 3 * c + d) * t**3))
    return np.concatenate([*pieces, knots[-2:-1]])


def _polygon(points: F64) -> QPolygonF:
    return QPolygonF([QPointF(x, y) for x, y in points.tolist()])


def icon(name: str, color: str, size: int = 24) -> QIcon:
    """Return an icon at one and two device pixels a pixel."""
    found = QIcon(pixmap(name, color, size))
    found.addPixmap(pixmap(name, color, size, 2.0))
    return found
