# SPDX-License-Identifier: GPL-3.0-or-later
"""What Flats draws over the page: outlines of what is picked and pointed at, names, bridges. Knows no other stage."""

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QPainter, QPainterPath, QPen

from drip_pot.book.following import to_look_at
from drip_pot.book.sources import PageSources
from drip_pot.book.values import DAMS, DOUBTS, FIGURES, FOLLOWING, POURS, STENCILS
from drip_pot.core.regions import bridge_verdicts
from drip_pot.desk.parts import theme
from drip_pot.desk.session.easel import Easel
from drip_pot.desk.session.page_view import Flatted, PageView
from drip_pot.desk.stages.flats.damming import draw_dam
from drip_pot.desk.view.outline import PickOutline, outline
from drip_pot.desk.view.overlay import Overlay
from drip_pot.desk.view.placed import PlacedMark
from drip_pot.desk.view.seen import Seen
from drip_pot.words import tr

_WORTH = 0.1


class FlatsOverlay(Overlay):
    """Marks of Flats."""

    def __init__(self, easel: Easel, seen: Seen) -> None:
        super().__init__(easel, seen)
        self._hover: tuple[float, float, QPointF] | None = None
        self._outline = PickOutline()
        self._doubts: tuple[object, QPainterPath] = (None, QPainterPath())
        self._offers: tuple[object, dict[int, QPainterPath]] = (None, {})

    def hover(self, row: float, col: float, at: QPointF) -> bool:
        self._hover = row, col, at
        return True

    def leave(self) -> None:
        self._hover = None

    def page_marks(self, painter: QPainter, view: PageView, canvas: PlacedMark) -> None:
        super().page_marks(painter, view, canvas)
        flat = view.flat
        if flat is None:
            return
        level = view.level(canvas.zoom)
        self._offered(painter, flat, level)
        self._doubted(painter, view, level)
        root = 0 if canvas.is_busy() else self._pointed()
        pointed = root, id(flat.partition), level
        self._outline.show(painter, pointed, lambda: outline(flat, flat.region(root) if root else (), level), 1.0)

    def _offered(self, painter: QPainter, flat: Flatted, level: int) -> None:
        """Show figures that are offered in the colours they would have."""
        sources, book = self.easel.sources(), self.easel.book
        if sources is None or book is None or not sources[FIGURES]:
            return
        key = sources[FIGURES], sources[POURS], id(flat.divided), level
        if self._offers[0] != key:
            atoms: dict[int, set[int]] = {}
            for offer in sources[FIGURES].values():
                for one in offer.regions:
                    atom = self.easel.atom_at(one.row, one.col)
                    if atom not in sources[POURS]:
                        atoms.setdefault(one.pot, set()).update(flat.region(atom))
            self._offers = key, {pot: outline(flat, own, level) for pot, own in atoms.items()}
        pots = book.pots()
        for pot, path in self._offers[1].items():
            painter.setCompositionMode(QPainter.CompositionMode.CompositionMode_Multiply)  # the line stays as it is
            painter.fillPath(path, QColor(pots[pot].local if pot in pots else "#ffffff"))
            painter.setCompositionMode(QPainter.CompositionMode.CompositionMode_SourceOver)
            _dash(painter, path)

    def _doubted(self, painter: QPainter, view: PageView, level: int) -> None:
        """Outline what was carried in doubt and still stands."""
        sources, flat = self.easel.sources(), view.flat
        if sources is None or flat is None:
            return
        if not sources[DOUBTS] and not sources[FOLLOWING]:
            return
        rows, cols = view.shape
        spots = [(flat.labels[0][r, c], d) for (r, c), d in sources[DOUBTS].items() if 0 <= r < rows and 0 <= c < cols]
        atoms = {
            a
            for atom, d in spots
            if d.is_open and sources[POURS].get(int(atom)) == d.pot
            for a in flat.region(int(atom))
        }
        atoms |= self._slid(sources, flat)
        if self._doubts[0] != (atoms, id(flat.divided), level):
            self._doubts = ((atoms, id(flat.divided), level), outline(flat, atoms, level))
        _dash(painter, self._doubts[1])

    def _slid(self, sources: PageSources, flat: Flatted) -> set[int]:
        """Return the atoms of cut-outs that were taken along and may have slid."""
        numbers = {mark.number for mark in to_look_at(sources, STENCILS).values()}
        steps = zip(sources.by_hand, flat.divided.steps, strict=False)
        return {step.count + 1 for number, step in steps if number in numbers and step.rect[2] > step.rect[0]}

    def marks(self, painter: QPainter, view: PageView, canvas: PlacedMark) -> None:
        if view.flat is not None and (self.seen["bridges"] or self.easel.tool == "Bridge"):
            self._bridges(painter, view.flat, canvas)
            self._dams(painter, canvas)
        if self.seen["names"] and self._pointed() and not canvas.is_busy() and self.easel.book is not None:
            self._name(painter, canvas)

    def _pointed(self) -> int:
        """Return the atom under the pointer, on the page as it is shown now."""
        return 0 if self._hover is None else self.easel.atom_at(*self._hover[:2])

    def _name(self, painter: QPainter, canvas: PlacedMark) -> None:
        """Write the name of the pot under the pointer beside it."""
        assert self._hover is not None
        root, at = self._pointed(), self._hover[2]
        known = self.easel.book.pots() if self.easel.book is not None else {}
        pot = known.get(self.easel.pot_of(root) or 0)
        painter.setFont(theme.font(13, 500))
        name = pot.name if pot is not None else "unpoured"
        wide = painter.fontMetrics().horizontalAdvance(name) + 14
        box = QRectF(min(at.x() + 14, canvas.width() - wide - 2), min(at.y() + 16, canvas.height() - 24), wide, 20)
        painter.setPen(QPen(QColor("#161616"), 1))
        painter.setBrush(QColor("#ffffff"))
        painter.drawRoundedRect(box, 4, 4)
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, tr(name))

    def _dams(self, painter: QPainter, canvas: PlacedMark) -> None:
        """Draw bridges and dams made by hand, as their tools do."""
        sources = self.easel.sources()
        if sources is None or self.easel.tool in ("Bridge", "Dam"):
            return
        painter.save()
        painter.setTransform(canvas.transform(), True)
        for path in sources[DAMS].values():
            draw_dam(painter, path, self.easel.zoom)
        painter.restore()

    def _bridges(self, painter: QPainter, flat: Flatted, canvas: PlacedMark) -> None:
        feet, bend, part = flat.atoms.bridges.feet, flat.atoms.bridges.bend, flat.partition
        near = canvas.zoom >= 0.2
        worth = bridge_verdicts(flat.atoms) >= (0.0 if self.easel.tool == "Bridge" else _WORTH)
        open_ones = part.separates & ~part.closed & worth
        for wanted, ink in ((part.closed, QColor("#161616")), (open_ones, theme.color("mark"))):
            for index in wanted.nonzero()[0].tolist():
                a, b = canvas.to_widget(*feet[index, :2].tolist()), canvas.to_widget(*feet[index, 2:].tolist())
                if not canvas.rect().contains(a.toPoint()) and not canvas.rect().contains(b.toPoint()):
                    continue
                curve = QPainterPath(a)
                curve.quadTo(canvas.to_widget(*bend[index].tolist()), b)
                painter.setBrush(Qt.BrushStyle.NoBrush)
                for shade, width in ((QColor("#ffffff"), 4.4), (ink, 2.0)) if near else ((ink, 1.4),):
                    style = Qt.PenStyle.DashLine if wanted is open_ones and width < 4 else Qt.PenStyle.SolidLine
                    painter.setPen(QPen(shade, width, style, Qt.PenCapStyle.FlatCap))
                    painter.drawPath(curve)


def _dash(painter: QPainter, path: QPainterPath) -> None:
    """Outline what is to be looked at."""
    painter.setBrush(Qt.BrushStyle.NoBrush)
    for shade, wide, style in ((QColor("#ffffff"), 3.4, Qt.PenStyle.SolidLine),
                               (theme.color("mark"), 1.8, Qt.PenStyle.DashLine)):  # fmt: skip
        pen = QPen(shade, wide, style)
        pen.setCosmetic(True)
        painter.setPen(pen)
        painter.drawPath(path)
