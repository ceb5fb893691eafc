"""The few dialogs: a colour, a pot, export, history, keys, a name. Knows widgets and the easel."""

from collections.abc import Sequence
from pathlib import Path

import msgspec
from PyQt6.QtCore import QPointF, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QIcon, QPainter, QPaintEvent, QPixmap, QShowEvent
from PyQt6.QtWidgets import (
    QApplication,
    QCheckBox,
    QComboBox,
    QDialog,
    QFileDialog,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QListWidget,
    QListWidgetItem,
    QVBoxLayout,
    QWidget,
)

from drip_pot.book import Book, Pot, pots, verbs
from drip_pot.core.errors import BadInput
from drip_pot.core.press import PressSettings
from drip_pot.desk import theme
from drip_pot.desk.color_editor import ColorEditor
from drip_pot.desk.easel import Easel
from drip_pot.desk.shelf import paint_pot
from drip_pot.desk.widgets import button, label, rule
from drip_pot.files import KINDS


class _Disc(QWidget):
    def __init__(self, local: str, shadow: str) -> None:
        super().__init__()
        self.pair = (local, shadow)
        self.setFixedSize(76, 76)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        paint_pot(painter, QPointF(38, 38), 34, *self.pair)


class Asking(QDialog):
    """A dialog with a heading, a body and two buttons at the bottom right."""

    def __init__(self, parent: QWidget | None, title: str, do: str) -> None:
        super().__init__(parent)
        self.setWindowTitle(title)
        self.setMinimumWidth(360)
        column = QVBoxLayout(self)
        column.setContentsMargins(20, 18, 20, 16)
        column.setSpacing(10)
        column.addWidget(label(title, "title"))
        self.body = QVBoxLayout()
        column.addLayout(self.body)
        column.addWidget(rule())
        self.row = QHBoxLayout()
        self.row.addStretch(1)
        self.row.addWidget(button("Cancel", self.reject))
        self.yes = button(do, self.accept, strong=True)
        self.yes.setDefault(True)
        self.row.addWidget(self.yes)
        column.addLayout(self.row)

    def showEvent(self, event: QShowEvent | None) -> None:
        """Begin in the first text field, if there is one, so that what is typed arrives."""
        super().showEvent(event)
        field = self.findChild(QLineEdit)
        if field is not None and not field.isReadOnly():
            field.setFocus(Qt.FocusReason.PopupFocusReason)


def ask_replace(parent: QWidget, existing: Sequence[Path]) -> bool:
    """Ask whether files that exist may be replaced; True where there are none."""
    if not existing:
        return True
    many = len(existing) > 1
    asking = Asking(parent, f"Replace {len(existing)} files?" if many else "Replace the file?", "Replace")
    names = [path.name for path in existing[:6]] + [f"and {len(existing) - 6} more"] * (len(existing) > 6)
    asking.body.addWidget(label(f"In {existing[0].parent} there {'are' if many else 'is'} already:", "muted"))
    asking.body.addWidget(label("\n".join(names)))
    return bool(asking.exec())


def swatch_icon(color: str) -> QIcon:
    """Return a small filled square."""
    picture = QPixmap(18, 18)
    picture.fill(QColor(color))
    painter = QPainter(picture)
    painter.setPen(QColor(0, 0, 0, 120))
    painter.drawRect(0, 0, 17, 17)
    painter.end()
    return QIcon(picture)


class FindPot(Asking):
    """Find a pot by typing part of its name or of its part's."""

    def __init__(self, parent: QWidget | None, book: Book) -> None:
        super().__init__(parent, "Find a pot", "Take it")
        self._book = book
        self.text = QLineEdit()
        self.text.setPlaceholderText("Name of a pot or a part")
        self.text.setAccessibleName("Name of a pot or a part")
        self.list = QListWidget()
        self.list.setAccessibleName("Pots found")
        self.list.setMinimumHeight(260)
        self.body.addWidget(self.text)
        self.body.addWidget(self.list)
        self.text.textChanged.connect(lambda _: self.refresh())
        self.list.itemDoubleClicked.connect(lambda _: self.accept())
        self.refresh()

    def refresh(self) -> None:
        """List the pots that have every word that is typed."""
        self.list.clear()
        words = self.text.text().lower().split()
        parts = self._book.parts()
        for number, pot in self._book.pots().items():
            named = f"{pot.name}, {parts[pot.part].name if pot.part in parts else ''}"
            if all(word in named.lower() for word in words):
                item = QListWidgetItem(swatch_icon(pot.local), named)
                item.setData(Qt.ItemDataRole.UserRole, number)
                self.list.addItem(item)
        self.list.setCurrentRow(0)
        self.yes.setEnabled(self.list.count() > 0)

    def chosen(self) -> int | None:
        """Return the pot that was found."""
        item = self.list.currentItem()
        return None if item is None else int(item.data(Qt.ItemDataRole.UserRole))


