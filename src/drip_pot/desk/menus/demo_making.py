# SPDX-License-Identifier: GPL-3.0-or-later
"""The demo book, made when it is asked for, and while nothing else is open. Knows the easel."""

import subprocess
import sys
from pathlib import Path

from PyQt6.QtCore import QObject, pyqtSignal

from drip_pot.core.arrays import Report
from drip_pot.desk.session.easel import Easel
from drip_pot.desk.session.work import Work
from drip_pot.words import tr


class DemoMaking(QObject):
    """The demo book, made in a process of its own; it stops as soon as a person opens something of theirs.

    Signals
    -------
    progress(float, str)
        How far it is and what is done; nothing at the end.
    """

    progress = pyqtSignal(float, str)

    def __init__(self, easel: Easel) -> None:
        super().__init__(easel)
        self.easel = easel
        self.errands = Work(self)
        self.errands.progress.connect(lambda _, fraction, doing: self.progress.emit(fraction, doing))
        self._first: Path | None = None
        self._position: int | None = None
        easel.opened.connect(self._stop_beside_others)

    def open(self) -> None:
        """Open the demo book at reading size; where it is not made yet, page one at once and the rest when it is."""
        from drip_pot.demo.build import READING_DPI, first_look  # read when it is asked for

        def done(found: tuple[Path, tuple[Path, float] | None]) -> None:
            self.progress.emit(1.0, "")
            self.easel.opening.open(found[0])
            if found[1] is not None:
                self.prepare(*found[1], found[0])

        def work(report: Report) -> tuple[Path, tuple[Path, float] | None]:
            report(0.0, "Drawing page one")
            return first_look(READING_DPI)

        self.errands.start("demo", work, done, lambda error: self.easel.said.emit(str(error), True))

    def _stop_beside_others(self) -> None:
        """Make nothing beside a person's own work."""
        file, book = self.easel.file, self.easel.book
        if file is None or book is None or self._first is None:
            return
        if file.path == self._first:
            self._position = book.position if self._position is None else self._position
        else:
            self._first = None
            self.errands.cancel("demo")
            self.progress.emit(1.0, "")

    def prepare(self, book: Path, dpi: float, first: Path) -> None:
        """Make the demo book in a process of its own; it opens when it is there, unless page one was worked on."""
        self._first, self._position = first, None

        def work(report: Report) -> bool:
            command = [sys.executable, "-m", "drip_pot", "demo", "--prepare", "--dpi", f"{dpi:g}"]
            with subprocess.Popen(command, stdout=subprocess.DEVNULL, stderr=subprocess.PIPE, text=True) as child:
                try:
                    for line in child.stderr or ():
                        share, _, doing = line.strip().partition("% ")
                        report(int(share) / 100 if share.isdigit() else 0.0, doing or line.strip())
                except BaseException:
                    child.terminate()
                    raise
            return child.returncode == 0

        def done(good: bool) -> None:
            self.progress.emit(1.0, "")
            self._first = None
            file, now = self.easel.file, self.easel.book
            if not good:
                self.easel.said.emit("The demo book could not be made. Run: drip-pot demo --prepare", True)
            elif file is not None and now is not None and (file.path, now.position) == (first, self._position):
                self.easel.opening.open(book)
            else:
                self.easel.said.emit(tr("The whole demo book at {0:g} dpi is ready: open {1}", dpi, book), False)

        self.errands.start("demo", work, done)
