# SPDX-License-Identifier: GPL-3.0-or-later
"""Lengths in the unit that a person chose: text, and a box to type one into. Knows widgets; values are millimetres."""

import re

from PyQt6.QtCore import QObject, pyqtSignal
from PyQt6.QtGui import QValidator
from PyQt6.QtWidgets import QDoubleSpinBox

from drip_pot.words import tr

UNITS = {"": "Millimetres", "in": "Inches"}
_MM = 25.4
_MORE = {0: 2, 1: 2, 2: 4}
_TYPED = re.compile(r"\s*([-+]?\d*[.,]?\d+)\s*(mm|cm|in|″|\"|pt)?\s*$")
_IN_MM = {"mm": 1.0, "cm": 10.0, "in": _MM, "″": _MM, '"': _MM, "pt": _MM / 72}


class _Unit(QObject):
    """The unit of lengths.

    Signals
    -------
    changed()
        Another one was chosen.
    """

    changed = pyqtSignal()
    name = ""

    def use(self, name: str) -> None:
        """Use one of `UNITS`."""
        if name != self.name:
            self.name = name
            self.changed.emit()


UNIT = _Unit()


def _figure(mm: float, decimals: int) -> str:
    return f"{mm / _MM:.{_MORE[decimals]}f}" if UNIT.name == "in" else f"{mm:.{decimals}f}"


def length_text(mm: float, decimals: int) -> str:
    """Write a length in the unit chosen; `decimals`, 0..2, are those of millimetres."""
    return tr("{0} in", _figure(mm, decimals)) if UNIT.name == "in" else tr("{0} mm", _figure(mm, decimals))


def size_text(wide_mm: float, high_mm: float, decimals: int) -> str:
    """Write width and height in the unit chosen; `decimals`, 0..2, are those of millimetres."""
    return f"{_figure(wide_mm, decimals)} × {length_text(high_mm, decimals)}"


class LengthBox(QDoubleSpinBox):
    """A box whose value is millimetres and that shows and takes the unit chosen; another unit can be typed after it."""

    def __init__(self, decimals: int) -> None:
        super().__init__()
        self._shown = decimals
        self.setDecimals(4)
        UNIT.changed.connect(self._on_unit)
        self._on_unit()

    def _on_unit(self) -> None:
        self.setSuffix(f" {UNIT.name or 'mm'}")
        self.setValue(self.value())
        line = self.lineEdit()
        if line is not None:
            line.setText(self.textFromValue(self.value()) + self.suffix())

    def textFromValue(self, value: float) -> str:
        return _figure(value, self._shown)

    def _mm(self, text: str | None) -> float | None:
        found = _TYPED.match((text or "").removesuffix(self.suffix()) or "")
        if found is None:
            return None
        return float(found[1].replace(",", ".")) * _IN_MM[found[2] or UNIT.name or "mm"]

    def valueFromText(self, text: str | None) -> float:
        value = self._mm(text)
        return self.value() if value is None else value

    def validate(self, text: str | None, place: int) -> tuple[QValidator.State, str, int]:
        value = self._mm(text)
        state = QValidator.State
        fits = value is not None and self.minimum() - 1e-6 <= value <= self.maximum() + 1e-6
        return (state.Acceptable if fits else state.Intermediate), text or "", place
