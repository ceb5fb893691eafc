# SPDX-License-Identifier: GPL-3.0-or-later
"""Specks taken out and kept. Knows the line in hand."""

import msgspec
import numpy as np
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QPolygonF

from drip_pot.book.derive import chosen_specks
from drip_pot.book.values import INKS
from drip_pot.core.inks import Pieces
from drip_pot.desk.stages.inks.inking import Inking
from drip_pot.desk.view.senses import Senses
from drip_pot.desk.view.tool import Mods, StrokeTool, length, tool
from drip_pot.words import tr


@tool("Inks")
class SpeckTool(StrokeTool):
    """Erase specks: one by a click, all in a loop."""

    name = "Speck"
    place = 20
    key = "X"
    says = "Click a speck to take it out, or loop round many."
    senses = Senses(ctrl="all lone ones in the loop, however large")

    def done(self, points: list[tuple[float, float]], mods: Mods) -> None:
        view, sources = self.easel.view, self.easel.sources()
        if view is None or sources is None:
            return
        inks = sources[INKS][self.easel.sheet]
        known = {(s.row, s.col) for s in chosen_specks(view.drawing.pieces, inks)}
        if len(points) < 3 or length(points) < 12:
            found = nearest_piece(view.drawing.pieces, *points[0])
            spots = [] if found is None else [found]
        else:
            limit = None if mods & Mods.ControlModifier else 8 * max(inks.settings.speck_px, 25)
            spots = pieces_in(view.drawing.pieces, points, limit)
        fresh = [s for s in spots if s not in known and _whole(s) not in inks.erased]
        if not fresh:
            self.easel.said.emit("There is no lone speck here to take out.", False)
            return
        erased = (*inks.erased, *(_whole(s) for s in fresh))
        kept = tuple(k for k in inks.kept if all(abs(k[0] - r) + abs(k[1] - c) > 8 for r, c in fresh))
        title = "Remove a speck" if len(fresh) == 1 else tr("Remove {0} specks", len(fresh))
        self.easel.own(Inking).set_inks(msgspec.structs.replace(inks, erased=erased, kept=kept), title)


@tool("Inks")
class KeepSpeck(StrokeTool):
    """Say which specks are part of the drawing."""

    name = "Keep speck"
    place = 30
    key = "K"
    closed = False
    says = "Drag over ringed specks that are part of the drawing: they come back and stay."

    def done(self, points: list[tuple[float, float]], mods: Mods) -> None:
        view, sources = self.easel.view, self.easel.sources()
        if view is None or sources is None:
            return
        inks = sources[INKS][self.easel.sheet]
        line = np.array(points)
        back = [
            (s.row, s.col)
            for s in chosen_specks(view.drawing.pieces, inks)
            if np.hypot(line[:, 0] - s.row, line[:, 1] - s.col).min() <= 16 + s.area_px**0.5
        ]
        if not back:
            self.easel.said.emit("None of the specks that are taken out lies here.", False)
            return
        erased = tuple(e for e in inks.erased if all(abs(e[0] - r) + abs(e[1] - c) > 8 for r, c in back))
        kept = (*inks.kept, *(_whole(s) for s in back))
        title = "Keep a speck" if len(back) == 1 else tr("Keep {0} specks", len(back))
        self.easel.own(Inking).set_inks(msgspec.structs.replace(inks, erased=erased, kept=kept), title)


def _whole(spot: tuple[float, float]) -> tuple[int, int]:
    return round(spot[0]), round(spot[1])


def nearest_piece(pieces: Pieces, row: float, col: float) -> tuple[float, float] | None:
    """Return the middle of the small piece of ink at a place, if one lies there."""
    away = np.hypot(pieces.centers[:, 0] - row, pieces.centers[:, 1] - col)
    index = int(away.argmin()) if len(away) else -1
    if index < 0 or away[index] > 14 + 2.0 * float(pieces.areas[index]) ** 0.5:
        return None
    return float(pieces.centers[index, 0]), float(pieces.centers[index, 1])


def pieces_in(pieces: Pieces, loop: list[tuple[float, float]], most_px: int | None) -> list[tuple[float, float]]:
    """Return the middles of the small pieces of ink (of up to `most_px` pixels) that lie in a loop."""
    path = QPolygonF([QPointF(c, r) for r, c in loop])
    box = path.boundingRect()
    small = np.ones(len(pieces.areas), bool) if most_px is None else pieces.areas <= most_px
    near = pieces.centers[small]
    inside = (near[:, 0] >= box.top()) & (near[:, 0] <= box.bottom())
    inside &= (near[:, 1] >= box.left()) & (near[:, 1] <= box.right())
    return [
        (float(r), float(c))
        for r, c in near[inside].tolist()
        if path.containsPoint(QPointF(c, r), Qt.FillRule.OddEvenFill)
    ]
