# SPDX-License-Identifier: GPL-3.0-or-later
"""Settings of a pass that is a picture: flats, line, mesh, whether it is printed. Writes through Shade's hands."""

import msgspec
from PyQt6.QtWidgets import QCheckBox, QVBoxLayout, QWidget

from drip_pot.book import Book, verbs
from drip_pot.book.values import Pass
from drip_pot.core.render import MOST_FLATS
from drip_pot.desk.parts.widgets import NumberRow, button
from drip_pot.desk.session.easel import Easel
from drip_pot.desk.stages.shade.shading import Shading
from drip_pot.words import tr


class PictureRows(QWidget):
    """What can be set of a placed picture."""

    def __init__(self, easel: Easel) -> None:
        super().__init__()
        self.easel, self._shading = easel, easel.own(Shading)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        self.flats = NumberRow("Flats (0: as it is)", 0, MOST_FLATS, 1, "")
        self.flats.done.connect(lambda v: self._reduce(round(v), line=self.line.isChecked()))
        self.line = QCheckBox(tr("Line round the flats"))
        self.line.clicked.connect(lambda on: self._reduce(round(self.flats.value()), line=on))
        self.mesh = NumberRow("Mesh (1: corners)", 1, 8, 1, "")
        self.mesh.done.connect(lambda v: self._mesh(round(v)))
        self.repeats = QCheckBox(tr("Repeat as a pattern"))
        self.repeats.setToolTip(tr("The picture goes on and on over the page; pull it to the size of one repeat"))
        self.repeats.clicked.connect(self._repeat)
        self.printed = QCheckBox(tr("Printed and exported"))
        self.printed.setToolTip(tr("Off: it is there to judge by, and in no file and on no plate"))
        self.printed.clicked.connect(lambda on: self._shading.change(printed=on))
        self.behind = button(
            "Behind figures", self._behind, "Lay it on the grounds that it crosses, or on what is picked"
        )
        for part in (self.flats, self.line, self.mesh, self.repeats, self.printed, self.behind):
            column.addWidget(part)

    def _reduce(self, flats: int, *, line: bool) -> None:
        held = self._shading.in_hand()
        if held is not None:
            number, flats = held[0], 2 if flats == 1 else flats
            self.easel.hands.start(lambda hand: _reduced(hand.book, hand.page, number, flats, line))

    def _repeat(self, on: bool) -> None:
        held = self._shading.in_hand()
        if held is not None and held[1].placed is not None:
            self._shading.change(placed=msgspec.structs.replace(held[1].placed, repeats=on))

    def _behind(self) -> None:
        held = self._shading.in_hand()
        if held is not None:
            number = held[0]
            self.easel.hands.start(lambda hand: verbs.lay_behind(hand, number))

    def _mesh(self, cells: int) -> None:
        held = self._shading.in_hand()
        if held is not None:
            number = held[0]
            self.easel.do(lambda book, page: verbs.mesh_picture(book, page, number, cells, cells))

    def show_pass(self, one: Pass) -> None:
        """Show a pass; one that is no picture hides the rows."""
        self.setVisible(one.placed is not None)
        if one.placed is not None:
            self.flats.show_value(one.placed.flats)
            self.line.setEnabled(one.placed.flats > 0)
            self.line.setChecked(one.placed.line)
            self.mesh.show_value(one.placed.across)
            self.mesh.setEnabled(not one.placed.repeats)
            self.repeats.setEnabled(one.placed.across == one.placed.down == 1)
            self.repeats.setChecked(one.placed.repeats)
            self.printed.setChecked(one.printed)


def _reduced(book: Book, page: int, number: int, flats: int, line: bool) -> None:
    """Reduce a picture, and have its pixels ready."""
    verbs.reduce_placed(book, page, number, flats, line=line)
    book.pictures(verbs.known_picture(book, page, number))
