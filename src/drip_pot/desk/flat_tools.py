"""What the pointer does in Flats, one small class per tool. Knows the easel; draws only its own marks."""

import cv2
import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QImage, QPainter, QPen, QPolygonF

from drip_pot.book import verbs
from drip_pot.book.by_hand import thinned
from drip_pot.core.regions import Path
from drip_pot.desk import theme
from drip_pot.desk.easel import Easel
from drip_pot.desk.flatting import Scope
from drip_pot.desk.tool import Mods, Stroke, Tool, draw_with, length


class Pour(Tool):
    """Fill regions with the pot in hand."""

    key = "P"
    says = "Click a region to pour. Drag to pour across several. Shift: every region of that pot. Alt: take its pot."

    def __init__(self, easel: Easel) -> None:
        super().__init__(easel)
        self._atoms: set[int] = set()
        self._last: tuple[float, float] | None = None

    def press(self, row: float, col: float, mods: Mods) -> None:
        atom = self.easel.atom_at(int(row), int(col))
        if not atom:
            return
        if mods & Mods.AltModifier:
            self.easel.choose_pot(self.easel.pot_of(atom))
        elif mods & Mods.ShiftModifier:
            self.easel.pour(set(self.easel.atoms_of_pot(self.easel.pot_of(atom))))
        else:
            self._atoms, self._last = set(), (row, col)
            self._add(atom)

    def drag(self, row: float, col: float, mods: Mods) -> None:
        if self._last is None:
            return
        steps = int(max(abs(row - self._last[0]), abs(col - self._last[1])) // 4) + 1
        for step in range(1, steps + 1):
            part = step / steps
            at = self._last[0] + (row - self._last[0]) * part, self._last[1] + (col - self._last[1]) * part
            self._add(self.easel.atom_at(int(at[0]), int(at[1])))
        self._last = row, col

    def release(self, row: float, col: float, mods: Mods) -> None:
        if self._last is not None:
            atoms, self._atoms, self._last = self._atoms, set(), None
            self.easel.pour(atoms)

    def cancel(self) -> None:
        self._atoms, self._last = set(), None
        self.easel.drop_preview()

    def _add(self, atom: int) -> None:
        if atom and atom not in self._atoms:
            fresh = self.easel.region_atoms(atom)
            self._atoms.update(fresh)
            self.easel.preview_pour(fresh)


class Corral(Stroke):
    """Fill everything that lies wholly inside a loop."""

    key = "C"
    says = "Loop round things: what lies wholly inside takes the pot in hand. Shift: only what is empty still."

    def done(self, points: list[tuple[float, float]], mods: Mods) -> None:
        if len(points) >= 3:
            self.easel.flats.corral(points, only_empty=bool(mods & Mods.ShiftModifier))


class Sweep(Stroke):
    """Fill what is still empty under a wide brush."""

    key = "S"
    closed = False
    says = "Rub over a dense area: only what is empty still takes the pot in hand. [ and ]: width."

    def done(self, points: list[tuple[float, float]], mods: Mods) -> None:
        self.easel.flats.sweep(points)

    def marks(self, painter: QPainter, zoom: float) -> None:
        _draw_brush(painter, self._points, self.easel.flats.widths["Sweep"])


class Take(Tool):
    """Take a pot from the page."""

    key = "T"
    says = "Click a region to take its pot in hand. Shift: pick every region of its part as well."

    def press(self, row: float, col: float, mods: Mods) -> None:
        atom = self.easel.atom_at(int(row), int(col))
        if not atom:
            return
        self.easel.choose_pot(self.easel.pot_of(atom))
        if mods & Mods.ShiftModifier:
            self.easel.flats.pick(self.easel.flats.leashed(row, col, "part"))


class Bridge(Stroke):
    """Keep, refuse, move or draw bridges."""

    key = "B"
    closed = False
    says = "Click a bridge to refuse or keep it; drag its end to move it; drag elsewhere to draw one. Shift: undecided."

    def drag(self, row: float, col: float, mods: Mods) -> None:
        if self._points:
            self._points = [self._points[0], (row, col)]

    def done(self, points: list[tuple[float, float]], mods: Mods) -> None:
        view = self.easel.view
        if view is None or view.atoms is None or view.partition is None:
            return
        if len(points) < 2 or length(points) < 8 / max(self.easel.zoom, 0.01):
            self._choose(*points[0], undecided=bool(mods & Mods.ShiftModifier))
            return
        start, end = points
        feet = view.atoms.bridges.feet.reshape(-1, 2)
        away = np.hypot(feet[:, 0] - start[0], feet[:, 1] - start[1])
        away[~np.repeat(view.partition.separates, 2)] = 1e9
        foot = int(away.argmin()) if len(away) else 0
        moved = None
        if len(away) and away[foot] <= 10 / max(self.easel.zoom, 0.01):
            far = feet[foot ^ 1].tolist()
            start = float(far[0]), float(far[1])
            middle = (feet[foot] + feet[foot ^ 1]) / 2
            moved = float(middle[0]), float(middle[1])
        self.easel.draw_bridge(thinned((start, end)), moved)

    def _choose(self, row: float, col: float, *, undecided: bool) -> None:
        view = self.easel.view
        assert view is not None
        assert view.atoms is not None
        assert view.partition is not None
        feet = view.atoms.bridges.feet
        middle = (feet[:, :2] + feet[:, 2:]) / 2
        away = (middle[:, 0] - row) ** 2 + (middle[:, 1] - col) ** 2
        away[~view.partition.separates] = 1e12
        index = int(away.argmin()) if len(away) else -1
        if index < 0 or away[index] > (view.atoms.bridges.width_px[index] + 20) ** 2:
            self.easel.said.emit("There is no bridge here. Drag from line to line to draw one.", False)
            return
        keep = None if undecided else not bool(view.partition.closed[index])
        at = float(middle[index, 0]), float(middle[index, 1])
        self.easel.do(lambda book, page: verbs.choose_bridge(book, page, *at, keep))


class Dam(Stroke):
    """Draw a border without ink; move its ends; take it away."""

    key = "A"
    kind = "dam"
    closed = False
    says = "Draw a border without ink. Drag an end of one to move it. Alt: click one to take it away. Never printed."

    def __init__(self, easel: Easel) -> None:
        super().__init__(easel)
        self._held: tuple[int, int] | None = None

    def _known(self) -> dict[int, Path]:
        sources = self.easel.sources()
        if sources is None:
            return {}
        return sources.dams if self.kind == "dam" else sources.doors

    def press(self, row: float, col: float, mods: Mods) -> None:
        reach = 12 / max(self.easel.zoom, 0.01)
        self._held = None
        for number, path in self._known().items():
            away = [float(np.hypot(row - r, col - c)) for r, c in path]
            if mods & Mods.AltModifier and min(away) <= reach:
                self._keep(None, number)
                return
            if min(away[0], away[-1]) <= reach:
                self._held = number, 0 if away[0] <= away[-1] else len(path) - 1
                self._points = list(path)
                return
        if not mods & Mods.AltModifier:
            super().press(row, col, mods)

    def drag(self, row: float, col: float, mods: Mods) -> None:
        if self._held is not None:
            self._points[self._held[1]] = (row, col)
        elif mods & Mods.ShiftModifier and self._points:
            self._points = [self._points[0], (row, col)]
        else:
            super().drag(row, col, mods)

    def done(self, points: list[tuple[float, float]], mods: Mods) -> None:
        number = None if self._held is None else self._held[0]
        self._held = None
        if len(points) < 2 or length(points) < 3:
            return
        self._keep(thinned(points), number)

    def _keep(self, path: Path | None, number: int | None) -> None:
        if self.kind == "dam":
            self.easel.set_dam(path, number)
        else:
            self.easel.do(lambda book, page: verbs.set_door(book, page, path, number))

    def cancel(self) -> None:
        super().cancel()
        self._held = None

    def marks(self, painter: QPainter, zoom: float) -> None:
        for number, path in self._known().items():
            if self._held is None or self._held[0] != number:
                self._draw(painter, list(path), zoom)
        if len(self._points) > 1:
            self._draw(painter, self._points, zoom)

    def _draw(self, painter: QPainter, path: list[tuple[float, float]], zoom: float) -> None:
        line = QPolygonF([QPointF(c, r) for r, c in path])
        for shade, width in (("#ffffff", 4.0), ("#161616", 1.8)):
            draw_with(painter, shade, width)
            painter.drawPolyline(line)
        painter.setBrush(QColor("#ffffff"))
        for end in (line.first(), line.last()):
            painter.drawEllipse(end, 4 / zoom, 4 / zoom)


class Door(Dam):
    """Let colour through a line."""

    key = "O"
    kind = "door"
    says = "Draw across a line to let colour through. Drag an end to move it. Alt: click one to take it away."


class CutOut(Stroke):
    """Cut a hard-edged shape out of what is there, whatever the line says."""

    key = "X"
    says = "Cut a shape out of what is there, whatever the line says."

    def hint(self) -> str:
        how = {
            "Straight": "Click corner after corner; the first again, or twice in one place, closes the shape.",
            "Pencil": "Draw hard pixels in the pot in hand. [ and ]: width.",
            "Eraser": "Rub over what was cut out: it goes back to the regions it was taken from. [ and ]: width.",
        }.get(self.easel.flats.shape, "Draw a shape: it becomes a region in the pot in hand.")
        return how + " Shift: in the colour it lies on. Alt: give back what was cut out."

    def press(self, row: float, col: float, mods: Mods) -> None:
        if self.easel.flats.shape != "Straight":
            self.closed = self.easel.flats.shape == "Freehand"
            super().press(row, col, mods)
            return
        near = 10 / max(self.easel.zoom, 0.01)
        corners = self._points
        again = bool(corners) and np.hypot(row - corners[-1][0], col - corners[-1][1]) <= near / 3
        home = len(corners) > 2 and np.hypot(row - corners[0][0], col - corners[0][1]) <= near
        if len(corners) > 2 and (home or again):
            self._points = []
            self.done(corners, mods)
        elif not again:
            self.closed = False
            self._points = [*corners, (row, col)]

    def drag(self, row: float, col: float, mods: Mods) -> None:
        if self.easel.flats.shape == "Straight":
            return
        if self.easel.flats.shape in ("Box", "Oval") and self._points:
            self._points = [self._points[0], (row, col)]
        else:
            super().drag(row, col, mods)

    def release(self, row: float, col: float, mods: Mods) -> None:
        if self.easel.flats.shape != "Straight":
            super().release(row, col, mods)

    def done(self, points: list[tuple[float, float]], mods: Mods) -> None:
        self.easel.flats.cut_out(points, back=bool(mods & Mods.AltModifier), keep=bool(mods & Mods.ShiftModifier))

    def marks(self, painter: QPainter, zoom: float) -> None:
        shape = self.easel.flats.shape
        if shape in ("Pencil", "Eraser"):
            _draw_brush(painter, self._points, self.easel.flats.widths["Cut-out"])
        elif shape in ("Box", "Oval") and len(self._points) > 1:
            (r0, c0), (r1, c1) = self._points[0], self._points[-1]
            for shade, width in (("#ffffff", 3.2), ("#161616", 1.4)):
                draw_with(painter, shade, width)
                box = QRectF(QPointF(c0, r0), QPointF(c1, r1)).normalized()
                (painter.drawRect if shape == "Box" else painter.drawEllipse)(box)
        else:
            super().marks(painter, zoom)
            if shape == "Straight":
                draw_with(painter, "#161616", 1.4)
                painter.setBrush(QColor("#ffffff"))
                for r, c in self._points:
                    painter.drawEllipse(QPointF(c, r), 3.5 / zoom, 3.5 / zoom)


def _draw_brush(painter: QPainter, points: list[tuple[float, float]], width: float, shade: str = "#46161616") -> None:
    if not points:
        return
    pen = QPen(QColor(shade), width)
    pen.setCapStyle(Qt.PenCapStyle.RoundCap)
    pen.setJoinStyle(Qt.PenJoinStyle.RoundJoin)
    painter.setPen(pen)
    painter.drawPolyline(QPolygonF([QPointF(c, r) for r, c in [*points, points[-1]]]))


class Leash(Stroke):
    """A brush that cannot leave the region it began in."""

    key = "L"
    closed = False
    says = (
        "Paint: the brush cannot leave the region it began in. Shift: every region of that pot. "
        "Alt: every region of its part. [ and ]: width."
    )

    def __init__(self, easel: Easel) -> None:
        super().__init__(easel)
        self._allowed: set[int] = set()

    def press(self, row: float, col: float, mods: Mods) -> None:
        super().press(row, col, mods)
        scope: Scope = "pot" if mods & Mods.ShiftModifier else "part" if mods & Mods.AltModifier else "region"
        self._allowed = self.easel.flats.leashed(row, col, scope)

    def done(self, points: list[tuple[float, float]], mods: Mods) -> None:
        allowed, self._allowed = self._allowed, set()
        self.easel.flats.brush(points, allowed)

    def cancel(self) -> None:
        super().cancel()
        self._allowed = set()

    def marks(self, painter: QPainter, zoom: float) -> None:
        view = self.easel.view
        if not self._points or view is None or view.labels is None or not self._allowed:
            return
        book, width = self.easel.book, self.easel.flats.widths["Leash"]
        pot = book.pots().get(self.easel.pot or 0) if book is not None else None
        shade = pot.local if pot is not None else "#ffffff"
        spots = np.array(self._points)
        level = view.level(zoom)
        step = 1 << level
        low = np.maximum(spots.min(axis=0) - width, 0) // step
        high = np.minimum(spots.max(axis=0) + width, view.shape) // step + 1
        (top, left), (bottom, right) = low.astype(int).tolist(), high.astype(int).tolist()
        labels = view.labels[level][top:bottom, left:right]
        if not labels.size or labels.size > 16_000_000:
            return
        brush = np.zeros(labels.shape, np.uint8)
        path = np.rint(spots / step - (top, left))[:, ::-1].astype(np.int32)
        cv2.polylines(brush, [path], False, 255, max(1, round(width / step)), cv2.LINE_8)
        inside = np.zeros(int(labels.max()) + 1, bool)
        inside[[a for a in self._allowed if a < len(inside)]] = True
        brush[~inside[labels]] = 0
        color = QColor(shade)
        rgba = np.zeros((*labels.shape, 4), np.uint8)
        rgba[brush > 0] = (color.blue(), color.green(), color.red(), 255)
        image = QImage(rgba.tobytes(), labels.shape[1], labels.shape[0], QImage.Format.Format_ARGB32)
        painter.drawImage(QRectF(left * step, top * step, labels.shape[1] * step, labels.shape[0] * step), image)


class Silhouette(Tool):
    """Fill everything that a ground encloses."""

    key = "H"
    says = (
        "Click the ground round a figure: all that it encloses takes the pot in hand. "
        "Shift: also what touches the panel's edge. Alt: pick what is not of the part in hand."
    )

    def press(self, row: float, col: float, mods: Mods) -> None:
        framed, check = bool(mods & Mods.ShiftModifier), bool(mods & Mods.AltModifier)
        self.easel.flats.silhouette(row, col, framed=framed, check=check)


class PanelTool(Tool):
    """Pour panels, and confine the other tools to one."""

    key = "F"
    says = "Click a panel: what is empty in it takes the pot in hand. Shift: all of it. Alt: confine the tools to it."

    def press(self, row: float, col: float, mods: Mods) -> None:
        panels = self.easel.flats.panels()
        if panels is None:
            return
        if mods & Mods.AltModifier:
            self.easel.flats.confine(panels.at(row, col))
        else:
            self.easel.flats.pour_panel(row, col, everything=bool(mods & Mods.ShiftModifier))

    def marks(self, painter: QPainter, zoom: float) -> None:
        panels = self.easel.flats.panels()
        for number, (top, left, bottom, right) in enumerate(panels.rects if panels is not None else (), 1):
            for shade, width in (("#ffffff", 5.0), ("#161616", 2.2)):
                draw_with(painter, shade, width)
                painter.drawRect(QRectF(left, top, right - left, bottom - top))
            self._number(painter, QPointF(left + 22 / zoom, top + 22 / zoom), number)

    def _number(self, painter: QPainter, at: QPointF, number: int) -> None:
        """Write a panel's number upright, however the view is turned."""
        middle = painter.worldTransform().map(at)
        confined = number == self.easel.flats.panel
        painter.save()
        painter.resetTransform()
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor("#161616" if confined else "#ffffff"))
        spot = QRectF(middle.x() - 14, middle.y() - 13, 28, 26)
        painter.drawEllipse(spot)
        painter.setPen(QColor("#ffffff" if confined else "#161616"))
        painter.setFont(theme.font(18))
        painter.drawText(spot, Qt.AlignmentFlag.AlignCenter, str(number))
        painter.restore()


