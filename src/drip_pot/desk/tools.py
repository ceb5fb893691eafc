"""What the pointer does in Inks, Shade and Holds, and which tools there are. Knows the easel; draws its own marks."""

import msgspec
import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QPainter, QPen, QPolygonF

from drip_pot.book import verbs
from drip_pot.book.derived import chosen_specks
from drip_pot.core.arrays import Rect
from drip_pot.core.inks import Effect, Pieces
from drip_pot.desk.easel import Easel
from drip_pot.desk.flat_tools import FLAT_TOOLS
from drip_pot.desk.tool import Mods, Stroke, Tool, draw_with, length


class Look(Tool):
    """Move the page about."""

    key = "L"
    says = "Drag to move the page, turn the wheel to zoom. The ink under the pointer is read at the right."
    cursor = Qt.CursorShape.OpenHandCursor


class Speck(Stroke):
    """Erase specks: one by a click, all in a loop."""

    key = "X"
    says = "Click a speck to take it out, or loop round many. Shift: every lone one in the loop, however large."

    def done(self, points: list[tuple[float, float]], mods: Mods) -> None:
        view, sources = self.easel.view, self.easel.sources()
        if view is None or sources is None:
            return
        inks = sources.inks[self.easel.sheet]
        known = {(s.row, s.col) for s in chosen_specks(view.pieces, inks)}
        if len(points) < 3 or length(points) < 12:
            found = nearest_piece(view.pieces, *points[0])
            spots = [] if found is None else [found]
        else:
            limit = None if mods & Mods.ShiftModifier else 8 * max(inks.settings.speck_px, 25)
            spots = pieces_in(view.pieces, points, limit)
        fresh = [s for s in spots if s not in known and _whole(s) not in inks.erased]
        if not fresh:
            self.easel.said.emit("There is no lone speck here to take out.", False)
            return
        erased = (*inks.erased, *(_whole(s) for s in fresh))
        kept = tuple(k for k in inks.kept if all(abs(k[0] - r) + abs(k[1] - c) > 8 for r, c in fresh))
        title = "Remove a speck" if len(fresh) == 1 else f"Remove {len(fresh)} specks"
        self.easel.set_inks(msgspec.structs.replace(inks, erased=erased, kept=kept), title)


class Belongs(Stroke):
    """Say which specks are part of the drawing."""

    key = "B"
    closed = False
    says = "Drag over ringed specks that are part of the drawing: they come back and stay."

    def done(self, points: list[tuple[float, float]], mods: Mods) -> None:
        view, sources = self.easel.view, self.easel.sources()
        if view is None or sources is None:
            return
        inks = sources.inks[self.easel.sheet]
        line = np.array(points)
        back = [
            (s.row, s.col)
            for s in chosen_specks(view.pieces, inks)
            if np.hypot(line[:, 0] - s.row, line[:, 1] - s.col).min() <= 16 + s.area_px**0.5
        ]
        if not back:
            self.easel.said.emit("None of the specks that are taken out lies here.", False)
            return
        erased = tuple(e for e in inks.erased if all(abs(e[0] - r) + abs(e[1] - c) > 8 for r, c in back))
        kept = (*inks.kept, *(_whole(s) for s in back))
        title = "Keep a speck" if len(back) == 1 else f"Keep {len(back)} specks"
        self.easel.set_inks(msgspec.structs.replace(inks, erased=erased, kept=kept), title)


def _whole(spot: tuple[float, float]) -> tuple[int, int]:
    return round(spot[0]), round(spot[1])


def nearest_piece(pieces: Pieces, row: float, col: float) -> tuple[float, float] | None:
    """Return the middle of the small piece of ink at a place, if one lies there."""
    away = np.hypot(pieces.centers[:, 0] - row, pieces.centers[:, 1] - col)
    index = int(away.argmin()) if len(away) else -1
    if index < 0 or away[index] > 14 + 2.0 * float(pieces.areas[index]) ** 0.5:
        return None
    return float(pieces.centers[index, 0]), float(pieces.centers[index, 1])


