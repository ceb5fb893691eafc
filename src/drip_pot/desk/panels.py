"""The inspector's blocks of Inks, Shade, Holds and Press. They write to the book through the easel."""

from typing import Any

import msgspec
import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QMouseEvent, QPainter, QPainterPath, QPaintEvent, QPolygonF
from PyQt6.QtWidgets import QCheckBox, QComboBox, QGridLayout, QLabel, QWidget

from drip_pot.book import Book, InkState, PageSources, verbs
from drip_pot.book.derived import MOST_SPECK_PX, chosen_specks
from drip_pot.core.arrays import F64
from drip_pot.core.color import from_hex, srgb8_to_oklab
from drip_pot.core.inks import Effect, Pencil, suggest_settings
from drip_pot.desk import theme
from drip_pot.desk.dialogs import pick_color
from drip_pot.desk.easel import Easel
from drip_pot.desk.shelf import PLATES
from drip_pot.desk.view import small_plates
from drip_pot.desk.widgets import Block, NumberRow, Swatch, button, label


def count_text(number: int) -> str:
    """Write a whole number with thin spaces between thousands."""
    return f"{number:,}".replace(",", "\u202f")


def counted(number: int, noun: str) -> str:
    """Write a number of things: '1 file', '12 files'."""
    return f"{count_text(number)} {noun}{'' if number == 1 else 's'}"


def mm_text(px: float, dpi: float) -> str:
    """Write a length in pixels and millimetres."""
    return f"{px:.0f} px · {px / dpi * 25.4:.2f} mm"


class Panel(QWidget):
    """A stage's blocks; subclasses fill `blocks` and `refresh`."""

    def __init__(self, easel: Easel) -> None:
        super().__init__()
        self.easel = easel
        self.blocks: list[Block] = []

    def refresh(self) -> None:
        """Show what the book holds now."""

    def _ready(self) -> tuple[Book, PageSources] | None:
        sources = self.easel.sources()
        return (self.easel.book, sources) if self.easel.book is not None and sources is not None else None


def chart_painter(widget: QWidget, box: QRectF) -> QPainter:
    """Return a painter on a widget with the ground of a small chart painted."""
    painter = QPainter(widget)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(theme.color("card"))
    painter.drawRoundedRect(box, 4, 4)
    return painter


def paint_mark(painter: QPainter, x: float, box: QRectF, tip: float, base: float) -> None:
    """Paint a movable mark: a line through a chart and a triangle from `tip` to `base`."""
    painter.fillRect(QRectF(x - 1, 0, 2, box.bottom()), theme.color("mark"))
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(theme.color("mark"))
    painter.drawPolygon(QPolygonF([QPointF(x, tip), QPointF(x + 6, base), QPointF(x - 6, base)]))


class Histogram(QWidget):
    """How much of the page has which grey; black and white point as hard marks that can be dragged."""

    moved = pyqtSignal(int, int)
    done = pyqtSignal(int, int)

    def __init__(self) -> None:
        super().__init__()
        self.setFixedHeight(84)
        self.setAccessibleName("Histogram with black and white point")
        self._heights: F64 = np.zeros(256)
        self._points = [60, 225]
        self._held: int | None = None

    def show_page(self, heights: F64, black: int, white: int) -> None:
        """Show a histogram, (256,) of 0..1, and the two points."""
        self._heights = heights
        if self._held is None:
            self._points = [black, white]
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        box = QRectF(0, 0, self.width(), self.height() - 14)
        painter = chart_painter(self, box)
        path = QPainterPath(QPointF(self._x(0), box.bottom()))
        for grey, height in enumerate(self._heights.tolist()):
            path.lineTo(self._x(grey), box.bottom() - height * (box.height() - 6))
        path.lineTo(self._x(255), box.bottom())
        painter.setBrush(theme.color("muted"))
        painter.drawPath(path)
        for point in self._points:
            paint_mark(painter, self._x(point), box, box.bottom() + 2, self.height() - 2)

    def _x(self, grey: int) -> float:
        return 7 + grey / 255 * (self.width() - 14)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        x = event.position().x()
        self._held = min((0, 1), key=lambda i: abs(self._x(self._points[i]) - x))
        self.mouseMoveEvent(event)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if self._held is None or event is None:
            return
        grey = round((event.position().x() - 7) / max(self.width() - 14, 1) * 255)
        low, high = (0, self._points[1] - 1) if self._held == 0 else (self._points[0] + 1, 255)
        self._points[self._held] = min(max(grey, low), high)
        self.update()
        self.moved.emit(*self._points)

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        if self._held is not None:
            self._held = None
            self.done.emit(*self._points)


