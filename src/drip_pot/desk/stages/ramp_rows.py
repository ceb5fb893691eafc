# SPDX-License-Identifier: GPL-3.0-or-later
"""Settings of a ramp: form, colours, covers. Knows widgets; no single stage."""

from collections.abc import Callable
from functools import partial

import msgspec
from PyQt6.QtWidgets import QVBoxLayout, QWidget

from drip_pot.book.values import PRESS
from drip_pot.core.render import Form, Ramp
from drip_pot.desk.dialogs.color import pick_color
from drip_pot.desk.parts.widgets import Choice, NumberRow, Swatch
from drip_pot.desk.session.easel import Easel
from drip_pot.words import tr

_ENDS = ("Start", "End")

_FORMS: dict[Form, str] = {"linear": "Linear", "radial": "Radial", "along": "Along"}


class RampRows(QWidget):
    """Form, colours and covers of a ramp; its handles are on the page."""

    def __init__(self, easel: Easel, read: Callable[[], Ramp | None], write: Callable[[Ramp], object]) -> None:
        super().__init__()
        self.easel, self._ramp, self._write = easel, read, write
        self.column = QVBoxLayout(self)
        self.column.setContentsMargins(0, 0, 0, 0)
        self.column.setSpacing(4)
        self.form = Choice("Form of the ramp", list(_FORMS.values()), 3)
        self.form.chosen.connect(lambda word: self._change(form=next(f for f, said in _FORMS.items() if said == word)))
        self.column.addWidget(self.form)
        self.swatches: list[Swatch] = []
        self.covers: list[NumberRow] = []
        for place, name in enumerate(_ENDS):
            swatch = Swatch(tr("{0} colour of the ramp", name), partial(self._pick, place), 26)
            cover = NumberRow(tr("{0} covers", name), 0, 100, 1, "%")
            cover.done.connect(lambda v, p=place: self._set_stop(p, cover=v / 100))
            self.swatches.append(swatch)
            self.covers.append(cover)
            self.column.addWidget(swatch)
            self.column.addWidget(cover)

    def _change(self, **values: object) -> None:
        ramp = self._ramp()
        if ramp is not None:
            self._write(msgspec.structs.replace(ramp, **values))

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
            chosen = pick_color(
                self, tr("{0} of the ramp", _ENDS[place]), ramp.stops[-place].color, self.easel.book, sources[PRESS]
            )
            if chosen is not None:
                self._set_stop(place, color=chosen)

    def show_ramp(self, ramp: Ramp | None) -> None:
        """Show a ramp; None hides the rows."""
        self.setVisible(ramp is not None)
        if ramp is None:
            return
        self.form.show_choice(_FORMS[ramp.form])
        for place in (0, 1):
            self.swatches[place].show_color(ramp.stops[-place].color)
            self.covers[place].show_value(ramp.stops[-place].cover * 100)
