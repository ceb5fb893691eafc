# SPDX-License-Identifier: GPL-3.0-or-later
"""What to write, asked for. Knows the kinds of files."""

from pathlib import Path

from PyQt6.QtWidgets import QCheckBox, QComboBox, QFileDialog, QGridLayout, QHBoxLayout, QLineEdit, QWidget

from drip_pot.desk.dialogs.asking import Asking, ask_name
from drip_pot.desk.parts.widgets import button, label, rule
from drip_pot.files import CUTS, KINDS, ONE_PDF, PRESETS, CutTo
from drip_pot.words import tr

_SELDOM = ("separations", "old", "proof", "layers", "tiff-layers", "svg", ONE_PDF)
_PRESETS = {"printer": "Printer", "press": "Plates and line", "editor": "Editor", "archive": "Archive"}
_CUTS: dict[CutTo, str] = {"page": "The whole page", "bleed": "Cut to the bleed", "trim": "Cut to the trim"}
_OWN = "As ticked below"


class ExportDialog(Asking):
    """What to write, of which pages, and where; choices can be kept by name."""

    def __init__(
        self, parent: QWidget | None, folder: Path, pages: int, kept: dict[str, tuple[str, ...]] | None = None,
        ticked: tuple[str, ...] | None = None, *, trimmed: bool = False,
    ) -> None:  # fmt: skip
        super().__init__(parent, "Export", "Write files")
        self.kept = dict(kept or {})
        self.preset = QComboBox()
        self.preset.setAccessibleName(tr("Files that go together"))
        line = QHBoxLayout()
        line.addWidget(label("For", "muted"))
        line.addWidget(self.preset, 1)
        line.addWidget(button("Name it", self._keep, "Keep what is ticked by name"))
        self.body.addLayout(line)
        self.boxes: dict[str, QCheckBox] = {}
        grid = QGridLayout()
        titles = {kind: offered.title for kind, offered in KINDS.items()} | {ONE_PDF: "One PDF of all pages"}
        for place, (kind, title) in enumerate(titles.items()):
            box = QCheckBox(tr(title))
            box.setChecked(kind not in _SELDOM if ticked is None else kind in ticked)
            box.clicked.connect(self._check)
            grid.addWidget(box, place // 2, place % 2)
            self.boxes[kind] = box
        self.body.addLayout(grid)
        self.all_pages = QCheckBox(tr("All {0} pages of the book", pages))
        self.all_pages.setVisible(pages > 1)
        self.cuts = QComboBox()
        self.cuts.setAccessibleName(tr("What pictures, plates and line are cut to"))
        self.cuts.addItems([tr(word) for word in _CUTS.values()])
        self.cuts.setVisible(trimmed)
        line = QHBoxLayout()
        cut_to = label("Pictures, plates, line", "muted")
        cut_to.setVisible(trimmed)
        line.addWidget(cut_to)
        line.addWidget(self.cuts, 1)
        self.body.addLayout(line)
        self.body.addWidget(rule())
        self.body.addWidget(self.all_pages)
        self.folder = QLineEdit(str(folder))
        self.folder.setAccessibleName(tr("Folder"))
        line = QHBoxLayout()
        line.addWidget(label("Into", "muted"))
        line.addWidget(self.folder, 1)
        line.addWidget(button("Choose", self._choose, "Choose a folder"))
        self.body.addLayout(line)
        note = label("All files and a job ticket are written, or none. Plates carry traps and the page's dpi.", "muted")
        note.setWordWrap(True)
        self.body.addWidget(note)
        self._list()
        self.yes.setEnabled(bool(self.kinds()))
        self.preset.activated.connect(lambda _: self._take())

    def _presets(self) -> dict[str, tuple[str, ...]]:
        return {says: PRESETS[name] for name, says in _PRESETS.items()} | self.kept

    def _list(self, chosen: str = _OWN) -> None:
        self.preset.clear()
        self.preset.addItems([_OWN, *self._presets()])
        self.preset.setCurrentText(chosen)

    def _take(self) -> None:
        kinds = self._presets().get(self.preset.currentText())
        if kinds is not None:
            for kind, box in self.boxes.items():
                box.setChecked(kind in kinds)
            self.yes.setEnabled(bool(self.kinds()))

    def _keep(self) -> None:
        name = ask_name(self, tr("Name of this choice"), "")
        if name:
            self.kept[name] = self.kinds()
            self._list(name)

    def kinds(self) -> tuple[str, ...]:
        """Return the kinds wanted."""
        return tuple(kind for kind, box in self.boxes.items() if box.isChecked())

    def cut(self) -> CutTo:
        """Return what pictures, plates and line are cut to."""
        return CUTS[self.cuts.currentIndex()]

    def _check(self) -> None:
        self.preset.setCurrentText(_OWN)
        self.yes.setEnabled(bool(self.kinds()))

    def _choose(self) -> None:
        found = QFileDialog.getExistingDirectory(self, tr("Folder for the files"), self.folder.text())
        if found:
            self.folder.setText(found)
