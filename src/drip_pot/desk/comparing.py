# SPDX-License-Identifier: GPL-3.0-or-later
"""Before and now: a divider between them, both side by side, and the page as it was at a step. Knows the canvas."""

from PyQt6.QtCore import QObject, pyqtSignal

from drip_pot.desk.session.easel import Easel
from drip_pot.desk.session.page_view import PageView
from drip_pot.desk.session.past import view_at
from drip_pot.desk.view.canvas import Canvas
from drip_pot.desk.view.seen import Chip


class Comparing(QObject):
    """Compares the page with what it was.

    Signals
    -------
    changed()
        Something else is compared, or nothing.
    """

    changed = pyqtSignal()

    def __init__(self, easel: Easel, canvas: Canvas) -> None:
        super().__init__(canvas)
        self._easel, self._canvas = easel, canvas

    def chips(self) -> list[Chip]:
        """Return its switches."""
        wiping, beside = self._canvas.wipe is not None, self._canvas.beside
        return [
            Chip("Wipe", wiping, "Before and now, with a divider (W)", self.toggle_wipe),
            Chip("Beside", beside, "Before and now, side by side (Shift+W)", self.toggle_beside),
        ]

    def toggle_beside(self) -> None:
        """Show before and now side by side, or now alone."""
        self._canvas.set_beside(not self._canvas.beside)
        self.changed.emit()

    def toggle_wipe(self) -> None:
        """Show or hide the divider between before and now."""
        if self._canvas.earlier is not None:
            self._canvas.compare_with(None)
        else:
            self._canvas.set_wipe(self._canvas.wipe is None)
        self.changed.emit()

    def compare_with(self, position: int) -> None:
        """Wipe between the page as it was after so many steps and as it is."""
        easel = self._easel
        now, ready, page = easel.view, easel.ready(), easel.page
        found: list[PageView] = []
        if now is not None and ready is not None:
            easel.trying(lambda: found.append(view_at(now, *ready, page, position)))
        if found:
            self._canvas.compare_with(found[0])
            self.changed.emit()
            easel.said.emit(
                "Left of the divider is the page as it was then. W ends it; hold Q to see all of it.", False
            )