def pieces_in(pieces: Pieces, loop: list[tuple[float, float]], most_px: int | None) -> list[tuple[float, float]]:
    """Return the middles of the small pieces of ink (of up to `most_px` pixels) that lie in a loop."""
    path = QPolygonF([QPointF(c, r) for r, c in loop])
    box = path.boundingRect()
    small = np.ones(len(pieces.areas), bool) if most_px is None else pieces.areas <= most_px
    near = pieces.centers[small]
    inside = (near[:, 0] >= box.top()) & (near[:, 0] <= box.bottom())
    inside &= (near[:, 1] >= box.left()) & (near[:, 1] <= box.right())
    return [
        (float(r), float(c))
        for r, c in near[inside].tolist()
        if path.containsPoint(QPointF(c, r), Qt.FillRule.OddEvenFill)
    ]


class Pen(Stroke):
    """Draw ink on the repair sheet."""

    key = "P"
    closed = False
    away = False
    says = (
        "Draw ink on the repair sheet; the scan is never changed. Shift: a straight line. Alt: scrape. [ and ]: width."
    )

    def __init__(self, easel: Easel) -> None:
        super().__init__(easel)
        self._pressures: list[float] = []

    def press(self, row: float, col: float, mods: Mods) -> None:
        super().press(row, col, mods)
        self._pressures = [self.easel.pressure]

    def drag(self, row: float, col: float, mods: Mods) -> None:
        if mods & Mods.ShiftModifier and self._points:
            self._points, self._pressures = [self._points[0], (row, col)], [self._pressures[0]] * 2
            return
        before = len(self._points)
        super().drag(row, col, mods)
        if len(self._points) > before:
            self._pressures.append(self.easel.pressure)

    def done(self, points: list[tuple[float, float]], mods: Mods) -> None:
        stroke = [(r, c, p) for (r, c), p in zip(points, self._pressures, strict=True)]
        self.easel.mend_stroke(stroke, away=self.away != bool(mods & Mods.AltModifier))

    def marks(self, painter: QPainter, zoom: float) -> None:
        if not self._points:
            return
        for k, (r, c) in enumerate(self._points):
            wide = max(self.easel.pen_px * self._pressures[k], 0.6)
            pen = QPen(QColor("#ffffff" if self.away else "#161616"), wide)
            pen.setCapStyle(Qt.PenCapStyle.RoundCap)
            painter.setPen(pen)
            start = self._points[max(k - 1, 0)]
            painter.drawLine(QPointF(start[1], start[0]), QPointF(c, r))


class Scraper(Pen):
    """Scrape ink away on the repair sheet."""

    key = "S"
    away = True
    says = "Scrape ink away; the scan is never changed. Shift: a straight line. Alt: draw. [ and ]: width."


class Mirror(Stroke):
    """Lift a loop and lay its mirror image on the page."""

    key = "M"
    says = "Loop round a part, then click where its mirror axis stands. Escape gives it up."

    def __init__(self, easel: Easel) -> None:
        super().__init__(easel)
        self._lifted: list[tuple[float, float]] = []

    def press(self, row: float, col: float, mods: Mods) -> None:
        if self._lifted:
            loop, self._lifted = self._lifted, []
            self.easel.mirror(loop, col)
        else:
            super().press(row, col, mods)

    def done(self, points: list[tuple[float, float]], mods: Mods) -> None:
        if len(points) >= 3 and length(points) >= 12:
            self._lifted = points
            self.easel.said.emit("Now click where the mirror axis stands.", False)

    def cancel(self) -> None:
        super().cancel()
        self._lifted = []

    def marks(self, painter: QPainter, zoom: float) -> None:
        super().marks(painter, zoom)
        if self._lifted:
            for shade, width in (("#ffffff", 3.2), ("#161616", 1.4)):
                draw_with(painter, shade, width)
                painter.drawPolygon(QPolygonF([QPointF(c, r) for r, c in self._lifted]))


