# SPDX-License-Identifier: GPL-3.0-or-later
"""What was done, as a list. Knows the easel."""

from PyQt6.QtCore import QSize, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QIcon, QPixmap
from PyQt6.QtWidgets import (
    QApplication,
    QHBoxLayout,
    QListWidget,
    QVBoxLayout,
    QWidget,
)

from drip_pot.book.recipes import recipe_of
from drip_pot.desk.dialogs.asking import ask_name
from drip_pot.desk.parts import theme
from drip_pot.desk.parts.dialog import Dialog
from drip_pot.desk.parts.text import counted
from drip_pot.desk.parts.widgets import button, label
from drip_pot.desk.session.easel import Easel
from drip_pot.desk.session.past import place_of
from drip_pot.desk.view.small_cut import cut_of_page
from drip_pot.words import tr

_SMALL, _MOST_PICTURES = 34, 400


class HistoryDialog(Dialog):
    """What was done, in words, on which page and where; a click goes back or forward to a step.

    Signals
    -------
    compare(int)
        How many steps were done at the one to compare with.
    kept(Recipe)
        Steps to be kept as a recipe.
    """

    compare, kept = pyqtSignal(int), pyqtSignal(object)

    def __init__(self, parent: QWidget | None, easel: Easel) -> None:
        super().__init__(parent)
        self.setWindowTitle(tr("History"))
        self.resize(380, 480)
        self.easel = easel
        column = QVBoxLayout(self)
        column.addWidget(label("History", "title"))
        column.addWidget(
            label(
                "Click a step to go there. Steps that were undone before something else was done stay as a branch.",
                "muted",
            )
        )
        self.list = QListWidget()
        self.list.setAccessibleName(tr("Steps"))
        self.list.setSelectionMode(QListWidget.SelectionMode.ExtendedSelection)
        self.list.setIconSize(QSize(_SMALL, _SMALL))
        self._cutting = QTimer(self)
        self._cutting.timeout.connect(self._cut_next)
        self._uncut: list[tuple[int, int]] = []
        self._known: tuple[int, dict[int, int]] = (0, {})  # how many steps, and the page of each
        column.addWidget(self.list)
        column.itemAt(1).widget().setWordWrap(True)  # type: ignore[union-attr]
        row = QHBoxLayout()
        row.addWidget(button("Compare with this step", self._compare, "Wipe between then and now; W ends it"))
        row.addWidget(button("Keep as a recipe", self._keep, "Keep the steps chosen, to do them again elsewhere"))
        self.prune = button("Remove branches", self._prune, "Forget what is on no way from the beginning to here")
        row.addWidget(self.prune)
        column.addLayout(row)
        self.list.itemClicked.connect(lambda item: self._clicked(self.list.row(item)))
        self.list.itemActivated.connect(lambda item: self._go(self.list.row(item)))
        easel.edited.connect(self.refresh)
        self.refresh()

    def refresh(self) -> None:
        """Show the steps."""
        book = self.easel.book
        self.list.clear()
        if book is None:
            return
        self._ends, self._uncut = [0], []
        self.list.addItem(tr("Beginning"))
        if len(book.history) < self._known[0]:  # branches were forgotten, the rest numbered anew
            self._known = 0, {}
        where = self._known[1] | book.pages_of_steps(self._known[0])
        pages, self._known = book.pages(), (len(book.history), where)
        line, now = book.past.on_line(), book.past.now
        done = set(book.past.line(now))
        for number, step in enumerate(book.history):
            if step.joined:
                self._ends[-1] = number + 1
            elif not step.back:
                self._ends.append(number + 1)
                page = where.get(number, 0)
                name = pages[page].name if page in pages and len(pages) > 1 else ""
                title = tr("{0} · {1}", step.title, name) if name else step.title
                self.list.addItem(title if number in line else tr("      branch: {0}", title))
                if page == self.easel.page:
                    self._uncut.append((len(self._ends) - 1, number))
        self._uncut = self._uncut[-_MOST_PICTURES:]
        self._cutting.start(0)
        for row, end in enumerate(self._ends):
            item = self.list.item(row)
            if item is not None and end not in done:
                item.setForeground(theme.color("muted"))
        self.prune.setEnabled(any(step.back for step in book.history))
        at = max(row for row, end in enumerate(self._ends) if end <= now or row == 0)
        self.list.setCurrentRow(at)
        self.list.scrollToItem(self.list.item(at))

    def _cut_next(self) -> None:
        """Cut one small picture of where a step was done, the latest first, so that a long list holds nothing up."""
        book, view = self.easel.book, self.easel.view
        if not self._uncut or book is None or view is None:
            self._cutting.stop()
            return
        row, number = self._uncut.pop()
        rect, item = place_of(book.edit_at(number), view), self.list.item(row)
        picture = None if rect is None else cut_of_page(rect, view)
        if item is not None and picture is not None:
            item.setIcon(QIcon(QPixmap.fromImage(picture.scaled(_SMALL, _SMALL))))

    def _prune(self) -> None:
        """Forget the branches."""
        told: list[int] = []
        if self.easel.do(lambda book, _: told.append(book.forget_branches())):
            self.easel.edited.emit()
            self.easel.said.emit(tr("{0} in branches forgotten.", counted(told[0], "step")), False)

    def _keep(self) -> None:
        """Ask for a name, and let the steps chosen be kept as a recipe."""
        book, rows = self.easel.book, sorted(self.list.row(item) for item in self.list.selectedItems())
        numbers = [n for row in rows if row for n in range(self._ends[row - 1], self._ends[row])]
        name = ask_name(self, tr("Name of the recipe"), "") if book is not None and numbers else ""
        if book is not None and name:
            self.easel.trying(lambda: self.kept.emit(recipe_of(book, name, numbers)))

    def _compare(self) -> None:
        if self.list.currentRow() >= 0:
            self.compare.emit(self._ends[self.list.currentRow()])

    def _clicked(self, row: int) -> None:
        choosing = Qt.KeyboardModifier.ShiftModifier | Qt.KeyboardModifier.ControlModifier
        if not QApplication.keyboardModifiers() & choosing:
            self._go(row)

    def _go(self, row: int) -> None:
        if self.easel.book is not None:
            end = self._ends[row]
            self.easel.do(lambda book, _: book.go_to(end))