class Pick(Tool):
    """Pick regions, to change them together."""

    key = "K"
    says = "Click a region to pick it, drag across several. Shift: add or take off. Alt: every region of its pot."

    def __init__(self, easel: Easel) -> None:
        super().__init__(easel)
        self._from: frozenset[int] | None = None
        self._off = False

    def press(self, row: float, col: float, mods: Mods) -> None:
        atom = self.easel.atom_at(int(row), int(col))
        flats = self.easel.flats
        if not atom:
            flats.pick(set())
            return
        self._off = bool(mods & Mods.ShiftModifier) and atom in flats.picked
        self._from = flats.picked if mods & Mods.ShiftModifier else frozenset()
        pot = self.easel.pot_of(atom)
        alike = bool(mods & Mods.AltModifier) and pot is not None
        self._with(self.easel.atoms_of_pot(pot) if alike else self.easel.region_atoms(atom))

    def _with(self, atoms: list[int]) -> None:
        now = self._from or frozenset()
        self._from = now - set(atoms) if self._off else now | set(atoms)
        self.easel.flats.pick(self._from)

    def drag(self, row: float, col: float, mods: Mods) -> None:
        atom = self.easel.atom_at(int(row), int(col))
        if self._from is not None and atom and (atom in self._from) == self._off:
            self._with(self.easel.region_atoms(atom))

    def release(self, row: float, col: float, mods: Mods) -> None:
        self._from = None

    def cancel(self) -> None:
        self._from = None
        if self.easel.flats.picked:
            self.easel.flats.pick(set())

    def dropped(self) -> None:
        self._from = None


