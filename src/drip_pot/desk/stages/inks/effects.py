# SPDX-License-Identifier: GPL-3.0-or-later
"""Effect lines placed and moved. Knows the line in hand."""

import msgspec
import numpy as np
from PyQt6.QtCore import QPointF
from PyQt6.QtGui import QColor, QPainter, QPolygonF

from drip_pot.book.values import EFFECTS
from drip_pot.core.inks import Effect
from drip_pot.desk.session.easel import Easel
from drip_pot.desk.stages.inks.inking import Inking
from drip_pot.desk.view.tool import Mods, StrokeTool, draw_with, length, tool


@tool("Inks")
class EffectTool(StrokeTool):
    """Place effect lines in a shape drawn by hand; move their middle and their clear radius by handles."""

    name = "Effect"
    place = 70
    key = "E"
    says = (
        "Loop round what the lines shall fill. Drag the dot to move their middle, the ring to clear it. Delete removes."
    )

    def __init__(self, easel: Easel) -> None:
        super().__init__(easel)
        self._inking = easel.own(Inking)
        self._grip = ""
        self._trial: Effect | None = None

    def delete(self) -> bool:
        return self._inking.remove_effect()

    def press(self, row: float, col: float, mods: Mods) -> None:
        effect, sources = self._inking.effect_in_hand(), self.easel.sources()
        reach = 14 / max(self.easel.zoom, 0.01)
        away = 1e9 if effect is None else float(np.hypot(row - effect.row, col - effect.col))
        self._trial, self._grip = effect, ""
        if effect is not None and away <= reach:
            self._grip = "middle"
        elif effect is not None and effect.kind != "speed" and abs(away - effect.clear_px) <= reach:
            self._grip = "ring"
        elif sources is not None:
            for number, other in sources[EFFECTS].items():
                if np.hypot(row - other.row, col - other.col) <= reach:
                    self._inking.choose_effect(number)
                    self._trial, self._grip = other, "middle"
        if not self._grip:
            super().press(row, col, mods)

    def drag(self, row: float, col: float, mods: Mods) -> None:
        if self._trial is None or not self._grip:
            super().drag(row, col, mods)
        elif self._grip == "middle":
            self._trial = msgspec.structs.replace(self._trial, row=row, col=col)
        else:
            clear = float(np.hypot(row - self._trial.row, col - self._trial.col))
            self._trial = msgspec.structs.replace(self._trial, clear_px=clear)

    def release(self, row: float, col: float, mods: Mods) -> None:
        trial, grip = self._trial, self._grip
        self._grip, self._trial = "", None
        if grip and trial is not None:
            self._inking.set_effect(trial, self._inking.effect)
        else:
            super().release(row, col, mods)

    def done(self, points: list[tuple[float, float]], mods: Mods) -> None:
        if len(points) < 3 or length(points) < 40:
            return
        line = np.array(points[:: max(1, len(points) // 200)])
        middle = line.mean(axis=0)
        size = float(np.hypot(*(line.max(axis=0) - line.min(axis=0))))
        effect = Effect(
            self._inking.effect_kind, tuple((round(r, 1), round(c, 1)) for r, c in line.tolist()),
            float(middle[0]), float(middle[1]), clear_px=round(size * 0.15), weight_px=max(1.0, round(size / 120, 1)),
        )  # fmt: skip
        self._inking.set_effect(effect)

    def cancel(self) -> None:
        super().cancel()
        self._grip, self._trial = "", None

    def marks(self, painter: QPainter, zoom: float) -> None:
        super().marks(painter, zoom)
        effect = self._trial or self._inking.effect_in_hand()
        sources = self.easel.sources()
        for number, other in (sources[EFFECTS] if sources is not None else {}).items():
            if number != self._inking.effect:
                self._dot(painter, other, zoom, 4)
        if effect is None:
            return
        for shade, width in (("#ffffff", 3.2), ("#161616", 1.4)):
            draw_with(painter, shade, width)
            painter.drawPolygon(QPolygonF([QPointF(c, r) for r, c in effect.shape]))
            if effect.kind != "speed" and effect.clear_px:
                painter.drawEllipse(QPointF(effect.col, effect.row), effect.clear_px, effect.clear_px)
        self._dot(painter, effect, zoom, 7)

    @staticmethod
    def _dot(painter: QPainter, effect: Effect, zoom: float, size: float) -> None:
        draw_with(painter, "#ffffff", 2)
        painter.setBrush(QColor("#161616"))
        painter.drawEllipse(QPointF(effect.col, effect.row), size / zoom, size / zoom)
