# SPDX-License-Identifier: GPL-3.0-or-later
"""What to write, asked for. Knows the kinds of files."""

from collections.abc import Sequence
from pathlib import Path

from PyQt6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QDoubleSpinBox,
    QFileDialog,
    QGridLayout,
    QHBoxLayout,
    QLineEdit,
    QMenu,
    QToolButton,
    QWidget,
)

from drip_pot.desk.dialogs.asking import Asking, ask_name
from drip_pot.desk.parts.widgets import button, label, rule
from drip_pot.files import CUTS, KINDS, ONE_PDF, PRESETS, SIDES, CutTo, How, WebSize
from drip_pot.words import listed, tr

_SELDOM = (
    "web-jpeg",
    "web-png",
    "web-webp",
    "clear",
    "cut-out",
    "line-colour",
    "line-black",
    "separations",
    "old",
    "proof",
    "layers",
    "tiff-layers",
    "svg",
    ONE_PDF,
)
_PRESETS = {"printer": "Printer", "press": "Plates and line", "editor": "Editor", "archive": "Archive"}
_CUTS: dict[CutTo, str] = {"page": "The whole page", "bleed": "Cut to the bleed", "trim": "Cut to the trim"}
_SIDES = {"height": "by height", "width": "by width", "megapixels": "by megapixels"}
_OWN = "As ticked below"


class ExportDialog(Asking):
    """What to write, of which pages, and where; choices can be kept by name."""

    def __init__(
        self, parent: QWidget | None, folder: Path, pages: int, kept: dict[str, tuple[str, ...]] | None = None,
        ticked: tuple[str, ...] | None = None, *, trimmed: bool = False, web: WebSize | None = None,
        schemes: Sequence[int] = (), parts: Sequence[str] = (),
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
        self._build_web(web or WebSize())
        self._build_parts(parts)
        self.body.addWidget(rule())
        self.body.addWidget(self.all_pages)
        self._schemes = tuple(schemes)
        self.all_schemes = QCheckBox(tr("In all {0} schemes, each under its name", len(self._schemes)))
        self.all_schemes.setVisible(len(self._schemes) > 1)
        self.body.addWidget(self.all_schemes)
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

    def _build_web(self, web: WebSize) -> None:
        """Ask how large copies for screens are, where there are any."""
        self.web = QWidget()
        line = QHBoxLayout(self.web)
        line.setContentsMargins(0, 0, 0, 0)
        self.side, self.size_ = QComboBox(), QDoubleSpinBox()
        self.side.setAccessibleName(tr("What says how large a web copy is"))
        self.side.addItems([tr(word) for word in _SIDES.values()])
        self.side.setCurrentIndex(SIDES.index(web.by))
        self.size_.setAccessibleName(tr("Size of a web copy"))
        self.size_.setButtonSymbols(QDoubleSpinBox.ButtonSymbols.NoButtons)
        self.side.currentIndexChanged.connect(lambda place: self._measure(place, (1600.0, 1200.0, 2.0)[place]))
        self._measure(SIDES.index(web.by), web.size)
        self.smooth = QCheckBox(tr("Smooth colour edges"))
        self.smooth.setToolTip(tr("For screens; colours are printed with hard edges"))
        self.smooth.setChecked(web.smooth)
        self._of_size = (label("Web copies", "muted"), self.side, self.size_)
        for part in (*self._of_size, self.smooth):
            line.addWidget(part)
        line.addStretch(1)
        self.body.addWidget(self.web)

    def _build_parts(self, parts: Sequence[str]) -> None:
        """Ask which parts are cut out, where any are."""
        self.which, menu = QToolButton(), QMenu(self)
        self.which.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        self.which.setAccessibleName(tr("Parts that are cut out"))
        self.alone = [menu.addAction(name) for name in parts]
        for action in filter(None, self.alone):
            action.setCheckable(True)
        menu.triggered.connect(lambda _: self._tell_parts())
        self.which.setMenu(menu)
        self._tell_parts()
        self.body.addWidget(self.which)
        self._show_web()

    def _tell_parts(self) -> None:
        chosen = self.parts()
        self.which.setText(tr("Cut out: {0}", listed(list(chosen))) if chosen else tr("Cut out: all parts"))

    def parts(self) -> tuple[str, ...]:
        """Return the names of the parts that are cut out; none is all."""
        return tuple(action.text() for action in self.alone if action is not None and action.isChecked())

    def _measure(self, side: int, size: float) -> None:
        mega = SIDES[side] == "megapixels"
        self.size_.setRange(*((0.01, 500) if mega else (16, 30_000)))
        self.size_.setDecimals(2 if mega else 0)
        self.size_.setSuffix(" MP" if mega else " px")
        self.size_.setValue(size)

    def _show_web(self) -> None:
        copies, kinds = any(kind.startswith("web-") for kind in self.kinds()), self.kinds()
        self.web.setVisible(copies or "clear" in kinds)
        for part in self._of_size:
            part.setVisible(copies)
        self.which.setVisible("cut-out" in kinds)

    def how(self) -> How:
        """Return how the files are made."""
        web = WebSize(SIDES[self.side.currentIndex()], self.size_.value(), self.smooth.isChecked())
        return How(self.cut(), web, self._schemes if self.all_schemes.isChecked() else (), self.parts())

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
            self._show_web()

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
        self._show_web()

    def _choose(self) -> None:
        found = QFileDialog.getExistingDirectory(self, tr("Folder for the files"), self.folder.text())
        if found:
            self.folder.setText(found)
