"""Dialogs about pages and what they are read from: size and trim, resolution, several pictures, the scanner.

Knows the easel, the demo drawings as the scanner's tray, and the device.
"""

import io
from collections.abc import Callable
from dataclasses import dataclass
from functools import partial

import numpy as np
from PIL import Image
from PyQt6.QtCore import QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QImage, QPainter, QPaintEvent
from PyQt6.QtWidgets import (
    QButtonGroup,
    QCheckBox,
    QComboBox,
    QDialog,
    QDoubleSpinBox,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QListWidget,
    QListWidgetItem,
    QProgressBar,
    QPushButton,
    QRadioButton,
    QVBoxLayout,
    QWidget,
)

from drip_pot.book import Page
from drip_pot.core.arrays import U8, Rect, Report
from drip_pot.demo.works import WORKS, draw, pencil_of
from drip_pot.desk import theme
from drip_pot.desk.dialogs import Asking
from drip_pot.desk.widgets import button, label, rule
from drip_pot.desk.work import Work
from drip_pot.devices import MODES, scan_drawing
from drip_pot.files import Inside

_DPIS = (150, 200, 300, 400, 600, 1200)
_PREVIEW_DPI = 50


def _number(value: float, low: float, high: float, unit: str, name: str, decimals: int = 1) -> QDoubleSpinBox:
    box = QDoubleSpinBox()
    box.setRange(low, high)
    box.setDecimals(decimals)
    box.setSuffix(f" {unit}")
    box.setValue(value)
    box.setButtonSymbols(QDoubleSpinBox.ButtonSymbols.NoButtons)
    box.setAlignment(Qt.AlignmentFlag.AlignRight)
    box.setAccessibleName(name)
    box.setFixedWidth(96)
    return box


@dataclass(frozen=True)
class PageWish:
    """What was asked for: print size, the page's new edges in its own pixels (None as they are), a turn in degrees."""

    dpi: float
    trim_mm: tuple[float, float] | None
    bleed_mm: float
    rect: Rect | None
    turn_deg: float


class PageDialog(Asking):
    """Size, resolution, trim, bleed, edges and straightness of a page."""

    def __init__(self, parent: QWidget | None, page: Page, skew_deg: float | None) -> None:
        super().__init__(parent, f"Page {page.name}", "Keep")
        self._page = page
        self.dpi = _number(page.dpi, 30, 4800, "dpi", "Resolution", 0)
        self.size_text = label("", "figure")
        self.trims = QCheckBox("Trimmed to")
        self.trims.setChecked(page.trim_mm is not None)
        size = page.trim_mm or (page.cols / page.dpi * 25.4, page.rows / page.dpi * 25.4)
        self.wide = _number(size[0], 1, 3000, "mm", "Trim width")
        self.high = _number(size[1], 1, 3000, "mm", "Trim height")
        self.bleed = _number(page.bleed_mm, 0, 50, "mm", "Bleed")
        self.edges = [_number(0, -500, 500, "mm", f"{side} edge") for side in ("Top", "Left", "Bottom", "Right")]
        self.turn = _number(0, -45, 45, "°", "Turn", 2)
        grid = QGridLayout()
        grid.setHorizontalSpacing(10)
        grid.setColumnStretch(3, 1)
        self._line(grid, 0, "Resolution", self.dpi, self.size_text)
        grid.addWidget(self.trims, 1, 0)
        grid.addWidget(self.wide, 1, 1)
        grid.addWidget(self.high, 1, 2)
        self._line(grid, 2, "Bleed on every side", self.bleed)
        grid.addWidget(rule(), 3, 0, 1, 4)
        self._line(grid, 4, "Grow at top and bottom", self.edges[0], self.edges[2])
        self._line(grid, 5, "Grow at left and right", self.edges[1], self.edges[3])
        grid.addWidget(label("Below 0 crops.", "smallmuted"), 6, 0)
        grid.addWidget(rule(), 7, 0, 1, 4)
        self._line(grid, 8, "Turn clockwise", self.turn)
        if skew_deg is not None and abs(skew_deg) >= 0.02:
            found = button(
                f"Straighten {skew_deg:+.2f}°", partial(self.turn.setValue, skew_deg), "Found from the frames"
            )
            grid.addWidget(found, 8, 2, 1, 2)
        else:
            words = "lies straight" if skew_deg is not None else "no frame to tell by"
            grid.addWidget(label(words, "smallmuted"), 8, 2, 1, 2)
        self.body.addLayout(grid)
        note = label("Colours, shade, bridges and mending stay where they are on the drawing.", "muted")
        note.setWordWrap(True)
        self.body.addWidget(note)
        self.dpi.valueChanged.connect(self._show)
        self.trims.toggled.connect(self._show)
        self._show()

    @staticmethod
    def _line(grid: QGridLayout, row: int, name: str, *widgets: QWidget) -> None:
        grid.addWidget(label(name, "muted"), row, 0)
        for column, widget in enumerate(widgets, 1):
            grid.addWidget(widget, row, column)

    def _show(self) -> None:
        dpi = self.dpi.value()
        wide, high = self._page.cols / dpi * 25.4, self._page.rows / dpi * 25.4
        self.size_text.setText(f"{wide:.1f} × {high:.1f} mm")
        for box in (self.wide, self.high, self.bleed):
            box.setEnabled(self.trims.isChecked())

    def wish(self) -> PageWish:
        """Return what was asked for."""
        px = self.dpi.value() / 25.4
        top, left, bottom, right = (round(box.value() * px) for box in self.edges)
        rect = (-top, -left, self._page.rows + bottom, self._page.cols + right)
        trim = (self.wide.value(), self.high.value()) if self.trims.isChecked() else None
        same = (top, left, bottom, right) == (0, 0, 0, 0)
        return PageWish(self.dpi.value(), trim, self.bleed.value() if trim else 0.0, None if same else rect,
                        self.turn.value())  # fmt: skip


