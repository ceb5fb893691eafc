# SPDX-License-Identifier: GPL-3.0-or-later
"""Small parts the panels are made of: titled blocks, number rows, rules, swatches. Knows the theme only."""

from collections.abc import Callable, Sequence

from PyQt6.QtCore import QRectF, QSignalBlocker, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QPainter, QPaintEvent
from PyQt6.QtWidgets import (
    QDoubleSpinBox,
    QFrame,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QSizePolicy,
    QSlider,
    QVBoxLayout,
    QWidget,
)

from drip_pot.desk.parts import theme
from drip_pot.desk.parts.lengths import LengthBox
from drip_pot.words import tr


def label(text: str = "", role: str = "") -> QLabel:
    """Make a label; roles are 'title', 'muted', 'figure', 'small', 'smallmuted'."""
    found = QLabel(tr(text))
    found.setProperty("role", role)
    found.setTextFormat(Qt.TextFormat.PlainText)
    return found


def rule() -> QFrame:
    """Make a thin line across."""
    line = QFrame()
    line.setProperty("role", "rule")
    return line


def button(text: str, done: Callable[[], object], tip: str = "", *, strong: bool = False) -> QPushButton:
    """Make a push button."""
    found = QPushButton(tr(text))
    found.setProperty("strong", strong)
    found.setAutoDefault(False)
    found.setFocusPolicy(Qt.FocusPolicy.TabFocus)
    found.setAccessibleName(tr(text))
    if tip:
        found.setToolTip(tr(tip))
    found.clicked.connect(lambda: done())
    return found


class Block(QWidget):
    """A titled piece of the inspector, ruled off below; `note` stands small at the right of the title."""

    def __init__(self, title: str, note: str = "", *, ruled: bool = True) -> None:
        super().__init__()
        whole = QVBoxLayout(self)
        whole.setContentsMargins(0, 0, 0, 0)
        whole.setSpacing(12)
        self.column = QVBoxLayout()
        self.column.setSpacing(6)
        whole.addLayout(self.column)
        if ruled:
            whole.addWidget(rule())
        head = QHBoxLayout()
        self.head = label(title, "title")
        head.addWidget(self.head)
        self.note = label(note, "smallmuted")
        self.note.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        self.note.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)  # it never widens the column
        head.addWidget(self.note, 1)
        self.column.addLayout(head)

    def add(self, widget: QWidget) -> QWidget:
        """Put a widget at the end; return it."""
        self.column.addWidget(widget)
        return widget

    def row(self, *widgets: QWidget, stretch: int = -1) -> QHBoxLayout:
        """Put widgets side by side; `stretch` is the place of the one that takes the room."""
        line = QHBoxLayout()
        line.setSpacing(6)
        for place, widget in enumerate(widgets):
            line.addWidget(widget, 1 if place == stretch else 0)
        if stretch < 0 and not any(isinstance(w, Swatch | QLabel) for w in widgets):
            line.addStretch(1)
        self.column.addLayout(line)
        return line

    def fact(self, name: str) -> QLabel:
        """Add a line of a name and a figure; return the figure's label."""
        figure = label("", "figure")
        figure.setAlignment(Qt.AlignmentFlag.AlignRight)
        self.row(label(name, "muted"), figure, stretch=1)
        return figure


_HANDLE = 8


class _Signed(QSlider):
    """A slider that is filled from zero."""

    def __init__(self, low: float, high: float) -> None:
        super().__init__(Qt.Orientation.Horizontal)
        self.setProperty("signed", True)
        self._zero = -low / (high - low)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        super().paintEvent(event)
        room = self.width() - 2 * _HANDLE
        share = (self.value() - self.minimum()) / max(self.maximum() - self.minimum(), 1)
        zero, now = _HANDLE + self._zero * room, _HANDLE + share * room
        near, far = min(zero, now), max(zero, now)
        painter = QPainter(self)
        color = theme.color("ink" if self.isEnabled() else "line")
        near, far = (near, far - _HANDLE) if now > zero else (near + _HANDLE, far)
        if far > near:
            painter.fillRect(QRectF(near, self.height() / 2 - 2, far - near, 4), color)
        if abs(now - zero) > _HANDLE:
            painter.fillRect(QRectF(zero - 1, self.height() / 2 - 5, 2, 10), color)


