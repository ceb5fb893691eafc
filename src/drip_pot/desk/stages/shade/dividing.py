# SPDX-License-Identifier: GPL-3.0-or-later
"""Borders of shadows drawn, and their dark sides filled. Knows the pass in hand."""

import numpy as np
from PyQt6.QtCore import QPointF
from PyQt6.QtGui import QColor, QPainter, QPolygonF

from drip_pot.book import verbs
from drip_pot.book.verbs.setting import thinned
from drip_pot.desk.stages.shade.shaping import Shaping
from drip_pot.desk.view.senses import Senses
from drip_pot.desk.view.tool import Mods, StrokeTool, draw_with, length, tool

_CLICK, _REACH = 6, 8


@tool("Shade")
class Divide(StrokeTool):
    """Draw the border of a shadow, then click its dark side."""

    name = "Divide"
    place = 24
    key = "B"
    group = "cut"
    closed = False
    says = "Draw the border of a shadow, then click its dark side."
    senses = Senses(alt="empty a side, or take a border away")

    def done(self, points: list[tuple[float, float]], mods: Mods) -> None:
        shaping, zoom = self.easel.own(Shaping), max(self.easel.zoom, 0.01)
        if length(points) * zoom > _CLICK:
            shaping.divide(thinned(points))
            return
        away = bool(mods & Mods.AltModifier)
        near = _nearest(shaping, points[0], _REACH / zoom) if away else None
        if near is not None:
            self.easel.do(lambda book, page: verbs.remove_border(book, page, near))
        else:
            shaping.fill_at(points[:1], away=away)

    def marks(self, painter: QPainter, zoom: float) -> None:
        super().marks(painter, zoom)
        shaping = self.easel.own(Shaping)
        for border in shaping.borders().values():
            line = QPolygonF([QPointF(c, r) for r, c in border.path])
            for shade, width in (("#ffffff", 3.2), ("#161616", 1.4)):
                draw_with(painter, shade, width)
                painter.drawPolyline(line)
        for row, col in shaping.open_ends():
            for shade, width in (("#ffffff", 5.0), ("#c2410c", 2.4)):
                draw_with(painter, shade, width)
                painter.setBrush(QColor("#00000000"))
                painter.drawEllipse(QPointF(col, row), 9 / zoom, 9 / zoom)


def _nearest(shaping: Shaping, at: tuple[float, float], reach: float) -> int | None:
    away = {n: float(np.hypot(*(np.array(b.path) - at).T).min()) for n, b in shaping.borders().items()}
    best = min(away, key=lambda n: away[n], default=None)
    return best if best is not None and away[best] <= reach else None
