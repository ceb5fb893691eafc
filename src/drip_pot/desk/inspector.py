# SPDX-License-Identifier: GPL-3.0-or-later
"""The column at the right: the stage's blocks and Look here. Knows the easel and the stages' panels."""

from collections.abc import Mapping

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QScrollArea, QVBoxLayout, QWidget

from drip_pot.desk.bars.look_here import LookHere
from drip_pot.desk.bars.look_strip import LookStrip
from drip_pot.desk.menus.books import BookMenu
from drip_pot.desk.parts.widgets import Block, button, label
from drip_pot.desk.session.easel import Easel
from drip_pot.desk.stages.panel import Panel

_WIDE = 296


class Inspector(QWidget):
    """The inspector.

    Attributes
    ----------
    panels : dict
        The stages' columns by name.
    """

    def __init__(self, easel: Easel, panels: Mapping[str, Panel], look_here: LookHere, books: BookMenu) -> None:
        super().__init__()
        self.easel, self.panels, self.look_here = easel, dict(panels), look_here
        self.setObjectName("inspector")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setFixedWidth(_WIDE)
        inside = QWidget()
        inside.setObjectName("blocks")
        blocks = QVBoxLayout(inside)
        blocks.setContentsMargins(16, 12, 16, 12)
        blocks.setSpacing(12)
        for panel in self.panels.values():
            column = QVBoxLayout(panel)
            column.setContentsMargins(0, 0, 0, 0)
            column.setSpacing(12)
            for block in panel.blocks:
                column.addWidget(block)
            blocks.addWidget(panel)
        self.nothing = _nothing_yet(books)
        blocks.addWidget(self.nothing)
        blocks.addWidget(look_here)
        blocks.addStretch(1)
        self._scroll = QScrollArea()
        self._scroll.setWidget(inside)
        self._scroll.setWidgetResizable(True)
        self._scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self._scroll.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        whole = QVBoxLayout(self)
        whole.setContentsMargins(0, 0, 0, 0)
        whole.setSpacing(0)
        whole.addWidget(self._scroll, 1)
        self.strip = LookStrip(look_here)
        whole.addWidget(self.strip)
        self._in_use = ("", "")

    def refresh(self) -> None:
        """Show what the stage needs; a tool taken up shows its own settings."""
        there = bool(self.easel.page)
        for stage, panel in self.panels.items():
            panel.setVisible(there and stage == self.easel.stage)
        self.strip.setVisible(there)
        self.nothing.setVisible(not there)
        if there:
            self.panels[self.easel.stage].refresh()
        in_use = (self.easel.stage, self.easel.tool)
        if in_use != self._in_use:
            self._in_use = in_use
            bar = self._scroll.verticalScrollBar()
            if bar is not None:
                bar.setValue(0)

    def show_control(self, control: QWidget) -> None:
        """Bring a setting of the stage into sight, and give it the keys; one that its tool hides brings its block."""
        self.refresh()
        there: QWidget | None = control
        while there is not None and not there.isVisibleTo(self):
            there = there.parentWidget()
        if there is not None and there is not self:
            self._scroll.ensureWidgetVisible(there, 0, 24)
        control.setFocus(Qt.FocusReason.ShortcutFocusReason)


def _nothing_yet(books: BookMenu) -> Block:
    block = Block("No page yet", ruled=False)
    block.row(button("Open", books.open_file, "Open a drawing or a book (Ctrl+O)", strong=True),
              button("New book", books.new_book, "Make an empty book (Ctrl+N)"))  # fmt: skip
    words = label("A drawing is kept in a book beside it; the drawing itself is never changed.", "muted")
    words.setWordWrap(True)
    block.add(words)
    return block
