"""What the pointer does on the page, one small class per tool. Knows the easel; draws only its own marks."""

import numpy as np
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QColor, QPainter, QPen, QPolygonF

from drip_pot.book import InkState, verbs
from drip_pot.desk.easel import Easel

Mods = Qt.KeyboardModifier


class Tool:
    """A tool; positions are page pixels (row, col).

    Attributes
    ----------
    key : str
        Its letter.
    says : str
        What it does and what the modifier keys change, for the status line.
    """

    key = ""
    says = ""
    cursor = Qt.CursorShape.CrossCursor

    def __init__(self, easel: Easel) -> None:
        self.easel = easel

    def press(self, row: float, col: float, mods: Mods) -> None:
        """Begin a gesture."""

    def drag(self, row: float, col: float, mods: Mods) -> None:
        """Go on with it."""

    def release(self, row: float, col: float, mods: Mods) -> None:
        """Finish it."""

    def cancel(self) -> None:
        """Give it up without a trace."""

    def marks(self, painter: QPainter, zoom: float) -> None:
        """Draw marks; the painter is in page pixels."""


class Look(Tool):
    """Move the page about."""

    key = "L"
    says = "Drag to move the page, turn the wheel to zoom. The ink under the pointer is read at the right."
    cursor = Qt.CursorShape.OpenHandCursor


class Speck(Tool):
    """Erase single specks."""

    key = "X"
    says = "Click a speck to take it out of the line. The scan itself is never changed."

    def press(self, row: float, col: float, mods: Mods) -> None:
        view, sources = self.easel.view, self.easel.sources()
        if view is None or sources is None:
            return
        centers = view.pieces.centers
        away = np.hypot(centers[:, 0] - row, centers[:, 1] - col)
        nearest = int(away.argmin()) if len(away) else -1
        if nearest < 0 or away[nearest] > 14 + 2.0 * float(view.pieces.areas[nearest]) ** 0.5:
            self.easel.said.emit("There is no lone speck here.", False)
            return
        spot = (round(float(centers[nearest, 0])), round(float(centers[nearest, 1])))
        if spot not in sources.inks.erased:
            self.easel.set_inks(InkState(sources.inks.settings, (*sources.inks.erased, spot)), "Remove a speck")


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


class Take(Tool):
    """Take a pot from the page."""

    key = "T"
    says = "Click a region to take its pot in hand."

    def press(self, row: float, col: float, mods: Mods) -> None:
        atom = self.easel.atom_at(int(row), int(col))
        if atom:
            self.easel.choose_pot(self.easel.pot_of(atom))


class Bridge(Tool):
    """Keep or refuse bridges."""

    key = "B"
    says = "Click a bridge to refuse or keep it. Shift: leave it to the gap width again."

    def press(self, row: float, col: float, mods: Mods) -> None:
        view = self.easel.view
        if view is None or view.atoms is None or view.partition is None or len(view.atoms.bridges) == 0:
            return
        feet = view.atoms.bridges.feet
        middle = (feet[:, :2] + feet[:, 2:]) / 2
        away = (middle[:, 0] - row) ** 2 + (middle[:, 1] - col) ** 2
        away[~view.partition.separates] = 1e12
        index = int(away.argmin())
        if away[index] > (view.atoms.bridges.width_px[index] + 20) ** 2:
            self.easel.said.emit("There is no bridge here. A gap wider than 60 px has none.", False)
            return
        keep = None if mods & Mods.ShiftModifier else not bool(view.partition.closed[index])
        at = float(middle[index, 0]), float(middle[index, 1])
        self.easel.do(lambda book, page: verbs.choose_bridge(book, page, *at, keep))


class CutShade(Tool):
    """Loop an area into shadow."""

    key = "S"
    light = False
    says = "Loop round an area to put it in shadow. Alt: give light back. Shift: only inside the region you begin in."

    def __init__(self, easel: Easel) -> None:
        super().__init__(easel)
        self._points: list[tuple[float, float]] = []

    def press(self, row: float, col: float, mods: Mods) -> None:
        self._points = [(row, col)]

    def drag(self, row: float, col: float, mods: Mods) -> None:
        if self._points and abs(row - self._points[-1][0]) + abs(col - self._points[-1][1]) >= 1:
            self._points.append((row, col))

    def release(self, row: float, col: float, mods: Mods) -> None:
        points, self._points = self._points, []
        if len(points) >= 3:
            first = self.easel.atom_at(int(points[0][0]), int(points[0][1])) if mods & Mods.ShiftModifier else 0
            self.easel.cut(points, light=self.light != bool(mods & Mods.AltModifier), only=first)

    def cancel(self) -> None:
        self._points = []

    def marks(self, painter: QPainter, zoom: float) -> None:
        if len(self._points) < 2:
            return
        loop = QPolygonF([QPointF(c, r) for r, c in self._points])
        for shade, width in (("#ffffff", 3.2), ("#161616", 1.4)):
            pen = QPen(QColor(shade), width)
            pen.setCosmetic(True)
            painter.setPen(pen)
            painter.drawPolygon(loop)


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
    "Look": Look, "Speck": Speck, "Pour": Pour, "Take": Take, "Bridge": Bridge, "Cut shade": CutShade,
    "Cut light": CutLight, "Hold": Hold,
}  # fmt: skip
