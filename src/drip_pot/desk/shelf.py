"""The shelf: pots by part, a disc cut by a hard wave into local and shadow; plates in Press, the sheet in Inks.

Knows the easel; edits through it.
"""

from dataclasses import dataclass

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QImage, QKeyEvent, QMouseEvent, QPainter, QPainterPath, QPaintEvent, QPen
from PyQt6.QtWidgets import QGridLayout, QHBoxLayout, QScrollArea, QToolTip, QWidget

from drip_pot.book import ROLES, Book, PageSources, pots
from drip_pot.book.palette import PAPER, inks_for
from drip_pot.core.color import from_hex
from drip_pot.core.press import PressSettings
from drip_pot.desk import theme
from drip_pot.desk.easel import Easel
from drip_pot.desk.view import proof, small_plates
from drip_pot.desk.widgets import button, label

PLATES = ("Cyan", "Magenta", "Yellow", "Black")
_CELL, _ROW, _DISC, _TOP = 39, 43, 14, 22


def paint_pot(painter: QPainter, at: QPointF, radius: float, local: str, shadow: str) -> None:
    """Draw a pot: a disc in its local colour, the lower part in shadow behind a hard wave."""
    disc = QPainterPath()
    disc.addEllipse(at, radius, radius)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(QColor(local))
    painter.drawPath(disc)
    wave = QPainterPath(QPointF(at.x() - radius, at.y() + 0.16 * radius))
    wave.cubicTo(at + QPointF(-0.4, -0.3) * radius, at + QPointF(0.2, 0.85) * radius, at + QPointF(1.0, 0.18) * radius)
    wave.lineTo(at + QPointF(1.1, 1.1) * radius)
    wave.lineTo(at + QPointF(-1.1, 1.1) * radius)
    painter.setBrush(QColor(shadow))
    painter.drawPath(disc.intersected(wave))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.setPen(QPen(QColor(0, 0, 0, 120), 1))
    painter.drawPath(disc)


def paint_drip(painter: QPainter, at: QPointF, size: float, color: str) -> None:
    """Draw a drip hanging at a point."""
    drip = QPainterPath(at)
    drip.cubicTo(at + QPointF(0.7, 0.9) * size, at + QPointF(0.8, 1.9) * size, at + QPointF(0, 1.9) * size)
    drip.cubicTo(at + QPointF(-0.8, 1.9) * size, at + QPointF(-0.7, 0.9) * size, at)
    painter.setPen(QPen(theme.color("text"), 1.4))
    painter.setBrush(QColor(color))
    painter.drawPath(drip)


@dataclass(frozen=True)
class _Place:
    pot: int | None
    at: QPointF
    key: str


class Pots(QWidget):
    """All pots, part by part; the part in hand shows the keys 1 to 9.

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
        self._drag: tuple[int, QPointF, QPointF] | None = None
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setAccessibleName("Pots")
        easel.edited.connect(self.refresh)
        easel.chosen.connect(self.refresh)
        self.refresh()

    def refresh(self) -> None:
        """Lay the pots out anew."""
        self._places, self._heads = [_Place(None, QPointF(30, _TOP + _ROW / 2 - 2), "0")], [(0, "Paper", 10, 50)]
        x = 66.0
        book = self.easel.book
        for part, members in pots_by_part(book).items():
            columns = max(1, -(-len(members) // 2)) if len(members) > 3 else max(1, len(members))
            if book is not None:
                self._heads.append((part, book.parts()[part].name, x, columns * _CELL))
            mine = self.easel.pot in members
            if part in self._folded and not mine:
                self._heads[-1] = (part, self._heads[-1][1], x, _CELL)
                x += _CELL + 13
                continue
            for place, pot in enumerate(members):
                at = QPointF(x + _CELL * (place % columns) + _CELL / 2, _TOP + _ROW * (place // columns) + _ROW / 2 - 2)
                self._places.append(_Place(pot, at, str(place + 1) if mine and place < 9 else ""))
            x += columns * _CELL + 13
        self.setMinimumWidth(int(x))
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(self.minimumWidth(), 110)

    def place_of(self, pot: int | None) -> QPointF:
        """Return where a pot's disc is."""
        return next(p.at for p in self._places if p.pot == pot)

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
                spot = QRectF(place.at.x() + 8, place.at.y() + 6, 14, 14)
                painter.setPen(Qt.PenStyle.NoPen)
                painter.setBrush(theme.color("well"))
                painter.drawEllipse(spot)
                painter.setPen(theme.color("text"))
                painter.setFont(theme.font(12, 600, theme.FIGURES))
                painter.drawText(spot, Qt.AlignmentFlag.AlignCenter, place.key)
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
            self.easel.do(lambda book, _: pots.move_pot(book, drag[0], part, place))

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


