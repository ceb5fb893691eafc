# SPDX-License-Identifier: GPL-3.0-or-later
"""What a stage draws over the page beside its tool's marks. Knows the easel and what is seen; no stage."""

from PyQt6.QtCore import QPointF
from PyQt6.QtGui import QPainter

from drip_pot.desk.session.easel import Easel
from drip_pot.desk.session.page_view import PageView
from drip_pot.desk.view.outline import PickOutline, outline
from drip_pot.desk.view.placed import PlacedMark
from drip_pot.desk.view.seen import Seen


class Overlay:
    """Marks of a stage; this one draws what is picked, which holds in every stage."""

    def __init__(self, easel: Easel, seen: Seen) -> None:
        self.easel, self.seen = easel, seen
        self._picked, self._keyed = PickOutline(), PickOutline()

    def hover(self, row: float, col: float, at: QPointF) -> bool:
        """Note where the pointer is, on the page and on the canvas; return whether that changes what is drawn."""
        return False

    def leave(self) -> None:
        """Note that the pointer has left."""

    def escape(self) -> None:
        """Let go of what is picked, and of the panel that tools are confined to."""
        if self.easel.picked:
            self.easel.pick(set())
        if self.easel.within:
            self.easel.confine(0)

    def page_marks(self, painter: QPainter, view: PageView, canvas: PlacedMark) -> None:
        """Draw under the tool's marks, what is picked above all; the painter is in page pixels."""
        flat, picked, level = view.flat, self.easel.picked, view.level(canvas.zoom)
        if flat is not None and picked:
            self._picked.show(painter, (picked, id(flat.divided), level), lambda: outline(flat, picked, level), 2.0)
        found = None if flat is None or not self.easel.keys.region else self.easel.keys.at()
        if found is not None:
            atoms, divided = found[1], id(found[0].divided)
            self._keyed.show(painter, (tuple(atoms), divided, level), lambda: outline(found[0], atoms, level), 4.0)

    def marks(self, painter: QPainter, view: PageView, canvas: PlacedMark) -> None:
        """Draw on top; the painter is in pixels of the canvas."""