class InksPanel(Panel):
    """Paper and ink, pencil, specks of the sheet in hand; the pen; effect lines."""

    def __init__(self, easel: Easel) -> None:
        super().__init__(easel)
        self.paper, self.pencil, self.specks = Block("Paper and ink"), Block("Coloured pencil"), Block("Specks")
        self.mend, self.effects = Block("Pen and scraper", "repair sheet"), Block("Effect lines")
        self._paper_rows()
        self._speck_rows()
        self._mend_rows()
        self._effect_rows()
        self.blocks = [self.effects, self.mend, self.paper, self.pencil, self.specks]

    def _paper_rows(self) -> None:
        self.histogram = Histogram()
        self.paper.add(self.histogram)
        self.black = NumberRow("Black from", 0, 254, 1)
        self.white = NumberRow("Paper from", 1, 255, 1)
        self.weight = NumberRow("Line weight", -4, 4, 0.25, "px", 2)
        self.even = QCheckBox("Even out the paper light")
        self.two = QCheckBox("Two levels, no soft edge")
        self.threshold = NumberRow("Ink from", 1, 100, 1, "%")
        for row in (self.black, self.white, self.weight, self.even, self.two, self.threshold):
            self.paper.add(row)
        self.paper.row(button("From the page", self._suggest, "Work out paper, black and speck sizes from this page"))
        self.keep_pencil = QCheckBox("Take it out")
        self.hue = NumberRow("Hue", 0, 360, 1, "°")
        self.strength = NumberRow("Strength", 0, 100, 1, "%")
        for part in (self.keep_pencil, self.hue, self.strength):
            self.pencil.add(part)
        self.histogram.moved.connect(lambda b, w: self._try(black=b, white=w))
        self.histogram.done.connect(lambda b, w: self._keep(black=b, white=w))
        for number, name in ((self.black, "black"), (self.white, "white"), (self.weight, "weight_px")):
            number.moved.connect(lambda v, n=name: self._try(**{n: v}))
            number.done.connect(lambda v, n=name: self._keep(**{n: v}))
        self.threshold.moved.connect(lambda v: self._try(threshold=max(1, round(v * 2.55))))
        self.threshold.done.connect(lambda v: self._keep(threshold=max(1, round(v * 2.55))))
        self.even.clicked.connect(lambda on: self._keep(even_paper=on))
        self.two.clicked.connect(lambda on: self._keep(threshold=128 if on else None))
        self.keep_pencil.clicked.connect(lambda on: self._keep(pencil=self._found_pencil() if on else None))
        for number in (self.hue, self.strength):
            number.done.connect(lambda _: self._keep(pencil=Pencil(self.hue.value(), self.strength.value() / 100)))

    def _speck_rows(self) -> None:
        self.speck_size = NumberRow("Remove up to", 0, MOST_SPECK_PX, 1, "px")
        self.alone = NumberRow("Alone within", 1, 400, 1, "px")
        self.faint = NumberRow("Or paler than ink by", 0, 120, 1, "L")
        self.holes = NumberRow("Fill pinholes up to", 0, MOST_SPECK_PX, 1, "px")
        for row in (self.speck_size, self.alone, self.faint, self.holes):
            self.specks.add(row)
        self.faint.setToolTip("Dust on the glass is paler than ink. 0 looks at size alone.")
        self.found = self.specks.fact("Taken out")
        self.by_hand = self.specks.fact("By hand")
        for number, name in ((self.speck_size, "speck_px"), (self.alone, "alone_px"), (self.faint, "faint")):
            number.moved.connect(lambda v, n=name: self._try(**{n: v}))
            number.done.connect(lambda v, n=name: self._keep(**{n: v}))
        self.holes.done.connect(lambda v: self._keep(hole_px=v))

    def _mend_rows(self) -> None:
        self.width_row = NumberRow("Width", 0.5, 120, 0.5, "px", 1)
        self.smooth = NumberRow("Steady", 0, 100, 1, "%")
        self.mend.add(self.width_row)
        self.mend.add(self.smooth)
        for signal in (self.width_row.moved, self.width_row.done):
            signal.connect(lambda v: setattr(self.easel, "pen_px", v))
        for signal in (self.smooth.moved, self.smooth.done):
            signal.connect(lambda v: setattr(self.easel, "smoothing", v / 100))

    def _effect_rows(self) -> None:
        self.kind = QComboBox()
        self.kind.setAccessibleName("Kind of effect lines")
        for kind, name in (("focus", "Focus: from the edge inwards"), ("burst", "Burst: from the middle outwards"),
                           ("speed", "Speed: side by side")):  # fmt: skip
            self.kind.addItem(name, kind)
        self.kind.activated.connect(lambda _: self._effect(kind=self.kind.currentData()))
        self.effects.add(self.kind)
        self.effect_rows = {
            "count": NumberRow("Lines", 1, 400, 1),
            "length": NumberRow("Length", 2, 100, 1, "%"),
            "weight_px": NumberRow("Weight", 0.5, 80, 0.5, "px", 1),
            "jitter": NumberRow("Jitter", 0, 100, 1, "%"),
            "turn_deg": NumberRow("Direction", -180, 180, 1, "°"),
        }
        for name, row in self.effect_rows.items():
            self.effects.add(row)
            row.done.connect(lambda v, n=name: self._effect(**{n: v / 100 if n in ("length", "jitter") else v}))
        self.effect_color = Swatch("Colour of these effect lines", self._pick_effect, 26)
        self.effects.add(self.effect_color)
        self.effects.row(
            button("Throw again", self._again, "The same lines, thrown anew"),
            button("Remove", self._remove_effect, "Take these effect lines away (Delete)"),
        )

    def _with(self, **values: Any) -> InkState | None:
        sources = self.easel.sources()
        if sources is None:
            return None
        inks = sources.inks[self.easel.sheet]
        now = inks.settings
        whole = ("black", "white", "speck_px", "faint", "hole_px", "threshold")
        fixed = {k: int(v) if k in whole and v is not None else v for k, v in values.items()}
        black, white = int(fixed.get("black", now.black)), int(fixed.get("white", now.white))
        if black >= white:
            fixed["black"], fixed["white"] = (white - 1, white) if "white" in values else (black, black + 1)
        return msgspec.structs.replace(inks, settings=msgspec.structs.replace(now, **fixed))

    def _try(self, **values: Any) -> None:
        self.easel.set_preview(self._with(**values))
        self._show_settings()

    def _keep(self, **values: Any) -> None:
        inks, sources = self._with(**values), self.easel.sources()
        if inks is not None and sources is not None:
            if inks != sources.inks[self.easel.sheet]:
                self.easel.set_inks(inks)
            else:
                self.easel.set_preview(None)

    def _suggest(self) -> None:
        view, sources = self.easel.view, self.easel.sources()
        if view is not None and sources is not None:
            inks = sources.inks[self.easel.sheet]
            settings = msgspec.structs.replace(
                suggest_settings(view.evened[0], sources.page.dpi), pencil=inks.settings.pencil
            )
            self.easel.set_inks(msgspec.structs.replace(inks, settings=settings), "Take the line from the page")

    def _found_pencil(self) -> Pencil:
        return Pencil(self.hue.value() or 250.0, 1.0)

    def _effect_in_hand(self) -> Effect | None:
        sources = self.easel.sources()
        return None if sources is None else sources.effects.get(self.easel.effect or 0)

    def _effect(self, **values: Any) -> None:
        effect = self._effect_in_hand()
        self.easel.effect_kind = values.get("kind", self.easel.effect_kind)
        if effect is not None:
            if "count" in values:
                values["count"] = int(values["count"])
            self.easel.set_effect(msgspec.structs.replace(effect, **values), self.easel.effect)

    def _again(self) -> None:
        effect = self._effect_in_hand()
        if effect is not None:
            self._effect(seed=effect.seed + 1)

    def _pick_effect(self) -> None:
        effect = self._effect_in_hand()
        sources = self.easel.sources()
        if effect is None or sources is None:
            return
        chosen = pick_color(self, "Effect lines", effect.color, sources.press)
        if chosen is not None:
            self._effect(color=chosen)

    def _remove_effect(self) -> None:
        if self._effect_in_hand() is not None:
            self.easel.set_effect(None, self.easel.effect)

    def refresh(self) -> None:
        ready = self._ready()
        if ready is None or self.easel.view is None:
            return
        view, tool = self.easel.view, self.easel.tool
        self.effects.setVisible(tool == "Effect")
        self.mend.setVisible(tool in ("Pen", "Scraper"))
        self.specks.setVisible(tool in ("Speck", "Belongs"))
        self.paper.setVisible(tool in ("Look", "Mirror", "Crop"))
        self.pencil.setVisible(view.is_colored and tool in ("Look", "Mirror", "Crop"))
        self.paper.note.setText(ready[1].sheets[self.easel.sheet].name if len(ready[1].sheets) > 1 else "")
        thin = np.ascontiguousarray(view.evened[-1])
        grey = thin.ravel() if thin.dtype == np.uint8 else (thin >> 8).ravel()
        counts = np.bincount(grey, minlength=256).astype(np.float64)
        self._heights = np.log1p(counts) / max(float(np.log1p(counts.max())), 1e-9)
        self._show_settings()
        self.width_row.show_value(self.easel.pen_px)
        self.smooth.show_value(self.easel.smoothing * 100)
        self._show_effect()

    def _show_settings(self) -> None:
        view, ready = self.easel.view, self._ready()
        if view is None or ready is None:
            return
        inks = view.preview or ready[1].inks[self.easel.sheet]
        s = inks.settings
        self.histogram.show_page(self._heights, s.black, s.white)
        for row, value in (
            (self.black, s.black), (self.white, s.white), (self.weight, s.weight_px), (self.speck_size, s.speck_px),
            (self.faint, s.faint), (self.holes, s.hole_px), (self.threshold, (s.threshold or 128) / 2.55),
            (self.alone, s.alone_px or max(1, round(6.8 * s.speck_px**0.5))),
        ):  # fmt: skip
            row.show_value(value)
        self.even.setChecked(s.even_paper)
        self.two.setChecked(s.threshold is not None)
        self.threshold.setVisible(s.threshold is not None)
        self.keep_pencil.setChecked(s.pencil is not None)
        if s.pencil is not None:
            self.hue.show_value(s.pencil.hue_deg)
            self.strength.show_value(s.pencil.strength * 100)
        for row in (self.hue, self.strength):
            row.setEnabled(s.pencil is not None)
        self.alone.setEnabled(s.speck_px > 0)
        self.faint.setEnabled(s.speck_px > 0)
        self.found.setText(f"{count_text(len(chosen_specks(view.pieces, inks)))} specks")
        self.by_hand.setText(f"{len(inks.erased)} taken out, {len(inks.kept)} kept")

    def _show_effect(self) -> None:
        effect = self._effect_in_hand()
        kind = effect.kind if effect is not None else self.easel.effect_kind
        self.kind.setCurrentIndex(self.kind.findData(kind))
        self.effects.note.setText("" if effect is not None else "loop round where they go")
        for name, row in self.effect_rows.items():
            row.setEnabled(effect is not None)
            if effect is not None:
                value = getattr(effect, name)
                row.show_value(value * 100 if name in ("length", "jitter") else value)
        self.effect_color.setEnabled(effect is not None)
        self.effect_color.show_color(effect.color if effect is not None else "#ffffff")


