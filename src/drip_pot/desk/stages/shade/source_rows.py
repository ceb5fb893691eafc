"""Settings of passes whose colours come from a ramp, or that correct what lies below. Writes through Shade's hands."""

from functools import partial
from typing import Any

import msgspec
from PyQt6.QtWidgets import QVBoxLayout, QWidget

from drip_pot.core.render import FORMS, Finish, Ramp
from drip_pot.desk.dialogs.color import pick_color
from drip_pot.desk.parts.widgets import Choice, NumberRow, Swatch
from drip_pot.desk.session.easel import Easel
from drip_pot.desk.stages.shade.shading import Shading

_ENDS = ("Start", "End")
_FINISH = (
    ("dark", "Dark point", 0, 254, 1, "", 1), ("light", "Light point", 1, 255, 1, "", 1),
    ("middle", "Middle", 20, 500, 1, "%", 100), ("shadows", "Shadows warmer", -100, 100, 1, "%", 100),
    ("mids", "Mids warmer", -100, 100, 1, "%", 100), ("lights", "Lights warmer", -100, 100, 1, "%", 100),
    ("hue_deg", "Turn the hue", -180, 180, 1, "°", 1), ("chroma", "Colourfulness", 0, 300, 1, "%", 100),
    ("steps", "Steps (0: all)", 0, 64, 1, "", 1),
)  # fmt: skip


class _Rows(QWidget):
    def __init__(self, easel: Easel) -> None:
        super().__init__()
        self.easel, self._shading = easel, easel.own(Shading)
        self.column = QVBoxLayout(self)
        self.column.setContentsMargins(0, 0, 0, 0)
        self.column.setSpacing(4)


class RampRows(_Rows):
    """Form, colours and covers of a ramp; its handles are on the page."""

    def __init__(self, easel: Easel) -> None:
        super().__init__(easel)
        self.form = Choice("Form of the ramp", [form.capitalize() for form in FORMS], 2)
        self.form.chosen.connect(lambda word: self._change(form=next(f for f in FORMS if f == word.lower())))
        self.column.addWidget(self.form)
        self.swatches: list[Swatch] = []
        self.covers: list[NumberRow] = []
        for place, name in enumerate(_ENDS):
            swatch = Swatch(f"{name} colour of the ramp", partial(self._pick, place), 26)
            cover = NumberRow(f"{name} covers", 0, 100, 1, "%")
            cover.done.connect(lambda v, p=place: self._set_stop(p, cover=v / 100))
            self.swatches.append(swatch)
            self.covers.append(cover)
            self.column.addWidget(swatch)
            self.column.addWidget(cover)

    def _ramp(self) -> Ramp | None:
        held = self._shading.in_hand()
        return None if held is None else held[1].ramp

    def _change(self, **values: object) -> None:
        ramp = self._ramp()
        if ramp is not None:
            self._shading.change(ramp=msgspec.structs.replace(ramp, **values))

    def _set_stop(self, place: int, **values: object) -> None:
        ramp = self._ramp()
        if ramp is not None:
            at = -place  # the first or the last one
            stops = list(ramp.stops)
            stops[at] = msgspec.structs.replace(stops[at], **values)
            self._change(stops=tuple(stops))

    def _pick(self, place: int) -> None:
        ramp, sources = self._ramp(), self.easel.sources()
        if ramp is not None and sources is not None:
            chosen = pick_color(self, f"{_ENDS[place]} of the ramp", ramp.stops[-place].color, sources.press)
            if chosen is not None:
                self._set_stop(place, color=chosen)

    def show_ramp(self, ramp: Ramp | None) -> None:
        """Show a ramp; None hides the rows."""
        self.setVisible(ramp is not None)
        if ramp is None:
            return
        self.form.show_choice(ramp.form.capitalize())
        for place in (0, 1):
            self.swatches[place].show_color(ramp.stops[-place].color)
            self.covers[place].show_value(ramp.stops[-place].cover * 100)


class FinishRows(_Rows):
    """The parts of a correction."""

    def __init__(self, easel: Easel) -> None:
        super().__init__(easel)
        self.rows: dict[str, tuple[NumberRow, float]] = {}
        for field, name, low, high, step, unit, scale in _FINISH:
            row = NumberRow(name, low, high, step, unit)
            row.done.connect(lambda v, f=field, s=scale: self._change(f, v / s))
            self.rows[field] = row, scale
            self.column.addWidget(row)

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
            for field, (row, scale) in self.rows.items():
                row.show_value(getattr(finish, field) * scale)
