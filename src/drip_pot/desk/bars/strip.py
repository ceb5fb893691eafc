# SPDX-License-Identifier: GPL-3.0-or-later
"""What lies over the canvas: a sentence, progress. Knows work."""

from collections.abc import Callable
from pathlib import Path

from PyQt6.QtCore import QRect, QRectF, Qt, QTimer, QUrl, pyqtSignal
from PyQt6.QtGui import QDesktopServices, QPainter, QPaintEvent
from PyQt6.QtWidgets import (
    QHBoxLayout,
    QProgressBar,
    QToolButton,
    QWidget,
)

from drip_pot.desk.bars.plate import Plate
from drip_pot.desk.parts import icons, theme
from drip_pot.desk.parts.widgets import button, label
from drip_pot.desk.session.work import Work
from drip_pot.words import tr


class CardStrip(Plate):
    """A sentence over the canvas with a way to close it; problems carry a vermilion edge and stay."""

    closed = pyqtSignal()

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self._problem = False
        row = QHBoxLayout(self)
        row.setContentsMargins(16, 7, 8, 7)
        self.text = label()
        self.text.setWordWrap(True)
        row.addWidget(self.text, 1)
        self._done: Callable[[], object] = lambda: None
        self.act = button("", self._act)
        row.addWidget(self.act)
        self._close = QToolButton()
        self._close.setAutoRaise(True)
        self._close.setToolTip(tr("Close"))
        self._close.setAccessibleName(tr("Close this message"))
        self._close.clicked.connect(self._shut)
        row.addWidget(self._close)
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.timeout.connect(self.hide)
        self.hide()

    def say(
        self, sentence: str, problem: bool = False, *, lasting: bool = False,
        offer: tuple[str, Callable[[], object]] | None = None,
    ) -> None:  # fmt: skip
        """Show a sentence; without a problem it goes away after a while unless it is lasting.

        `offer` is a verb and what it does, on a button beside the sentence.
        """
        if not sentence:
            return
        self.act.setVisible(offer is not None)
        if offer is not None:
            self.act.setText(tr(offer[0]))
            self._done = offer[1]
        self._problem = problem
        self.text.setText(tr(sentence))
        self._close.setIcon(icons.icon("close", theme.bench().text, 16))
        self.place()
        self.show()
        self.raise_()
        self._timer.stop()
        if not problem and not lasting:
            self._timer.start(4000 + 60 * len(sentence))

    def offer_folder(self, sentence: str, folder: Path) -> None:
        """Say what was written, and offer to show the folder."""
        place = QUrl.fromLocalFile(str(folder))
        self.say(sentence, lasting=True, offer=("Show folder", lambda: QDesktopServices.openUrl(place)))

    def unsay(self, sentence: str) -> None:
        """Take a sentence away, if it is the one that is shown."""
        if self.text.text() == tr(sentence):
            self.hide()

    def place(self) -> None:
        """Fit into the canvas."""
        parent = self.parentWidget()
        assert parent is not None
        width = min(720, parent.width() - 40)
        self.setFixedWidth(width)
        rest = width - 76 - (self.act.sizeHint().width() + 8 if self.act.isVisibleTo(self) else 0)
        self.setFixedHeight(max(40, self.text.heightForWidth(rest) + 18))
        self.move((parent.width() - width) // 2, parent.height() - self.height() - 14)

    def _act(self) -> None:
        self.hide()
        self._done()

    def _shut(self) -> None:
        self.hide()
        self.closed.emit()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        super().paintEvent(event)
        if self._problem:
            painter = QPainter(self)
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(theme.color("mark"))
            painter.drawRoundedRect(QRectF(0, 0, 6, self.height()), 3, 3)


class Progress(Plate):
    """What is being worked out, how far it is, and a way to stop it; `top` is how far below the canvas's top it hangs.

    It hangs at the right, and lower where it would hide what it is `beside`.

    Only work of the `shown` names is shown, all of it where none is given; that of `may_stop` can be stopped.
    """

    def __init__(
        self, parent: QWidget, work: Work, may_stop: tuple[str, ...], shown: tuple[str, ...] = (), top: int = 14,
        beside: QWidget | None = None,
    ) -> None:  # fmt: skip
        super().__init__(parent)
        self.work, self._may_stop, self._shown, self._top = work, may_stop, shown, top
        self._name, self._beside = "", beside
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.setInterval(200)
        self._timer.timeout.connect(self._show)
        row = QHBoxLayout(self)
        row.setContentsMargins(14, 6, 8, 6)
        self.text = label("", "small")
        self.bar = QProgressBar()
        self.bar.setRange(0, 1000)
        self.bar.setTextVisible(False)
        self.bar.setFixedSize(120, 6)
        row.addWidget(self.text, 1)
        row.addWidget(self.bar)
        self.stop = button("Stop", self._stop, "Stop this (the page stays as it is)")
        row.addWidget(self.stop)
        self.setFixedSize(380, 42)
        self.hide()
        work.progress.connect(self._on_progress)
        work.idle.connect(self._on_idle)

    def _on_progress(self, name: str, fraction: float, doing: str) -> None:
        if self._shown and not name.startswith(self._shown):
            return
        self._name = name
        self.text.setText(tr(doing))
        self.bar.setValue(round(1000 * fraction))
        self.stop.setVisible(name.startswith(self._may_stop))
        if not self.isVisible() and not self._timer.isActive():
            self._timer.start()

    def _on_idle(self, name: str) -> None:
        if name == self._name or not self.work.busy():
            self._timer.stop()
            self.hide()

    def _show(self) -> None:
        parent = self.parentWidget()
        if parent is not None and self.work.busy(self._name):
            left = parent.width() - self.width() - 14
            under = self._beside.geometry() if self._beside is not None and self._beside.isVisible() else QRect()
            self.move(max(8, left), self._top + (under.bottom() + 4 if under.right() + 8 > left else 0))
            self.show()
            self.raise_()

    def _stop(self) -> None:
        self.work.cancel(self._name)
        self.hide()