class RemovePart(Asking):
    """Where the pots of a part go when it is removed."""

    def __init__(self, parent: QWidget | None, book: Book, number: int) -> None:
        super().__init__(parent, f"Remove part {book.parts()[number].name}", "Remove")
        count = sum(pot.part == number for pot in book.pots().values())
        self.body.addWidget(label("It has no pots." if not count else f"Its {count} pots go to:", "muted"))
        self.choice = QComboBox()
        self.choice.setAccessibleName("Part its pots go to")
        for other, part in book.parts().items():
            if other != number:
                self.choice.addItem(part.name, other)
        self.choice.setVisible(count > 0)
        self.body.addWidget(self.choice)

    def into(self) -> int | None:
        """Return the part they go to."""
        found: int | None = self.choice.currentData()
        return found


def pick_color(parent: QWidget, title: str, color: str, press: PressSettings) -> str | None:
    """Ask for a colour; None if it was called off."""
    asking = Asking(parent, title, "Use this colour")
    disc, editor = _Disc(color, color), ColorEditor(color, press)
    line = QHBoxLayout()
    line.addWidget(disc, 0, Qt.AlignmentFlag.AlignTop)
    line.addWidget(editor, 1)
    asking.body.addLayout(line)

    def show(changed: str) -> None:
        disc.pair = (changed, color)
        disc.update()

    editor.changed.connect(show)
    return editor.color if asking.exec() else None


def ask_name(parent: QWidget, title: str, name: str) -> str | None:
    """Ask for a name; None if it was called off or left empty."""
    asking = Asking(parent, title, "Keep")
    line = QLineEdit(name)
    line.setAccessibleName(title)
    line.selectAll()
    asking.body.addWidget(line)
    return line.text().strip() or None if asking.exec() else None


class PotEditor(Asking):
    """A pot's name, part and colour, shown on the page's shelf as soon as it is kept."""

    def __init__(
        self, parent: QWidget | None, book: Book, number: int | None, part: int, press: PressSettings,
        neighbors: Sequence[tuple[str, float]] = (),
    ) -> None:  # fmt: skip
        pot = book.pots()[number] if number is not None else Pot("", part, "#8fa3a8")
        super().__init__(parent, f"Pot {pot.name}" if number is not None else "New pot", "Keep")
        self._book, self._number, self._pot = book, number, pot
        self.name = QLineEdit(pot.name)
        self.name.setPlaceholderText("Name of the pot")
        self.name.setAccessibleName("Name of the pot")
        self.part = QComboBox()
        self.part.setEditable(True)
        self.part.setAccessibleName("Part")
        self._parts = list(book.parts())
        for key, value in book.parts().items():
            self.part.addItem(value.name, key)
        self.part.setCurrentIndex(max(0, self._parts.index(pot.part) if pot.part in self._parts else 0))
        self.editor = ColorEditor(pot.local, press, neighbors)
        self._disc = _Disc(*book.tone_pair(pot))
        self._said = label("", "muted")
        self._said.setWordWrap(True)
        grid = QGridLayout()
        grid.addWidget(label("Name", "muted"), 0, 0)
        grid.addWidget(self.name, 0, 1)
        grid.addWidget(label("Part", "muted"), 1, 0)
        grid.addWidget(self.part, 1, 1)
        self.body.addLayout(grid)
        line = QHBoxLayout()
        left = QVBoxLayout()
        left.addWidget(self._disc)
        left.addStretch(1)
        line.addLayout(left)
        line.addWidget(self.editor, 1)
        self.body.addLayout(line)
        self.body.addWidget(self._said)
        if number is not None:
            self.row.insertWidget(0, button("Remove", self._remove, "Remove the pot, or merge it into another"))
        self.editor.changed.connect(self._show)

    def _show(self, color: str) -> None:
        pot = msgspec.structs.replace(self._pot, local=color)
        self._disc.pair = self._book.tone_pair(pot)
        self._disc.update()

    def _remove(self) -> None:
        assert self._number is not None
        asking = RemovePot(self, self._book, self._number)
        if asking.exec():
            pots.remove_pot(self._book, self._number, asking.into())
            super().accept()

    def accept(self) -> None:
        try:
            part = self._part()
            if self._number is None:
                self._number = verbs.add_pot(self._book, self.name.text(), part, self.editor.color)
            else:
                kept = msgspec.structs.replace(
                    self._pot, name=self.name.text().strip(), part=part, local=self.editor.color
                )
                verbs.set_pot(self._book, self._number, kept)
        except BadInput as error:
            self._said.setText(str(error))
            return
        super().accept()

    @property
    def number(self) -> int | None:
        """The pot that was made or changed."""
        return self._number

    def _part(self) -> int:
        text = self.part.currentText().strip()
        for number, part in self._book.parts().items():
            if part.name == text:
                return number
        return verbs.add_part(self._book, text)


