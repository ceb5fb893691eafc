# SPDX-License-Identifier: GPL-3.0-or-later
"""The manual, in a window of its own. Knows widgets and the text that ships with the program."""

from pathlib import Path

from PyQt6.QtGui import QShowEvent, QTextCursor, QTextDocument
from PyQt6.QtWidgets import QHBoxLayout, QLineEdit, QTextBrowser, QVBoxLayout, QWidget

from drip_pot.desk.parts.dialog import Dialog
from drip_pot.desk.parts.widgets import button
from drip_pot.words import tr

TEXT = Path(__file__).parents[1] / "help" / "manual.md"


class Manual(Dialog):
    """The manual, open at a heading; words in it can be looked for."""

    def __init__(self, parent: QWidget | None, heading: str = "") -> None:
        super().__init__(parent)
        self.setWindowTitle(tr("Manual"))
        self.resize(640, 680)
        column = QVBoxLayout(self)
        self.page = QTextBrowser()
        self.page.setAccessibleName(tr("Manual"))
        self.page.setSearchPaths([str(TEXT.parent)])
        self.page.setMarkdown(TEXT.read_text(encoding="utf-8"))
        self.page.document().setDocumentMargin(18)  # type: ignore[union-attr]
        self.text = QLineEdit()
        self.text.setPlaceholderText(tr("Look for"))
        self.text.setAccessibleName(tr("Words to look for"))
        self.text.returnPressed.connect(self.look_for)
        row = QHBoxLayout()
        row.addWidget(self.text, 1)
        row.addWidget(button("Next", self.look_for, "Next place with these words (Enter)"))
        column.addLayout(row)
        column.addWidget(self.page)
        self._heading = heading
        self._go_to(heading)

    def showEvent(self, event: QShowEvent | None) -> None:
        """Go to the heading again, now that pictures take their room."""
        super().showEvent(event)
        self._go_to(self._heading)

    def _go_to(self, heading: str) -> None:
        block = self.page.document().begin()  # type: ignore[union-attr]
        while block.isValid():
            if block.blockFormat().headingLevel() == 2 and block.text() == heading:
                cursor = QTextCursor(block)
                self.page.moveCursor(QTextCursor.MoveOperation.End)
                self.page.setTextCursor(cursor)
                return
            block = block.next()

    def look_for(self) -> bool:
        """Go to the next place with the words typed, from the top again after the last; return whether there is one."""
        words = self.text.text().strip()
        if not words:
            return False
        if self.page.find(words):
            return True
        self.page.moveCursor(QTextCursor.MoveOperation.Start)
        return self.page.find(words, QTextDocument.FindFlag(0))
