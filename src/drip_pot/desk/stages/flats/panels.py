"""Panels and silhouettes poured whole. Knows the page at hand."""

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QPainter

from drip_pot.core.regions import Panels
from drip_pot.desk.parts import theme
from drip_pot.desk.stages.flats.flatting import Flatting
from drip_pot.desk.view.tool import Mods, Tool, draw_with, tool


@tool("Flats")
class Silhouette(Tool):
    """Fill everything that a ground encloses."""

    name = "Silhouette"
    place = 70
    key = "H"
    says = (
        "Click the ground round a figure: all that it encloses takes the pot in hand. "
        "Shift: also what touches the panel's edge. Alt: pick what is not of the part in hand."
    )

    def press(self, row: float, col: float, mods: Mods) -> None:
        flatting = self.easel.own(Flatting)
        what = flatting.check_silhouette if mods & Mods.AltModifier else flatting.silhouette
        what(row, col, framed=bool(mods & Mods.ShiftModifier))


@tool("Flats")
class PanelTool(Tool):
    """Pour panels, and confine the other tools to one."""

    name = "Panel"
    place = 80
    key = "F"
    says = "Click a panel: what is empty in it takes the pot in hand. Shift: all of it. Alt: confine the tools to it."

    def _panels(self) -> Panels | None:
        view = self.easel.view
        return None if view is None or view.flat is None else view.flat.panels

    def press(self, row: float, col: float, mods: Mods) -> None:
        panels = self._panels()
        if panels is None:
            self.easel.said.emit("The panels are still being found. Try again in a moment.", False)
        elif mods & Mods.AltModifier:
            self.easel.confine(panels.at(row, col))
        else:
            self.easel.own(Flatting).pour_panel(row, col, everything=bool(mods & Mods.ShiftModifier))

    def marks(self, painter: QPainter, zoom: float) -> None:
        panels = self._panels()
        for number, (top, left, bottom, right) in enumerate(panels.rects if panels is not None else (), 1):
            for shade, width in (("#ffffff", 5.0), ("#161616", 2.2)):
                draw_with(painter, shade, width)
                painter.drawRect(QRectF(left, top, right - left, bottom - top))
            self._number(painter, QPointF(left + 22 / zoom, top + 22 / zoom), number)

    def _number(self, painter: QPainter, at: QPointF, number: int) -> None:
        """Write a panel's number upright, however the view is turned."""
        middle = painter.worldTransform().map(at)
        confined = number == self.easel.within
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
