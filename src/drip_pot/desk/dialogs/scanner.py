# SPDX-License-Identifier: GPL-3.0-or-later
"""The flatbed: a stand-in scanner in a window. Knows devices and the demo's works."""

import io
from collections.abc import Callable

import numpy as np
from PIL import Image
from PyQt6.QtCore import QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QImage, QPainter, QPaintEvent
from PyQt6.QtWidgets import (
    QComboBox,
    QHBoxLayout,
    QLabel,
    QListWidget,
    QProgressBar,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from drip_pot.core.arrays import U8, Report
from drip_pot.demo.works import WORKS, draw, pencil_of
from drip_pot.desk.parts import theme
from drip_pot.desk.parts.dialog import Dialog
from drip_pot.desk.parts.pixels import image_of
from drip_pot.desk.parts.widgets import button, label
from drip_pot.desk.session.work import Work
from drip_pot.devices import MODES, scan_drawing
from drip_pot.words import tr

_DPIS = (150, 200, 300, 400, 600, 1200)
_PREVIEW_DPI = 50


class _Glass(QWidget):
    """The glass of the scanner with what lies on it."""

    def __init__(self) -> None:
        super().__init__()
        self.setFixedSize(240, 340)
        self.picture: QImage | None = None
        self.setAccessibleName(tr("Preview"))

    def show_scan(self, pixels: U8) -> None:
        """Show a preview."""
        self.picture = image_of(np.stack([pixels] * 3, axis=-1) if pixels.ndim == 2 else pixels)
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        painter.fillRect(self.rect(), theme.color("surround"))
        if self.picture is None:
            painter.setPen(theme.color("card"))
            painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, tr("Preview shows\nwhat lies on the glass"))
            return
        size = self.picture.size().scaled(self.width() - 16, self.height() - 16, Qt.AspectRatioMode.KeepAspectRatio)
        left, top = (self.width() - size.width()) / 2, (self.height() - size.height()) / 2
        painter.drawImage(QRectF(left, top, size.width(), size.height()), self.picture)


class ScannerWindow(Dialog):
    """The flatbed: a tray of drawings, resolution, mode, preview, scan.

    Signals
    -------
    scanned(str, bytes)
        A name and the PNG that came over the cable.
    """

    scanned = pyqtSignal(str, bytes)

    def __init__(self, parent: QWidget | None) -> None:
        super().__init__(parent)
        self.setWindowTitle(tr("Simulated flatbed"))
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
        told = label(
            "A stand-in that comes with the program: it scans drawings of the demo, as badly as a worn scanner does. "
            "Files of your own scanner are opened with Ctrl+O.",
            "muted",
        )
        told.setWordWrap(True)
        column.addWidget(told)
        column.addWidget(label("Drawings in the tray", "muted"))
        self.tray = QListWidget()
        self.tray.setAccessibleName(tr("Drawings in the tray"))
        for work in WORKS:
            self.tray.addItem(work.title)
        self.tray.setCurrentRow(0)
        column.addWidget(self.tray, 1)
        self.dpi, self.mode = QComboBox(), QComboBox()
        for dpi in _DPIS:
            self.dpi.addItem(tr("{0} dpi", dpi), dpi)
        self.dpi.setCurrentIndex(_DPIS.index(300))
        self.mode.addItems([tr(says) for says in ("Grey", "Colour", "1-bit")])
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
        self.says.setText(tr("Stopped"))
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
            self.says.setText(tr("Ready"))
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
