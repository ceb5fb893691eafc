# SPDX-License-Identifier: GPL-3.0-or-later
"""A sequence played, and written as a file that moves. Knows the easel and delivery."""

from collections.abc import Callable
from functools import partial
from pathlib import Path

from PyQt6.QtCore import QSettings, QSize, Qt, QTimer
from PyQt6.QtGui import QCloseEvent, QPixmap, QResizeEvent
from PyQt6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QDoubleSpinBox,
    QFileDialog,
    QHBoxLayout,
    QLabel,
    QSlider,
    QSpinBox,
    QVBoxLayout,
    QWidget,
)

from drip_pot.book import verbs
from drip_pot.book.values import Sequence
from drip_pot.core.arrays import U8, Report
from drip_pot.desk.dialogs.asking import Asking, ask_replace
from drip_pot.desk.dialogs.settings import folder_of
from drip_pot.desk.parts.dialog import Dialog
from drip_pot.desk.parts.pixels import image_of
from drip_pot.desk.parts.widgets import button, label
from drip_pot.desk.session.easel import Easel
from drip_pot.desk.session.work import Work
from drip_pot.files import MOST_HIGH, MOVING, derive, draw_frames, slug, write_moving
from drip_pot.words import tr

_HIGH = 720
_KINDS = {
    "webp": "Animated WebP (*.webp)",
    "apng": "Animated PNG (*.png)",
    "strip": "Contact strip (*.png)",
    "frames": "Numbered PNGs in a folder (*)",
}


class MovingChoice(Asking):
    """What a sequence is written as, how high, and on what; as it was chosen last."""

    def __init__(self, parent: QWidget | None, settings: QSettings) -> None:
        super().__init__(parent, "Write the sequence", "Write")
        self._settings = settings
        self.kind = QComboBox()
        self.kind.setAccessibleName(tr("Kind of file"))
        for kind, words in _KINDS.items():
            self.kind.addItem(tr(words.partition(" (")[0]), kind)
        self.kind.setCurrentIndex(max(0, self.kind.findData(settings.value("moving/kind", "webp"))))
        self.high = QSpinBox()
        self.high.setRange(16, MOST_HIGH)
        self.high.setSuffix(tr(" px high"))
        self.high.setAccessibleName(tr("Height of a frame"))
        self.high.setValue(int(settings.value("moving/high", _HIGH)))
        self.clear = QCheckBox(tr("On a transparent ground instead of paper"))
        self.clear.setChecked(settings.value("moving/clear", False, bool))
        self.smooth = QCheckBox(tr("Smooth colour edges"))
        self.smooth.setChecked(settings.value("moving/smooth", False, bool))
        for widget in (self.kind, self.high, self.clear, self.smooth):
            self.body.addWidget(widget)

    def asked(self) -> tuple[str, int, bool, bool] | None:
        """Return kind, height, whether the ground is transparent and edges smooth; None if it was called off."""
        if not self.exec():
            return None
        found = self.kind.currentData(), self.high.value(), self.clear.isChecked(), self.smooth.isChecked()
        for key, value in zip(("kind", "high", "clear", "smooth"), found, strict=True):
            self._settings.setValue(f"moving/{key}", value)
        return found