_HUES = ((0, "rose"), (30, "red"), (60, "orange"), (95, "yellow"), (140, "green"), (195, "teal"), (245, "blue"),
         (285, "violet"), (320, "plum"), (360, "rose"))  # fmt: skip


class ShadePanel(Panel):
    """The tone pair of the pot in hand, and the book's tone rule."""

    def __init__(self, easel: Easel) -> None:
        super().__init__(easel)
        pair = Block("Tone pair")
        self.pair = pair
        self.local = Swatch("Local colour of the pot in hand", lambda: self._pick("local"))
        self.shadow = Swatch("Shadow colour of the pot in hand", lambda: self._pick("shadow"))
        pair.row(self.local, self.shadow)
        self.local_l, self.shadow_l = label("", "smallmuted"), label("", "smallmuted")
        pair.row(self.local_l, self.shadow_l)
        self.own = button("Work it out", self._by_rule, "Drop this pot's own shadow and follow the rule below")
        pair.row(self.own)
        rule = Block("Tone rule", "every pot")
        self.darker = NumberRow("Darker by", 0, 60, 1, "L")
        self.hue = NumberRow("Turn toward", 0, 360, 1, "°")
        self.turn = NumberRow("At most", 0, 60, 1, "°")
        for row, name in ((self.darker, "darker_l"), (self.hue, "hue_deg"), (self.turn, "turn_deg")):
            rule.add(row)
            row.done.connect(lambda v, n=name: self._keep(n, v))
        self.blocks = [pair, rule]

    def _keep(self, name: str, value: float) -> None:
        ready = self._ready()
        if ready is not None:
            self.easel.do(lambda book, _: verbs.set_tone(book, msgspec.structs.replace(ready[0].tone, **{name: value})))

    def _pick(self, tone: str) -> None:
        book, number, sources = self.easel.book, self.easel.pot, self.easel.sources()
        if book is None or number is None or sources is None:
            return
        pot = book.pots()[number]
        local, shadow = book.tone_pair(pot)
        chosen = pick_color(self, f"{pot.name}, {tone}", local if tone == "local" else shadow, sources.press)
        if chosen is not None:
            changed = msgspec.structs.replace(pot, **{tone: chosen})
            self.easel.do(lambda book, _: verbs.set_pot(book, number, changed))

    def _by_rule(self) -> None:
        book, number = self.easel.book, self.easel.pot
        if book is not None and number is not None:
            pot = msgspec.structs.replace(book.pots()[number], shadow=None)
            self.easel.do(lambda book, _: verbs.set_pot(book, number, pot))

    def refresh(self) -> None:
        ready = self._ready()
        if ready is None:
            return
        book = ready[0]
        pot = book.pots().get(self.easel.pot or 0)
        self.pair.note.setText(pot.name if pot else "Paper")
        for widget in (self.local, self.shadow):
            widget.setEnabled(pot is not None)
        local, shadow = book.tone_pair(pot) if pot else ("#ffffff", "#ffffff")
        for swatch, text, color, name in (
            (self.local, self.local_l, local, "local"),
            (self.shadow, self.shadow_l, shadow, "shadow"),
        ):
            swatch.show_color(color)
            text.setText(f"{name}  L {float(srgb8_to_oklab(from_hex(color))[0]) * 100:.0f}")
        self.own.setEnabled(pot is not None and pot.shadow is not None)
        tone = book.tone
        self.darker.show_value(tone.darker_l)
        self.hue.show_value(tone.hue_deg)
        self.turn.show_value(tone.turn_deg)
        name = min(_HUES, key=lambda h: abs(h[0] - tone.hue_deg))[1]
        self.hue.name.setText(f"Turn toward {name}")