class Cards(QWidget):
    """Plates as small pages in Press (click: show or hide), or the page's sheets in Inks (click: take in hand).

    Signals
    -------
    plates_changed(tuple)
        Which plates are shown.
    menu_wanted(object)
        A sheet's menu, at a global position.
    name_wanted()
        The sheet in hand wants another name.
    """

    plates_changed = pyqtSignal(tuple)
    menu_wanted = pyqtSignal(object)
    name_wanted = pyqtSignal()

    def __init__(self, easel: Easel) -> None:
        super().__init__()
        self.easel = easel
        self.plates = (True, True, True, True)
        self._pictures: list[_Card] = []
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setAccessibleName("Plates or sheets")
        easel.refreshed.connect(self.refresh)
        easel.chosen.connect(self.refresh)

    def refresh(self) -> None:
        """Draw the small pictures anew."""
        view, sources = self.easel.view, self.easel.sources()
        if not self.isVisible():
            return
        self._pictures = []
        if view is not None and sources is not None and self.easel.stage == "Inks":
            for number, sheet in sources.sheets.items():
                what = sheet.role if sheet.shown else "hidden"
                small = view.thumbs.get(number)
                picture = None if small is None else _grey_image(255 - small)
                self._pictures.append(_Card(sheet.name, what, picture, number, sheet.shown))
        elif view is not None and (cmyk := small_plates(view)) is not None:
            names = ("All", *PLATES)
            wanted = [(True, True, True, True), *((p == 0, p == 1, p == 2, p == 3) for p in range(4))]
            for place, (name, plates) in enumerate(zip(names, wanted, strict=True)):
                on = all(self.plates) if place == 0 else self.plates[place - 1]
                says = ("shown" if on else "hidden") if place else ""
                self._pictures.append(_Card(name, says, _image(proof(cmyk, plates)), place, on))
        self.setMinimumWidth(28 + 142 * len(self._pictures))
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        inks = self.easel.stage == "Inks"
        for place, card in enumerate(self._pictures):
            box = self._box(place)
            strong = card.number == self.easel.sheet if inks else card.on
            painter.setPen(QPen(theme.color("text") if strong else theme.color("line"), 2 if strong else 1))
            painter.setBrush(QColor("#ffffff"))
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
            painter.drawText(room, Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignTop, card.says)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        for place, card in enumerate(self._pictures):
            if not self._box(place).contains(event.position()):
                continue
            if self.easel.stage == "Press":
                self.toggle(place, only=bool(event.modifiers() & Qt.KeyboardModifier.AltModifier))
                return
            self.easel.choose_sheet(card.number)
            if event.button() == Qt.MouseButton.RightButton:
                self.menu_wanted.emit(event.globalPosition().toPoint())
            return

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        places = range(len(self._pictures))
        if self.easel.stage == "Inks" and any(self._box(k).contains(event.position()) for k in places):
            self.name_wanted.emit()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        step = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}.get(Qt.Key(event.key()))
        order = [card.number for card in self._pictures]
        if step and self.easel.stage == "Inks" and self.easel.sheet in order:
            self.easel.choose_sheet(order[(order.index(self.easel.sheet) + step) % len(order)])
        elif event.key() == Qt.Key.Key_Menu and self.easel.stage == "Inks":
            self.menu_wanted.emit(self.mapToGlobal(self._box(0).center().toPoint()))
        else:
            super().keyPressEvent(event)

    def toggle(self, place: int, *, only: bool = False) -> None:
        """Show all plates (place 0), or show and hide one (1 to 4), or show it alone."""
        if self.easel.stage != "Press":
            return
        if place == 0:
            plates = [True] * 4
        elif only:
            plates = [k == place - 1 for k in range(4)]
        else:
            plates = [on != (k == place - 1) for k, on in enumerate(self.plates)]
        self.plates = (plates[0], plates[1], plates[2], plates[3])
        self.plates_changed.emit(self.plates)
        self.refresh()

    @staticmethod
    def _box(place: int) -> QRectF:
        return QRectF(18 + 142 * place, 9, 132, 92)


@dataclass(frozen=True)
class _Card:
    name: str
    says: str
    picture: QImage | None
    number: int
    on: bool


def _grey_image(grey: np.ndarray) -> QImage:
    return _image(np.stack([grey] * 3, axis=-1))


def _image(rgb: np.ndarray) -> QImage:
    rgb = np.ascontiguousarray(rgb)
    return (
        QImage(rgb.tobytes(), rgb.shape[1], rgb.shape[0], rgb.shape[1] * 3, QImage.Format.Format_RGB888)
        .copy()
        .scaledToHeight(160, Qt.TransformationMode.SmoothTransformation)
    )


