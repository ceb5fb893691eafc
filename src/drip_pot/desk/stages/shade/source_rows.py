# SPDX-License-Identifier: GPL-3.0-or-later
"""Settings of passes that correct what lies below, or colour it by value. Writes through Shade's hands."""

from collections.abc import Callable
from functools import partial
from typing import Any

import msgspec
from PyQt6.QtWidgets import QVBoxLayout, QWidget

from drip_pot.book.values import PRESS
from drip_pot.core.render import Finish, ToneRamp
from drip_pot.desk.dialogs.color import pick_color
from drip_pot.desk.parts.widgets import NumberRow, Swatch
from drip_pot.desk.session.easel import Easel
from drip_pot.desk.stages.shade.curve_edit import CurveEdit, Points
from drip_pot.desk.stages.shade.shading import Shading
from drip_pot.words import tr

_TONES = ("Darks", "Middles", "Lights")
_FINISH = (
    ("dark", "Dark point", 0, 254, 1, "", 1), ("light", "Light point", 1, 255, 1, "", 1),
    ("middle", "Middle", 20, 500, 1, "%", 100), ("shadows", "Shadows warmer", -100, 100, 1, "%", 100),
    ("mids", "Mids warmer", -100, 100, 1, "%", 100), ("lights", "Lights warmer", -100, 100, 1, "%", 100),
    ("hue_deg", "Turn the hue", -180, 180, 1, "°", 1), ("chroma", "Colourfulness", 0, 300, 1, "%", 100),
    ("steps", "Steps (0: all)", 0, 64, 1, "", 1),
    ("soften", "Soften", 0, 100, 1, "%", 100), ("soften_px", "Soften over", 0.5, 100, 0.5, "px", 1),
)  # fmt: skip


class _Rows(QWidget):
    def __init__(self, easel: Easel) -> None:
        super().__init__()
        self.easel, self._shading = easel, easel.own(Shading)
        self.column = QVBoxLayout(self)
        self.column.setContentsMargins(0, 0, 0, 0)
        self.column.setSpacing(4)


class FinishRows(_Rows):
    """The parts of a correction."""

    def __init__(self, easel: Easel) -> None:
        super().__init__(easel)
        self.rows: dict[str, tuple[NumberRow, float]] = {}
        self.curve = CurveEdit()
        self.curve.done.connect(self._bend)
        self.column.addWidget(self.curve)
        for field, name, low, high, step, unit, scale in _FINISH:
            row = NumberRow(name, low, high, step, unit)
            row.done.connect(lambda v, f=field, s=scale: self._change(f, v / s))
            self.rows[field] = row, scale
            self.column.addWidget(row)

    def _bend(self, curve: Points) -> None:
        held = self._shading.in_hand()
        if held is not None and held[1].finish is not None:
            finish = held[1].finish
            self.easel.trying(lambda: self._shading.change(finish=msgspec.structs.replace(finish, curve=curve)))

    def _change(self, field: str, value: float) -> None:
        held = self._shading.in_hand()
        finish = None if held is None else held[1].finish
        if finish is not None:
            kept = round(value) if field in ("dark", "light", "steps") else value
            changed: dict[str, Any] = {field: 2 if field == "steps" and kept == 1 else kept}
            self.easel.trying(lambda: self._shading.change(finish=msgspec.structs.replace(finish, **changed)))

    def show_finish(self, finish: Finish | None) -> None:
        """Show a correction; None hides the rows."""
        self.setVisible(finish is not None)
        if finish is not None:
            self.curve.show_curve(finish.curve)
            for field, (row, scale) in self.rows.items():
                row.show_value(getattr(finish, field) * scale)


class ToneRampRows(QWidget):
    """The colours that darks, middles and lights take."""

    def __init__(
        self, easel: Easel, read: Callable[[], ToneRamp | None], write: Callable[[ToneRamp], object]
    ) -> None:  # fmt: skip
        super().__init__()
        self.easel, self._read, self._write = easel, read, write
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        self.swatches = [
            Swatch(tr("{0} of the tone ramp", name), partial(self._pick, k), 26) for k, name in enumerate(_TONES)
        ]
        for swatch in self.swatches:
            column.addWidget(swatch)

    def _pick(self, place: int) -> None:
        ramp, sources = self._read(), self.easel.sources()
        if ramp is None or sources is None:
            return
        at = _stop_at(ramp, place)
        chosen = pick_color(
            self, tr("{0} of the tone ramp", _TONES[place]), ramp.stops[at].color, self.easel.book, sources[PRESS]
        )
        if chosen is not None:
            stops = list(ramp.stops)
            stops[at] = msgspec.structs.replace(stops[at], color=chosen)
            self._write(ToneRamp(tuple(stops)))

    def show_values(self, ramp: ToneRamp | None) -> None:
        """Show a tone ramp; None hides the rows."""
        self.setVisible(ramp is not None)
        if ramp is not None:
            for place, swatch in enumerate(self.swatches):
                swatch.show_color(ramp.stops[_stop_at(ramp, place)].color)


def _stop_at(ramp: ToneRamp, place: int) -> int:
    """Return the stop that stands for darks, middles or lights."""
    return (0, len(ramp.stops) // 2, len(ramp.stops) - 1)[place]