class HoldsPanel(Panel):
    """Colour of all lines; parts whose lines take a darker version of their colour."""

    def __init__(self, easel: Easel) -> None:
        super().__init__(easel)
        every = Block("All lines")
        self.swatch = Swatch("Colour of all lines without a hold", self._pick)
        every.add(self.swatch)
        self.black = button("Black again", lambda: self._set("#000000"), "Pure black overprints on press")
        every.row(self.black)
        self.every = every
        parts = Block("Lines of parts", "darker than their colour")
        self.grid = QGridLayout()
        self.grid.setVerticalSpacing(8)
        parts.column.addLayout(self.grid)
        self.rows: dict[int, NumberRow] = {}
        self.checks: dict[int, QCheckBox] = {}
        self.empty = label("There are no parts yet. Add pots on the shelf.", "muted")
        self.empty.setWordWrap(True)
        parts.add(self.empty)
        self.blocks = [every, parts]

    def _pick(self) -> None:
        sources = self.easel.sources()
        if sources is not None:
            chosen = pick_color(self, "All lines", sources.lines.color, sources.press)
            if chosen is not None:
                self._set(chosen)

    def _set(self, color: str) -> None:
        self.easel.do(lambda book, page: verbs.set_lines(book, page, color))

    def _hold(self, part: int, amount: float | None) -> None:
        self.easel.do(lambda book, page: verbs.set_hold(book, page, part, amount))

    def refresh(self) -> None:
        ready = self._ready()
        if ready is None:
            return
        book, sources = ready
        self.swatch.show_color(sources.lines.color)
        black = sources.lines.color == "#000000"
        self.every.note.setText("black, overprints" if black else sources.lines.color)
        self.black.setEnabled(not black)
        if list(self.rows) != list(book.parts()):
            self._rebuild(book)
        self.empty.setVisible(not self.rows)
        for number, part in book.parts().items():
            hold = sources.holds.get(number)
            self.checks[number].setText(part.name)
            self.checks[number].setChecked(hold is not None)
            self.rows[number].setVisible(hold is not None)
            self.rows[number].show_value((hold.amount if hold else 0.55) * 100)

    def _rebuild(self, book: Book) -> None:
        while (item := self.grid.takeAt(0)) is not None:
            if (old := item.widget()) is not None:
                old.deleteLater()
        self.rows, self.checks = {}, {}
        for line, number in enumerate(book.parts()):
            check, row = QCheckBox(), NumberRow("", 0, 100, 1, "%")
            for control in (row.box, row.slider):
                control.setAccessibleName(f"Lines of {book.parts()[number].name} darker by")
            check.clicked.connect(lambda on, n=number: self._hold(n, self.rows[n].value() / 100 if on else None))
            row.done.connect(lambda v, n=number: self._hold(n, v / 100))
            self.rows[number], self.checks[number] = row, check
            self.grid.addWidget(check, line, 0)
            self.grid.addWidget(row, line, 1)


