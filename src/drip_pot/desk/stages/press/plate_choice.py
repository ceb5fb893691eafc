# SPDX-License-Identifier: GPL-3.0-or-later
"""A plate chosen among the four and the inks beside them on the page. Knows the easel and widgets."""

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QVBoxLayout, QWidget

from drip_pot.desk.parts.widgets import Choice
from drip_pot.desk.session.easel import Easel
from drip_pot.desk.view.render import PLATES

_COLUMNS = 4


def spots_here(easel: Easel) -> tuple[str, ...]:
    """Return the names of the inks beside the four that the page is printed with."""
    view = easel.view
    return () if view is None or view.flat is None else tuple(spot.name for spot in view.flat.tables.spots)


class PlateChoice(QWidget):
    """The plates of the page, one of them chosen.

    Signals
    -------
    chosen(int)
        The place of the plate: 0 is cyan, 3 black, from 4 on the inks beside them.
    """

    chosen = pyqtSignal(int)

    def __init__(self, easel: Easel, name: str, place: int = 0) -> None:
        super().__init__()
        self.easel, self._name, self.place = easel, name, place
        self._column = QVBoxLayout(self)
        self._column.setContentsMargins(0, 0, 0, 0)
        self._words: tuple[str, ...] = ()
        self.choice: Choice | None = None
        self.refresh()

    def word(self) -> str:
        """Return the name of the plate chosen."""
        return self._words[self.place]

    def choose(self, word: str) -> None:
        """Choose a plate by its name."""
        self.place = self._words.index(word)
        self.refresh()
        self.chosen.emit(self.place)

    def refresh(self) -> None:
        """Show the plates there are; where the one chosen is gone, the first."""
        words = (*PLATES, *spots_here(self.easel))
        if words != self._words:
            if self.choice is not None:
                self._column.removeWidget(self.choice)
                self.choice.deleteLater()
            self._words, self.choice = words, Choice(self._name, words, _COLUMNS)
            self.choice.chosen.connect(self.choose)
            self._column.addWidget(self.choice)
        if self.place >= len(words):
            self.place = 0
        assert self.choice is not None
        self.choice.show_choice(words[self.place])
