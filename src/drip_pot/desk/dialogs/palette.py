# SPDX-License-Identifier: GPL-3.0-or-later
"""Pots from a picture, a palette file, an ink set or a colour's harmony. Knows the book, files and widgets."""

from pathlib import Path

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import (
    QComboBox,
    QFileDialog,
    QHBoxLayout,
    QLineEdit,
    QListWidget,
    QListWidgetItem,
    QSpinBox,
    QVBoxLayout,
    QWidget,
)

from drip_pot.book import Book, verbs
from drip_pot.core.arrays import U8
from drip_pot.core.color import from_hex, harmony, mosaic, nearest, plain_name, telling_colors, to_hex
from drip_pot.core.errors import DripPotError
from drip_pot.desk.dialogs.asking import Asking
from drip_pot.desk.dialogs.color_taking import swatch_icon
from drip_pot.desk.parts import theme
from drip_pot.desk.parts.pixels import image_of
from drip_pot.desk.parts.widgets import NumberRow, button, label
from drip_pot.files import IMAGE_SUFFIXES, Ink, read_image, read_palette, write_palette
from drip_pot.words import tr

_HARMONIES = {
    "complement": "Complement", "neighbours": "Neighbours", "split complement": "Split complement", "triad": "Triad",
}  # fmt: skip
_PALETTES = "Palettes (*.txt *.csv *.json)"


class MosaicView(QWidget):
    """A picture as averaged cells; click or drag over cells to pick their colours.

    Signals
    -------
    picked(str)
        '#rrggbb' of a cell.
    """

    picked = pyqtSignal(str)

    def __init__(self) -> None:
        super().__init__()
        self.setMinimumSize(360, 300)
        self.setAccessibleName(tr("Mosaic of the picture"))
        self.setMouseTracking(True)
        self.rgb: U8 | None = None
        self.cells: U8 | None = None
        self._at: tuple[int, int] | None = None
        self._last: tuple[int, int] | None = None

    def show_picture(self, rgb: U8, across: int) -> None:
        """Show a picture, (M, N, 3) uint8, in so many cells along its longer side."""
        self.rgb, self.cells = rgb, mosaic(rgb, across)
        self.update()

    def box(self) -> QRectF:
        """Return where the picture lies."""
        assert self.cells is not None
        rows, cols = self.cells.shape[:2]
        side = min((self.width() - 4) / cols, (self.height() - 4) / rows)
        return QRectF((self.width() - cols * side) / 2, (self.height() - rows * side) / 2, cols * side, rows * side)

    def cell_at(self, at: QPointF) -> tuple[int, int] | None:
        """Return the row and column of the cell at a position."""
        if self.cells is None or not self.box().contains(at):
            return None
        box, (rows, cols) = self.box(), self.cells.shape[:2]
        row, col = (at.y() - box.top()) / box.height() * rows, (at.x() - box.left()) / box.width() * cols
        return min(int(row), rows - 1), min(int(col), cols - 1)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), theme.color("surround"))
        if self.cells is None:
            painter.setPen(QColor("#ffffff"))
            painter.setFont(theme.font(15))
            text = "Open a picture to take colours from, or a palette"
            painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, text)
            return
        image = image_of(self.cells)
        box = self.box()
        painter.drawImage(box, image)
        if self._at is not None:
            rows, cols = self.cells.shape[:2]
            wide, high = box.width() / cols, box.height() / rows
            spot = QRectF(box.left() + self._at[1] * wide, box.top() + self._at[0] * high, wide, high)
            painter.setPen(QPen(QColor("#ffffff"), 3))
            painter.drawRect(spot)
            painter.setPen(QPen(QColor("#161616"), 1))
            painter.drawRect(spot)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        self._last = None
        self.mouseMoveEvent(event)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        self._at = self.cell_at(event.position())
        self.update()
        if (
            event.buttons() & Qt.MouseButton.LeftButton
            and self._at not in (None, self._last)
            and self.cells is not None
        ):
            self._last = self._at
            assert self._at is not None
            self.picked.emit(to_hex(self.cells[self._at]))


