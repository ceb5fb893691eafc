# SPDX-License-Identifier: GPL-3.0-or-later
"""What to bring in from another book, to choose from; and pots of one name, to tell apart. Knows names and colours."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from PyQt6.QtWidgets import QCheckBox, QGridLayout, QHBoxLayout, QScrollArea, QVBoxLayout, QWidget

from drip_pot.book.bringing import ToBring
from drip_pot.desk.dialogs.asking import Asking
from drip_pot.desk.dialogs.color_taking import swatch_icon
from drip_pot.desk.parts.widgets import button, label
from drip_pot.words import tr

_HIGH, _ACROSS = 340, 2


@dataclass(frozen=True)
class OtherBook:
    """What another book has: its title, and by number the names of pages, of parts and of schemes."""

    title: str
    pages: Mapping[int, str]
    parts: Mapping[int, str]
    schemes: Mapping[int, str]


@dataclass(frozen=True)
class SameName:
    """A pot of another book by number, its name, and the local and shadow colours of the one here and of its own."""

    number: int
    name: str
    here: tuple[str, str]
    there: tuple[str, str]


class BringDialog(Asking):
    """Pages, parts and schemes of another book to tick."""

    def __init__(self, parent: QWidget | None, other: OtherBook) -> None:
        super().__init__(parent, tr("Bring in from {0}", other.title), "Bring in")
        self.boxes: dict[str, dict[int, QCheckBox]] = {}
        listed = QWidget()
        column = QVBoxLayout(listed)
        column.setContentsMargins(0, 0, 0, 0)
        groups = (
            ("pages", "Pages, with all that is on them", other.pages),
            ("parts", "Parts, with their pots", other.parts),
            ("schemes", "Schemes, for pots of the same names and what comes", other.schemes),
        )
        for name, title, things in groups:
            if things:
                self._list(column, name, title, things)
        column.addStretch(1)
        scroll = QScrollArea()
        scroll.setWidgetResizable(True)
        scroll.setWidget(listed)
        scroll.setMinimumSize(440, min(_HIGH, listed.sizeHint().height() + 4))
        self.body.addWidget(scroll)
        self._check()
        first = next((box for boxes in self.boxes.values() for box in boxes.values()), None)
        if first is not None:
            first.setFocus()

    def _list(self, column: QVBoxLayout, name: str, title: str, things: Mapping[int, str]) -> None:
        head = QHBoxLayout()
        head.addWidget(label(title, "muted"), 1)
        boxes = self.boxes.setdefault(name, {})
        if len(things) > 1:
            head.addWidget(button("All", lambda: self._tick(boxes)))
        column.addLayout(head)
        grid = QGridLayout()
        for place, (number, words) in enumerate(things.items()):
            box = QCheckBox(f"{place + 1}   {words}" if name == "pages" else words)
            box.clicked.connect(self._check)
            grid.addWidget(box, place // _ACROSS, place % _ACROSS)
            boxes[number] = box
        column.addLayout(grid)
        column.addSpacing(8)

    def _tick(self, boxes: Mapping[int, QCheckBox]) -> None:
        every = all(box.isChecked() for box in boxes.values())
        for box in boxes.values():
            box.setChecked(not every)
        self._check()

    def _check(self) -> None:
        self.yes.setEnabled(any(box.isChecked() for boxes in self.boxes.values() for box in boxes.values()))

    def wanted(self) -> ToBring:
        """Return what is ticked."""

        def ticked(name: str) -> tuple[int, ...]:
            return tuple(number for number, box in self.boxes.get(name, {}).items() if box.isChecked())

        return ToBring(ticked("pages"), ticked("parts"), ticked("schemes"))


class SameNames(Asking):
    """Pots that are here by name in other colours; a tick lets one come as a pot of its own."""

    def __init__(self, parent: QWidget | None, pots: Sequence[SameName]) -> None:
        super().__init__(parent, "Pots of the same name", "Bring in")
        told = label("They are poured as the pots that are here. Tick what comes as a pot of its own.", "muted")
        told.setWordWrap(True)
        self.body.addWidget(told)
        listed = QWidget()
        grid = QGridLayout(listed)
        grid.setContentsMargins(0, 0, 0, 0)
        for place, words in enumerate(("Here", "There")):
            grid.addWidget(label(words, "smallmuted"), 0, 2 * place, 1, 2)
        self.boxes: dict[int, QCheckBox] = {}
        for row, pot in enumerate(pots, 1):
            for place, color in enumerate((*pot.here, *pot.there)):
                shown = label("")
                shown.setPixmap(swatch_icon(color).pixmap(22, 22))
                shown.setToolTip(color)
                grid.addWidget(shown, row, place)
            box = QCheckBox(pot.name)
            grid.addWidget(box, row, 4)
            self.boxes[pot.number] = box
        grid.setColumnStretch(4, 1)
        scroll = QScrollArea()
        scroll.setWidgetResizable(True)
        scroll.setWidget(listed)
        scroll.setMinimumHeight(min(_HIGH, listed.sizeHint().height() + 4))
        self.body.addWidget(scroll)

    def own(self) -> frozenset[int]:
        """Return the pots that come as pots of their own."""
        return frozenset(number for number, box in self.boxes.items() if box.isChecked())
