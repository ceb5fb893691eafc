# SPDX-License-Identifier: GPL-3.0-or-later
"""A colour chosen by lightness, chroma and hue, seen among its neighbours and as the press prints it. Knows widgets."""

from collections.abc import Callable, Sequence
from functools import lru_cache

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, QSignalBlocker, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QImage, QKeyEvent, QMouseEvent, QPainter, QPainterPath, QPaintEvent, QPen, QPolygonF
from PyQt6.QtWidgets import QDoubleSpinBox, QGridLayout, QHBoxLayout, QLineEdit, QSizePolicy, QVBoxLayout, QWidget

from drip_pot.book.tables import inks_for
from drip_pot.core.color import Lch, from_hex, from_lch, most_chroma, oklab_to_srgb8, srgb8_to_oklab, to_hex, to_lch
from drip_pot.core.errors import BadInput
from drip_pot.core.press import PressSettings, appearance
from drip_pot.desk.dialogs.color_taking import Dropper, OfferedColor, PotSwatches
from drip_pot.desk.parts import theme
from drip_pot.desk.parts.pixels import image_of
from drip_pot.desk.parts.widgets import label
from drip_pot.words import tr

_WIDEST, _MISS, _BLACKISH = 0.34, 4, 5
Inks = tuple[int, int, int, int]
_ACROSS, _DOWN = 110, 75


@lru_cache(maxsize=512)
def _widest(hue: int) -> float:
    """Return the chroma at the right end of the chart, a little more than sRGB has at this hue."""
    return float(most_chroma(np.linspace(0, 1, 60), hue).max()) * 1.12


@lru_cache(maxsize=64)
def _plane(hue: int, beyond: int) -> tuple[QImage, tuple[float, ...]]:
    """Draw all lightness and chroma of a hue, grey `beyond` what sRGB has; and return the widest chroma of each row."""
    edge = most_chroma(np.linspace(1, 0, _DOWN), hue)
    light, chroma = np.meshgrid(np.linspace(1, 0, _DOWN), np.linspace(0, _widest(hue), _ACROSS), indexing="ij")
    angle = np.radians(hue)
    rgb = oklab_to_srgb8(np.stack([light, chroma * np.cos(angle), chroma * np.sin(angle)], axis=-1))
    rgb[chroma > edge[:, None]] = beyond
    return image_of(rgb), tuple(edge.tolist())


class _ColorChart(QWidget):
    """A chart with a mark that is dragged, or moved by the arrow keys."""

    moved = pyqtSignal()

    def __init__(self, name: str, size: QSize) -> None:
        super().__init__()
        self.color = Lch(0.5, 0.0, 0.0)
        self.setMinimumSize(size)
        self.setFixedHeight(size.height())
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(tr(name))

    def whole_hue(self) -> int:
        """Return the hue in whole degrees."""
        return round(self.color.hue_deg) % 360

    def box(self) -> QRectF:
        """Return where the chart itself lies."""
        return QRectF(self.rect()).adjusted(6, 6, -6, -6)

    def put(self, x: float, y: float) -> None:
        """Take the colour at a place of the chart, both 0..1."""

    def nudge(self, right: int, down: int) -> None:
        """Move by one step."""

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        self.mouseMoveEvent(event)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        box, at = self.box(), event.position()
        x, y = (at.x() - box.left()) / box.width(), (at.y() - box.top()) / box.height()
        self.put(min(max(x, 0.0), 1.0), min(max(y, 0.0), 1.0))
        self.moved.emit()
        self.update()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        step = {Qt.Key.Key_Left: (-1, 0), Qt.Key.Key_Right: (1, 0), Qt.Key.Key_Up: (0, -1), Qt.Key.Key_Down: (0, 1)}
        if Qt.Key(event.key()) in step:
            self.nudge(*step[Qt.Key(event.key())])
            self.moved.emit()
            self.update()
        else:
            super().keyPressEvent(event)

    def paint_spot(self, painter: QPainter, at: QPointF) -> None:
        """Draw the mark."""
        painter.setBrush(QColor(to_hex(from_lch(self.color))))
        for shade, wide, radius in (("#ffffff", 4.0, 7.0), ("#161616", 1.8, 7.0)):
            painter.setPen(QPen(QColor(shade), wide))
            painter.drawEllipse(at, radius, radius)
        if self.hasFocus():
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setPen(QPen(theme.color("text"), 1, Qt.PenStyle.DotLine))
            painter.drawRect(self.rect().adjusted(1, 1, -2, -2))


