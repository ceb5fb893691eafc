"""What was done, as a list. Knows the easel."""

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import (
    QApplication,
    QDialog,
    QListWidget,
    QVBoxLayout,
    QWidget,
)

from drip_pot.desk.parts import theme
from drip_pot.desk.parts.widgets import button, label
from drip_pot.desk.session.easel import Easel


class History(QDialog):
    """What was done, in words; click to go back or forward to a step, Alt+click to compare one with the page now.

    Signals
    -------
    compare(int)
        How many steps were done at the one to compare with.
    """

    compare = pyqtSignal(int)

    def __init__(self, parent: QWidget | None, easel: Easel) -> None:
        super().__init__(parent)
        self.setWindowTitle("History")
        self.resize(380, 480)
        self.easel = easel
        column = QVBoxLayout(self)
        column.addWidget(label("History", "title"))
        column.addWidget(
            label(
                "Click a step to go there, Alt+click to compare the page with it. Undone steps can be redone until you "
                "something new.",
                "muted",
            )
        )
        self.list = QListWidget()
        self.list.setAccessibleName("Steps")
        column.addWidget(self.list)
        column.itemAt(1).widget().setWordWrap(True)  # type: ignore[union-attr]
        column.addWidget(button("Compare with this step", self._compare, "Wipe between then and now; W ends it"))
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
        self._ends = [0]
        self.list.addItem("Beginning")
        for number, step in enumerate(book.history):
            if step.joined:
                self._ends[-1] = number + 1
            else:
                self._ends.append(number + 1)
                self.list.addItem(step.title)
        for row, end in enumerate(self._ends):
            item = self.list.item(row)
            if item is not None and end > book.position:
                item.setForeground(theme.color("muted"))
        here = max(row for row, end in enumerate(self._ends) if end <= book.position or row == 0)
        self.list.setCurrentRow(here)
        self.list.scrollToItem(self.list.item(here))

    def _compare(self) -> None:
        if self.list.currentRow() >= 0:
            self.compare.emit(self._ends[self.list.currentRow()])

    def _clicked(self, row: int) -> None:
        if QApplication.keyboardModifiers() & Qt.KeyboardModifier.AltModifier:
            self._compare()
        else:
            self._go(row)

    def _go(self, row: int) -> None:
        if self.easel.book is not None:
            end = self._ends[row]
            self.easel.do(lambda book, _: book.go_to(end))
