# SPDX-License-Identifier: GPL-3.0-or-later
"""What is under the pointer, told in the status line. Knows the easel, the canvas and the stages."""

from collections.abc import Callable

from PyQt6.QtCore import QObject, QTimer

from drip_pot.desk.session.easel import Easel
from drip_pot.desk.stages import STAGES
from drip_pot.desk.view.canvas import Canvas
from drip_pot.words import grouped, tr

_TELL_MS = 16


class UnderPointer(QObject):
    """Tells what is under the pointer, once the motions that wait are drawn."""

    def __init__(self, easel: Easel, canvas: Canvas, say: Callable[[str], object]) -> None:
        super().__init__(canvas)
        self.easel, self.canvas, self._say = easel, canvas, say
        self._at = -1.0, -1.0
        self._later = QTimer(self)
        self._later.setSingleShot(True)
        self._later.setInterval(_TELL_MS)
        self._later.timeout.connect(self.tell)
        canvas.moved.connect(self._on_moved)
        canvas.zoomed.connect(self.tell)

    def _on_moved(self, row: float, col: float) -> None:
        self._at = row, col
        if not self._later.isActive():
            self._later.start()

    def tell(self) -> None:
        """Say what is there now."""
        (row, col), view, zoom = self._at, self.easel.view, f"{self.canvas.zoom * 100:.0f} %"
        if view is None or not (0 <= row < view.shape[0] and 0 <= col < view.shape[1]):
            self._say(zoom)
            return
        r, c = int(row), int(col)
        what = STAGES[self.easel.stage].reads(self.easel, view, r, c)
        self._say(tr("{0}     {1}, {2} px     {3}", what, grouped(c), grouped(r), zoom))
