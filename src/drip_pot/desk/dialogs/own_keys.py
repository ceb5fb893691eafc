# SPDX-License-Identifier: GPL-3.0-or-later
"""Keys changed: every action with its key, another one given to it, sets kept by name. Knows widgets and own keys."""

from collections.abc import Callable, Mapping

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QKeySequence
from PyQt6.QtWidgets import (
    QComboBox,
    QHBoxLayout,
    QKeySequenceEdit,
    QLineEdit,
    QTreeWidget,
    QTreeWidgetItem,
    QVBoxLayout,
    QWidget,
)

from drip_pot.desk.dialogs.asking import ask_name
from drip_pot.desk.parts.dialog import Dialog
from drip_pot.desk.parts.own_keys import USUAL, OwnKeys, conflict, plain_key
from drip_pot.desk.parts.widgets import button, label
from drip_pot.words import tr

_ACTION = Qt.ItemDataRole.UserRole


class ChangeKeys(Dialog):
    """The keys of all actions.

    Parameters
    ----------
    own : OwnKeys
        Where they are kept.
    usual : mapping
        The usual key of every action, '<group>: <title>'.
    changed : callable
        Called when they are others.
    """

    def __init__(
        self, parent: QWidget | None, own: OwnKeys, usual: Mapping[str, str], changed: Callable[[], object]
    ) -> None:  # fmt: skip
        super().__init__(parent)
        self.setWindowTitle(tr("Change keys"))
        self.resize(620, 620)
        self._own, self._usual, self._changed = own, dict(usual), changed
        column = QVBoxLayout(self)
        row = QHBoxLayout()
        row.addWidget(label("Set", "muted"))
        self.sets = QComboBox()
        self.sets.setAccessibleName(tr("Set of keys"))
        self.sets.activated.connect(lambda _: self._use())
        row.addWidget(self.sets, 1)
        row.addWidget(button("Keep as", self._keep_as, "Keep these keys under a name"))
        self.gone = button("Remove", self._remove, "Forget this set; the usual keys are used again")
        row.addWidget(self.gone)
        column.addLayout(row)
        self.text = QLineEdit()
        self.text.setPlaceholderText(tr("A key, or what it does"))
        self.text.setAccessibleName(tr("A key, or what it does"))
        self.text.textChanged.connect(self._look_for)
        column.addWidget(self.text)
        self.list = QTreeWidget()
        self.list.setAccessibleName(tr("Actions and their keys"))
        self.list.setHeaderLabels([tr("Action"), tr("Key"), tr("Usual key")])
        self.list.setColumnWidth(0, 340)
        self.list.currentItemChanged.connect(lambda *_: self._show_key())
        column.addWidget(self.list, 1)
        row = QHBoxLayout()
        row.addWidget(label("Press a key", "muted"))
        self.key = QKeySequenceEdit()
        self.key.setMaximumSequenceLength(1)
        self.key.setAccessibleName(tr("Press the key that the action is to have"))
        row.addWidget(self.key, 1)
        self.give = button("Give it this key", self.give_key, "The action chosen gets the key that was pressed")
        row.addWidget(self.give)
        row.addWidget(button("Usual key", self.give_usual, "The action chosen gets its usual key again"))
        column.addLayout(row)
        self.told = label("", "muted")
        self.told.setWordWrap(True)
        column.addWidget(self.told)
        row = QHBoxLayout()
        row.addStretch(1)
        row.addWidget(button("Close", self.accept))
        column.addLayout(row)
        self._fill()

    def keys(self) -> dict[str, str]:
        """Return the key of every action as it is now."""
        return self._usual | self._own.chosen()

    def _fill(self) -> None:
        self.sets.clear()
        self.sets.addItems(self._own.names())
        self.sets.setCurrentText(self._own.name)
        self.gone.setEnabled(self._own.name != USUAL)
        before = self._chosen()
        self.list.clear()
        groups: dict[str, QTreeWidgetItem] = {}
        for action, key in self.keys().items():
            group, _, title = action.partition(": ")
            if group not in groups:
                groups[group] = QTreeWidgetItem([tr(group), "", ""])
                self.list.addTopLevelItem(groups[group])
            usual = self._usual.get(action, "")
            item = QTreeWidgetItem([tr(title), key, usual if usual != key else ""])
            item.setData(0, _ACTION, action)
            groups[group].addChild(item)
            if action == before:
                self.list.setCurrentItem(item)
        self.list.expandAll()
        self._look_for(self.text.text())

    def _chosen(self) -> str:
        item = self.list.currentItem()
        return "" if item is None else str(item.data(0, _ACTION) or "")

    def choose(self, action: str) -> None:
        """Choose an action."""
        for item in self.list.findItems("*", Qt.MatchFlag.MatchWildcard | Qt.MatchFlag.MatchRecursive):
            if item.data(0, _ACTION) == action:
                self.list.setCurrentItem(item)

    def _show_key(self) -> None:
        self.key.setKeySequence(QKeySequence(self.keys().get(self._chosen(), "")))
        self.told.setText("")

    def _look_for(self, words: str) -> None:
        wanted = words.lower().split()
        for row in range(self.list.topLevelItemCount()):
            group = self.list.topLevelItem(row)
            assert group is not None
            for place in range(group.childCount()):
                item = group.child(place)
                assert item is not None
                text = f"{group.text(0)} {item.text(0)} {item.text(1)}".lower()
                item.setHidden(not all(word in text for word in wanted))

    def give_key(self) -> None:
        """Give the action chosen the key that was pressed, unless another one has it."""
        action, key = self._chosen(), plain_key(self.key.keySequence().toString())
        if not action:
            self.told.setText(tr("Choose an action in the list first."))
            return
        problem = conflict(self.keys(), action, key)
        if problem:
            self.told.setText(problem)
            return
        self._put(action, key)

    def give_usual(self) -> None:
        """Give the action chosen its usual key again, unless another one has it by now."""
        action = self._chosen()
        key = self._usual.get(action, "")
        problem = conflict(self.keys(), action, key)
        if action and not problem:
            self._put(action, key)
        else:
            self.told.setText(problem)

    def _put(self, action: str, key: str) -> None:
        chosen = self._own.chosen() | {action: key}
        chosen = {name: its for name, its in chosen.items() if its != self._usual.get(name)}
        self._own.keep(self._own.name if self._own.name != USUAL else "My keys", chosen)
        self._changed()
        self._fill()
        self.told.setText(f"{action.split(': ', 1)[1]}: {key or 'no key'}")

    def _use(self) -> None:
        self._own.use(self.sets.currentText())
        self._changed()
        self._fill()

    def _keep_as(self) -> None:
        name = ask_name(self, tr("Name of these keys"), "")
        if name and name != USUAL:
            self._own.keep(name, self._own.chosen())
            self._changed()
            self._fill()

    def _remove(self) -> None:
        self._own.remove(self._own.name)
        self._changed()
        self._fill()
