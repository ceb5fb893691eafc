# SPDX-License-Identifier: GPL-3.0-or-later
"""What lies over each other, strung like beads, to be put into order: passes, holds. Knows the theme only."""

from collections.abc import Sequence
from dataclasses import dataclass

from PyQt6.QtCore import QPointF, QRectF, QSize, QSizeF, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QImage, QKeyEvent, QMouseEvent, QPainter, QPainterPath, QPaintEvent, QPen
from PyQt6.QtWidgets import QScrollArea, QWidget

from drip_pot.desk.parts import theme
from drip_pot.words import tr

_HIGH, _GAP, _EYE, _BEAD, _DRAG_PX, _AT_ONCE = 46, 4, 36, 25, 8, 4


@dataclass(frozen=True)
class ListCard:
    """A card: its number, name, what it says, its two colours, whether it is shown, and what is painted, if known."""

    number: int
    name: str
    says: str
    colors: tuple[str, str]
    shown: bool
    picture: QImage | None = None


class CardList(QWidget):
    """The cards, the topmost first.

    Signals
    -------
    chosen(int), eyed(int), soloed(int)
        A card is taken in hand; its eye is clicked; it is clicked with Alt or the right button.
    moved(int, int)
        A card is to go so many places up.
    removed(int)
        Delete was pressed on a card.
    listed(int)
        Other cards are shown, or another one is in hand, at a place.
    """

    chosen = pyqtSignal(int)
    eyed = pyqtSignal(int)
    soloed = pyqtSignal(int)
    moved = pyqtSignal(int, int)
    removed = pyqtSignal(int)
    listed = pyqtSignal(int)

    def __init__(self, name: str) -> None:
        super().__init__()
        self.setAccessibleName(tr(name))
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self._cards: list[ListCard] = []
        self._in_hand = 0
        self._drag: tuple[int, float, bool] | None = None

    def show_cards(self, cards: Sequence[ListCard], in_hand: int) -> None:
        """Show cards from the topmost down, one of them in hand."""
        if (list(cards), in_hand) == (self._cards, self._in_hand):
            return
        self._cards, self._in_hand = list(cards), in_hand
        said = next((f"{c.name}, {c.says}" for c in cards if c.number == in_hand), "")
        self.setAccessibleDescription(said)
        self.setFixedHeight(max(1, len(self._cards)) * (_HIGH + _GAP))
        self.updateGeometry()
        self.update()
        self.listed.emit(next((k for k, card in enumerate(self._cards) if card.number == in_hand), 0))

    def sizeHint(self) -> QSize:
        return QSize(200, self.height())

    def box(self, place: int) -> QRectF:
        """Return where a card is."""
        return QRectF(1, place * (_HIGH + _GAP) + 1, self.width() - 2, _HIGH - 2)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        self._thread(painter)
        for place, card in enumerate(self._cards):
            box, strong = self.box(place), card.number == self._in_hand
            dragged = self._drag is not None and self._drag[2] and self._drag[0] == card.number
            if strong or dragged:
                painter.setPen(QPen(theme.color("text"), 2))
                painter.setBrush(theme.color("chrome" if dragged else "card"))
                painter.drawRoundedRect(box, _HIGH / 2, _HIGH / 2)
            if strong and self.hasFocus():
                painter.setPen(QPen(theme.color("text"), 1, Qt.PenStyle.DotLine))
                painter.drawRoundedRect(box.adjusted(3, 3, -3, -3), _HIGH / 2 - 3, _HIGH / 2 - 3)
            at = QPointF(box.left() + _BEAD, box.center().y())
            (self._disc if card.picture is None else self._picture)(painter, at, card)
            room = box.adjusted(2 * _BEAD, 4, -_EYE, -4)
            painter.setPen(theme.color("text" if card.shown else "muted"))
            painter.setFont(theme.font(14, 500))
            painter.drawText(
                room, Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignTop, _fitted(painter, card.name, room)
            )
            painter.setPen(theme.color("muted"))
            painter.setFont(theme.font(13, 400, theme.FIGURES))
            painter.drawText(
                room, Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignBottom, _fitted(painter, card.says, room)
            )
            self._eye(painter, QPointF(box.right() - 22, box.center().y()), on=card.shown)

    def _thread(self, painter: QPainter) -> None:
        """Draw the thread that what is listed is strung on, down to what it all lies over."""
        if self._cards:
            top, bottom = self.box(0), self.box(len(self._cards) - 1)
            painter.setPen(QPen(theme.color("muted"), 2))
            painter.drawLine(
                QPointF(top.left() + _BEAD, top.center().y()), QPointF(top.left() + _BEAD, bottom.bottom())
            )

    @staticmethod
    def _disc(painter: QPainter, at: QPointF, card: ListCard) -> None:
        """Draw a disc of both colours, parted on the slant."""
        painter.setPen(QPen(theme.color("muted"), 1))
        painter.setBrush(QColor(card.colors[0]))
        painter.drawEllipse(at, 14, 14)
        painter.setBrush(QColor(card.colors[1]))
        painter.setPen(Qt.PenStyle.NoPen)
        painter.drawChord(QRectF(at.x() - 13.5, at.y() - 13.5, 27, 27), 200 * 16, 180 * 16)

    @staticmethod
    def _picture(painter: QPainter, at: QPointF, card: ListCard) -> None:
        """Draw what is painted, in a frame."""
        assert card.picture is not None
        size = QSizeF(card.picture.size()).scaled(QSizeF(36, 36), Qt.AspectRatioMode.KeepAspectRatio)
        box = QRectF(at.x() - size.width() / 2, at.y() - size.height() / 2, size.width(), size.height())
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        painter.drawImage(box, card.picture)
        painter.setPen(QPen(theme.color("muted"), 1))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(box)

    @staticmethod
    def _eye(painter: QPainter, at: QPointF, *, on: bool) -> None:
        """Draw an eye, open or shut, as two strokes of a brush."""
        ink = theme.color("text" if on else "muted")
        lid = QPainterPath(at + QPointF(-9, 1))
        lid.quadTo(at + QPointF(0, -9 if on else 7), at + QPointF(9, 1))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(ink, 2.2, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
        painter.drawPath(lid)
        if on:
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(ink)
            painter.drawEllipse(at + QPointF(0, 1.5), 3.2, 3.2)

    def _at(self, at: QPointF) -> int | None:
        return next((k for k in range(len(self._cards)) if self.box(k).contains(at)), None)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        place = self._at(event.position())
        if place is None:
            return
        number = self._cards[place].number
        if event.button() == Qt.MouseButton.RightButton or event.modifiers() & Qt.KeyboardModifier.AltModifier:
            self.soloed.emit(number)
            return
        if event.position().x() > self.width() - _EYE:
            self.eyed.emit(number)
            return
        self.chosen.emit(number)
        self._drag = (number, event.globalPosition().y(), False)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        """Begin to drag after some pixels, measured on the screen: the list itself may move when a card is taken."""
        assert event is not None
        if self._drag is not None and abs(event.globalPosition().y() - self._drag[1]) >= _DRAG_PX:
            self._drag = (*self._drag[:2], True)
            self.update()

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        drag, self._drag = self._drag, None
        if drag is not None and drag[2]:
            places = round((drag[1] - event.globalPosition().y()) / (_HIGH + _GAP))
            if places:
                self.moved.emit(drag[0], places)
        self.update()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        numbers = [card.number for card in self._cards]
        place = numbers.index(self._in_hand) if self._in_hand in numbers else 0
        step = {Qt.Key.Key_Up: -1, Qt.Key.Key_Down: 1}.get(Qt.Key(event.key()), 0)
        if step and event.modifiers() & Qt.KeyboardModifier.AltModifier:
            self.moved.emit(self._in_hand, -step)
        elif step and 0 <= place + step < len(numbers):
            self.chosen.emit(numbers[place + step])
        elif event.key() == Qt.Key.Key_Space and numbers:
            self.eyed.emit(self._in_hand)
        elif event.key() == Qt.Key.Key_Delete and numbers:
            self.removed.emit(self._in_hand)
        else:
            super().keyPressEvent(event)


class ShortList(QScrollArea):
    """A list of cards that shows some at once, the one in hand among them, so that what stands below stays in sight."""

    def __init__(self, cards: CardList) -> None:
        super().__init__()
        self.cards = cards
        self.setWidget(cards)
        self.setWidgetResizable(True)
        self.setFrameShape(QScrollArea.Shape.NoFrame)
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        cards.listed.connect(self._fit)
        self._fit(0)

    def _fit(self, place: int) -> None:
        """Be as high as the cards, or as so many; bring the card at a place into sight."""
        self.setFixedHeight(min(self.cards.height(), _AT_ONCE * (_HIGH + _GAP)))
        at = self.cards.box(place).center().toPoint()
        self.ensureVisible(at.x(), at.y(), 0, _HIGH)


def _fitted(painter: QPainter, words: str, room: QRectF) -> str:
    """Return words cut to fit a place, with dots where something is left out."""
    return painter.fontMetrics().elidedText(words, Qt.TextElideMode.ElideRight, int(room.width()))
