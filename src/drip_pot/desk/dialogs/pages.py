# SPDX-License-Identifier: GPL-3.0-or-later
"""A page asked about: size, resolution, pictures of a file. Knows the page."""

from dataclasses import dataclass
from functools import partial

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import (
    QButtonGroup,
    QCheckBox,
    QDoubleSpinBox,
    QGridLayout,
    QHBoxLayout,
    QListWidget,
    QListWidgetItem,
    QRadioButton,
    QWidget,
)

from drip_pot.book import Page
from drip_pot.core.arrays import Rect
from drip_pot.desk.dialogs.asking import Asking
from drip_pot.desk.parts.lengths import LengthBox, size_text
from drip_pot.desk.parts.widgets import button, label, rule
from drip_pot.files import Inside
from drip_pot.words import tr

_DPIS = (150, 200, 300, 400, 600, 1200)
_PREVIEW_DPI = 50


def _number(value: float, low: float, high: float, unit: str, name: str, decimals: int = 1) -> QDoubleSpinBox:
    box = LengthBox(decimals) if unit == "mm" else QDoubleSpinBox()
    box.setRange(low, high)
    if unit != "mm":
        box.setDecimals(decimals)
        box.setSuffix(f" {unit}")
    box.setValue(value)
    box.setButtonSymbols(QDoubleSpinBox.ButtonSymbols.NoButtons)
    box.setAlignment(Qt.AlignmentFlag.AlignRight)
    box.setAccessibleName(tr(name))
    box.setFixedWidth(96)
    return box


@dataclass(frozen=True)
class PageWish:
    """What was asked for: print size, the page's new edges in its own pixels (None as they are), a turn in degrees."""

    dpi: float
    trim_mm: tuple[float, float] | None
    bleed_mm: float
    rect: Rect | None
    turn_deg: float


class PageDialog(Asking):
    """Size, resolution, trim, bleed, edges and straightness of a page."""

    def __init__(self, parent: QWidget | None, page: Page, skew_deg: float | None) -> None:
        super().__init__(parent, tr("Page {0}", page.name), "Apply")
        self._page = page
        self.dpi = _number(page.dpi, 30, 4800, "dpi", "Resolution", 0)
        self.size_text = label("", "figure")
        self.trims = QCheckBox(tr("Trimmed to"))
        self.trims.setChecked(page.trim_mm is not None)
        size = page.trim_mm or (page.cols / page.dpi * 25.4, page.rows / page.dpi * 25.4)
        self.wide = _number(size[0], 1, 3000, "mm", "Trim width")
        self.high = _number(size[1], 1, 3000, "mm", "Trim height")
        self.bleed = _number(page.bleed_mm, 0, 50, "mm", "Bleed")
        self.edges = [_number(0, -500, 500, "mm", tr("{0} edge", side)) for side in ("Top", "Left", "Bottom", "Right")]
        self.turn = _number(0, -45, 45, "°", "Turn", 2)
        grid = QGridLayout()
        grid.setHorizontalSpacing(10)
        grid.setColumnStretch(3, 1)
        self._line(grid, 0, "Resolution", self.dpi, self.size_text)
        grid.addWidget(self.trims, 1, 0)
        grid.addWidget(self.wide, 1, 1)
        grid.addWidget(self.high, 1, 2)
        self._line(grid, 2, "Bleed on every side", self.bleed)
        grid.addWidget(rule(), 3, 0, 1, 4)
        self._line(grid, 4, "Grow at top and bottom", self.edges[0], self.edges[2])
        self._line(grid, 5, "Grow at left and right", self.edges[1], self.edges[3])
        grid.addWidget(label("Below 0 crops.", "smallmuted"), 6, 0)
        grid.addWidget(rule(), 7, 0, 1, 4)
        self._line(grid, 8, "Turn clockwise", self.turn)
        if skew_deg is not None and abs(skew_deg) >= 0.02:
            found = button(
                tr("Straighten {0:+.2f}°", skew_deg), partial(self.turn.setValue, skew_deg), "Found from the frames"
            )
            grid.addWidget(found, 8, 2, 1, 2)
        else:
            words = "lies straight" if skew_deg is not None else "no frame to tell by"
            grid.addWidget(label(words, "smallmuted"), 8, 2, 1, 2)
        self.body.addLayout(grid)
        note = label("Colours, shade, bridges and mending stay where they are on the drawing.", "muted")
        note.setWordWrap(True)
        self.body.addWidget(note)
        self.dpi.valueChanged.connect(self._show)
        self.trims.toggled.connect(self._show)
        self._show()

    @staticmethod
    def _line(grid: QGridLayout, row: int, name: str, *widgets: QWidget) -> None:
        grid.addWidget(label(name, "muted"), row, 0)
        for column, widget in enumerate(widgets, 1):
            grid.addWidget(widget, row, column)

    def _show(self) -> None:
        dpi = self.dpi.value()
        wide, high = self._page.cols / dpi * 25.4, self._page.rows / dpi * 25.4
        self.size_text.setText(size_text(wide, high, 1))
        for box in (self.wide, self.high, self.bleed):
            box.setEnabled(self.trims.isChecked())

    def wish(self) -> PageWish:
        """Return what was asked for."""
        px = self.dpi.value() / 25.4
        top, left, bottom, right = (round(box.value() * px) for box in self.edges)
        rect = (-top, -left, self._page.rows + bottom, self._page.cols + right)
        trim = (self.wide.value(), self.high.value()) if self.trims.isChecked() else None
        same = (top, left, bottom, right) == (0, 0, 0, 0)
        return PageWish(self.dpi.value(), trim, self.bleed.value() if trim else 0.0, None if same else rect,
                        self.turn.value())  # fmt: skip