def ask_dpi(parent: QWidget, name: str) -> float | None:
    """Ask at how many dots per inch a drawing was made; None if it was called off."""
    asking = Asking(parent, "At what resolution was it made?", "Open")
    box = _number(300, 30, 4800, "dpi", "Resolution", 0)
    words = label(f"{name} does not say. Millimetres, trap widths and speck sizes depend on it.", "muted")
    words.setWordWrap(True)
    asking.body.addWidget(words)
    line = QHBoxLayout()
    line.addWidget(box)
    for dpi in (300, 400, 600):
        line.addWidget(button(f"{dpi}", partial(box.setValue, dpi)))
    line.addStretch(1)
    asking.body.addLayout(line)
    return box.value() if asking.exec() else None


class PicturesDialog(Asking):
    """Which pictures of a file, and what to make of them."""

    def __init__(self, parent: QWidget | None, name: str, inside: list[Inside], with_page: bool) -> None:
        super().__init__(parent, f"{name} holds {len(inside)} pictures", "Open")
        self.list = QListWidget()
        self.list.setAccessibleName("Pictures")
        for picture in inside:
            item = QListWidgetItem(picture.name)
            item.setFlags(item.flags() | Qt.ItemFlag.ItemIsUserCheckable)
            item.setCheckState(Qt.CheckState.Checked)
            self.list.addItem(item)
        self.body.addWidget(self.list)
        self.pages, self.sheets = QRadioButton("A page each"), QRadioButton("Sheets of the page shown")
        self.pages.setChecked(True)
        self.sheets.setVisible(with_page)
        group = QButtonGroup(self)
        for choice in (self.pages, self.sheets):
            group.addButton(choice)
            self.body.addWidget(choice)
        self.list.itemChanged.connect(lambda _: self.yes.setEnabled(bool(self.chosen())))

    def chosen(self) -> list[int]:
        """Return the numbers of the pictures wanted."""
        items = (self.list.item(k) for k in range(self.list.count()))
        return [k for k, item in enumerate(items) if item is not None and item.checkState() == Qt.CheckState.Checked]


class _Glass(QWidget):
    """The glass of the scanner with what lies on it."""

    def __init__(self) -> None:
        super().__init__()
        self.setFixedSize(240, 340)
        self.picture: QImage | None = None
        self.setAccessibleName("Preview")

    def show_scan(self, pixels: U8) -> None:
        """Show a preview."""
        rgb = np.ascontiguousarray(np.stack([pixels] * 3, axis=-1) if pixels.ndim == 2 else pixels)
        rows, cols = rgb.shape[:2]
        self.picture = QImage(rgb.tobytes(), cols, rows, cols * 3, QImage.Format.Format_RGB888).copy()
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        painter.fillRect(self.rect(), theme.color("surround"))
        if self.picture is None:
            painter.setPen(theme.color("card"))
            painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, "Preview shows\nwhat lies on the glass")
            return
        size = self.picture.size().scaled(self.width() - 16, self.height() - 16, Qt.AspectRatioMode.KeepAspectRatio)
        left, top = (self.width() - size.width()) / 2, (self.height() - size.height()) / 2
        painter.drawImage(QRectF(left, top, size.width(), size.height()), self.picture)


