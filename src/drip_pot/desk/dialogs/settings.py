# SPDX-License-Identifier: GPL-3.0-or-later
"""Settings of the program, all in one small window; they hold at once. Knows settings and widgets."""

from collections.abc import Callable
from pathlib import Path

from PyQt6.QtCore import QSettings
from PyQt6.QtWidgets import (
    QComboBox,
    QDialogButtonBox,
    QFileDialog,
    QGridLayout,
    QLineEdit,
    QVBoxLayout,
    QWidget,
)

from drip_pot.core.press import BUILT_IN, CONDITIONS
from drip_pot.desk.parts.dialog import Dialog
from drip_pot.desk.parts.lengths import UNITS
from drip_pot.desk.parts.widgets import button, label
from drip_pot.words import tr

BENCHES = {"": "As the desktop", "light": "Light", "dim": "Dim"}
MEMORY = {"little": "Little, 48 MB", "": "Usual, 96 MB", "plenty": "Plenty, 512 MB"}
MEMORY_BYTES = {"little": 48 << 20, "": 96 << 20, "plenty": 512 << 20}
LANGUAGES = {"": "As the desktop", "en": "English", "de": "Deutsch"}
COPIES = {"": "None", "daily": "One a day, the last three"}
CONDITION_TITLES = {name: CONDITIONS[name].title for name in BUILT_IN}
_WIDE, _LINE = 560, 26
PRESSURES = {0.6: "A light hand", 1.0: "As the pen tells", 1.6: "A heavy hand"}


class Settings(Dialog):
    """The bench, the pen, lengths, language, memory, copies, the press of new books, where books go; what each does."""

    def __init__(
        self, parent: QWidget | None, settings: QSettings, changed: Callable[[], object],
        change_keys: Callable[[], object],
    ) -> None:  # fmt: skip
        super().__init__(parent)
        self.setWindowTitle(tr("Settings"))
        self._settings, self._changed = settings, changed
        column = QVBoxLayout(self)
        column.addWidget(label("Settings", "title"))
        grid = QGridLayout()
        self.bench, self.pen = self._choice("Bench", "bench", BENCHES), QComboBox()
        self.pen.setAccessibleName(tr("Pressure of the pen"))
        self.pen.addItems([tr(one) for one in PRESSURES.values()])
        known = pen_power(settings)
        self.pen.setCurrentIndex(list(PRESSURES).index(known) if known in PRESSURES else 1)
        self.pen.activated.connect(lambda place: self._put("pen", list(PRESSURES)[place]))
        self.unit = self._choice("Unit of lengths", "unit", UNITS)
        self.memory = self._choice("Memory for what is painted", "memory", MEMORY)
        self.copies = self._choice("Copies of books", "copies", COPIES)
        self.press = self._choice("New books are printed on", "condition", CONDITION_TITLES)
        self.folder = QLineEdit(str(folder_of(settings)))
        self.folder.setAccessibleName(tr("Where books go"))
        self.folder.editingFinished.connect(self._keep_folder)
        self.language = self._choice("Language", "language", LANGUAGES)
        rows = (
            ("Bench", self.bench, "How light the window is; the page is shown in its own colours on both."),
            ("Pen", self.pen, "How hard a pen is pressed for its full width."),
            ("Lengths", self.unit, "Behind any length the other unit can be typed."),
            ("Language", self.language, "From the next start on."),
            (
                "Memory for paint",
                self.memory,
                "How much painted shade is kept at hand; more makes large pages quicker.",
            ),
            ("Copies", self.copies, "Put aside before a book is changed for the first time of a day."),
            ("New books print on", self.press, "What Press begins with; every page can be given another."),
            ("Books go to", self.folder, "Where files are looked for first, and new books are kept."),
        )
        for row, (words, widget, told) in enumerate(rows):
            said = label(told, "smallmuted")
            said.setWordWrap(True)
            grid.addWidget(label(words, "muted"), 2 * row, 0)
            grid.addWidget(widget, 2 * row, 1)
            grid.addWidget(said, 2 * row + 1, 1, 1, 2)
            grid.setRowMinimumHeight(2 * row + 1, _LINE)
        grid.setColumnStretch(1, 1)
        self.setMinimumWidth(_WIDE)
        grid.addWidget(button("Choose", self._choose, "Choose the folder that books go to"), 2 * len(rows) - 2, 2)
        column.addLayout(grid)
        column.addWidget(button("Change keys", change_keys, "Give actions other keys"))
        self.told = label("", "muted")
        column.addWidget(self.told)
        close = QDialogButtonBox(QDialogButtonBox.StandardButton.Close)
        close.rejected.connect(self.reject)
        column.addWidget(close)

    def _choice(self, said: str, name: str, known: dict[str, str]) -> QComboBox:
        """Return a box with what a setting can be."""
        box = QComboBox()
        box.setAccessibleName(tr(said))
        box.addItems([tr(one) for one in known.values()])
        box.setCurrentIndex(list(known).index(one_of(self._settings.value(name, ""), known)))
        box.activated.connect(lambda place: self._put(name, list(known)[place]))
        return box

    def _put(self, name: str, value: object) -> None:
        self._settings.setValue(name, value)
        self._changed()

    def _choose(self) -> None:
        found = QFileDialog.getExistingDirectory(self, tr("Where books go"), self.folder.text())
        if found:
            self.folder.setText(found)
            self._keep_folder()

    def _keep_folder(self) -> None:
        path = Path(self.folder.text()).expanduser()
        if path.is_dir():
            self.told.setText("")
            self._put("folder", str(path))
        else:
            self.told.setText(tr("{0} is no folder; books still go to {1}.", path, folder_of(self._settings)))


def folder_of(settings: QSettings) -> Path:
    """Return where books and files are looked for first."""
    path = Path(str(settings.value("folder", "")) or Path.home())
    return path if path.is_dir() else Path.home()


def pen_power(settings: QSettings) -> float:
    """Return the power that the pressure of a pen is raised to, 0.2..5."""
    try:
        return min(max(float(settings.value("pen", 1.0)), 0.2), 5.0)
    except (TypeError, ValueError):
        return 1.0


def one_of(value: object, known: dict[str, str]) -> str:
    """Return what a setting is, the first of what it can be where it is none of that."""
    text = str(value or "")
    return text if text in known else "" if "" in known else next(iter(known))