def ask_dpi(parent: QWidget, name: str) -> float | None:
    """Ask at how many dots per inch a drawing was made; None if it was called off."""
    asking = Asking(parent, "At what resolution was it made?", "Open")
    box = _number(300, 30, 4800, "dpi", "Resolution", 0)
    words = label(tr("{0} does not say. Millimetres, trap widths and speck sizes depend on it.", name), "muted")
    words.setWordWrap(True)
    asking.body.addWidget(words)
    line = QHBoxLayout()
    line.addWidget(box)
    for dpi in (300, 400, 600):
        line.addWidget(button(f"{dpi}", partial(box.setValue, dpi)))
    line.addStretch(1)
    asking.body.addLayout(line)
    return box.value() if asking.exec() else None


class PicturesDialog(Asking):
    """Which pictures of a file, and what to make of them."""

    def __init__(self, parent: QWidget | None, name: str, inside: list[Inside], with_page: bool) -> None:
        super().__init__(parent, tr("{0} holds {1} pictures", name, len(inside)), "Open")
        self.list = QListWidget()
        self.list.setAccessibleName(tr("Pictures"))
        for picture in inside:
            item = QListWidgetItem(picture.name)
            item.setFlags(item.flags() | Qt.ItemFlag.ItemIsUserCheckable)
            item.setCheckState(Qt.CheckState.Checked)
            self.list.addItem(item)
        self.body.addWidget(self.list)
        self.pages, self.sheets = QRadioButton(tr("A page each")), QRadioButton(tr("Sheets of the page shown"))
        self.pages.setChecked(True)
        self.sheets.setVisible(with_page)
        group = QButtonGroup(self)
        for choice in (self.pages, self.sheets):
            group.addButton(choice)
            self.body.addWidget(choice)
        self.list.itemChanged.connect(lambda _: self.yes.setEnabled(bool(self.chosen())))

    def chosen(self) -> list[int]:
        """Return the numbers of the pictures wanted."""
        items = (self.list.item(k) for k in range(self.list.count()))
        return [k for k, item in enumerate(items) if item is not None and item.checkState() == Qt.CheckState.Checked]