class Player(Dialog):
    """The frames one after the other; the space bar stops and goes on."""

    def __init__(self, parent: QWidget | None, easel: Easel, settings: QSettings) -> None:
        super().__init__(parent)
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.easel, self._settings, self.work = easel, settings, Work(self, patience=6)
        self.drawn: dict[int, U8] = {}
        self._pictures: list[QPixmap] = []
        self._place = 0
        self._timer = QTimer(self)
        self._timer.timeout.connect(self._next)
        column = QVBoxLayout(self)
        self.shown = QLabel()
        self.shown.setAlignment(Qt.AlignmentFlag.AlignCenter)
        self.shown.setMinimumSize(QSize(320, 320))
        self.shown.setAccessibleName(tr("The sequence"))
        column.addWidget(self.shown, 1)
        self.told = label("Drawing the frames", "muted")
        self.told.setAlignment(Qt.AlignmentFlag.AlignCenter)
        column.addWidget(self.told)
        self.slider = QSlider(Qt.Orientation.Horizontal)
        self.slider.setAccessibleName(tr("Frame"))
        self.slider.valueChanged.connect(self._go)
        column.addWidget(self.slider)
        row = QHBoxLayout()
        self.run = button("Pause", self.toggle, "Stop and go on (Space)")
        self.run.setShortcut("Space")
        row.addWidget(self.run)
        self.rate = QDoubleSpinBox()
        self.rate.setRange(1, 60)
        self.rate.setDecimals(0)
        self.rate.setSuffix(tr(" frames a second"))
        self.rate.setAccessibleName(tr("Frames a second"))
        row.addWidget(self.rate)
        row.addStretch(1)
        self.save = button("Write a file", self._ask, "Animated WebP or PNG, numbered PNGs, a contact strip")
        row.addWidget(self.save)
        row.addWidget(button("Close", self.close))
        column.addLayout(row)
        self.resize(640, 760)
        self._begin()

    def _begin(self) -> None:
        book, file = self.easel.book, self.easel.file
        found = None if book is None else book.sequence_of(self.easel.page)
        if book is None or file is None or found is None:
            return
        self.number, self.sequence = found
        self.setWindowTitle(self.sequence.name)
        self.rate.setValue(self.sequence.rate_fps)
        self.rate.editingFinished.connect(self._set_rate)
        self.run.setEnabled(False)
        self.save.setEnabled(False)
        self._still, self._file = book.still(), file
        self.work.progress.connect(lambda _, fraction, doing: self.told.setText(f"{doing}, {fraction:.0%}"))
        self.work.start(
            "frames", partial(self._draw, _HIGH, False, False), self._came, lambda error: self.told.setText(str(error))
        )

    def _draw(self, high: int, clear: bool, smooth: bool, report: Report) -> dict[int, U8]:
        """Draw the frames as they were when the window was opened; works on a thread of its own."""
        book, file = self._still, self._file
        derived = partial(derive, file, book)
        return draw_frames(book, derived, self.sequence, high, report, clear=clear, smooth=smooth)

    def _came(self, drawn: dict[int, U8]) -> None:
        self.drawn = drawn
        self._pictures = [QPixmap.fromImage(image_of(drawn[page])) for page in self.sequence.shown()]
        self.run.setEnabled(True)
        self.save.setEnabled(True)
        self.slider.setRange(0, len(self._pictures) - 1)
        self.run.setFocus()
        self.toggle()
        self._show()

    def toggle(self) -> None:
        """Stop, or go on."""
        if self._timer.isActive():
            self._timer.stop()
        elif self._pictures:
            self._timer.start(round(1000 / self.rate.value()))
        self.run.setText(tr("Pause") if self._timer.isActive() else tr("Play"))

    def _set_rate(self) -> None:
        fps = self.rate.value()
        if self._timer.isActive():
            self._timer.setInterval(round(1000 / fps))
        if fps != self.sequence.rate_fps:
            self.easel.do(lambda book, _: verbs.set_sequence(book, self.number, rate_fps=fps))
            known = self.easel.book.sequences() if self.easel.book is not None else {}
            self.sequence = known.get(self.number, self.sequence)

    def _next(self) -> None:
        self.slider.setValue((self._place + 1) % len(self._pictures))

    def _go(self, place: int) -> None:
        self._place = place
        self._show()

    def _show(self) -> None:
        if self._pictures:
            size = self.shown.size()
            self.shown.setPixmap(self._pictures[self._place].scaled(
                size, Qt.AspectRatioMode.KeepAspectRatio, Qt.TransformationMode.SmoothTransformation))  # fmt: skip
            self.told.setText(tr("frame {0} of {1}", self._place + 1, len(self._pictures)))

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self._show()

    # Written as a file

    def _ask(self) -> None:
        asked = MovingChoice(self, self._settings).asked()
        if asked is None:
            return
        kind, high, clear, smooth = asked
        home = folder_of(self._settings) / f"{slug(self.sequence.name) or 'sequence'}{MOVING[kind]}"
        found, _ = QFileDialog.getSaveFileName(
            self, tr("Write the sequence"), str(home), tr(_KINDS[kind]),
            options=QFileDialog.Option.DontConfirmOverwrite,
        )  # fmt: skip
        if found:
            path = Path(found).with_suffix(MOVING[kind])
            if ask_replace(self, [path] if path.exists() else []):
                self.write(path, kind, high, clear=clear, smooth=smooth)

    def write(self, path: Path, kind: str, high: int = _HIGH, *, clear: bool = False, smooth: bool = False) -> None:
        """Write what is played, in the background; drawn anew where it is of another height or ground."""
        drawn: Callable[[Report], dict[int, U8]] = lambda _: self.drawn  # noqa: E731
        if (high, clear, smooth) != (_HIGH, False, False):
            drawn = partial(self._draw, high, clear, smooth)
        work = partial(_written, path, kind, self.sequence, drawn)
        done = lambda _: self.easel.said.emit(tr("Wrote {0}.", path), False)  # noqa: E731
        self.work.start("write", work, done, lambda error: self.easel.said.emit(str(error), True))

    def closeEvent(self, event: QCloseEvent | None) -> None:
        self._timer.stop()
        self.work.close()
        super().closeEvent(event)


def _written(
    path: Path, kind: str, sequence: Sequence, drawn: Callable[[Report], dict[int, U8]], report: Report
) -> list[Path]:  # fmt: skip
    frames = drawn(report)
    report(0.9, tr("Writing {0}", path.name))
    return write_moving(path, kind, sequence, frames)
