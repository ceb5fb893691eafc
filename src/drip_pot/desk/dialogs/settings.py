"""Settings of the program, all in one small window; they hold at once. Knows settings and widgets."""

from collections.abc import Callable
from pathlib import Path

from PyQt6.QtCore import QSettings
from PyQt6.QtWidgets import (
    QComboBox,
    QDialog,
    QDialogButtonBox,
    QFileDialog,
    QGridLayout,
    QLineEdit,
    QVBoxLayout,
    QWidget,
)

from drip_pot.desk.parts.widgets import button, label

BENCHES = {"": "As the desktop", "light": "Light", "dim": "Dim"}
PRESSURES = {0.6: "A light hand", 1.0: "As the pen tells", 1.6: "A heavy hand"}


class Settings(QDialog):
    """The bench, the pen, where books go."""

    def __init__(self, parent: QWidget | None, settings: QSettings, changed: Callable[[], object]) -> None:
        super().__init__(parent)
        self.setWindowTitle("Settings")
        self._settings, self._changed = settings, changed
        column = QVBoxLayout(self)
        column.addWidget(label("Settings", "title"))
        grid = QGridLayout()
        self.bench, self.pen = QComboBox(), QComboBox()
        self.bench.setAccessibleName("Bench")
        self.bench.addItems(list(BENCHES.values()))
        self.bench.setCurrentIndex(list(BENCHES).index(_one_of(settings.value("bench", ""), BENCHES)))
        self.bench.activated.connect(lambda place: self._put("bench", list(BENCHES)[place]))
        self.pen.setAccessibleName("Pressure of the pen")
        self.pen.addItems(list(PRESSURES.values()))
        known = pen_power(settings)
        self.pen.setCurrentIndex(list(PRESSURES).index(known) if known in PRESSURES else 1)
        self.pen.activated.connect(lambda place: self._put("pen", list(PRESSURES)[place]))
        self.folder = QLineEdit(str(folder_of(settings)))
        self.folder.setAccessibleName("Where books go")
        self.folder.editingFinished.connect(self._keep_folder)
        for row, (words, widget) in enumerate((("Bench", self.bench), ("Pen", self.pen), ("Books go to", self.folder))):
            grid.addWidget(label(words, "muted"), row, 0)
            grid.addWidget(widget, row, 1)
        grid.addWidget(button("Choose", self._choose, "Choose the folder that books go to"), 2, 2)
        column.addLayout(grid)
        self.told = label("", "muted")
        column.addWidget(self.told)
        close = QDialogButtonBox(QDialogButtonBox.StandardButton.Close)
        close.rejected.connect(self.reject)
        column.addWidget(close)

    def _put(self, name: str, value: object) -> None:
        self._settings.setValue(name, value)
        self._changed()

    def _choose(self) -> None:
        found = QFileDialog.getExistingDirectory(self, "Where books go", self.folder.text())
        if found:
            self.folder.setText(found)
            self._keep_folder()

    def _keep_folder(self) -> None:
        path = Path(self.folder.text()).expanduser()
        if path.is_dir():
            self.told.setText("")
            self._put("folder", str(path))
        else:
            self.told.setText(f"{path} is no folder; books still go to {folder_of(self._settings)}.")


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


def _one_of(value: object, known: dict[str, str]) -> str:
    text = str(value or "")
    return text if text in known else ""
