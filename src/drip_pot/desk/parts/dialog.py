# SPDX-License-Identifier: GPL-3.0-or-later
"""What every dialog is: it fits its screen, and the wheel changes nothing in it that was not clicked. Knows widgets."""

from PyQt6.QtGui import QShowEvent
from PyQt6.QtWidgets import QDialog

from drip_pot.desk.parts.calm import Calm
from drip_pot.desk.parts.screens import fit_to_screen


class Dialog(QDialog):
    """A dialog."""

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        Calm(self).watch(self)
        fit_to_screen(self)