class SeedTool(Stroke):
    """Scribble colours that spread by themselves."""

    key = "E"
    closed = False
    says = (
        "Scribble the pot in hand: it spreads to the next line, gap bridged or other seed; paper keeps others out. "
        "Drag a seed to move it. Shift: recolour it. Alt: take it away."
    )

    def __init__(self, easel: Easel) -> None:
        super().__init__(easel)
        self._held: int | None = None
        self._from = (0.0, 0.0)
        self._path: Path = ()
        self._met = 0

    def press(self, row: float, col: float, mods: Mods) -> None:
        sources = self.easel.sources()
        reach = 10 / max(self.easel.zoom, 0.01)
        self._held, self._from = None, (row, col)
        for number, seed in sources.seeds.items() if sources is not None else ():
            if min(np.hypot(row - r, col - c) for r, c in seed.path) > reach:
                continue
            if mods & Mods.AltModifier:
                self.easel.flats.sow(None, number)
            elif mods & Mods.ShiftModifier:
                self.easel.flats.sow(seed.path, number, recolor=True)
            else:
                self._held, self._path = number, seed.path
                self._points = list(seed.path)
            return
        if not mods & Mods.AltModifier:
            super().press(row, col, mods)

    def drag(self, row: float, col: float, mods: Mods) -> None:
        if self._held is None:
            super().drag(row, col, mods)
        else:
            down, right = row - self._from[0], col - self._from[1]
            self._points = [(r + down, c + right) for r, c in self._path]
        met = self.easel.atom_at(int(row), int(col))
        if met and met != self._met:
            self._met = met
            self.easel.flats.preview_sow(self._points, self._held)

    def done(self, points: list[tuple[float, float]], mods: Mods) -> None:
        held, self._held, self._met = self._held, None, 0
        if held is None or points != list(self._path):
            self.easel.flats.sow(thinned(points), held)
        else:
            self.easel.drop_preview()

    def cancel(self) -> None:
        super().cancel()
        self._held = None
        if self._met:
            self._met = 0
            self.easel.drop_preview()

    def marks(self, painter: QPainter, zoom: float) -> None:
        sources, book = self.easel.sources(), self.easel.book
        known = book.pots() if book is not None else {}
        for number, seed in sources.seeds.items() if sources is not None else ():
            if number != self._held:
                pot = known.get(seed.pot or 0)
                self._draw(painter, list(seed.path), pot.local if pot is not None else "#ffffff", zoom)
        if self._points:
            pot = known.get(self.easel.pot or 0)
            self._draw(painter, self._points, pot.local if pot is not None else "#ffffff", zoom)

    @staticmethod
    def _draw(painter: QPainter, path: list[tuple[float, float]], shade: str, zoom: float) -> None:
        for color, width in (("#ffffff", 11.0), ("#161616", 8.5), (shade, 5.5)):
            _draw_brush(painter, path, width / zoom, color)


FLAT_TOOLS: dict[str, type[Tool]] = {
    "Pour": Pour, "Corral": Corral, "Sweep": Sweep, "Seed": SeedTool, "Leash": Leash, "Cut-out": CutOut,
    "Silhouette": Silhouette, "Panel": PanelTool, "Pick": Pick, "Take": Take, "Bridge": Bridge, "Dam": Dam,
    "Door": Door,
}  # fmt: skip
