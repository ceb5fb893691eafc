# SPDX-License-Identifier: GPL-3.0-or-later
"""A report of what went wrong, to be read and sent. Knows widgets and text."""

from PyQt6.QtWidgets import QApplication, QHBoxLayout, QPlainTextEdit, QVBoxLayout, QWidget

from drip_pot.desk.parts.dialog import Dialog
from drip_pot.desk.parts.widgets import button, label
from drip_pot.words import tr


class Trouble(Dialog):
    """The text of a report, with a way to copy it."""

    def __init__(self, parent: QWidget | None, text: str, place: str) -> None:
        super().__init__(parent)
        self.setWindowTitle(tr("Trouble report"))
        self.resize(640, 480)
        column = QVBoxLayout(self)
        told = label(
            "Everything up to your last finished gesture is in the book. This is what went wrong; it names no book, "
            "page or file. Send it to whoever looks after the program.", "muted",
        )  # fmt: skip
        told.setWordWrap(True)
        column.addWidget(told)
        self.text = QPlainTextEdit(text)
        self.text.setReadOnly(True)
        self.text.setAccessibleName(tr("Trouble report"))
        column.addWidget(self.text, 1)
        column.addWidget(label(place, "smallmuted"))
        row = QHBoxLayout()
        row.addWidget(button("Copy", self.copy, "Copy the report"))
        row.addStretch(1)
        row.addWidget(button("Close", self.accept))
        column.addLayout(row)

    def copy(self) -> None:
        """Put the report on the clipboard."""
        clipboard = QApplication.clipboard()
        if clipboard is not None:
            clipboard.setText(self.text.toPlainText())
