# SPDX-License-Identifier: GPL-3.0-or-later
"""Props turned and moved on the page, and the inspector's block of the one in hand. Knows the sheet in hand."""

import msgspec
import numpy as np
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QColor, QPainter

from drip_pot.book import Sheet, verbs
from drip_pot.book.values import SHEETS
from drip_pot.core.props import Mesh, PropView, wires
from drip_pot.desk.parts.widgets import Block, NumberRow, button
from drip_pot.desk.session.easel import Easel
from drip_pot.desk.view.tool import Mods, Tool, draw_with, tool

_ROWS = (
    ("turn_deg", "Turn", -180, 180, 1, "°", 1.0), ("tilt_deg", "Tilt", -90, 90, 1, "°", 1.0),
    ("roll_deg", "Roll", -180, 180, 1, "°", 1.0), ("depth", "Perspective", 0, 100, 1, "%", 100.0),
    ("size_px", "Size", 24, 8000, 1, "px", 1.0), ("line_px", "Line", 0.5, 60, 0.5, "px", 1.0),
)  # fmt: skip
_DEG_A_PIXEL, _REACH = 0.5, 14


def prop_in_hand(easel: Easel) -> Sheet | None:
    """Return the sheet in hand where it is a prop."""
    sources = easel.sources()
    sheet = None if sources is None else sources[SHEETS].get(easel.sheet)
    return sheet if sheet is not None and sheet.view is not None else None


def change(easel: Easel, **values: float) -> None:
    """Look at the prop in hand in another way."""
    number = easel.sheet
    kept = {name: round(value) if name == "size_px" else value for name, value in values.items()}
    easel.do(lambda book, page: verbs.turn_prop(book, page, number, **kept))  # type: ignore[arg-type]


@tool("Inks")
class Prop(Tool):
    """Turn the prop in hand, or move it."""

    name = "Prop"
    place = 80
    key = "Z"
    says = "Drag to turn the prop in hand, its dot to move it, its ring to make it larger or smaller."

    def __init__(self, easel: Easel) -> None:
        super().__init__(easel)
        self._from: tuple[float, float] | None = None
        self._at: tuple[float, float] = (0.0, 0.0)
        self._grip = "turn"

    def press(self, row: float, col: float, mods: Mods) -> None:
        if prop_in_hand(self.easel) is None:
            self.easel.said.emit("Take the sheet of a prop in hand first, or stand one: its menu, Stand a prop.", False)
            return
        self._from = self._at = (row, col)
        found, reach = self._seen(), _REACH / max(self.easel.zoom, 0.01)
        assert found is not None
        away = float(np.hypot(row - found[1][0], col - found[1][1]))
        self._grip = "move" if away <= reach else "size" if abs(away - found[0].size_px / 2) <= reach else "turn"

    def drag(self, row: float, col: float, mods: Mods) -> None:
        self._at = (row, col)

    def release(self, row: float, col: float, mods: Mods) -> None:
        found, moved = self._seen(), self._from is not None and self._from != self._at
        self.cancel()
        if found is None or not moved:
            return
        view, middle = found
        number = self.easel.sheet
        sheet = prop_in_hand(self.easel)
        assert sheet is not None
        if view == sheet.view:
            self.easel.do(lambda book, page: verbs.move_prop(book, page, number, *middle))
        else:
            changed = {
                n: getattr(view, n)
                for n in ("turn_deg", "tilt_deg", "size_px")
                if getattr(view, n) != getattr(sheet.view, n)
            }
            change(self.easel, **changed)

    def cancel(self) -> None:
        self._from = None

    def _seen(self) -> tuple[PropView, tuple[float, float]] | None:
        """Return how the prop in hand is looked at as the drag leaves it, and its middle."""
        sheet = prop_in_hand(self.easel)
        if sheet is None or sheet.view is None:
            return None
        view, half = sheet.view, sheet.view.size_px / 2
        middle = sheet.place.down_px + half, sheet.place.right_px + half
        if self._from is None:
            return view, middle
        down, right = self._at[0] - self._from[0], self._at[1] - self._from[1]
        if self._grip == "move":
            return view, (middle[0] + down, middle[1] + right)
        if self._grip == "size":
            size = min(8000, max(24, round(2 * np.hypot(self._at[0] - middle[0], self._at[1] - middle[1]))))
            return msgspec.structs.replace(view, size_px=size), (middle[0], middle[1])
        step = _DEG_A_PIXEL * self.easel.zoom
        turn = (view.turn_deg + right * step + 180) % 360 - 180
        tilt = min(90, max(-90, view.tilt_deg + down * step))
        return msgspec.structs.replace(view, turn_deg=turn, tilt_deg=tilt), middle

    def marks(self, painter: QPainter, zoom: float) -> None:
        found, sheet = self._seen(), prop_in_hand(self.easel)
        if found is None or sheet is None or self.easel.book is None:
            return
        view, (row, col) = found
        half = view.size_px / 2
        for shade, width in (("#ffffff", 3.0), ("#161616", 1.2)):
            draw_with(painter, shade, width)
            painter.drawEllipse(QPointF(col, row), half, half)
        painter.setBrush(QColor("#161616"))
        painter.drawEllipse(QPointF(col, row), 6 / zoom, 6 / zoom)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        if self._from is None:
            return
        mesh: Mesh | None = self.easel.book.meshes(sheet.original)
        if mesh is None:
            return
        lines = wires(mesh, view) + np.array([col, row]) - view.size_px / 2
        for shade, width in (("#ffffff", 3.0), ("#161616", 1.2)):
            draw_with(painter, shade, width)
            for (x0, y0), (x1, y1) in lines.tolist():
                painter.drawLine(QPointF(x0, y0), QPointF(x1, y1))


class PropBlock(Block):
    """How the prop in hand is looked at, and its colour."""

    def __init__(self, easel: Easel) -> None:
        super().__init__("Prop")
        self.easel = easel
        self.rows: dict[str, tuple[NumberRow, float]] = {}
        for name, title, low, high, step, unit, scale in _ROWS:
            row = NumberRow(title, low, high, step, unit, 1 if step < 1 else 0)
            row.done.connect(lambda v, n=name, s=scale: change(easel, **{n: v / s}))
            self.rows[name] = row, scale
            self.add(row)
        self.pour = button("Colour it", self._light, "Pour the pot in hand into it, with shadow where it turns away")
        self.row(self.pour)

    def _light(self) -> None:
        number, pot = self.easel.sheet, self.easel.pot
        if pot is None:
            self.easel.said.emit("Take a pot in hand first.", False)
        else:
            self.easel.hands.start(lambda hand: verbs.light_prop(hand, number, pot))

    def refresh(self) -> None:
        """Show the prop in hand; without one the block is not there."""
        sheet = prop_in_hand(self.easel)
        self.setVisible(sheet is not None)
        if sheet is not None:
            for name, (row, scale) in self.rows.items():
                row.show_value(getattr(sheet.view, name) * scale)
