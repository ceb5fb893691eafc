# SPDX-License-Identifier: GPL-3.0-or-later
"""Pots asked about: found, made, changed, removed. Knows the book."""

from collections.abc import Sequence

import msgspec
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QGridLayout,
    QHBoxLayout,
    QLineEdit,
    QListWidget,
    QListWidgetItem,
    QVBoxLayout,
    QWidget,
)

from drip_pot.book import Book, Pot, verbs
from drip_pot.book.values import POURS
from drip_pot.core.errors import BadInput
from drip_pot.core.press import PressSettings
from drip_pot.desk.dialogs.asking import Asking
from drip_pot.desk.dialogs.color import Disc, pick_color
from drip_pot.desk.dialogs.color_editor import ColorEditor
from drip_pot.desk.dialogs.color_taking import offered_by, swatch_icon
from drip_pot.desk.parts.widgets import Swatch, button, label
from drip_pot.words import tr

_WIDE = 620


class FindPot(Asking):
    """Find a pot by typing part of its name or of its part's."""

    def __init__(self, parent: QWidget | None, book: Book) -> None:
        super().__init__(parent, "Find a pot", "Choose")
        self._book = book
        self.text = QLineEdit()
        self.text.setPlaceholderText(tr("Name of a pot or a part"))
        self.text.setAccessibleName(tr("Name of a pot or a part"))
        self.list = QListWidget()
        self.list.setAccessibleName(tr("Pots found"))
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


class PotEditor(Asking):
    """A pot's name, part and colour, shown on the page's shelf as soon as it is kept."""

    def __init__(
        self, parent: QWidget | None, book: Book, number: int | None, part: int, press: PressSettings,
        neighbors: Sequence[tuple[str, float]] = (),
    ) -> None:  # fmt: skip
        pot = book.pots()[number] if number is not None else Pot("", part, "#8fa3a8")
        super().__init__(parent, tr("Pot {0}", pot.name) if number is not None else "New pot", "Apply")
        self._book, self._number, self._pot = book, number, pot
        self.name = QLineEdit(pot.name)
        self.name.setPlaceholderText(tr("Name of the pot"))
        self.name.setAccessibleName(tr("Name of the pot"))
        self.part = QComboBox()
        self.part.setEditable(True)
        self.part.setAccessibleName(tr("Part"))
        self._parts = list(book.parts())
        for key, value in book.parts().items():
            self.part.addItem(value.name, key)
        self.part.setCurrentIndex(max(0, self._parts.index(pot.part) if pot.part in self._parts else 0))
        self.editor = ColorEditor(pot.local, press, neighbors, offered_by(book), None if pot.spot else pot.inks)
        self._disc = Disc(*book.tone_pair(pot))
        self._said = label("", "muted")
        self._said.setWordWrap(True)
        grid = QGridLayout()
        grid.addWidget(label("Name", "muted"), 0, 0)
        grid.addWidget(self.name, 0, 1)
        grid.addWidget(label("Part", "muted"), 1, 0)
        grid.addWidget(self.part, 1, 1)
        scheme = book.schemes()[book.scheme].name if book.schemes() else ""
        self.in_scheme = QCheckBox(tr("A new name is its name in the scheme {0} only", scheme))
        self.in_scheme.setVisible(number is not None and bool(scheme))
        grid.addWidget(self.in_scheme, 2, 1)
        self.body.addLayout(grid)
        line = QHBoxLayout()
        left = QVBoxLayout()
        left.addWidget(self._disc)
        self.own_shadow = QCheckBox(tr("Shadow of its own"))
        self.own_shadow.setChecked(pot.shadow is not None)
        self.own_shadow.setToolTip(tr("Else it follows the local colour by the rule of the part or the book"))
        self.own_shadow.clicked.connect(self._turn_shadow)
        self.shadow = Swatch("Shadow colour", lambda: self._pick_shadow(press), 26)
        left.addWidget(self.own_shadow)
        left.addWidget(self.shadow)
        left.addStretch(1)
        line.addLayout(left)
        line.addWidget(self.editor, 1)
        self.body.addLayout(line)
        self.inks = PotInks(pot, self.editor)
        self.body.addWidget(self.inks)
        self.body.addWidget(self._said)
        if number is not None:
            self.row.insertWidget(0, button("Remove", self._remove, "Remove the pot, or merge it into another"))
        self.editor.changed.connect(self._show)
        self.name.textChanged.connect(self._tell)
        self.part.editTextChanged.connect(self._tell)
        self._tell()
        self._show(pot.local)
        self.setMinimumWidth(_WIDE)
        self.stand_aside()

    def _turn_shadow(self, on: bool) -> None:
        """Begin a shadow of its own with the one it has; or let it follow the rule again."""
        dark = self._book.tone_pair(msgspec.structs.replace(self._pot, local=self.editor.color))[1]
        self._pot = msgspec.structs.replace(self._pot, shadow=dark if on else None)
        self._show(self.editor.color)

    def _pick_shadow(self, press: PressSettings) -> None:
        dark = pick_color(self, tr("Shadow colour"), self._book.tone_pair(self._pot)[1], self._book, press)
        if dark is not None:
            self.own_shadow.setChecked(True)
            self._pot = msgspec.structs.replace(self._pot, shadow=dark)
            self._show(self.editor.color)

    def _tell(self) -> None:
        """Say that the name is another pot's, which is refused, or that the part will be a new one."""
        name, part = " ".join(self.name.text().split()), self.part.currentText().strip()
        parts, pots = self._book.parts(), self._book.pots()
        same = next((pot for number, pot in pots.items() if pot.name == name and number != self._number), None)
        there = parts[same.part].name if same is not None and same.part in parts else ""
        fresh = part and part not in {one.name for one in parts.values()}
        self._said.setText(
            tr("There is a pot named {0} already, in {1}. Give this one another name.", name, there) if same is not None
            else tr("{0} will be a new part.", part) if fresh else ""
        )  # fmt: skip
        self.yes.setEnabled(same is None)

    def _show(self, color: str) -> None:
        pot = msgspec.structs.replace(self._pot, local=color)
        self._disc.pair = self._book.tone_pair(pot)
        self._disc.update()
        self.shadow.show_color(self._disc.pair[1])

    def _remove(self) -> None:
        assert self._number is not None
        asking = RemovePot(self, self._book, self._number)
        if asking.exec():
            verbs.remove_pot(self._book, self._number, asking.into())
            super().accept()

    def accept(self) -> None:
        try:
            with self._book.as_one():
                number = self._kept()
        except BadInput as error:
            self._said.setText(str(error))
            return
        self._number = number
        super().accept()

    def _kept(self) -> int:
        """Make the pot, or change it, with all that was chosen; return its number. Raises `BadInput`."""
        book, part, number = self._book, self._part(), self._number
        if number is None:
            number = verbs.add_pot(book, self.name.text(), part, self.editor.color)
        kept = msgspec.structs.replace(
            book.pots()[number], name=" ".join(self.name.text().split()), part=part, local=self.editor.color,
            shadow=self._pot.shadow,
        )  # fmt: skip
        verbs.set_pot(book, number, kept, in_scheme=self.in_scheme.isChecked())
        fixed, spot = self.inks.chosen()
        if (kept.inks, kept.spot) != (fixed, spot):
            verbs.set_pot_inks(book, number, fixed, kept.shadow_inks if fixed or spot else None, spot)
        return number

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


