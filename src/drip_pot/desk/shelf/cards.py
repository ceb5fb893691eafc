# SPDX-License-Identifier: GPL-3.0-or-later
"""Cards on the shelf: sheets or plates as small pages. Knows the easel."""

from dataclasses import dataclass

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QImage, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QShowEvent
from PyQt6.QtWidgets import QWidget

from drip_pot.core.arrays import U8
from drip_pot.desk.parts import icons, theme
from drip_pot.desk.parts.pixels import image_of
from drip_pot.desk.session.easel import Easel
from drip_pot.words import tr


@dataclass(frozen=True)
class Card:
    """A card: its name, what it says, its picture, its number, whether it is on, and whether it has an eye."""

    name: str
    says: str
    picture: QImage | None
    number: int
    on: bool
    eye: bool = False


class Cards(QWidget):
    """A row of small pages on the shelf; subclasses say which and what a click does, and how large they are."""

    wide, high, around = 132, 92, 9

    def __init__(self, easel: Easel, name: str) -> None:
        super().__init__()
        self.easel = easel
        self._title = name
        self._pictures: list[Card] = []
        self._place = 0
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setAccessibleName(tr(name))
        easel.refreshed.connect(self.refresh)
        easel.chosen.connect(self.refresh)

    def made(self) -> list[Card]:
        """Return the cards as they are now."""
        return []

    def is_strong(self, card: Card) -> bool:
        """Whether a card has a strong edge."""
        return False

    def press(self, card: Card, mods: Qt.KeyboardModifier) -> None:
        """Do what a click on a card, or Space, does."""

    def eyed(self, card: Card) -> None:
        """Do what a click on a card's eye does."""

    def go(self, place: int) -> None:
        """Go to a card with the keys."""
        self._place = place
        self._tell()
        self.update()

    def _tell(self) -> None:
        """Say which card the keys are at."""
        if self._pictures:
            self._place = min(self._place, len(self._pictures) - 1)
            card = self._pictures[self._place]
            self.setAccessibleName(f"{tr(self._title)}: {tr(card.name)}")
            self.setAccessibleDescription(tr(card.says))

    def refresh(self) -> None:
        """Draw the small pictures anew."""
        if not self.isVisible():
            return
        self._pictures = self.made()
        self.setMinimumWidth(28 + (self.wide + 10) * len(self._pictures))
        self._tell()
        self.update()

    def showEvent(self, event: QShowEvent | None) -> None:
        self.refresh()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        for place, card in enumerate(self._pictures):
            box = self._box(place)
            if event is not None and not box.toAlignedRect().adjusted(-2, -2, 2, 2).intersects(event.rect()):
                continue
            strong = self.is_strong(card)
            edge = Qt.PenStyle.SolidLine if card.on else Qt.PenStyle.DashLine
            painter.setPen(QPen(theme.color("text" if strong else "edge"), 2 if strong else 1, edge))
            painter.setBrush(QColor("#ffffff"))
            if self.hasFocus() and place == self._place:
                painter.setPen(QPen(theme.color("text"), 3))
            painter.drawRoundedRect(box, 6, 6)
            room = box.adjusted(8, 6, -8, -6)
            wide = 0.0
            if card.picture is not None:
                wide = min(room.height() * card.picture.width() / max(card.picture.height(), 1), 70.0)
                painter.setOpacity(1.0 if card.on else 0.3)
                high = wide * card.picture.height() / max(card.picture.width(), 1)
                painter.drawImage(QRectF(room.right() - wide, room.top(), wide, high), card.picture)
                painter.setOpacity(1.0)
            room.setWidth(max(room.width() - wide - 4, 44))
            painter.setPen(QColor("#161616"))
            painter.setFont(theme.font(14, 600, theme.FIGURES))
            short = painter.fontMetrics().elidedText(card.name, Qt.TextElideMode.ElideRight, int(room.width()))
            painter.drawText(room, Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignBottom, short)
            painter.setPen(QColor("#5e5e5e"))
            painter.setFont(theme.font(13, 400, theme.FIGURES))
            if card.eye:
                eye = icons.pixmap("eye", "#161616" if card.on else "#b0b0b0", _EYE, self.devicePixelRatioF())
                painter.drawPixmap(self._eye(box).topLeft(), eye)
            else:
                painter.drawText(room, Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignTop, card.says)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        card = self.card_at(event.position())
        if card is not None:
            self._place = self._pictures.index(card)
            if card.eye and self._eye(self._box(self._place)).contains(event.position()):
                self.eyed(card)
            else:
                right = event.button() == Qt.MouseButton.RightButton
                self.press(card, event.modifiers() | (_ALT if right else Qt.KeyboardModifier.NoModifier))
            self._tell()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        step = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}.get(Qt.Key(event.key()), 0)
        if step and self._pictures:
            self.go((self._place + step) % len(self._pictures))
        elif event.key() == Qt.Key.Key_Space and self._pictures and self._pictures[self._place].eye:
            self.eyed(self._pictures[self._place])
        elif event.key() in (Qt.Key.Key_Space, Qt.Key.Key_Return, Qt.Key.Key_Enter) and self._pictures:
            self.press(self._pictures[self._place], event.modifiers())
        else:
            super().keyPressEvent(event)

    def card_at(self, at: QPointF) -> Card | None:
        """Return the card at a position."""
        return next((card for place, card in enumerate(self._pictures) if self._box(place).contains(at)), None)

    @staticmethod
    def _eye(box: QRectF) -> QRectF:
        return QRectF(box.left() + 5, box.top() + 4, _EYE, _EYE)

    def _box(self, place: int) -> QRectF:
        return QRectF(18 + (self.wide + 10) * place, self.around, self.wide, self.high)


_EYE, _ALT = 20, Qt.KeyboardModifier.AltModifier


def card_image(rgb: U8) -> QImage:
    """Return a picture for a card, from (M, N, 3) uint8."""
    return image_of(rgb).scaledToHeight(160, Qt.TransformationMode.SmoothTransformation)
