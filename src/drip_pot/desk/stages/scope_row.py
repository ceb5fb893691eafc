# SPDX-License-Identifier: GPL-3.0-or-later
"""Where what is in hand applies, in a line of the inspector. Writes through what has the scope."""

from collections.abc import Callable
from functools import partial

from PyQt6.QtWidgets import QHBoxLayout, QMenu, QPushButton, QVBoxLayout, QWidget

from drip_pot.book.scope import said
from drip_pot.desk.dialogs.asking import ask_name
from drip_pot.desk.parts.widgets import button, label
from drip_pot.desk.session.easel import Easel
from drip_pot.desk.stages.scoping import Scoping
from drip_pot.words import tr


class ScopeRow(QWidget):
    """A line that says where, and what changes it."""

    def __init__(self, easel: Easel, scoping: Scoping) -> None:
        super().__init__()
        self.easel, self._scoping = easel, scoping
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        self.told = label("", "muted")
        self.told.setWordWrap(True)
        column.addWidget(self.told)
        row = QHBoxLayout()
        row.setSpacing(4)
        self.choose = self._menu(
            "Where", partial(self._fill, more=False), tr("Choose where the {0} applies", scoping.what)
        )
        self.add = self._menu("And", partial(self._fill, more=True), "Let it apply there as well")
        self.invert = button("Invert", self._scoping.invert_scope, "Everywhere else instead (Ctrl+Shift+I)")
        self.keep = button("Name", self._keep, "Keep this choice by name")
        for entry in (self.choose, self.add, self.invert, self.keep):
            row.addWidget(entry, 1)
        column.addLayout(row)

    def _menu(self, name: str, fill: Callable[[QMenu], object], tip: str) -> QPushButton:
        found = QPushButton(tr(name))
        found.setToolTip(tr(tip))
        menu = QMenu(found)
        menu.aboutToShow.connect(lambda: fill(menu))
        found.setMenu(menu)
        return found

    def _fill(self, menu: QMenu, *, more: bool) -> None:
        menu.clear()
        for name, scope in self._scoping.scopes().items():
            if not (more and scope.is_everywhere):
                menu.addAction(tr(name), partial(self._scoping.set_scope, scope, more=more))

    def _keep(self) -> None:
        name = ask_name(self, tr("Name of this scope"), "")
        if name:
            self._scoping.keep_scope(name)

    def refresh(self) -> None:
        """Say where what is in hand applies."""
        held, ready = self._scoping.scope_held(), self.easel.ready()
        if held is None or ready is None:
            return
        where = said(*ready, held)
        self.told.setText(
            tr("Applies everywhere")
            if where == "everywhere"
            else tr("Applies nowhere")
            if where == "nowhere"
            else tr("Applies in {0}", where)
        )
        for entry in (self.add, self.invert, self.keep):
            entry.setEnabled(not held.is_everywhere)
