# SPDX-License-Identifier: GPL-3.0-or-later
"""What a stage draws over the page beside its tool's marks. Knows the easel and what is seen; no stage."""

from PyQt6.QtCore import QPointF
from PyQt6.QtGui import QPainter

from drip_pot.desk.session.easel import Easel
from drip_pot.desk.session.page_view import PageView
from drip_pot.desk.view.placed import PlacedMark
from drip_pot.desk.view.seen import Seen


class Overlay:
    """Marks of a stage; this one draws nothing."""

    def __init__(self, easel: Easel, seen: Seen) -> None:
        self.easel, self.seen = easel, seen

    def hover(self, row: float, col: float, at: QPointF) -> bool:
        """Note where the pointer is, on the page and on the canvas; return whether that changes what is drawn."""
        return False

    def leave(self) -> None:
        """Note that the pointer has left."""

    def escape(self) -> None:
        """Let go of what Escape lets go of."""

    def page_marks(self, painter: QPainter, view: PageView, canvas: PlacedMark) -> None:
        """Draw under the tool's marks; the painter is in page pixels."""

    def marks(self, painter: QPainter, view: PageView, canvas: PlacedMark) -> None:
        """Draw on top; the painter is in pixels of the canvas."""