class RemovePot(Asking):
    """What becomes of a pot's regions when it is removed."""

    def __init__(self, parent: QWidget | None, book: Book, number: int) -> None:
        known = book.pots()
        super().__init__(parent, f"Remove {known[number].name}", "Remove")
        held = [key.split("/")[0] for key, v in book.below("page/") if "/pour/" in key and v == str(number)]
        where = f"{len(held)} areas on {len(set(held))} pages" if held else "Nothing on any page"
        words = label(f"{where} carry this pot. They become:", "muted")
        words.setWordWrap(True)
        self.body.addWidget(words)
        self.choice = QComboBox()
        self.choice.setAccessibleName("What its regions become")
        self.choice.addItem("Paper", None)
        for other, pot in known.items():
            if other != number:
                self.choice.addItem(f"{pot.name}, {book.parts()[pot.part].name}", other)
        self.body.addWidget(self.choice)

    def into(self) -> int | None:
        """Return the pot they go to; None is paper."""
        found: int | None = self.choice.currentData()
        return found


class ExportDialog(Asking):
    """What to write, and where."""

    def __init__(self, parent: QWidget | None, folder: Path, pages: int) -> None:
        super().__init__(parent, "Export", "Write files")
        self.boxes: dict[str, QCheckBox] = {}
        for kind, name in KINDS.items():
            box = QCheckBox(name)
            box.setChecked(True)
            self.body.addWidget(box)
            box.clicked.connect(self._check)
            self.boxes[kind] = box
        self.all_pages = QCheckBox(f"All {pages} pages of the book")
        self.all_pages.setVisible(pages > 1)
        self.body.addWidget(rule())
        self.body.addWidget(self.all_pages)
        self.folder = QLineEdit(str(folder))
        self.folder.setAccessibleName("Folder")
        line = QHBoxLayout()
        line.addWidget(label("Into", "muted"))
        line.addWidget(self.folder, 1)
        line.addWidget(button("Choose", self._choose, "Choose a folder"))
        self.body.addLayout(line)
        note = label("Files of the same names are replaced. Plates carry traps and the page's dpi.", "muted")
        note.setWordWrap(True)
        self.body.addWidget(note)

    def kinds(self) -> tuple[str, ...]:
        """Return the kinds wanted."""
        return tuple(kind for kind, box in self.boxes.items() if box.isChecked())

    def _check(self) -> None:
        self.yes.setEnabled(bool(self.kinds()))

    def _choose(self) -> None:
        found = QFileDialog.getExistingDirectory(self, "Folder for the files", self.folder.text())
        if found:
            self.folder.setText(found)


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


class Keys(QDialog):
    """The one sheet of keys."""

    def __init__(self, parent: QWidget | None, groups: dict[str, list[tuple[str, str]]]) -> None:
        super().__init__(parent)
        self.setWindowTitle("Keys")
        grid = QGridLayout(self)
        grid.setContentsMargins(24, 20, 24, 20)
        grid.setHorizontalSpacing(36)
        grid.setVerticalSpacing(22)
        heights = [0, 0, 0]
        columns = [QVBoxLayout() for _ in heights]
        for place, column in enumerate(columns):
            column.setSpacing(22)
            grid.addLayout(column, 0, place)
        for title, rows in sorted(groups.items(), key=lambda group: -len(group[1])):
            place = heights.index(min(heights))
            heights[place] += len(rows) + 2
            box = QGridLayout()
            box.setHorizontalSpacing(14)
            box.setVerticalSpacing(5)
            box.addWidget(label(title, "title"), 0, 0, 1, 2)
            for line, (key, text) in enumerate(rows, 1):
                shown: QLabel = label(key, "figure")
                box.addWidget(shown, line, 0)
                box.addWidget(label(text), line, 1)
            box.setRowStretch(len(rows) + 1, 1)
            box.setColumnMinimumWidth(0, 84)
            box.setColumnStretch(1, 1)
            columns[place].addLayout(box)
        for column in columns:
            column.addStretch(1)
