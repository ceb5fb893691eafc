# SPDX-License-Identifier: GPL-3.0-or-later
"""What is in use in a window: book, page, stage, tool, pot; and the signals between its parts. Knows the book alone."""

from collections.abc import Callable, Mapping, Sequence
from collections.abc import Set as AbstractSet
from pathlib import Path

from PyQt6.QtCore import QObject, Qt, pyqtSignal

from drip_pot.book import BALLOON, Book, PageSources
from drip_pot.core.errors import DripPotError, NothingDone
from drip_pot.files import BookFile
from drip_pot.words import tr

FINDING = "The regions are still being found; nothing was changed. Try again in a moment."


class InUse(QObject):
    """What is in use.

    Parameters
    ----------
    tools : mapping
        Names of the tools of every stage, in order.

    Signals
    -------
    opened()
        Another book or page is shown.
    repaint(object)
        Page pixels changed: a list of rectangles, or None for everything.
    edited()
        The book changed: names, pots, history.
    chosen()
        Another stage, tool or pot.
    refreshed()
        Derived facts changed: regions, findings, plates.
    said(str, bool)
        A sentence for the person, and whether it is a problem.
    moved(object, str)
        The file of a book goes on elsewhere, as a sentence says.
    refused()
        Something was not done; what was shown of it is to go.
    """

    opened = pyqtSignal()
    repaint = pyqtSignal(object)
    edited = pyqtSignal()
    chosen = pyqtSignal()
    refreshed = pyqtSignal()
    said = pyqtSignal(str, bool)
    moved = pyqtSignal(object, str)
    refused = pyqtSignal()

    def __init__(self, tools: Mapping[str, Sequence[str]], parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.offered = {stage: tuple(names) for stage, names in tools.items()}
        self.file: BookFile | None = None
        self.usual_folder = Path.home()
        self.book: Book | None = None
        self.page = 0
        self.stage = "Flats"
        self.tools = {stage: names[0] for stage, names in self.offered.items()}
        self.pot: int | None = None
        self.sheet = 0
        self.within = 0
        self.picked: frozenset[int] = frozenset()
        self.strength = 1.0
        self.switched = Qt.KeyboardModifier.NoModifier
        self.pressure, self.tilt, self.zoom, self.pen_power = 1.0, 0.0, 1.0, 1.0

    @property
    def tool(self) -> str:
        """The tool of the present stage."""
        return self.tools[self.stage]

    @property
    def folder(self) -> Path:
        """Where files are looked for first: beside the open book."""
        return self.usual_folder if self.file is None else self.file.path.parent

    def sources(self) -> PageSources | None:
        """Return the page's sources, or None without a page."""
        return self.book.sources(self.page) if self.book is not None and self.page else None

    def ready(self) -> tuple[Book, PageSources] | None:
        """Return the book and the page's sources, or None without a page."""
        sources = self.sources()
        return None if self.book is None or sources is None else (self.book, sources)

    def choose_tool(self, tool: str) -> None:
        """Take up a tool of the present stage."""
        if tool in self.offered[self.stage]:
            if tool != self.tools[self.stage]:
                self.switched = Qt.KeyboardModifier.NoModifier
            self.tools[self.stage] = tool
            self.chosen.emit()

    def choose_pot(self, pot: int | None) -> None:
        """Take a pot in hand; None is paper."""
        self.pot = None if pot == BALLOON else pot
        self.chosen.emit()

    def pick(self, atoms: AbstractSet[int]) -> None:
        """Pick regions by their atoms; an empty set lets go."""
        self.picked = frozenset(atoms)
        self.refreshed.emit()
        self.repaint.emit([])

    def set_strength(self, strength: float) -> None:
        """Pour with a strength of 0..1; below 1 the pot in hand is mixed into what is there."""
        self.strength = strength
        self.chosen.emit()

    def confine(self, panel: int) -> None:
        """Confine the tools to a panel; the same again, or 0, frees them."""
        self.within = 0 if panel == self.within else panel
        words = tr("Tools work in panel {0} alone. Escape frees them.", self.within) if self.within else ""
        self.said.emit(words or "Tools work anywhere.", False)
        self.chosen.emit()

    def do(self, verb: Callable[[Book, int], object]) -> bool:
        """Call `verb(book, page)`; a problem is said and False returned."""
        return self.book is not None and self.trying(lambda: verb(self.book, self.page))  # type: ignore[arg-type]

    def trying(self, work: Callable[[], object]) -> bool:
        """Do something that may be refused with a sentence, which is said then; return whether it was done."""
        try:
            work()
        except DripPotError as error:
            self.said.emit(str(error), not isinstance(error, NothingDone))
            self.refused.emit()
            return False
        return True
