# SPDX-License-Identifier: GPL-3.0-or-later
"""Switches over the canvas. Knows nothing of what they show."""

from PyQt6.QtCore import QRectF, QSignalBlocker, Qt
from PyQt6.QtGui import QPainter, QPaintEvent
from PyQt6.QtWidgets import (
    QHBoxLayout,
    QPushButton,
    QSlider,
    QWidget,
)

from drip_pot.desk.parts import theme
from drip_pot.desk.view.seen import Chip
from drip_pot.words import tr

_FULL, _WIDE, _HIGH, _MARGIN = 100, 48, 20, 24


class Chips(QWidget):
    """What is seen: small switches at the top left of the canvas."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.row = QHBoxLayout(self)
        self.row.setContentsMargins(4, 4, 4, 4)
        self.row.setSpacing(1)
        self._shown: list[tuple[str, bool, str]] = []
        self._sliders: dict[str, QSlider] = {}

    def fill(self, chips: list[Chip]) -> None:
        """Show chips."""
        for chip in chips:
            slider = self._sliders.get(chip.name)
            if slider is not None and chip.share is not None and not slider.isSliderDown():
                with QSignalBlocker(slider):
                    slider.setValue(round(chip.share * _FULL))
        if [(c.name, c.on, c.tip) for c in chips] == self._shown:
            return
        self._sliders = {}
        self._shown = [(c.name, c.on, c.tip) for c in chips]
        while (item := self.row.takeAt(0)) is not None:
            if (old := item.widget()) is not None:
                old.hide()
                old.deleteLater()
        for chip in chips:
            entry = QPushButton(tr(chip.name))
            entry.setProperty("chip", True)
            entry.setCheckable(True)
            entry.setChecked(chip.on)
            entry.setToolTip(tr(chip.tip))
            entry.setAccessibleName(tr("See {0}", tr(chip.name)))
            entry.setFocusPolicy(Qt.FocusPolicy.TabFocus)
            entry.clicked.connect(lambda _, done=chip.done: done())
            self.row.addWidget(entry)
            entry.show()
            if chip.share is not None and chip.on:
                self._slider(chip)
        parent = self.parentWidget()
        tight = parent is not None and self.row.sizeHint().width() > parent.width() - _MARGIN
        for slider in self._sliders.values():
            slider.setVisible(not tight)  # the switches come first
        self.row.activate()
        self.resize(self.sizeHint())

    def _slider(self, chip: Chip) -> None:
        """Put a slider behind a chip that is on."""
        assert chip.share is not None
        slider = QSlider(Qt.Orientation.Horizontal)
        slider.setRange(0, _FULL)
        slider.setValue(round(chip.share * _FULL))
        slider.setFixedSize(_WIDE, _HIGH)
        slider.setAccessibleName(tr("How strongly {0} is seen", tr(chip.name)))
        slider.setToolTip(slider.accessibleName())
        slider.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        slider.valueChanged.connect(lambda value, put=chip.put: put(value / _FULL))
        self._sliders[chip.name] = slider
        self.row.addWidget(slider)
        slider.show()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(theme.color("chrome"))
        painter.drawRoundedRect(QRectF(self.rect()), self.height() / 2, self.height() / 2)
