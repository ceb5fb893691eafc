# SPDX-License-Identifier: GPL-3.0-or-later
"""What every dialog is, and the small questions. Knows widgets."""

from collections.abc import Sequence
from pathlib import Path

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QShowEvent
from PyQt6.QtWidgets import (
    QHBoxLayout,
    QLineEdit,
    QVBoxLayout,
    QWidget,
)

from drip_pot.desk.parts.dialog import Dialog
from drip_pot.desk.parts.widgets import button, label, rule
from drip_pot.words import tr

_EDGE = 12


class Asking(Dialog):
    """A dialog with a heading, a body and two buttons at the bottom right."""

    def __init__(self, parent: QWidget | None, title: str, do: str) -> None:
        super().__init__(parent)
        self.setWindowTitle(tr(title))
        self.setMinimumWidth(360)
        column = QVBoxLayout(self)
        column.setContentsMargins(20, 18, 20, 16)
        column.setSpacing(10)
        column.addWidget(label(title, "title"))
        self.body = QVBoxLayout()
        column.addLayout(self.body)
        column.addWidget(rule())
        self.row = QHBoxLayout()
        self.row.addStretch(1)
        self.row.addWidget(button("Cancel", self.reject))
        self.yes = button(do, self.accept, strong=True)
        self.yes.setDefault(True)
        self.row.addWidget(self.yes)
        column.addLayout(self.row)

    def stand_aside(self) -> None:
        """Begin at the right edge of the window it was asked from, so that the page stays in sight."""
        asked_from, screen = self.parentWidget(), self.screen()
        window = None if asked_from is None else asked_from.window()
        if window is None or screen is None:
            return
        self.adjustSize()
        place, within = window.frameGeometry(), screen.availableGeometry()
        left = min(place.right(), within.right()) - self.width() - _EDGE
        top = place.center().y() - self.height() // 2
        self.move(max(left, within.left()), max(top, within.top()))

    def showEvent(self, event: QShowEvent | None) -> None:
        """Begin in the first text field, if there is one, so that what is typed arrives."""
        super().showEvent(event)
        field = self.findChild(QLineEdit)
        if field is not None and not field.isReadOnly():
            field.setFocus(Qt.FocusReason.PopupFocusReason)


def ask_replace(parent: QWidget, existing: Sequence[Path]) -> bool:
    """Ask whether files that exist may be replaced; True where there are none."""
    if not existing:
        return True
    many = len(existing) > 1
    asking = Asking(parent, tr("Replace {0} files?", len(existing)) if many else "Replace the file?", "Replace")
    names = [path.name for path in existing[:6]] + [tr("and {0} more", len(existing) - 6)] * (len(existing) > 6)
    there = "In {0} there are already:" if many else "In {0} there is already:"
    asking.body.addWidget(label(tr(there, existing[0].parent), "muted"))
    asking.body.addWidget(label("\n".join(names)))
    return bool(asking.exec())


def ask_whether(parent: QWidget, title: str, told: str, do: str) -> bool:
    """Ask whether to do a thing, after a sentence about it."""
    asking = Asking(parent, title, do)
    words = label(told)
    words.setWordWrap(True)
    asking.body.addWidget(words)
    return bool(asking.exec())


def ask_name(parent: QWidget, title: str, name: str) -> str | None:
    """Ask for a name; None if it was called off or left empty."""
    asking = Asking(parent, title, "Apply")
    line = QLineEdit(name)
    line.setAccessibleName(tr(title))
    line.selectAll()
    asking.body.addWidget(line)
    return line.text().strip() or None if asking.exec() else None
