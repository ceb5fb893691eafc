# SPDX-License-Identifier: GPL-3.0-or-later
"""Colours taken from what is there: the pots of a book, and any place of the program's windows. Knows widgets."""

from collections.abc import Sequence
from typing import NamedTuple

from PyQt6.QtCore import QPoint, QRect, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QIcon, QKeyEvent, QMouseEvent, QPainter, QPixmap
from PyQt6.QtWidgets import QApplication, QListView, QListWidget, QListWidgetItem, QToolButton, QWidget

from drip_pot.book import Book
from drip_pot.desk.parts import theme
from drip_pot.desk.parts.icons import icon
from drip_pot.words import tr

_SIDE, _ROWS = 20, 2


class OfferedColor(NamedTuple):
    """A colour that a book has: '#rrggbb', names of its pot and part, what it is printed with if that is kept."""

    color: str
    name: str
    inks: str = ""


def offered_by(book: Book) -> tuple[OfferedColor, ...]:
    """Return the colours of a book's pots in shelf order; those with inks of their own say them."""
    parts, found = book.parts(), []
    place = {part: k for k, part in enumerate(parts)}
    for pot in sorted(book.pots().values(), key=lambda pot: place.get(pot.part, len(place))):
        part = parts[pot.part].name if pot.part in parts else ""
        fixed = "  ".join(f"{n} {v}" for n, v in zip("CMYK", pot.inks or (), strict=False))
        found.append(OfferedColor(pot.local, f"{pot.name}, {part}", pot.spot or fixed))
    return tuple(found)


def swatch_icon(color: str, *, kept: bool = False) -> QIcon:
    """Return a small filled square; with a notch where its inks are `kept`."""
    picture = QPixmap(18, 18)
    picture.fill(QColor(color))
    painter = QPainter(picture)
    painter.setPen(QColor(0, 0, 0, 120))
    painter.drawRect(0, 0, 17, 17)
    if kept:
        painter.fillRect(11, 11, 7, 7, QColor("#ffffff"))
        painter.fillRect(12, 12, 5, 5, QColor("#161616"))
    painter.end()
    return QIcon(picture)


class PotSwatches(QListWidget):
    """The colours of all pots, to be clicked or gone through by the arrow keys.

    Signals
    -------
    taken(str)
        '#rrggbb' of the one that was chosen.
    """

    taken = pyqtSignal(str)

    def __init__(self, offered: Sequence[OfferedColor]) -> None:
        super().__init__()
        self.setViewMode(QListView.ViewMode.IconMode)
        self.setMovement(QListView.Movement.Static)
        self.setResizeMode(QListView.ResizeMode.Adjust)
        self.setIconSize(QSize(18, 18))
        self.setGridSize(QSize(_SIDE + 4, _SIDE + 4))
        self.setFixedHeight(_ROWS * (_SIDE + 4) + 6)
        self.setAccessibleName(tr("Colours of pots"))
        for one in offered:
            item = QListWidgetItem(swatch_icon(one.color, kept=bool(one.inks)), "")
            told = tr("{0}: {1}", one.name, one.inks) if one.inks else one.name
            item.setToolTip(told)
            item.setData(Qt.ItemDataRole.AccessibleTextRole, told)
            item.setData(Qt.ItemDataRole.UserRole, one.color)
            self.addItem(item)
        self.setVisible(bool(offered))
        self.itemClicked.connect(self._take)
        self.itemActivated.connect(self._take)

    def _take(self, item: QListWidgetItem) -> None:
        self.taken.emit(item.data(Qt.ItemDataRole.UserRole))


class Dropper(QToolButton):
    """A button after which a click on any place of the program's windows takes its colour: page, picture, shelf.

    Escape puts it down.

    Signals
    -------
    taken(str)
        '#rrggbb' of that place.
    """

    taken = pyqtSignal(str)

    def __init__(self) -> None:
        super().__init__()
        self.setText(tr("Dropper"))
        self.setIcon(icon("Dropper", theme.color("text").name(), 18))
        self.setToolButtonStyle(Qt.ToolButtonStyle.ToolButtonTextBesideIcon)
        self.setCheckable(True)
        self.setToolTip(tr("Then click a place of the page, a picture or anything else here; Escape puts it down"))
        self.clicked.connect(self._turn)

    def _turn(self, on: bool) -> None:
        if on:
            self.grabMouse(Qt.CursorShape.CrossCursor)
            self.grabKeyboard()
        else:
            self._put_down()

    def _put_down(self) -> None:
        self.setChecked(False)
        self.releaseMouse()
        self.releaseKeyboard()

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None or not self.isChecked():
            super().mousePressEvent(event)

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        if event is None or not self.isChecked():
            super().mouseReleaseEvent(event)
            return
        self._put_down()
        color = color_seen(event.globalPosition().toPoint())
        if color:
            self.taken.emit(color)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and self.isChecked() and event.key() == Qt.Key.Key_Escape:
            self._put_down()
        else:
            super().keyPressEvent(event)


def color_seen(at: QPoint) -> str:
    """Return '#rrggbb' of what the program shows at a place of the screen; '' beside its windows."""
    there: QWidget | None = QApplication.widgetAt(at)
    if there is None:
        return ""
    inside = there.mapFromGlobal(at)
    return there.grab(QRect(inside, QSize(1, 1))).toImage().pixelColor(0, 0).name()
