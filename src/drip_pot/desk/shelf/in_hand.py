# SPDX-License-Identifier: GPL-3.0-or-later
"""The corner of the shelf: the pot in hand, or what a stage without pots tells. Knows the easel."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass

from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QPainter, QPaintEvent
from PyQt6.QtWidgets import QGridLayout, QHBoxLayout, QWidget

from drip_pot.book import PageSources
from drip_pot.book.tables import PAPER, inks_for
from drip_pot.book.values import PRESS
from drip_pot.core.color import from_hex
from drip_pot.core.press import PressSettings
from drip_pot.desk.parts import theme
from drip_pot.desk.parts.pot import paint_drip, paint_pot
from drip_pot.desk.parts.widgets import button, label
from drip_pot.desk.session.easel import Easel
from drip_pot.desk.view.render import PLATES
from drip_pot.words import tr


@dataclass(frozen=True)
class Tells:
    """What the corner of the shelf tells in a stage without pots.

    Attributes
    ----------
    words : callable
        Returns a title, a note and two lines.
    of_page : bool
        Whether the page and its sheets can be changed there.
    """

    words: Callable[[Easel, PageSources], tuple[str, str, str, str]]
    of_page: bool = False


class InHand(QWidget):
    """The pot in hand: name, part, inks; in Inks the drawing itself, in Press what will be delivered."""

    edit_wanted = pyqtSignal(int)
    add_wanted = pyqtSignal()
    more_wanted = pyqtSignal(object)
    sheet_wanted = pyqtSignal(object)
    page_wanted = pyqtSignal()

    def __init__(self, easel: Easel, tells: Mapping[str, Tells]) -> None:
        super().__init__()
        self.easel, self._tells = easel, tells
        self._pair = ("#ffffff", "#ffffff")
        grid = QGridLayout(self)
        grid.setContentsMargins(92, 8, 12, 10)
        grid.setVerticalSpacing(0)
        self.name, self.part = label("", "title"), label("", "smallmuted")
        self.local, self.shadow = label("", "small"), label("", "smallmuted")
        grid.addWidget(self.name, 0, 0)
        grid.addWidget(self.part, 0, 1, Qt.AlignmentFlag.AlignRight)
        grid.addWidget(self.local, 1, 0, 1, 2)
        grid.addWidget(self.shadow, 2, 0, 1, 2)
        row = QHBoxLayout()
        row.setSpacing(6)
        self.edit = button("Edit", self._edit, "Change this pot's name and colours (Enter on the shelf)")
        self.add = button("Add", self.add_wanted.emit, "Add a pot to this part")
        self.more = button("More", lambda: self.more_wanted.emit(self.more), "Find, remove, palettes, parts")
        self.sheet = button("Sheet", lambda: self.sheet_wanted.emit(self.sheet),
                            "Name, role, order, hide, replace, take off, add a sheet")  # fmt: skip
        self.page = button("Page", self.page_wanted.emit, "Size, dpi, trim, bleed, straighten")
        for one in (self.edit, self.add, self.more, self.sheet, self.page):
            row.addWidget(one)
        row.addStretch(1)
        grid.addLayout(row, 3, 0, 1, 2)
        easel.edited.connect(self.refresh)
        easel.chosen.connect(self.refresh)
        easel.refreshed.connect(self.refresh)

    def _edit(self) -> None:
        if self.easel.pot is not None:
            self.edit_wanted.emit(self.easel.pot)

    def refresh(self) -> None:
        """Show the pot in hand."""
        book, sources = self.easel.book, self.easel.sources()
        tell = self._tells.get(self.easel.stage)
        colors = tell is None
        for one in (self.edit, self.add, self.more):
            one.setVisible(colors)
        for one in (self.sheet, self.page):
            one.setVisible(tell is not None and tell.of_page and sources is not None)
        self.layout().setContentsMargins(92 if colors else 18, 8, 12, 10)  # type: ignore[union-attr]
        if tell is not None and sources is not None:
            texts = tell.words(self.easel, sources)
            for widget, text in zip((self.name, self.part, self.local, self.shadow), texts, strict=True):
                widget.setText(tr(text))
            self.update()
            return
        self.edit.setEnabled(self.easel.pot is not None)
        self.add.setEnabled(book is not None and bool(book.parts()))
        if book is None or self.easel.pot is None:
            self._pair = ("#ffffff", "#ffffff")
            self.name.setText(tr("Paper"))
            self.part.setText("")
            self.local.setText(tr("No ink: pour it to empty a region"))
            self.shadow.setText("")
        else:
            pot = book.pots()[self.easel.pot]
            self._pair = book.tone_pair(pot)
            self.name.setText(pot.name)
            strength = f", {self.easel.strength * 100:.0f} %" if self.easel.strength < 1 else ""
            part = book.parts()[pot.part].name if pot.part in book.parts() else ""
            scheme = f" · {book.schemes()[book.scheme].name}" if book.scheme else ""
            self.part.setText(part + scheme + strength)
            if sources is not None:
                light, dark = (own_text(pot.spot, own) for own in (pot.inks, pot.shadow_inks))
                self.local.setText(light or ink_text(self._pair[0], sources[PRESS]))
                self.shadow.setText(tr("shadow  ") + (dark or ink_text(self._pair[1], sources[PRESS])))
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(theme.color("chrome"))
        painter.drawRoundedRect(QRectF(self.rect()).adjusted(0, 2, -2, -2), 8, 8)
        if self.easel.stage in self._tells:
            return
        at = QPointF(48, self.height() / 2 - 4)
        paint_pot(painter, at, 30, *self._pair)
        paint_drip(painter, at + QPointF(0, 29), 6, self._pair[0])


def ink_text(color: str, press: PressSettings) -> str:
    """Write a colour's inks as people read them: 'C 4  M 79  Y 84  K 1'."""
    r, g, b = from_hex(color).tolist()
    if (r, g, b) == PAPER:
        return "no ink"
    inks, _ = inks_for((r, g, b), press)
    return "  ".join(
        f"{name[0] if name != 'Black' else 'K'} {round(v / 2.55)}" for name, v in zip(PLATES, inks, strict=True)
    )


def own_text(spot: str, inks: tuple[int, int, int, int] | None) -> str:
    """Write the inks a pot has of its own; empty where it has none."""
    fixed = "" if inks is None else "  ".join(f"{'CMYK'[k]} {v}" for k, v in enumerate(inks))
    return "  ".join(words for words in (spot, fixed) if words)
