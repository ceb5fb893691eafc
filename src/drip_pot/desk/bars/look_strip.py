# SPDX-License-Identifier: GPL-3.0-or-later
"""The next finding, always in sight below the inspector: its picture, its verb, how many there are. Knows Look here."""

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QMouseEvent
from PyQt6.QtWidgets import QApplication, QHBoxLayout, QVBoxLayout, QWidget

from drip_pot.desk.bars.look_here import FindingEntry, LookHere
from drip_pot.desk.parts.widgets import button, label
from drip_pot.words import tr


class LookStrip(QWidget):
    """One finding of the stage, and the way to the next."""

    def __init__(self, look_here: LookHere) -> None:
        super().__init__()
        self.look_here = look_here
        self.setObjectName("look")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        column = QVBoxLayout(self)
        column.setContentsMargins(16, 6, 16, 6)
        column.setSpacing(4)
        self.count = label("", "smallmuted")
        self.next = button("Next", look_here.next, "Go to the next finding (N)")
        head = QHBoxLayout()
        head.addWidget(self.count, 1)
        head.addWidget(self.next)
        column.addLayout(head)
        self._place = QVBoxLayout()
        column.addLayout(self._place)
        self.entry: FindingEntry | None = None
        self._shown: tuple[object, ...] = ()
        look_here.listed.connect(self.refresh)

    def refresh(self) -> None:
        """Show the finding in view, or the first."""
        look, easel = self.look_here, self.look_here.easel
        finding, stepped = look.current(), look.stepped_to() is not None
        count, waiting = len(easel.findings[easel.stage]), bool(easel.page) and not easel.deriving.looking.done
        nothing = tr("Looking") if waiting else tr("Nothing to look at in this stage.")
        self.count.setText(tr("Look here: {0} left", count) if count else nothing)
        self.next.setVisible(count > 1)
        state = finding, stepped, easel.view is not None
        if state == self._shown:
            return
        self._shown = state
        if self.entry is not None:
            held = QApplication.focusWidget()
            if held is not None and self.entry.isAncestorOf(held):
                look.let_go.emit()
            self._place.removeWidget(self.entry)
            self.entry.hide()
            self.entry.deleteLater()
            self.entry = None
        if finding is None:
            return
        self.entry = FindingEntry(finding, easel.view, stepped)
        self.entry.chosen.connect(lambda: look.go(finding))
        self.entry.verb.clicked.connect(lambda: look.mend_one(finding))
        self.entry.opposite.clicked.connect(lambda: look.drop_one(finding))
        self._place.addWidget(self.entry)
        if self.entry.picture is not None:
            self.entry.picture.cut()

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        self.look_here.next()
