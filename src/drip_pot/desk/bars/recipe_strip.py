# SPDX-License-Identifier: GPL-3.0-or-later
"""Recipes as buttons over the canvas, and what one waits for. Knows what keeps and does them."""

from functools import partial

from PyQt6.QtCore import QEvent, QObject
from PyQt6.QtWidgets import QHBoxLayout, QMenu, QPushButton, QWidget

from drip_pot.desk.bars.plate import Plate
from drip_pot.desk.parts.widgets import button, label
from drip_pot.desk.session.recipes import Recipes
from drip_pot.words import tr

_EDGE, _BELOW, _WORDS = 12, 6, 420


class RecipeStrip(Plate):
    """Recipes by name at the top left of the canvas; while one waits, what it waits for and how to go on.

    Parameters
    ----------
    below : QWidget
        It hangs below this.
    """

    def __init__(self, parent: QWidget, recipes: Recipes, below: QWidget) -> None:
        super().__init__(parent)
        self.recipes, self._below = recipes, below
        self.row = QHBoxLayout(self)
        self.row.setContentsMargins(10, 4, 6, 4)
        self.row.setSpacing(4)
        self._shown: tuple[object, ...] = ()
        recipes.changed.connect(self.refresh)
        recipes.cooking.changed.connect(self.refresh)
        recipes.easel.refreshed.connect(self.refresh)
        for beside in (parent, below):
            beside.installEventFilter(self)
        self.hide()

    def eventFilter(self, of: QObject | None, event: QEvent | None) -> bool:
        """Hang where there is room when what is about it changes."""
        if event is not None and event.type() == QEvent.Type.Resize:
            self.refresh()
        return super().eventFilter(of, event)

    def refresh(self) -> None:
        """Show what there is, where a page is open."""
        there = self.recipes.easel.book is not None and bool(self.recipes.easel.page)
        waits = self.recipes.cooking.asks()
        keys = self.recipes.keys()
        wide = self._room()
        if self._shown != (waits, keys, wide):
            self._shown = waits, keys, wide
            self._empty()
            if waits:
                self._ask(waits)
            else:
                self._offer(keys, wide)
            for place in range(self.row.count()):
                self.row.itemAt(place).widget().show()  # type: ignore[union-attr]
        self.setVisible(there and bool(waits or (keys and self.recipes.as_buttons())))
        self.place()

    def _room(self) -> int:
        parent = self.parentWidget()
        return 0 if parent is None else parent.width() - 2 * _EDGE

    def _empty(self) -> None:
        while (item := self.row.takeAt(0)) is not None:
            if (old := item.widget()) is not None:
                old.hide()
                old.deleteLater()

    def _ask(self, waits: str) -> None:
        """Show what is waited for."""
        cooking = self.recipes.cooking
        words = label(waits)
        if words.sizeHint().width() > _WORDS:
            words.setWordWrap(True)
            words.setMinimumWidth(_WORDS)
        self.row.addWidget(words, 1)
        if cooking.at_pause():
            self.row.addWidget(button("Go on", cooking.leave_out, "Go on with the recipe"))
        else:
            self.row.addWidget(button("Leave it out", cooking.leave_out, "Go on without this step"))
        self.row.addWidget(button("End", cooking.end, "Give up the rest; what was done stays"))

    def _offer(self, keys: dict[str, str], wide: int) -> None:
        """Show recipes as buttons, as many as there is room for, the rest in a menu."""
        self.row.addWidget(label("Recipes", "muted"))
        rest, used = list[str](), 150
        for name, key in keys.items():
            one = button(name, partial(self.recipes.do, name), self._tip(name, key))
            one.setText(tr("{0}  {1}", name, key) if key else name)
            one.setProperty("chip", True)
            used += one.sizeHint().width() + 4
            if rest or used > wide:
                rest.append(name)
            else:
                self.row.addWidget(one)
        if rest:
            self.row.addWidget(self._more(rest))

    def _more(self, names: list[str]) -> QPushButton:
        more = button("More", lambda: None, "The other recipes")
        more.setProperty("chip", True)
        menu = QMenu(more)
        for name in names:
            menu.addAction(name, partial(self.recipes.do, name))
        more.setMenu(menu)
        return more

    def _tip(self, name: str, key: str) -> str:
        told = tr("Do {0} on this page", name)
        return tr("{0} ({1})", told, key) if key else told

    def place(self) -> None:
        """Hang where there is room."""
        self.row.activate()
        width = min(self.sizeHint().width(), self._room())
        self.setFixedWidth(width)
        self.setFixedHeight(max(34, self.heightForWidth(width)))
        self.move(_EDGE, self._below.geometry().bottom() + _BELOW)
        self.raise_()