class ShadeChart(_ColorChart):
    """Lightness upwards and chroma to the right at one hue; a line where sRGB ends."""

    def __init__(self) -> None:
        super().__init__("Lightness and chroma", QSize(250, 168))

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        box, beyond = self.box(), theme.color("well")
        image, edge = _plane(self.whole_hue(), beyond.red())
        widest = _widest(self.whole_hue())
        painter.drawImage(box, image)
        line = QPolygonF()
        for place, chroma in enumerate(edge[:-_BLACKISH]):
            line.append(QPointF(box.left() + chroma / widest * box.width(),
                                box.top() + place / (len(edge) - 1) * box.height()))  # fmt: skip
        painter.setClipRect(box)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(theme.color("text"), 1.4))
        painter.drawPolyline(line)
        painter.setClipping(False)
        self.paint_spot(painter, QPointF(box.left() + self.color.chroma / widest * box.width(),
                                         box.top() + (1 - self.color.lightness) * box.height()))  # fmt: skip

    def put(self, x: float, y: float) -> None:
        light = 1 - y
        chroma = min(x * _widest(self.whole_hue()), float(most_chroma(light, self.color.hue_deg)))
        self.color = Lch(light, chroma, self.color.hue_deg)

    def nudge(self, right: int, down: int) -> None:
        widest = _widest(self.whole_hue())
        self.put(min(max(self.color.chroma + 0.005 * right, 0), widest) / widest,
                 min(max(1 - self.color.lightness + 0.01 * down, 0), 1))  # fmt: skip


class HueStrip(_ColorChart):
    """All hues at the present lightness and chroma."""

    def __init__(self) -> None:
        super().__init__("Hue", QSize(250, 34))

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        box = self.box()
        hue = np.radians(np.linspace(0, 360, 180))
        light, chroma = np.full(180, min(max(self.color.lightness, 0.45), 0.85)), max(self.color.chroma, 0.11)
        rgb = oklab_to_srgb8(np.stack([light, chroma * np.cos(hue), chroma * np.sin(hue)], axis=-1))
        painter.drawImage(box, image_of(rgb[None]))
        self.paint_spot(painter, QPointF(box.left() + self.color.hue_deg / 360 * box.width(), box.center().y()))

    def put(self, x: float, y: float) -> None:
        self.color = Lch(self.color.lightness, self.color.chroma, min(x * 360, 359.9))

    def nudge(self, right: int, down: int) -> None:
        self.color = Lch(self.color.lightness, self.color.chroma, (self.color.hue_deg + right - down) % 360)


class Surround(QWidget):
    """The colour in the middle of those it borders on the page, line between, and how the press prints it."""

    def __init__(self) -> None:
        super().__init__()
        self.setFixedSize(132, 132)
        self.color, self.printed = "#ffffff", "#ffffff"
        self.neighbors: Sequence[tuple[str, float]] = ()
        self.setAccessibleName(tr("The colour among its neighbours on the page"))
        self.setToolTip(tr("The colour among those it borders on the page; the small disc is how the press prints it."))

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        box = QRectF(self.rect()).adjusted(3, 3, -3, -3)
        painter.setPen(QPen(QColor("#161616"), 2))
        total, start = sum(weight for _, weight in self.neighbors), 90.0
        if total == 0:
            painter.setBrush(QColor("#ffffff"))
            painter.drawEllipse(box)
        for color, weight in self.neighbors if total else ():
            span = weight / total * 360
            painter.setBrush(QColor(color))
            path = QPainterPath(box.center())
            path.arcTo(box, start, span)
            path.closeSubpath()
            painter.drawPath(path)
            start += span
        painter.setBrush(QColor(self.color))
        painter.drawEllipse(box.center(), 37, 37)
        painter.setBrush(QColor(self.printed))
        painter.setPen(QPen(QColor("#161616"), 1))
        painter.drawEllipse(box.center() + QPointF(0, 18), 11, 11)