class PlateBars(QWidget):
    """The four plates with how much of the sheet each covers."""

    def __init__(self) -> None:
        super().__init__()
        grid = QGridLayout(self)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setVerticalSpacing(3)
        self._figures: list[QLabel] = []
        self._shares = [0.0] * 4
        for row, name in enumerate(PLATES):
            grid.addWidget(label(name), row, 0)
            figure = label("", "figure")
            figure.setAlignment(Qt.AlignmentFlag.AlignRight)
            grid.addWidget(figure, row, 2)
            grid.setColumnMinimumWidth(1, 120)
            self._figures.append(figure)
        grid.setColumnStretch(1, 1)
        self._grid = grid

    def show_shares(self, shares: list[float]) -> None:
        """Show the mean ink of each plate, 0..1."""
        self._shares = shares
        for figure, share in zip(self._figures, shares, strict=True):
            figure.setText(f"{share:.0%}")
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(Qt.PenStyle.NoPen)
        for row, share in enumerate(self._shares):
            cell = self._grid.cellRect(row, 1)
            bar = QRectF(cell.left() + 10, cell.center().y(), cell.width() - 20, 5)
            painter.setBrush(theme.color("line"))
            painter.drawRoundedRect(bar, 2, 2)
            painter.setBrush(theme.color("text"))
            painter.drawRoundedRect(QRectF(bar.left(), bar.top(), max(5.0, bar.width() * share), 5), 2, 2)


