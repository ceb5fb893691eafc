# SPDX-License-Identifier: GPL-3.0-or-later
"""The recipes that are kept: what each does step by step, its key, and how it is changed. Knows what keeps them."""

from collections.abc import Callable, Mapping
from functools import partial
from pathlib import Path

from PyQt6.QtCore import QSize, Qt
from PyQt6.QtGui import QIcon, QKeySequence
from PyQt6.QtWidgets import (
    QCheckBox,
    QDoubleSpinBox,
    QFileDialog,
    QFormLayout,
    QHBoxLayout,
    QKeySequenceEdit,
    QLineEdit,
    QListWidget,
    QListWidgetItem,
    QSpinBox,
    QVBoxLayout,
    QWidget,
)

from drip_pot.book.recipe_changes import Value, values_of, with_pause, with_value, without_step
from drip_pot.book.recipes import Recipe, read_recipe, told_step
from drip_pot.core.errors import DripPotError
from drip_pot.desk.dialogs.asking import ask_name, ask_whether
from drip_pot.desk.parts import icons, theme
from drip_pot.desk.parts.dialog import Dialog
from drip_pot.desk.parts.own_keys import conflict, plain_key
from drip_pot.desk.parts.widgets import button, label
from drip_pot.desk.session.recipes import Recipes, tool_for
from drip_pot.files import keep_recipe, read_file, slug
from drip_pot.words import tr

_ICON, _MOST, _FEW = 22, 10**9, 8
_UNITS = {"px": "px", "mm": "mm", "deg": "°"}