class ColorEditor(QWidget):
    """The one colour well: charts, numbers of light, of the screen and of the press, digits, pots, and a dropper.

    Attributes
    ----------
    fixed : tuple of int, or None
        Cyan, magenta, yellow and black in whole per cent, where they are kept whatever the colour is.

    Signals
    -------
    changed(str)
        '#rrggbb', while a mark moves as well.
    inked()
        Inks were typed: the colour is how they print.
    """

    changed = pyqtSignal(str)
    inked = pyqtSignal()

    def __init__(
        self, color: str, press: PressSettings, neighbors: Sequence[tuple[str, float]] = (),
        offered: Sequence[OfferedColor] = (), fixed: Inks | None = None,
    ) -> None:  # fmt: skip
        super().__init__()
        self.color, self.fixed, self._press = color, fixed, press
        self._typed: tuple[Inks, str] | None = None
        self.shade, self.hue, self.around = ShadeChart(), HueStrip(), Surround()
        self.around.neighbors = neighbors
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        charts = QHBoxLayout()
        left = QVBoxLayout()
        left.setSpacing(0)
        left.addWidget(self.shade)
        left.addWidget(self.hue)
        charts.addLayout(left, 1)
        right = QVBoxLayout()
        right.addWidget(self.around)
        self.miss = label("", "small")
        self.dropper = Dropper()
        right.addWidget(self.dropper)
        right.addWidget(self.miss)
        right.addStretch(1)
        charts.addLayout(right)
        column.addLayout(charts)
        numbers = QGridLayout()
        numbers.setHorizontalSpacing(4)
        numbers.setVerticalSpacing(2)
        lch: tuple[tuple[str, str, float], ...] = (
            ("Light", "Lightness", 100), ("Chroma", "Chroma × 100", _WIDEST * 100), ("Hue", "Hue", 360))  # fmt: skip
        self.lch = [self._number(numbers, 0, k, *spec, self._from_lch, 1) for k, spec in enumerate(lch)]
        rgb = (("Red", "Red", 255.0), ("Green", "Green", 255.0), ("Blue", "Blue", 255.0))
        self.rgb = [self._number(numbers, 1, k, *spec, self._from_rgb, 0) for k, spec in enumerate(rgb)]
        cmyk = (("Cyan", "Cyan", 100.0), ("Magenta", "Magenta", 100.0), ("Yellow", "Yellow", 100.0),
                ("Black", "Black", 100.0))  # fmt: skip
        self.cmyk = [self._number(numbers, 2, k, *spec, self._from_inks, 0) for k, spec in enumerate(cmyk)]
        for box in self.cmyk:
            box.setSuffix(" %")
        self.hex = QLineEdit()
        self.hex.setAccessibleName(tr("Colour in six hexadecimal digits"))
        self.hex.setMaxLength(9)
        self.hex.setFixedWidth(82)
        numbers.addWidget(label("Digits", "muted"), 0, 6)
        numbers.addWidget(self.hex, 0, 7)
        numbers.setColumnStretch(8, 1)
        column.addLayout(numbers)
        self.pots = PotSwatches(offered)
        column.addWidget(self.pots)
        self.wrong = label("", "muted")
        self.wrong.setWordWrap(True)
        column.addWidget(self.wrong)
        for chart in (self.shade, self.hue):
            chart.moved.connect(lambda c=chart: self._take(c.color))
        self.hex.editingFinished.connect(self._from_digits)
        for source in (self.pots, self.dropper):
            source.taken.connect(self.take)
        self.show_color(color)

    @staticmethod
    def _number(
        grid: QGridLayout, row: int, place: int, short: str, name: str, most: float, done: Callable[[], None],
        decimals: int,
    ) -> QDoubleSpinBox:  # fmt: skip
        box = QDoubleSpinBox()
        box.setRange(0, most)
        box.setDecimals(decimals)
        box.setButtonSymbols(QDoubleSpinBox.ButtonSymbols.NoButtons)
        box.setKeyboardTracking(False)
        box.setFixedWidth(58)
        box.setAccessibleName(tr(name))
        box.setToolTip(tr(name))
        box.valueChanged.connect(lambda _: done())
        grid.addWidget(label(tr(short), "muted"), row, 2 * place)
        grid.addWidget(box, row, 2 * place + 1)
        return box

    def take(self, color: str) -> None:
        """Take a colour that is there."""
        self.show_color(color)
        self.changed.emit(color)

    def fix(self, inks: Inks | None) -> None:
        """Keep inks in whole per cent whatever the colour is; None works them out again."""
        self.fixed = inks
        self.show_color(self.color)

    def inks(self) -> Inks:
        """Return what the colour is printed with, in whole per cent: what is kept, was typed, or is worked out."""
        if self.fixed is not None:
            return self.fixed
        if self._typed is not None and self._typed[1] == self.color:
            return self._typed[0]
        r, g, b = from_hex(self.color).tolist()
        cyan, magenta, yellow, black = (round(ink / 2.55) for ink in inks_for((r, g, b), self._press)[0])
        return cyan, magenta, yellow, black

    def show_color(self, color: str) -> None:
        """Show a colour."""
        found = to_lch(from_hex(color))
        if found.chroma < 0.004:
            found = Lch(found.lightness, found.chroma, self.hue.color.hue_deg)
        self._show(found, color)

    def _show(self, found: Lch, color: str) -> None:
        self.color = color
        self.shade.color = self.hue.color = found
        r, g, b = from_hex(color).tolist()
        values = (found.lightness * 100, found.chroma * 100, found.hue_deg, float(r), float(g), float(b))
        for box, value in zip((*self.lch, *self.rgb), values, strict=True):
            with QSignalBlocker(box):
                box.setValue(value)
        self.hex.setText(color)
        self.wrong.setText("")
        inks = self.inks()
        for box, ink in zip(self.cmyk, inks, strict=True):
            with QSignalBlocker(box):
                box.setValue(ink)
        self.around.color, self.around.printed = color, _printed(inks, self._press)
        miss = float(np.linalg.norm(np.subtract(*(srgb8_to_oklab(from_hex(c)) for c in (color, self.around.printed)))))
        self.miss.setText(tr("prints {0:.0f} ΔE off", miss * 100) if miss * 100 > _MISS else "")
        for part in (self.shade, self.hue, self.around):
            part.update()

    def _take(self, wanted: Lch) -> None:
        fitted = Lch(wanted.lightness, min(wanted.chroma, float(most_chroma(wanted.lightness, wanted.hue_deg))),
                     wanted.hue_deg)  # fmt: skip
        self._show(fitted, to_hex(from_lch(fitted)))
        self.changed.emit(self.color)

    def _from_lch(self) -> None:
        light, chroma, hue = (box.value() for box in self.lch)
        self._take(Lch(light / 100, chroma / 100, hue))

    def _from_inks(self) -> None:
        cyan, magenta, yellow, black = (round(box.value()) for box in self.cmyk)
        typed = cyan, magenta, yellow, black
        self.fixed = None if self.fixed is None else typed
        color = _printed(typed, self._press)
        self._typed = typed, color
        self.show_color(color)
        self.inked.emit()
        self.changed.emit(color)

    def _from_rgb(self) -> None:
        self.show_color(to_hex([round(box.value()) for box in self.rgb]))
        self.changed.emit(self.color)

    def _from_digits(self) -> None:
        try:
            color = to_hex(from_hex(f"#{self.hex.text().strip().lstrip('#')}"))
        except BadInput as error:
            self.wrong.setText(str(error))
            return
        self.wrong.setText("")
        if color != self.color:
            self.show_color(color)
            self.changed.emit(color)


def _printed(inks: Inks, press: PressSettings) -> str:
    """Return how inks in whole per cent print, '#rrggbb'."""
    plates = np.array([[[round(share * 2.55) for share in inks]]], np.uint8)
    return to_hex(appearance(plates, press.condition)[0, 0])