class ScannerWindow(QDialog):
    """The flatbed: a tray of drawings, resolution, mode, preview, scan.

    Signals
    -------
    scanned(str, bytes)
        A name and the PNG that came over the cable.
    """

    scanned = pyqtSignal(str, bytes)

    def __init__(self, parent: QWidget | None) -> None:
        super().__init__(parent)
        self.setWindowTitle("Scanner")
        self.work = Work(self)
        self._seed = 1
        row = QHBoxLayout(self)
        row.setContentsMargins(20, 18, 20, 16)
        row.setSpacing(18)
        self.glass = _Glass()
        row.addWidget(self.glass)
        column = QVBoxLayout()
        row.addLayout(column, 1)
        column.addWidget(label("Simulated flatbed", "title"))
        column.addWidget(label("Drawings in the tray", "muted"))
        self.tray = QListWidget()
        self.tray.setAccessibleName("Drawings in the tray")
        for work in WORKS:
            self.tray.addItem(work.title)
        self.tray.setCurrentRow(0)
        column.addWidget(self.tray, 1)
        self.dpi, self.mode = QComboBox(), QComboBox()
        for dpi in _DPIS:
            self.dpi.addItem(f"{dpi} dpi", dpi)
        self.dpi.setCurrentIndex(_DPIS.index(300))
        self.mode.addItems([mode.capitalize() for mode in MODES])
        for box, name in ((self.dpi, "Resolution"), (self.mode, "Mode")):
            box.setAccessibleName(name)
        line = QHBoxLayout()
        line.addWidget(self.dpi, 1)
        line.addWidget(self.mode, 1)
        column.addLayout(line)
        self.bar = QProgressBar()
        self.bar.setRange(0, 1000)
        self.bar.setTextVisible(False)
        self.bar.setFixedHeight(6)
        self.says: QLabel = label("Ready", "smallmuted")
        column.addWidget(self.bar)
        column.addWidget(self.says)
        buttons = QHBoxLayout()
        self.preview_button = button("Preview", self.preview, "A quick look at the glass")
        self.scan_button = button("Scan", self.scan, "Scan and bring the drawing in as a page", strong=True)
        self.stop_button: QPushButton = button("Stop", self.stop, "Stop scanning; nothing is brought in")
        for one in (self.preview_button, self.stop_button, self.scan_button):
            buttons.addWidget(one)
        column.addLayout(buttons)
        self.setMinimumSize(600, 400)
        self.work.progress.connect(self._on_progress)
        self.work.idle.connect(lambda _: self._ready())
        self._ready()

    def preview(self) -> None:
        """Scan at a low resolution and show it."""
        self._start(_PREVIEW_DPI, lambda pixels: self.glass.show_scan(pixels))

    def scan(self) -> None:
        """Scan and hand over."""
        dpi = float(self.dpi.currentData())
        name = f"{self.tray.currentItem().text()}.png"  # type: ignore[union-attr]

        def done(pixels: U8) -> None:
            self.scanned.emit(name, _png(pixels, dpi))
            self._seed += 1

        self._start(dpi, done)

    def stop(self) -> None:
        """Stop what is going on."""
        self.work.cancel("scan")
        self.says.setText("Stopped")
        self._ready()

    def _start(self, dpi: float, done: Callable[[U8], None]) -> None:
        work, mode, seed = WORKS[self.tray.currentRow()], MODES[self.mode.currentIndex()], self._seed

        def job(report: Report) -> U8:
            report(0.0, "Drawing the carriage back")
            drawing = draw(work.name, dpi)
            return scan_drawing(
                drawing.broken, dpi, mode, seed, pencil_of(drawing), lambda f, t: report(0.3 + 0.7 * f, t)
            )

        self.work.start("scan", job, done)
        for one in (self.preview_button, self.scan_button, self.tray, self.dpi, self.mode):
            one.setEnabled(False)
        self.stop_button.setEnabled(True)

    def _on_progress(self, name: str, fraction: float, doing: str) -> None:
        self.bar.setValue(round(1000 * fraction))
        self.says.setText(doing)

    def _ready(self) -> None:
        if self.work.busy():
            return
        self.bar.setValue(0)
        if self.says.text() != "Stopped":
            self.says.setText("Ready")
        for one in (self.preview_button, self.scan_button, self.tray, self.dpi, self.mode):
            one.setEnabled(True)
        self.stop_button.setEnabled(False)

    def done(self, result: int) -> None:
        self.work.close()
        super().done(result)


def _png(pixels: U8, dpi: float) -> bytes:
    image = Image.fromarray(pixels)
    if pixels.ndim == 2 and not ((pixels > 0) & (pixels < 255)).any():
        image = image.convert("1", dither=Image.Dither.NONE)
    out = io.BytesIO()
    image.save(out, "PNG", dpi=(dpi, dpi), compress_level=1)
    return out.getvalue()