class RecipesDialog(Dialog):
    """Recipes by name, with their steps.

    Parameters
    ----------
    recipes : Recipes
        What keeps them.
    taken : mapping
        The keys of all actions, '<group>: <title>', to see that a key is free.
    """

    def __init__(self, parent: QWidget | None, recipes: Recipes, taken: Mapping[str, str]) -> None:
        super().__init__(parent)
        self.setWindowTitle(tr("Recipes"))
        self.resize(760, 520)
        self.recipes, self._taken = recipes, taken
        whole = QVBoxLayout(self)
        whole.addWidget(label("Recipes", "title"))
        note = label("Steps kept from the history, done again on any page. Those that need a place wait for the hand.",
                     "muted")  # fmt: skip
        note.setWordWrap(True)
        whole.addWidget(note)
        sides = QHBoxLayout()
        sides.addLayout(self._left(), 2)
        sides.addLayout(self._right(), 3)
        whole.addLayout(sides, 1)
        self.told = label("", "muted")
        self.told.setWordWrap(True)
        whole.addWidget(self.told)
        row = QHBoxLayout()
        row.addWidget(button("Take one in", self._take_in, "Keep a recipe that is a file"))
        self.buttons = [
            button("Write as a file", self._write, "Write it as JSON, for somebody else"),
            button("Rename", self._rename, "Give it another name"),
            button("Remove", self._remove, "Forget this recipe"),
        ]
        for one in self.buttons:
            row.addWidget(one)
        row.addStretch(1)
        row.addWidget(button("Close", self.accept))
        self.go = button("Do it on this page", self._do, strong=True)
        row.addWidget(self.go)
        whole.addLayout(row)
        recipes.changed.connect(self.refresh)
        self.refresh()
        self.list.setFocus()

    def _left(self) -> QVBoxLayout:
        column = QVBoxLayout()
        self.list = QListWidget()
        self.list.setAccessibleName(tr("Recipes"))
        self.list.currentRowChanged.connect(lambda _: self._show())
        self.list.itemActivated.connect(lambda _: self._do())
        column.addWidget(self.list, 1)
        row = QHBoxLayout()
        row.addWidget(label("Key", "muted"))
        self.key = QKeySequenceEdit()
        self.key.setMaximumSequenceLength(1)
        self.key.setAccessibleName(tr("Press the key that the recipe is to have"))
        row.addWidget(self.key, 1)
        self.give = button("Give it this key", self.give_key, "The recipe chosen gets the key that was pressed")
        row.addWidget(self.give)
        column.addLayout(row)
        shown = QCheckBox(tr("Show recipes as buttons above the page"))
        shown.setChecked(self.recipes.as_buttons())
        shown.toggled.connect(self.recipes.set_as_buttons)
        column.addWidget(shown)
        return column

    def _right(self) -> QVBoxLayout:
        column = QVBoxLayout()
        self.steps = QListWidget()
        self.steps.setAccessibleName(tr("Steps"))
        self.steps.setWordWrap(True)
        self.steps.setTextElideMode(Qt.TextElideMode.ElideNone)
        self.steps.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.steps.setIconSize(QSize(_ICON, _ICON))
        self.steps.currentRowChanged.connect(lambda _: self._show_values())
        column.addWidget(self.steps, 2)
        self.form, self.side = QWidget(), column
        column.addWidget(self.form, 1)
        row = QHBoxLayout()
        self.step_buttons = [
            button("Pause before it", self._pause, "Stop there, say something, and go on when asked to"),
            button("Take the step out", self._take_out, "Leave this step out of the recipe for good"),
        ]
        for one in self.step_buttons:
            row.addWidget(one)
        row.addStretch(1)
        column.addLayout(row)
        return column

    def name(self) -> str:
        """Return the name of the recipe chosen; empty where there is none."""
        names, row = self.recipes.folder.names(), self.list.currentRow()
        return names[row] if 0 <= row < len(names) else ""

    def choose(self, name: str) -> None:
        """Choose a recipe."""
        self.list.setCurrentRow(self.recipes.folder.names().index(name))

    def refresh(self) -> None:
        """Show the recipes that are kept."""
        row, step = max(0, self.list.currentRow()), self.steps.currentRow()
        self.list.clear()
        keys = self.recipes.keys()
        for name in self.recipes.folder.names():
            self.list.addItem(tr("{0}     {1}", name, keys[name]) if keys[name] else name)
        self.list.setCurrentRow(min(row, self.list.count() - 1))
        self.steps.setCurrentRow(min(max(0, step), self.steps.count() - 1))
        self.told.setText("\n".join(self.recipes.folder.troubles))
        if not self.list.count():
            self.told.setText(tr("No recipe is kept yet. Choose steps in the History and press Keep as a recipe."))
        for one in (*self.buttons, self.go, self.give, self.key):
            one.setEnabled(bool(self.name()))

    def _recipe(self) -> Recipe | None:
        return self.recipes.folder.recipe(self.name()) if self.name() else None

    def _show(self) -> None:
        """Show the steps of the recipe chosen."""
        self.steps.clear()
        recipe = self._recipe()
        self.key.setKeySequence(QKeySequence(self.recipes.keys().get(self.name(), "")))
        for place, step in enumerate(() if recipe is None else recipe.steps, 1):
            tool = tool_for(step)[1]
            told = told_step(step)
            if tool:
                text = tr("{0}. By hand with {1}: {2}", place, tr(tool), told)
            else:
                text = tr("{0}. Pause: {1}" if step.is_pause else "{0}. {1}", place, told)
            item = QListWidgetItem(text)
            if tool:
                item.setIcon(QIcon(icons.pixmap(tool, theme.bench().muted, _ICON, self.devicePixelRatioF())))
            self.steps.addItem(item)
        self.steps.setCurrentRow(0)
        self._show_values()

    def _show_values(self) -> None:
        """Show what can be changed in the step chosen."""
        before, self.form = self.form, QWidget()
        values = QFormLayout(self.form)
        values.setContentsMargins(0, 0, 0, 0)
        self.side.replaceWidget(before, self.form)
        before.hide()
        before.deleteLater()  # later, as one of its fields may be the one that tells of a change
        recipe, place = self._recipe(), self.steps.currentRow()
        there = recipe is not None and 0 <= place < len(recipe.steps)
        for one in self.step_buttons:
            one.setEnabled(there)
        if recipe is not None and there:
            for way, value in list(values_of(recipe.steps[place]).items())[:_FEW]:
                field = self._field(value, partial(self._put, recipe, place, way))
                field.setAccessibleName(_title(way))
                values.addRow(label(_title(way), "muted"), field)

    def _field(self, value: Value, put: Callable[[Value], None]) -> QWidget:
        """Return what a value is changed with; `put` is given what it becomes."""
        if isinstance(value, bool):
            box = QCheckBox()
            box.setChecked(value)
            box.toggled.connect(put)
            return box
        if isinstance(value, int | float) and abs(value) <= _MOST:
            number: QSpinBox | QDoubleSpinBox = QSpinBox() if isinstance(value, int) else QDoubleSpinBox()
            if isinstance(number, QDoubleSpinBox):
                number.setDecimals(3)
            number.setRange(-_MOST, _MOST)
            number.setValue(value)  # type: ignore[arg-type]
            shown = number.value()  # rounded, which changes nothing yet
            number.editingFinished.connect(lambda: put(number.value()) if number.value() != shown else None)
            return number
        line = QLineEdit(str(value))
        line.setReadOnly(not isinstance(value, str))
        line.editingFinished.connect(lambda: put(line.text()) if isinstance(value, str) else None)
        return line

    def _put(self, recipe: Recipe, place: int, way: str, value: Value) -> None:
        if self._recipe() is recipe and values_of(recipe.steps[place]).get(way) != value:
            self._change(lambda: with_value(recipe, place, way, value))

    def _change(self, changed: Callable[[], Recipe]) -> None:
        """Keep the recipe as it becomes; what stands in the way is told."""
        self._try(lambda: self.recipes.keep(changed()))

    def _try(self, done: Callable[[], object]) -> None:
        """Do something; what stands in the way is told here."""
        try:
            done()
        except DripPotError as error:
            self.told.setText(str(error))

    def _pause(self) -> None:
        recipe, place = self._recipe(), self.steps.currentRow()
        says = ask_name(self, tr("What is to be looked at"), tr("Look, then go on"))
        if recipe is not None and says:
            self._change(lambda: with_pause(recipe, place, says))

    def _take_out(self) -> None:
        recipe, place = self._recipe(), self.steps.currentRow()
        if recipe is not None:
            self._change(lambda: without_step(recipe, place))

    def give_key(self) -> None:
        """Give the recipe chosen the key that was pressed, unless something else has it."""
        key = plain_key(self.key.keySequence().toString())
        why = conflict(self._taken, f"Recipes: {self.name()}", key)
        if why:
            self.told.setText(why)
        else:
            self.recipes.set_key(self.name(), key)

    def _write(self) -> None:
        name = self.name()
        found, _ = QFileDialog.getSaveFileName(
            self, tr("Recipe"), str(self.recipes.easel.folder / f"{slug(name)}.json"), tr("Recipes (*.json)")
        )
        if found:
            self._try(lambda: keep_recipe(Path(found), self.recipes.folder.recipe(name)))

    def _take_in(self) -> None:
        found, _ = QFileDialog.getOpenFileName(
            self, tr("Recipe"), str(self.recipes.easel.folder), tr("Recipes (*.json)")
        )
        if found:
            path = Path(found)
            self._try(lambda: self.recipes.keep_new(read_recipe(read_file(path), path.name)))

    def _rename(self) -> None:
        name = ask_name(self, tr("Name of the recipe"), self.name())
        if name:
            self.recipes.rename(self.name(), name)

    def _remove(self) -> None:
        told = tr("{0} is forgotten, and its key is free. This cannot be undone.", self.name())
        if ask_whether(self, tr("Remove this recipe?"), told, tr("Remove")):
            self.recipes.remove(self.name())

    def _do(self) -> None:
        if self.name():
            name = self.name()
            self.accept()
            self.recipes.do(name)


def _title(way: str) -> str:
    """Return what a value is called, from its way: 'pass.width_px' is 'width, px'."""
    words = way.rpartition(".")[2].replace("color", "colour").split("_")
    unit = _UNITS.get(words[-1]) if len(words) > 1 else None
    return ", ".join([" ".join(words[:-1]), unit]) if unit else " ".join(words)
