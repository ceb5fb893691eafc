"""What to write, asked for. Knows the kinds of files."""

from pathlib import Path

from PyQt6.QtWidgets import (
    QCheckBox,
    QFileDialog,
    QHBoxLayout,
    QLineEdit,
    QWidget,
)

from drip_pot.desk.dialogs.asking import Asking
from drip_pot.desk.parts.widgets import button, label, rule
from drip_pot.files import KINDS

_SELDOM = ("separations", "old")


class ExportDialog(Asking):
    """What to write, and where."""

    def __init__(self, parent: QWidget | None, folder: Path, pages: int) -> None:
        super().__init__(parent, "Export", "Write files")
        self.boxes: dict[str, QCheckBox] = {}
        for kind, offered in KINDS.items():
            box = QCheckBox(offered.title)
            box.setChecked(kind not in _SELDOM)
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