class InHand(QWidget):
    """The pot in hand: name, part, inks; in Inks the drawing itself, in Press what will be delivered."""

    edit_wanted = pyqtSignal(int)
    add_wanted = pyqtSignal()
    more_wanted = pyqtSignal(object)
    sheet_wanted = pyqtSignal(object)
    page_wanted = pyqtSignal()

    def __init__(self, easel: Easel) -> None:
        super().__init__()
        self.easel = easel
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
        colors = self.easel.stage not in ("Inks", "Press")
        for one in (self.edit, self.add, self.more):
            one.setVisible(colors)
        for one in (self.sheet, self.page):
            one.setVisible(self.easel.stage == "Inks" and sources is not None)
        self.layout().setContentsMargins(92 if colors else 18, 8, 12, 10)  # type: ignore[union-attr]
        if not colors and sources is not None:
            self._show_page(sources)
            return
        self.edit.setEnabled(self.easel.pot is not None)
        self.add.setEnabled(book is not None and bool(book.parts()))
        if book is None or self.easel.pot is None:
            self._pair = ("#ffffff", "#ffffff")
            self.name.setText("Paper")
            self.part.setText("")
            self.local.setText("No ink: pour it to empty a region")
            self.shadow.setText("")
        else:
            pot = book.pots()[self.easel.pot]
            self._pair = book.tone_pair(pot)
            self.name.setText(pot.name)
            strength = f", {self.easel.flats.strength * 100:.0f} %" if self.easel.flats.strength < 1 else ""
            self.part.setText((book.parts()[pot.part].name if pot.part in book.parts() else "") + strength)
            if sources is not None:
                self.local.setText(ink_text(self._pair[0], sources.press))
                self.shadow.setText("shadow  " + ink_text(self._pair[1], sources.press))
        self.update()

    def _show_page(self, sources: PageSources) -> None:
        page, press = sources.page, sources.press
        size = f"{page.cols} × {page.rows} px, {page.dpi:g} dpi"
        if self.easel.stage == "Inks":
            sheet = sources.sheets.get(self.easel.sheet, sources.sheets[0])
            texts = sheet.name, "original kept", f"{sheet.role}: {ROLES[sheet.role]}", size
        else:
            left = len(self.easel.findings["Press"])
            told = "Ready" if not left else f"{left} left to look at"
            texts = (
                "Delivery",
                told,
                f"CMYK TIFF and 1-bit black line, {size}",
                f"Ink limit {press.ink_limit} %, trap {press.trap_mm:g} mm",
            )
        for widget, text in zip((self.name, self.part, self.local, self.shadow), texts, strict=True):
            widget.setText(text)
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(theme.color("chrome"))
        painter.drawRoundedRect(QRectF(self.rect()).adjusted(0, 2, -2, -2), 8, 8)
        if self.easel.stage in ("Inks", "Press"):
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


class Shelf(QWidget):
    """The bottom row: pots, plates or the sheet, and the pot in hand."""

    def __init__(self, easel: Easel) -> None:
        super().__init__()
        self.setObjectName("shelf")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setFixedHeight(112)
        self.easel = easel
        self.pots, self.cards, self.in_hand = Pots(easel), Cards(easel), InHand(easel)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 1, 0, 0)
        row.setSpacing(0)
        self._scroll = QScrollArea()
        self._scroll.setWidget(self.pots)
        self._scroll.setWidgetResizable(True)
        self._scroll.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self._scroll.setStyleSheet("QScrollArea, QScrollArea > QWidget > QWidget { background: transparent; }")
        row.addWidget(self._scroll, 1)
        self._cards = QScrollArea()
        self._cards.setWidget(self.cards)
        self._cards.setWidgetResizable(True)
        self._cards.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self._cards.setStyleSheet(self._scroll.styleSheet())
        row.addWidget(self._cards, 1)
        self.in_hand.setFixedWidth(296)
        row.addWidget(self.in_hand)
        easel.chosen.connect(self.refresh)
        self.refresh()

    def refresh(self) -> None:
        """Show what the stage needs."""
        cards = self.easel.stage in ("Inks", "Press")
        self._scroll.setVisible(not cards)
        self._cards.setVisible(cards)
        self.cards.refresh()
        if not cards:
            at = (
                self.pots.place_of(self.easel.pot)
                if self.easel.pot in [p.pot for p in self.pots._places]
                else QPointF()
            )
            self._scroll.ensureVisible(int(at.x()), 0, 60, 0)