class PotInks(QWidget):
    """What a pot is printed with: inks worked out, those of the colour well kept as they are, or an ink of its own."""

    def __init__(self, pot: Pot, well: ColorEditor) -> None:
        super().__init__()
        self._well = well
        grid = QGridLayout(self)
        grid.setContentsMargins(0, 0, 0, 0)
        self.how = QComboBox()
        self.how.setAccessibleName(tr("What it is printed with"))
        self.how.addItems([tr("Inks worked out for the press"), tr("These inks, whatever the colour"),
                           tr("An ink of its own")])  # fmt: skip
        self.how.setCurrentIndex(2 if pot.spot else 1 if pot.inks else 0)
        self.spot = QLineEdit(pot.spot)
        self.spot.setPlaceholderText(tr("Name of the ink"))
        self.spot.setAccessibleName(tr("Name of the ink"))
        grid.addWidget(label("Printed with", "muted"), 0, 0)
        grid.addWidget(self.how, 0, 1)
        grid.addWidget(self.spot, 1, 1)
        self.spot.setVisible(self.how.currentIndex() == 2)
        self.how.currentIndexChanged.connect(self._turn)
        well.inked.connect(self._keep)

    def _turn(self, how: int) -> None:
        self.spot.setVisible(how == 2)
        self._well.fix(self._well.inks() if how == 1 else None)

    def _keep(self) -> None:
        """Keep inks that were typed."""
        if self.how.currentIndex() == 0:
            self.how.setCurrentIndex(1)

    def chosen(self) -> tuple[tuple[int, int, int, int] | None, str]:
        """Return the fixed inks, or None, and the name of an ink of its own, or nothing."""
        how = self.how.currentIndex()
        return (self._well.inks() if how == 1 else None), (self.spot.text().strip() if how == 2 else "")


class RemovePot(Asking):
    """What becomes of a pot's regions when it is removed."""

    def __init__(self, parent: QWidget | None, book: Book, number: int) -> None:
        known = book.pots()
        super().__init__(parent, tr("Remove {0}", known[number].name), "Remove")
        held = [page for page in book.pages() for pot in book.sources(page)[POURS].values() if pot == number]
        where = tr("{0} areas on {1} pages", len(held), len(set(held))) if held else "Nothing on any page"
        words = label(tr("{0} carry this pot. They become:", where), "muted")
        words.setWordWrap(True)
        self.body.addWidget(words)
        self.choice = QComboBox()
        self.choice.setAccessibleName(tr("What its regions become"))
        self.choice.addItem(tr("Paper"), None)
        for other, pot in known.items():
            if other != number:
                self.choice.addItem(f"{pot.name}, {book.parts()[pot.part].name}", other)
        self.body.addWidget(self.choice)

    def into(self) -> int | None:
        """Return the pot they go to; None is paper."""
        found: int | None = self.choice.currentData()
        return found


class RemovePart(Asking):
    """Where the pots of a part go when it is removed."""

    def __init__(self, parent: QWidget | None, book: Book, number: int) -> None:
        super().__init__(parent, tr("Remove part {0}", book.parts()[number].name), "Remove")
        count = sum(pot.part == number for pot in book.pots().values())
        self.body.addWidget(label("It has no pots." if not count else tr("Its {0} pots go to:", count), "muted"))
        self.choice = QComboBox()
        self.choice.setAccessibleName(tr("Part its pots go to"))
        for other, part in book.parts().items():
            if other != number:
                self.choice.addItem(part.name, other)
        self.choice.setVisible(count > 0)
        self.body.addWidget(self.choice)

    def into(self) -> int | None:
        """Return the part they go to."""
        found: int | None = self.choice.currentData()
        return found
