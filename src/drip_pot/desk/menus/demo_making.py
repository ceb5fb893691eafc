"""The demo book made at full size. Knows the easel."""

import subprocess
import sys
from pathlib import Path

from PyQt6.QtCore import QObject, pyqtSignal

from drip_pot.core.arrays import Report
from drip_pot.desk.session.easel import Easel
from drip_pot.desk.session.work import Work
from drip_pot.words import tr


class DemoMaking(QObject):
    """The full-size demo book, made in a process of its own.

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

    def prepare(self, book: Path, dpi: float) -> None:
        """Make the demo book in a process of its own; open it when it is there, unless something was done here."""
        first = self.easel.file.path if self.easel.file is not None else None
        position = self.easel.book.position if self.easel.book is not None else 0

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
            file, now = self.easel.file, self.easel.book
            if not good:
                self.easel.said.emit("The full-size demo book could not be made. Run: drip-pot demo --prepare", True)
            elif file is not None and now is not None and (file.path, now.position) == (first, position):
                self.easel.opening.open(book)
            else:
                self.easel.said.emit(tr("The whole demo book at {0:g} dpi is ready: open {1}", dpi, book), False)

        self.errands.start("demo", work, done)