class PaletteDialog(Asking):
    """Collect colours and add them as pots of a part."""

    def __init__(self, parent: QWidget | None, book: Book, in_hand: str | None, folder: Path) -> None:
        super().__init__(parent, "Colours from a picture", "Add as pots")
        self._book, self._in_hand, self._folder = book, in_hand, folder
        self.made: list[int] = []
        self.view = MosaicView()
        self.view.picked.connect(self.take)
        whole = QHBoxLayout()
        left, right = QVBoxLayout(), QVBoxLayout()
        left.addWidget(self.view, 1)
        self.grain = NumberRow("Cells along the longer side", 2, 64, 1)
        self.grain.show_value(16)
        for signal in (self.grain.moved, self.grain.done):
            signal.connect(lambda _: self._regrain())
        left.addWidget(self.grain)
        row = QHBoxLayout()
        row.addWidget(button("Open a picture", self._open, "Any picture the program reads"))
        self.count = QSpinBox()
        self.count.setRange(2, 32)
        self.count.setValue(8)
        self.count.setAccessibleName(tr("How many telling colours"))
        row.addStretch(1)
        row.addWidget(button("Choose main colours", self.take_telling, "k-means in OKLab over the whole picture"))
        row.addWidget(self.count)
        left.addLayout(row)
        whole.addLayout(left, 3)
        self._fill_right(right)
        whole.addLayout(right, 2)
        self.body.addLayout(whole)
        self.said = label("", "muted")
        self.said.setWordWrap(True)
        self.body.addWidget(self.said)
        self.resize(820, 520)
        self._changed()

    def _fill_right(self, right: QVBoxLayout) -> None:
        right.addWidget(label("Colours taken", "title"))
        self.list = QListWidget()
        self.list.setAccessibleName(tr("Colours taken"))
        self.list.setToolTip(tr("Double-click a name to change it. Delete takes a colour off."))
        right.addWidget(self.list, 1)
        row = QHBoxLayout()
        row.addWidget(button("Remove", self._take_off, "Remove the chosen colour off the list"))
        row.addWidget(button("Clear list", self._empty, "Remove all of them"))
        row.addWidget(button("Open palette", self._read, "Read a palette: .txt, .csv or .json"))
        row.addWidget(button("Save palette", self._write, "Write these colours as a palette"))
        right.addLayout(row)
        self.harmony = QComboBox()
        self.harmony.setAccessibleName(tr("Harmony"))
        self.harmony.addItem(tr("Add what goes with the pot in hand"))
        self.harmony.addItems([tr(says) for says in _HARMONIES.values()])
        self.harmony.setEnabled(self._in_hand is not None)
        self.harmony.activated.connect(self._harmonize)
        right.addWidget(self.harmony)
        self.inks = QComboBox()
        self.inks.setAccessibleName(tr("Ink set"))
        self.inks.activated.connect(self._match)
        right.addWidget(self.inks)
        row = QHBoxLayout()
        self.set_name = QLineEdit()
        self.set_name.setPlaceholderText(tr("Name of an ink set"))
        self.set_name.setAccessibleName(tr("Name of an ink set"))
        row.addWidget(self.set_name, 1)
        row.addWidget(button("Keep as inks", self._keep_set, "Keep this list as real inks a person owns"))
        right.addLayout(row)
        self.part = QLineEdit("Picture")
        self.part.setAccessibleName(tr("Part"))
        row = QHBoxLayout()
        row.addWidget(label("Into part", "muted"))
        row.addWidget(self.part, 1)
        right.addLayout(row)
        self._list_sets()

    # The list

    def colors(self) -> list[tuple[str, str]]:
        """Return names and colours taken, in order."""
        items = [self.list.item(k) for k in range(self.list.count())]
        return [(i.text(), i.data(Qt.ItemDataRole.UserRole)) for i in items if i is not None]

    def take(self, color: str, name: str = "") -> None:
        """Take a colour, unless it is on the list already."""
        if color in [c for _, c in self.colors()]:
            return
        known, plain = {n for n, _ in self.colors()}, plain_name(from_hex(color)).capitalize()
        numbered = next(n for k in range(1, 1000) if (n := plain if k == 1 else f"{plain} {k}") not in known)
        item = QListWidgetItem(swatch_icon(color), name or numbered)
        item.setData(Qt.ItemDataRole.UserRole, color)
        item.setFlags(item.flags() | Qt.ItemFlag.ItemIsEditable)
        self.list.addItem(item)
        self.list.scrollToBottom()
        self._changed()

    def _changed(self) -> None:
        count = self.list.count()
        self.yes.setEnabled(count > 0)
        self.yes.setText(tr("Add {0} pots", count) if count != 1 else tr("Add the pot"))

    def _take_off(self) -> None:
        self.list.takeItem(self.list.currentRow())
        self._changed()

    def _empty(self) -> None:
        self.list.clear()
        self._changed()

    # Pictures

    def _open(self) -> None:
        kinds = " ".join(f"*{suffix}" for suffix in IMAGE_SUFFIXES)
        found, _ = QFileDialog.getOpenFileName(self, tr("Picture"), str(self._folder), tr("Pictures ({0})", kinds))
        if found:
            self.open_picture(Path(found))

    def open_picture(self, path: Path) -> None:
        """Show a picture; what is wrong with it is said."""
        try:
            scan = read_image(path)[1]
        except DripPotError as error:
            self.said.setText(str(error))
            return
        gray = scan.gray if scan.gray.dtype == np.uint8 else (scan.gray >> 8).astype(np.uint8)
        rgb = scan.rgb if scan.rgb is not None else np.stack([gray] * 3, axis=-1)
        step = max(1, max(rgb.shape[:2]) // 1600)
        self.said.setText("")
        self.view.show_picture(np.ascontiguousarray(rgb[::step, ::step]), int(self.grain.value()))

    def _regrain(self) -> None:
        if self.view.rgb is not None:
            self.view.show_picture(self.view.rgb, int(self.grain.value()))

    def take_telling(self) -> None:
        """Take the most telling colours of the picture."""
        if self.view.rgb is None:
            self.said.setText(tr("Open a picture first."))
            return
        for rgb in telling_colors(self.view.rgb, self.count.value()):
            self.take(to_hex(rgb))

    def _harmonize(self, place: int) -> None:
        if place > 0 and self._in_hand is not None:
            kind = list(_HARMONIES)[place - 1]
            for rgb in harmony(from_hex(self._in_hand), kind):
                self.take(to_hex(rgb))
        self.harmony.setCurrentIndex(0)

    # Ink sets and files

    def _list_sets(self) -> None:
        self.inks.clear()
        self.inks.addItem(tr("Replace by the nearest of my inks"), None)
        for number, kept in self._book.ink_sets().items():
            self.inks.addItem(tr("{0}, {1} inks", kept.name, len(kept.inks)), number)
        self.inks.setEnabled(self.inks.count() > 1)

    def _match(self, place: int) -> None:
        number = self.inks.itemData(place)
        self.inks.setCurrentIndex(0)
        if number is None or not self.list.count():
            return
        owned = self._book.ink_sets()[number].inks
        taken, worst = self.colors(), 0.0
        self._empty()
        for _, color in taken:
            best, away = nearest(from_hex(color), [from_hex(c) for _, c in owned])
            worst = max(worst, away)
            self.take(owned[best][1], owned[best][0])
        self.said.setText(tr("Each is the nearest of your inks; the farthest lies {0:.1f} ΔE away.", worst))

    def _keep_set(self) -> None:
        try:
            verbs.keep_ink_set(self._book, self.set_name.text(), self.colors())
        except DripPotError as error:
            self.said.setText(str(error))
            return
        self.said.setText(tr("{0} is kept in the book.", self.set_name.text()))
        self._list_sets()

    def _read(self) -> None:
        found, _ = QFileDialog.getOpenFileName(self, tr("Palette"), str(self._folder), _PALETTES)
        if found:
            self.read_palette(Path(found))

    def read_palette(self, path: Path) -> None:
        """Take the colours of a palette file; what was left out is said."""
        try:
            inks, problems = read_palette(path)
        except DripPotError as error:
            self.said.setText(str(error))
            return
        for ink in inks:
            self.take(ink.local, ink.name)
        more = tr(" {0} more were left out.", len(problems) - 3) if len(problems) > 3 else ""
        self.said.setText(" ".join(problems[:3]) + more)

    def _write(self) -> None:
        if not self.list.count():
            self.said.setText(tr("Take colours first."))
            return
        found, _ = QFileDialog.getSaveFileName(self, tr("Palette"), str(self._folder / "palette.json"), _PALETTES)
        if found:
            self.write_palette(Path(found))

    def write_palette(self, path: Path) -> None:
        """Write the colours taken as a palette file."""
        try:
            write_palette(path, [Ink(name, color, self.part.text().strip()) for name, color in self.colors()])
        except DripPotError as error:
            self.said.setText(str(error))
            return
        self.said.setText(tr("Wrote {0}.", path.name))

    def accept(self) -> None:
        try:
            self.made = verbs.add_pots(self._book, self.part.text(), self.colors())
        except DripPotError as error:
            self.said.setText(str(error))
            return
        super().accept()
