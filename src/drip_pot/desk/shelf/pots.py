# SPDX-License-Identifier: GPL-3.0-or-later
"""All pots on the shelf, part by part. Knows the easel; edits through it."""

from dataclasses import dataclass

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QToolTip, QWidget

from drip_pot.book import Book, verbs
from drip_pot.book.pot_keys import pot_keys
from drip_pot.book.values import PINS
from drip_pot.desk.parts import theme
from drip_pot.desk.parts.pot import paint_drip, paint_pot
from drip_pot.desk.session.easel import Easel
from drip_pot.words import tr

_CELL, _ROW, _DISC, _TOP, _NUMBERED = 39, 43, 14, 22, 99


@dataclass(frozen=True)
class _Place:
    pot: int | None
    at: QPointF
    key: str
    pinned: bool = False


class Pots(QWidget):
    """All pots, part by part; those that keys take in hand show them, on black where they are pinned to them.

    A double click changes a pot or a part's name, dragging moves a pot, a click on a part's name folds it, the right
    button shows what else there is.

    Signals
    -------
    edit_wanted(int), name_wanted(int)
        A pot wants to be changed; a part wants a name.
    menu_wanted(object, int, int)
        Pot and part (0 for none) under a global position.
    """

    edit_wanted = pyqtSignal(int)
    name_wanted = pyqtSignal(int)
    menu_wanted = pyqtSignal(object, int, int)

    def __init__(self, easel: Easel) -> None:
        super().__init__()
        self.easel = easel
        self._places: list[_Place] = []
        self._heads: list[tuple[int, str, float, float]] = []
        self._folded: set[int] = set()
        self._part = 0
        self._drag: tuple[int, QPointF, QPointF] | None = None
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setAccessibleName(tr("Pots"))
        easel.edited.connect(self.refresh)
        easel.chosen.connect(self.refresh)
        self.refresh()

    def refresh(self) -> None:
        """Lay the pots out anew."""
        self._places, self._heads = [_Place(None, QPointF(30, _TOP + _ROW / 2 - 2), "0")], [(0, tr("Paper"), 10, 50)]
        x = 66.0
        book = self.easel.book
        keys = {pot: key for key, pot in self.keys().items()}
        pinned = self._pinned()
        for part, members in pots_by_part(book).items():
            columns = max(1, -(-len(members) // 2)) if len(members) > 3 else max(1, len(members))
            if book is not None:
                self._heads.append((part, book.parts()[part].name, x, columns * _CELL))
            if part in self._folded and part != self.part_in_hand():
                self._heads[-1] = (part, self._heads[-1][1], x, _CELL)
                x += _CELL + 13
                continue
            for place, pot in enumerate(members):
                at = QPointF(x + _CELL * (place % columns) + _CELL / 2, _TOP + _ROW * (place // columns) + _ROW / 2 - 2)
                key = keys.get(pot, _NUMBERED + 1)
                self._places.append(_Place(pot, at, str(key) if key <= _NUMBERED else "", pot in pinned))
            x += columns * _CELL + 13
        self.setMinimumWidth(int(x))
        held = book.pots().get(self.easel.pot or 0) if book is not None else None
        self.setAccessibleName(tr("Pots"))
        self.setAccessibleDescription(tr("{0} in hand", held.name if held is not None else tr("Paper")))
        self.update()

    def keys(self) -> dict[int, int]:
        """Return the pots by the number that takes them in hand now."""
        book, page = self.easel.book, self.easel.page
        return {} if book is None or page not in book.pages() else pot_keys(book, page, self.part_in_hand())

    def _pinned(self) -> set[int]:
        sources = self.easel.sources()
        return set() if sources is None else set(sources[PINS].values())

    def part_in_hand(self) -> int:
        """Return the part whose pots have the keys 1 to 9: that of the pot in hand, or with paper in hand the last."""
        groups = pots_by_part(self.easel.book)
        self._part = next((part for part, members in groups.items() if self.easel.pot in members), self._part)
        if self._part not in groups:
            self._part = next((part for part, members in groups.items() if members), 0)
        return self._part

    def sizeHint(self) -> QSize:
        return QSize(self.minimumWidth(), 110)

    def place_of(self, pot: int | None) -> QPointF | None:
        """Return where a pot's disc is; None where it is folded away."""
        return next((p.at for p in self._places if p.pot == pot), None)

    def pot_at(self, at: QPointF) -> _Place | None:
        """Return what is under a position."""
        return next((p for p in self._places if (p.at - at).manhattanLength() <= _CELL / 2 + 4), None)

    def fold(self, part: int) -> None:
        """Fold a part away, or open it again; the part in hand is always open."""
        self._folded ^= {part}
        self.refresh()

    def part_at(self, at: QPointF) -> int:
        """Return the part at a position; 0 for none."""
        return next((part for part, _, x, wide in self._heads if x - 7 <= at.x() < x + wide + 6), 0)

    def place_in(self, part: int, at: QPointF) -> int:
        """Return where in a part a pot dropped at a position goes."""
        others = [p for p in self._places if p.pot in pots_by_part(self.easel.book).get(part, [])]
        before = [p for p in others if (p.at.y() < at.y() - _ROW / 2) or
                  (abs(p.at.y() - at.y()) <= _ROW / 2 and p.at.x() < at.x())]  # fmt: skip
        return len(before)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setFont(theme.font(13, 600, theme.FIGURES))
        painter.setPen(theme.color("text"))
        counts = {part: len(members) for part, members in pots_by_part(self.easel.book).items()}
        shown = {p.pot for p in self._places}
        for part, name, x, wide in self._heads:
            room = QRectF(x + 4, 3, wide + 8, 18)
            painter.setPen(theme.color("text"))
            short = painter.fontMetrics().elidedText(name, Qt.TextElideMode.ElideRight, int(room.width()))
            painter.drawText(room, Qt.AlignmentFlag.AlignVCenter, short)
            if part:
                painter.setPen(theme.color("line"))
                painter.drawLine(QPointF(x - 7, 8), QPointF(x - 7, 102))
                if part in self._folded and not shown & set(pots_by_part(self.easel.book).get(part, [])):
                    painter.setPen(theme.color("muted"))
                    painter.drawText(QRectF(x, 40, wide, 30), Qt.AlignmentFlag.AlignCenter, f"+{counts.get(part, 0)}")
        book = self.easel.book
        pots_known = book.pots() if book is not None else {}
        seen = QRectF(event.rect() if event is not None else self.rect()).adjusted(-_CELL, -_ROW, _CELL, _ROW)
        for place in self._places:
            if not seen.contains(place.at):
                continue
            pair = ("#ffffff", "#ffffff")
            if place.pot in pots_known and book is not None and place.pot is not None:
                pair = book.tone_pair(pots_known[place.pot])
            in_hand = place.pot == self.easel.pot and book is not None
            paint_pot(painter, place.at, _DISC, *pair)
            if in_hand:
                painter.setBrush(Qt.BrushStyle.NoBrush)
                painter.setPen(QPen(theme.color("text"), 2.2))
                painter.drawEllipse(place.at, _DISC + 3.5, _DISC + 3.5)
                paint_drip(painter, place.at + QPointF(0, _DISC + 3.2), 4.0, pair[0])
            if place.key:
                wide = 14 if len(place.key) == 1 else 18
                spot = QRectF(place.at.x() + 22 - wide, place.at.y() + 6, wide, 14)
                painter.setPen(Qt.PenStyle.NoPen)
                painter.setBrush(theme.color("text" if place.pinned else "well"))
                painter.drawEllipse(spot)
                painter.setPen(theme.color("well" if place.pinned else "text"))
                painter.setFont(theme.font(12, 600, theme.FIGURES))
                painter.drawText(spot, Qt.AlignmentFlag.AlignCenter, place.key)
        if self.hasFocus():
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setPen(QPen(theme.color("text"), 2))
            painter.drawRoundedRect(QRectF(self.visibleRegion().boundingRect()).adjusted(1, 1, -1, -1), 5, 5)
        if self._drag is not None and book is not None and self._drag[0] in pots_known:
            paint_pot(painter, self._drag[2], _DISC, *book.tone_pair(pots_known[self._drag[0]]))

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        at = event.position()
        place, part = self.pot_at(at), self.part_at(at)
        if event.button() == Qt.MouseButton.RightButton:
            number = place.pot if place is not None and place.pot is not None else 0
            self.menu_wanted.emit(event.globalPosition().toPoint(), number, part)
        elif place is not None:
            self.easel.choose_pot(place.pot)
            at_now = next((p.at for p in self._places if p.pot == place.pot), at)
            self._drag = None if place.pot is None else (place.pot, at_now, at_now)
        elif part and at.y() < _TOP:
            self.fold(part)

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        drag, self._drag = self._drag, None
        self.update()
        if drag is None or (drag[2] - drag[1]).manhattanLength() < _CELL / 2:
            return
        part = self.part_at(event.position())
        book = self.easel.book
        if part and book is not None:
            same = [n for n in pots_by_part(book)[part] if n != drag[0]]
            place = self.place_in(part, event.position())
            was = pots_by_part(book)[part].index(drag[0]) if drag[0] in pots_by_part(book)[part] else len(same)
            place = place - 1 if drag[0] in pots_by_part(book)[part] and was < place else place
            self.easel.do(lambda book, _: verbs.move_pot(book, drag[0], part, place))

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        place, at = self.pot_at(event.position()), event.position()
        head = next((part for part, _, x, wide in self._heads if at.y() < _TOP and x <= at.x() < x + wide), 0)
        if head:
            self.name_wanted.emit(head)
        elif place is not None and place.pot is not None:
            self.edit_wanted.emit(place.pot)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if self._drag is not None:
            self._drag = (*self._drag[:2], event.position())
            self.update()
            return
        place = self.pot_at(event.position())
        if place is None or self.easel.book is None:
            QToolTip.hideText()
            return
        pot = self.easel.book.pots().get(place.pot or 0)
        name = pot.name if pot is not None else "Paper: pour it to empty a region"
        QToolTip.showText(event.globalPosition().toPoint(), name, self)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        step = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}.get(Qt.Key(event.key()))
        order = [p.pot for p in self._places]
        if step and self.easel.pot in order:
            self.easel.choose_pot(order[(order.index(self.easel.pot) + step) % len(order)])
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and self.easel.pot is not None:
            self.edit_wanted.emit(self.easel.pot)
        else:
            super().keyPressEvent(event)


def pots_by_part(book: Book | None) -> dict[int, list[int]]:
    """Return the pots of each part, in shelf order; parts without pots too."""
    if book is None:
        return {}
    found: dict[int, list[int]] = {part: [] for part in book.parts()}
    for number, pot in book.pots().items():
        found.setdefault(pot.part, []).append(number)
    return found