class NumberRow(QWidget):
    """A name, a slider and a number that can be typed.

    Signals
    -------
    moved(float)
        While the slider is dragged.
    done(float)
        When a value is meant: slider let go, key pressed, number typed.
    """

    moved = pyqtSignal(float)
    done = pyqtSignal(float)

    def __init__(self, name: str, low: float, high: float, step: float, unit: str = "", decimals: int = 0) -> None:
        super().__init__()
        self._step, self._low = step, low
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        head = QHBoxLayout()
        self.name = label(name, "muted")
        head.addWidget(self.name, 1)
        self.box = LengthBox(decimals) if unit == "mm" else QDoubleSpinBox()
        self.box.setRange(low, high)
        self.box.setSingleStep(step)
        if unit != "mm":
            self.box.setDecimals(decimals)
            self.box.setSuffix(f" {tr(unit)}" if unit else "")
        self.box.setButtonSymbols(QDoubleSpinBox.ButtonSymbols.NoButtons)
        self.box.setAlignment(Qt.AlignmentFlag.AlignRight)
        self.box.setKeyboardTracking(False)
        self.box.setFixedWidth(84)
        self.box.setAccessibleName(tr(name))
        head.addWidget(self.box)
        column.addLayout(head)
        self.slider = _Signed(low, high) if low < 0 < high else QSlider(Qt.Orientation.Horizontal)
        self.slider.setRange(0, round((high - low) / step))
        self.slider.setAccessibleName(tr(name))
        self.slider.setFixedHeight(18)
        column.addWidget(self.slider)
        self.slider.valueChanged.connect(self._on_slider)
        self.slider.sliderReleased.connect(lambda: self.done.emit(self.value()))
        self.box.valueChanged.connect(self._on_box)

    def value(self) -> float:
        """Return the present value."""
        return self.box.value()

    def show_value(self, value: float, *, always: bool = False) -> None:
        """Set the value without saying so; a value being dragged or typed is left alone, unless `always`."""
        if not always and (self.slider.isSliderDown() or self.box.hasFocus()):
            return
        with QSignalBlocker(self.box), QSignalBlocker(self.slider):
            self.box.setValue(value)
            self.slider.setValue(round((value - self._low) / self._step))

    def _on_slider(self, place: int) -> None:
        value = self._low + place * self._step
        with QSignalBlocker(self.box):
            self.box.setValue(value)
        if self.slider.isSliderDown():
            self.moved.emit(value)
        else:
            self.done.emit(value)

    def _on_box(self, value: float) -> None:
        with QSignalBlocker(self.slider):
            self.slider.setValue(round((value - self._low) / self._step))
        self.done.emit(value)


class Choice(QWidget):
    """A few words of which one is chosen.

    Signals
    -------
    chosen(str)
        The word.
    """

    chosen = pyqtSignal(str)

    def __init__(self, name: str, words: Sequence[str], columns: int) -> None:
        super().__init__()
        self.setAccessibleName(tr(name))
        grid = QGridLayout(self)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setSpacing(2)
        self.buttons: dict[str, QPushButton] = {}
        for place, word in enumerate(words):
            found = QPushButton(tr(word))
            found.setCheckable(True)
            found.setProperty("chip", True)
            found.clicked.connect(lambda _, w=word: self.chosen.emit(w))
            grid.addWidget(found, place // columns, place % columns)
            self.buttons[word] = found

    def show_choice(self, word: str) -> None:
        """Show which word is chosen, without saying so."""
        for name, found in self.buttons.items():
            found.setChecked(name == word)


class Swatch(QPushButton):
    """A button that shows a colour, '#rrggbb'."""

    def __init__(self, name: str, done: Callable[[], object], height: int = 34) -> None:
        super().__init__()
        self._color = "#ffffff"
        self.setAccessibleName(tr(name))
        self.setToolTip(tr(name))
        self.setFixedHeight(height)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.clicked.connect(lambda: done())

    def show_color(self, color: str) -> None:
        """Show a colour."""
        self._color = color
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(theme.color("text") if self.hasFocus() else theme.color("muted"))
        painter.setBrush(QColor(self._color))
        painter.drawRoundedRect(self.rect().adjusted(1, 1, -1, -1), 5, 5)