class EffectTool(Stroke):
    """Place effect lines in a shape drawn by hand; move their middle and their clear radius by handles."""

    key = "E"
    says = (
        "Loop round what the lines shall fill. Drag the dot to move their middle, the ring to clear it. Delete removes."
    )

    def __init__(self, easel: Easel) -> None:
        super().__init__(easel)
        self._grip = ""
        self._trial: Effect | None = None

    def _in_hand(self) -> Effect | None:
        sources = self.easel.sources()
        return None if sources is None else sources.effects.get(self.easel.effect or 0)

    def press(self, row: float, col: float, mods: Mods) -> None:
        effect, sources = self._in_hand(), self.easel.sources()
        reach = 14 / max(self.easel.zoom, 0.01)
        away = 1e9 if effect is None else float(np.hypot(row - effect.row, col - effect.col))
        self._trial, self._grip = effect, ""
        if effect is not None and away <= reach:
            self._grip = "middle"
        elif effect is not None and effect.kind != "speed" and abs(away - effect.clear_px) <= reach:
            self._grip = "ring"
        elif sources is not None:
            for number, other in sources.effects.items():
                if np.hypot(row - other.row, col - other.col) <= reach:
                    self.easel.choose_effect(number)
                    self._trial, self._grip = other, "middle"
        if not self._grip:
            super().press(row, col, mods)

    def drag(self, row: float, col: float, mods: Mods) -> None:
        if self._trial is None or not self._grip:
            super().drag(row, col, mods)
        elif self._grip == "middle":
            self._trial = msgspec.structs.replace(self._trial, row=row, col=col)
        else:
            clear = float(np.hypot(row - self._trial.row, col - self._trial.col))
            self._trial = msgspec.structs.replace(self._trial, clear_px=clear)

    def release(self, row: float, col: float, mods: Mods) -> None:
        trial, grip = self._trial, self._grip
        self._grip, self._trial = "", None
        if grip and trial is not None:
            self.easel.set_effect(trial, self.easel.effect)
        else:
            super().release(row, col, mods)

    def done(self, points: list[tuple[float, float]], mods: Mods) -> None:
        if len(points) < 3 or length(points) < 40:
            return
        line = np.array(points[:: max(1, len(points) // 200)])
        middle = line.mean(axis=0)
        size = float(np.hypot(*(line.max(axis=0) - line.min(axis=0))))
        effect = Effect(
            self.easel.effect_kind, tuple((round(r, 1), round(c, 1)) for r, c in line.tolist()),
            float(middle[0]), float(middle[1]), clear_px=round(size * 0.15), weight_px=max(1.0, round(size / 120, 1)),
        )  # fmt: skip
        self.easel.set_effect(effect)

    def cancel(self) -> None:
        super().cancel()
        self._grip, self._trial = "", None

    def marks(self, painter: QPainter, zoom: float) -> None:
        super().marks(painter, zoom)
        effect = self._trial or self._in_hand()
        sources = self.easel.sources()
        for number, other in (sources.effects if sources is not None else {}).items():
            if number != self.easel.effect:
                self._dot(painter, other, zoom, 4)
        if effect is None:
            return
        for shade, width in (("#ffffff", 3.2), ("#161616", 1.4)):
            draw_with(painter, shade, width)
            painter.drawPolygon(QPolygonF([QPointF(c, r) for r, c in effect.shape]))
            if effect.kind != "speed" and effect.clear_px:
                painter.drawEllipse(QPointF(effect.col, effect.row), effect.clear_px, effect.clear_px)
        self._dot(painter, effect, zoom, 7)

    @staticmethod
    def _dot(painter: QPainter, effect: Effect, zoom: float, size: float) -> None:
        draw_with(painter, "#ffffff", 2)
        painter.setBrush(QColor("#161616"))
        painter.drawEllipse(QPointF(effect.col, effect.row), size / zoom, size / zoom)


class Crop(Tool):
    """Drag out what the page shall be."""

    key = "C"
    says = (
        "Drag out the new page; beyond the edge it grows. Shift: keep the page's shape. Exact sizes stand under Page."
    )

    def __init__(self, easel: Easel) -> None:
        super().__init__(easel)
        self._from: tuple[float, float] | None = None
        self._to = (0.0, 0.0)

    def press(self, row: float, col: float, mods: Mods) -> None:
        self._from = self._to = (row, col)

    def drag(self, row: float, col: float, mods: Mods) -> None:
        if self._from is None or self.easel.view is None:
            return
        if mods & Mods.ShiftModifier:
            rows, cols = self.easel.view.shape
            down = abs(col - self._from[1]) * rows / cols
            row = self._from[0] + (down if row >= self._from[0] else -down)
        self._to = (row, col)

    def release(self, row: float, col: float, mods: Mods) -> None:
        start, self._from = self._from, None
        if start is None:
            return
        rect = _box(start, self._to)
        if rect[2] - rect[0] >= 16 and rect[3] - rect[1] >= 16:
            self.easel.do(lambda book, page: verbs.crop_page(book, page, rect))

    def cancel(self) -> None:
        self._from = None

    def marks(self, painter: QPainter, zoom: float) -> None:
        if self._from is None:
            return
        top, left, bottom, right = _box(self._from, self._to)
        for shade, width in (("#ffffff", 3.2), ("#161616", 1.4)):
            draw_with(painter, shade, width)
            painter.drawRect(QRectF(left, top, right - left, bottom - top))


def _box(a: tuple[float, float], b: tuple[float, float]) -> Rect:
    return round(min(a[0], b[0])), round(min(a[1], b[1])), round(max(a[0], b[0])), round(max(a[1], b[1]))


class CutShade(Stroke):
    """Loop an area into shadow."""

    key = "S"
    light = False
    says = "Loop round an area to put it in shadow. Alt: give light back. Shift: only inside the region you begin in."

    def done(self, points: list[tuple[float, float]], mods: Mods) -> None:
        if len(points) >= 3:
            first = self.easel.atom_at(int(points[0][0]), int(points[0][1])) if mods & Mods.ShiftModifier else 0
            self.easel.cut(points, light=self.light != bool(mods & Mods.AltModifier), only=first)


class CutLight(CutShade):
    """Loop an area into light."""

    key = "L"
    light = True
    says = "Loop round an area to give it back to the light. Alt: shade. Shift: only inside the region you begin in."


class Hold(Tool):
    """Colour the lines of a part."""

    key = "H"
    says = "Click a region: the lines of its part take a darker version of their colour, or turn plain again."

    def press(self, row: float, col: float, mods: Mods) -> None:
        pot = self.easel.pot_of(self.easel.atom_at(int(row), int(col)))
        sources = self.easel.sources()
        if self.easel.book is None or sources is None:
            return
        if pot is None:
            self.easel.said.emit(
                "This region has no pot yet, so its lines have no part. Pour it first, in Flats.", False
            )
            return
        part = self.easel.book.pots()[pot].part
        amount = None if part in sources.holds else 0.55
        self.easel.do(lambda book, page: verbs.set_hold(book, page, part, amount))


TOOL_CLASSES: dict[str, type[Tool]] = {
    "Look": Look, "Speck": Speck, "Belongs": Belongs, "Pen": Pen, "Scraper": Scraper, "Mirror": Mirror,
    "Effect": EffectTool, "Crop": Crop, **FLAT_TOOLS, "Cut shade": CutShade, "Cut light": CutLight, "Hold": Hold,
}  # fmt: skip