class PressPanel(Panel):
    """Plates, black and ink limit, trap, register test."""

    def __init__(self, easel: Easel) -> None:
        super().__init__(easel)
        plates = Block("Plates", "coated sheet, built-in press")
        self.bars = PlateBars()
        plates.add(self.bars)
        self.black = NumberRow("Black takes over the grey", 0, 100, 1, "%")
        self.limit = NumberRow("Ink limit", 200, 400, 5, "%")
        plates.add(self.black)
        plates.add(self.limit)
        trap = Block("Trap")
        self.trap = trap
        self.width_row = NumberRow("Lighter spreads by", 0, 1, 0.01, "mm", 2)
        trap.add(self.width_row)
        self.lines = trap.fact("Black lines")
        register = Block("Register test")
        self.register = register
        self.tolerance = NumberRow("A plate strays up to", 0, 0.5, 0.01, "mm", 2)
        register.add(self.tolerance)
        self.before = register.fact("Bare paper, untrapped")
        self.after = register.fact("Bare paper, trapped")
        self.blocks = [plates, trap, register]
        for row, name, scale in (
            (self.black, "black", 100.0), (self.limit, "ink_limit", 1.0), (self.width_row, "trap_mm", 1.0),
            (self.tolerance, "tolerance_mm", 1.0),
        ):  # fmt: skip
            row.done.connect(lambda v, n=name, k=scale: self._keep(n, v / k))

    def _keep(self, name: str, value: float) -> None:
        ready = self._ready()
        if ready is not None:
            fixed = int(value) if name == "ink_limit" else round(value, 4)
            press = msgspec.structs.replace(ready[1].press, **{name: fixed})
            self.easel.do(lambda book, page: verbs.set_press(book, page, press))

    def refresh(self) -> None:
        ready, view = self._ready(), self.easel.view
        if ready is None or not self.isVisible():
            return
        _, sources = ready
        press, dpi = sources.press, sources.page.dpi
        self.black.show_value(press.black * 100)
        self.limit.show_value(press.ink_limit)
        self.width_row.show_value(press.trap_mm)
        self.tolerance.show_value(press.tolerance_mm)
        self.lines.setText("overprint" if sources.lines.color == "#000000" else "coloured, knock out")
        cmyk = small_plates(view) if view is not None else None
        if cmyk is not None:
            self.bars.show_shares([float(v) / 255 for v in cmyk.reshape(-1, 4).mean(axis=0)])
        busy = self.easel.work.busy("press")
        traps, told = (view.traps, view.register) if view is not None else (None, None)
        width = mm_text(press.trap_mm / 25.4 * dpi, dpi).split(" · ")[0]
        self.trap.note.setText(width if traps is None else f"{width}, {count_text(traps.needed_px)} px of edge need it")
        waiting = "working" if busy or told is None else ""
        self.register.note.setText(waiting or f"one plate at a time, {told.shift_px if told else 0} px")
        self.before.setText(waiting or f"{count_text(told.untrapped_px if told else 0)} px")
        self.after.setText(waiting or f"{count_text(told.trapped_px if told else 0)} px")
