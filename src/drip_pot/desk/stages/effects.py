# SPDX-License-Identifier: GPL-3.0-or-later
"""Effect lines placed, moved and set: over the line in Inks, beneath it in Shade. Knows what has them in hand."""

from collections.abc import Mapping
from typing import Any, Literal, Protocol

import msgspec
import numpy as np
from PyQt6.QtCore import QPointF
from PyQt6.QtGui import QColor, QPainter, QPolygonF
from PyQt6.QtWidgets import QComboBox, QVBoxLayout, QWidget

from drip_pot.core.inks import Effect
from drip_pot.desk.parts.widgets import NumberRow
from drip_pot.desk.session.easel import Easel
from drip_pot.desk.view.tool import Mods, StrokeTool, draw_with, length
from drip_pot.words import tr

EffectKind = Literal["burst", "speed", "focus"]
_KINDS: tuple[tuple[EffectKind, str], ...] = (
    ("focus", "Focus: from the edge inwards"),
    ("burst", "Burst: from the middle outwards"),
    ("speed", "Speed: side by side"),
)
_SHARES = ("length", "jitter", "fade")


class HasEffects(Protocol):
    """What has effect lines in hand."""

    effect_kind: EffectKind

    def effects(self) -> Mapping[int, Effect]:
        """Return the effect lines of the page, by number."""

    def effect_number(self) -> int | None:
        """Return the number of those in hand."""

    def choose_effect(self, number: int | None) -> None:
        """Take effect lines in hand."""

    def set_effect(self, effect: Effect | None, number: int | None = None) -> None:
        """Add effect lines, change those of a number, or take them away (None)."""


def effect_in_hand(has: HasEffects) -> Effect | None:
    """Return the effect lines in hand."""
    return has.effects().get(has.effect_number() or 0)


class EffectTool(StrokeTool):
    """Place effect lines in a shape drawn by hand; move their middle and their clear radius by handles."""

    name = "Effect"
    place = 70
    key = "E"
    says = (
        "Loop round what the lines shall fill. Drag the dot to move their middle, the ring to clear it. Delete removes."
    )

    def __init__(self, easel: Easel, has: HasEffects) -> None:
        super().__init__(easel)
        self._has = has
        self._grip = ""
        self._trial: Effect | None = None

    def delete(self) -> bool:
        if effect_in_hand(self._has) is None:
            return False
        self._has.set_effect(None, self._has.effect_number())
        return True

    def press(self, row: float, col: float, mods: Mods) -> None:
        effect = effect_in_hand(self._has)
        reach = 14 / max(self.easel.zoom, 0.01)
        away = 1e9 if effect is None else float(np.hypot(row - effect.row, col - effect.col))
        self._trial, self._grip = effect, ""
        if effect is not None and away <= reach:
            self._grip = "middle"
        elif effect is not None and effect.kind != "speed" and abs(away - effect.clear_px) <= reach:
            self._grip = "ring"
        else:
            for number, other in self._has.effects().items():
                if np.hypot(row - other.row, col - other.col) <= reach:
                    self._has.choose_effect(number)
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
            self._has.set_effect(trial, self._has.effect_number())
        else:
            super().release(row, col, mods)

    def done(self, points: list[tuple[float, float]], mods: Mods) -> None:
        if len(points) < 3 or length(points) < 40:
            return
        line = np.array(points[:: max(1, len(points) // 200)])
        middle = line.mean(axis=0)
        size = float(np.hypot(*(line.max(axis=0) - line.min(axis=0))))
        effect = Effect(
            self._has.effect_kind, tuple((round(r, 1), round(c, 1)) for r, c in line.tolist()),
            float(middle[0]), float(middle[1]), clear_px=round(size * 0.15), weight_px=max(1.0, round(size / 120, 1)),
        )  # fmt: skip
        self._has.set_effect(effect)

    def cancel(self) -> None:
        super().cancel()
        self._grip, self._trial = "", None

    def marks(self, painter: QPainter, zoom: float) -> None:
        super().marks(painter, zoom)
        effect = self._trial or effect_in_hand(self._has)
        for number, other in self._has.effects().items():
            if number != self._has.effect_number():
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


class EffectRows(QWidget):
    """The kind and the measures of the effect lines in hand."""

    def __init__(self, has: HasEffects) -> None:
        super().__init__()
        self._has = has
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        self.kind = QComboBox()
        self.kind.setAccessibleName(tr("Kind of effect lines"))
        for kind, name in _KINDS:
            self.kind.addItem(tr(name), kind)
        self.kind.activated.connect(lambda _: self._change(kind=self.kind.currentData()))
        column.addWidget(self.kind)
        self.rows = {
            "count": NumberRow("Lines", 1, 400, 1),
            "length": NumberRow("Length", 2, 100, 1, "%"),
            "weight_px": NumberRow("Weight", 0.5, 80, 0.5, "px", 1),
            "jitter": NumberRow("Jitter", 0, 100, 1, "%"),
            "fade": NumberRow("Fade to the thin end", 0, 100, 1, "%"),
            "turn_deg": NumberRow("Direction", -180, 180, 1, "°"),
        }
        for name, row in self.rows.items():
            column.addWidget(row)
            row.done.connect(lambda v, n=name: self._change(**{n: v / 100 if n in _SHARES else v}))

    def _change(self, **values: Any) -> None:
        effect = effect_in_hand(self._has)
        self._has.effect_kind = values.get("kind", self._has.effect_kind)
        if effect is not None:
            if "count" in values:
                values["count"] = int(values["count"])
            self._has.set_effect(msgspec.structs.replace(effect, **values), self._has.effect_number())

    def scatter(self) -> None:
        """Scatter the same lines anew."""
        effect = effect_in_hand(self._has)
        if effect is not None:
            self._change(seed=effect.seed + 1)

    def refresh(self) -> None:
        """Show the effect lines in hand."""
        effect = effect_in_hand(self._has)
        kind = effect.kind if effect is not None else self._has.effect_kind
        self.kind.setCurrentIndex(self.kind.findData(kind))
        for name, row in self.rows.items():
            row.setEnabled(effect is not None)
            if effect is not None:
                row.show_value(getattr(effect, name) * (100 if name in _SHARES else 1))
