# SPDX-License-Identifier: GPL-3.0-or-later
"""The record of Inks, and what it draws over the page. Knows no other stage."""

from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QColor, QPainter, QPen

from drip_pot.book import ROLES, PageSources
from drip_pot.book.derive import chosen_specks
from drip_pot.book.values import INKS, SHEETS
from drip_pot.desk.parts import theme
from drip_pot.desk.session.easel import Easel
from drip_pot.desk.session.page_view import PageView
from drip_pot.desk.shelf.in_hand import Tells
from drip_pot.desk.stages.inks.blocks import InksPanel
from drip_pot.desk.stages.inks.cards import SheetCards
from drip_pot.desk.stages.stage import Stage
from drip_pot.desk.view.overlay import Overlay
from drip_pot.desk.view.placed import PlacedMark
from drip_pot.desk.view.render import Look
from drip_pot.desk.view.seen import Chip, Seen, flag
from drip_pot.words import tr


class InksOverlay(Overlay):
    """Rings round the specks that are taken out; trim and bleed."""

    def page_marks(self, painter: QPainter, view: PageView, canvas: PlacedMark) -> None:
        sources = self.easel.sources()
        if sources is None or sources.page.trim_mm is None:
            return
        page, px = sources.page, sources.page.dpi / 25.4
        wide, high = (side * px for side in sources.page.trim_mm)
        trim = QRectF((page.cols - wide) / 2, (page.rows - high) / 2, wide, high)
        bleed = page.bleed_mm * px
        for box, style in ((trim, Qt.PenStyle.SolidLine), (trim.adjusted(-bleed, -bleed, bleed, bleed),
                                                           Qt.PenStyle.DashLine)):  # fmt: skip
            pen = QPen(QColor("#161616"), 1.2, style)
            pen.setCosmetic(True)
            painter.setPen(pen)
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(box)

    def marks(self, painter: QPainter, view: PageView, canvas: PlacedMark) -> None:
        if self.seen["specks"]:
            painter.setPen(QPen(theme.color("mark"), 1.6))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            for speck in chosen_specks(view.drawing.pieces, view.preview or view.inks):
                painter.drawEllipse(canvas.to_widget(speck.row, speck.col), 7, 7)


def _looks(easel: Easel, seen: Seen) -> tuple[Look, Look]:
    scan = Look(kind="scan")
    as_it_came = seen["scan"] or easel.tool == "Square"  # the corners of paper are seen there alone
    return (scan if as_it_came else Look(kind="line", losses=seen["losses"])), scan


def _set(seen: Seen, name: str, *, on: bool) -> None:
    seen[name] = on


def _chips(easel: Easel, seen: Seen) -> list[Chip]:
    sources = easel.sources()
    inks = None if sources is None else sources[INKS].get(easel.sheet)
    two_levels = inks is not None and inks.settings.threshold is not None
    return [
        Chip("Line", not seen["scan"], "The line as it will be", lambda: _set(seen, "scan", on=False)),
        Chip("Scan", seen["scan"], "The original", lambda: _set(seen, "scan", on=True)),
        flag(seen, "Specks", "specks", "Ring the specks that are removed"),
        *([flag(seen, "Losses", "losses", "Line that two levels lose")] if two_levels else []),
    ]


def _reads(easel: Easel, view: PageView, row: int, col: int) -> str:
    return tr("ink {0} %", round(int(view.drawing.ink[0][row, col]) / 2.55))


def _tells(easel: Easel, sources: PageSources) -> tuple[str, str, str, str]:
    sheet, page = sources[SHEETS].get(easel.sheet, sources[SHEETS][0]), sources.page
    size = tr("{0} × {1} px, {2:g} dpi", page.cols, page.rows, page.dpi)
    return sheet.name, "original kept", ROLES[sheet.role], size


STAGE = Stage(
    "Inks", InksPanel, _looks, _chips, InksOverlay, _reads, {"specks": True, "losses": True},
    cards=lambda easel, _: SheetCards(easel), tells=Tells(_tells, of_page=True),
)  # fmt: skip
