"""The inspector's blocks of Flats: the tool in hand, gaps, regions. They write to the book through the easel."""

from collections.abc import Callable
from typing import TypeVar

import numpy as np
from PyQt6.QtCore import QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QMouseEvent, QPaintEvent
from PyQt6.QtWidgets import QCheckBox, QComboBox, QGridLayout, QLabel, QWidget

from drip_pot.book import verbs
from drip_pot.core.arrays import F64, I64
from drip_pot.core.regions import least_region_px, regions_of
from drip_pot.desk import theme
from drip_pot.desk.easel import Easel
from drip_pot.desk.flatting import SHAPES, WIDTHS
from drip_pot.desk.panels import Panel, chart_painter, count_text, paint_mark
from drip_pot.desk.widgets import Block, Choice, NumberRow, button, label

W = TypeVar("W", bound=QWidget)


class ToolBlock(Block):
    """What the tool in hand can be set to; hidden for tools without settings."""

    def __init__(self, easel: Easel) -> None:
        super().__init__("Tool")
        self.easel = easel
        self._rows: dict[str, list[QWidget]] = {}
        self.strength = self._row("Pour", NumberRow("Strength", 1, 100, 1, "%"))
        self.strength.setToolTip("Below 100 % the pot is mixed into what is there; each mix becomes a pot.")
        self.strength.done.connect(self._set_strength)
        self.shape = self._row("Cut-out", Choice("Shape", SHAPES, 3))
        self.shape.chosen.connect(self._set_shape)
        self.widths: dict[str, NumberRow] = {}
        for tool, (low, high) in WIDTHS.items():
            row = self._row(tool, NumberRow("Width", low, high, 1, "px"))
            row.done.connect(lambda v, t=tool: self._set_width(t, v))
            self.widths[tool] = row
        self._pick_rows()
        self.sown = self._row("Seed", label("", "muted"))
        self.settle = self._row("Seed", button("Settle", easel.flats.settle, "Make what the seeds took plain flats"))
        self.confined = self._row("Panel", label("", "muted"))
        self.free = self._row("Panel", button("Work anywhere", lambda: easel.flats.confine(0), "Free the tools again"))

    def _row(self, tool: str, widget: W) -> W:
        self.add(widget)
        self._rows.setdefault(tool, []).append(widget)
        return widget

    def _pick_rows(self) -> None:
        flats = self.easel.flats
        more = QWidget()
        grid = QGridLayout(more)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setSpacing(6)

        def act(row: int, column: int, text: str, done: Callable[[], object], tip: str) -> None:
            grid.addWidget(button(text, done, tip), row, column)

        act(0, 0, "Its pot", lambda: flats.pick_more("pot"), "Pick every region of the same pots")
        act(0, 1, "Its part", lambda: flats.pick_more("part"), "Pick every region of the same parts")
        act(0, 2, "Alike", lambda: flats.pick_more("alike"), "Pick every region in a colour within 3 ΔE")
        act(1, 0, "Neighbours", lambda: flats.pick_more("neighbours"), "Pick what touches it")
        act(1, 1, "Join", flats.join, "Make one region of what is picked")
        act(1, 2, "Split", flats.split, "Make every piece a region of its own")
        act(2, 0, "Pour", lambda: self.easel.pour(set(flats.picked)), "Pour the pot in hand into what is picked")
        act(2, 1, "Own pot", flats.own_pot, "Give what is picked a pot of its own")
        act(2, 2, "Let go", lambda: flats.pick(set()), "Pick nothing (Escape)")
        self._row("Pick", more)
        self.part = self._row("Pick", QComboBox())
        self.part.setAccessibleName("Move to part")
        self.part.activated.connect(self._to_part)
        self.shifts = [
            self._row("Pick", NumberRow("Lighter or darker", -40, 40, 1, "L")),
            self._row("Pick", NumberRow("More or less colourful", -100, 100, 1, "%")),
            self._row("Pick", NumberRow("Turn the hue", -180, 180, 1, "°")),
        ]
        for row in self.shifts:
            row.show_value(0, always=True)
            row.moved.connect(lambda _: flats.preview_shift(*self._shift()))
            row.done.connect(lambda _: self._keep_shift())

    def _shift(self) -> tuple[float, float, float]:
        light, chroma, hue = (row.value() for row in self.shifts)
        return light / 100, 1 + chroma / 100, hue

    def _keep_shift(self) -> None:
        shift = self._shift()
        if shift != (0, 1, 0):
            for row in self.shifts:
                row.show_value(0, always=True)
            self.easel.flats.shift_picked(*shift)

    def _to_part(self, place: int) -> None:
        if place > 0:
            self.easel.flats.to_part(self.part.itemData(place))
        self.part.setCurrentIndex(0)

    def _set_strength(self, value: float) -> None:
        self.easel.flats.strength = value / 100
        self.easel.chosen.emit()

    def _set_shape(self, name: str) -> None:
        self.easel.flats.shape = next(s for s in SHAPES if s == name)
        self.easel.chosen.emit()

    def _set_width(self, tool: str, value: float) -> None:
        self.easel.flats.widths[tool] = value
        self.easel.chosen.emit()

    def refresh(self) -> None:
        """Show the tool in hand."""
        flats, tool = self.easel.flats, self.easel.tool
        self.head.setText(tool)
        self.setVisible(tool in self._rows)
        for name, rows in self._rows.items():
            for row in rows:
                row.setVisible(name == tool)
        self.widths["Cut-out"].setVisible(tool == "Cut-out" and flats.shape in ("Pencil", "Eraser"))
        self.strength.show_value(flats.strength * 100)
        self.shape.show_choice(flats.shape)
        for name, row in self.widths.items():
            row.show_value(flats.widths[name])
        self.note.setText("")
        book, sources, view = self.easel.book, self.easel.sources(), self.easel.view
        if book is None or sources is None or view is None or view.partition is None:
            return
        if tool == "Pick":
            picked = len({int(view.partition.region[a]) for a in flats.picked if a < len(view.partition.region)})
            self.note.setText("nothing picked" if not picked else "1 region" if picked == 1 else f"{picked} regions")
            for row in self._rows["Pick"]:
                row.setEnabled(picked > 0)
            self.part.clear()
            self.part.addItem("Move to part")
            for number, part in book.parts().items():
                self.part.addItem(part.name, number)
        elif tool == "Seed":
            self.note.setText(f"{len(sources.seeds)} sown")
            self.sown.setText(f"{count_text(len(sources.sown))} areas follow them until they are settled.")
            self.settle.setEnabled(bool(sources.seeds))
        elif tool == "Panel":
            panels = flats.panels()
            count = len(panels.rects) if panels is not None else 0
            self.note.setText("the whole page" if panels is not None and not panels.framed else f"{count} found")
            where = (
                f"Tools work in panel {flats.panel} alone."
                if flats.panel
                else "Tools work anywhere. Alt+click confines."
            )
            self.confined.setText(where)
            self.free.setEnabled(bool(flats.panel))


class GapBars(QWidget):
    """How many gaps there are of each width; a mark, to be dragged, up to which they are bridged."""

    moved = pyqtSignal(float)
    done = pyqtSignal(float)
    MOST = 60

    def __init__(self) -> None:
        super().__init__()
        self.setFixedHeight(96)
        self.setAccessibleName("Gaps by width")
        self._counts: I64 = np.zeros(self.MOST // 2, np.int64)
        self._gap = 0.0
        self._held = False

    def show_gaps(self, widths: F64, gap: float) -> None:
        """Show gap widths in pixels, (B,), and the width bridged."""
        self._counts = np.histogram(widths, bins=self.MOST // 2, range=(0, self.MOST))[0]
        if not self._held:
            self._gap = gap
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        box = QRectF(0, 4, self.width(), self.height() - 22)
        painter = chart_painter(self, box)
        most = max(int(self._counts.max()), 1)
        for place, count in enumerate(self._counts.tolist()):
            x, wide = self._x(place * 2), self._x(place * 2 + 2) - self._x(place * 2) - 2
            height = (count / most) ** 0.6 * (box.height() - 12)
            inside = place * 2 + 1 <= self._gap
            painter.fillRect(
                QRectF(x + 1, box.bottom() - 3 - height, wide, height), theme.color("text" if inside else "line")
            )
        paint_mark(painter, self._x(self._gap), box, box.bottom() + 4, box.bottom() - 6)
        painter.setPen(theme.color("muted"))
        painter.setFont(theme.font(13, 400, theme.FIGURES))
        for px in range(0, self.MOST + 1, 10):
            painter.drawText(
                QRectF(self._x(px) - 16, self.height() - 16, 32, 16), Qt.AlignmentFlag.AlignCenter, str(px)
            )

    def _x(self, px: float) -> float:
        return 8 + px / self.MOST * (self.width() - 16)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        self._held = True
        self.mouseMoveEvent(event)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is None or not self._held:
            return
        px = (event.position().x() - 8) / max(self.width() - 16, 1) * self.MOST
        self._gap = float(round(min(max(px, 0), self.MOST)))
        self.update()
        self.moved.emit(self._gap)

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        if self._held:
            self._held = False
            self.done.emit(self._gap)


class FlatsPanel(Panel):
    """The tool in hand, gaps in the line, and what is proved of the regions."""

    def __init__(self, easel: Easel) -> None:
        super().__init__(easel)
        self.tool = ToolBlock(easel)
        gaps = Block("Gaps in the line")
        self.bars = GapBars()
        gaps.add(self.bars)
        self.gap = NumberRow("Bridge gaps up to", 0, verbs.GAP_MOST, 1, "px")
        self.gap.slider.hide()
        gaps.add(self.gap)
        self.auto = QCheckBox("Worked out from the page")
        gaps.add(self.auto)
        self.least = NumberRow("Smallest region", 0, 2000, 1, "px")
        self.least.setToolTip("Smaller ones join the neighbour they are least parted from. 0 keeps all.")
        facts = Block("Regions")
        facts.add(self.least)
        self.gaps_block = gaps
        self.regions = facts.note
        self.bridges = facts.fact("Bridges")
        self.unfilled = facts.fact("Not poured yet")
        self.fringe: QLabel = facts.fact("Fringe proof")
        self.fringe.setToolTip("Pixels where paper would show between flat and line; flats go under it to its middle")
        self.blocks = [self.tool, gaps, facts]
        for part in (self.bars, self.gap):
            part.moved.connect(self.easel.try_gap)
            part.done.connect(self._keep)
        self.auto.clicked.connect(lambda on: self._keep(None if on else self.gap.value()))
        self.least.done.connect(lambda v: self.easel.do(lambda book, page: verbs.set_least(book, page, int(v))))

    def _keep(self, gap: float | None) -> None:
        self.easel.do(lambda book, page: verbs.set_gap(book, page, gap))
        self.refresh()

    def refresh(self) -> None:
        self.tool.refresh()
        ready, view = self._ready(), self.easel.view
        if ready is None or view is None or view.partition is None or view.atoms is None or view.facts is None:
            self.gaps_block.note.setText("")
            self.regions.setText("finding them")
            return
        _, sources = ready
        part, widths = view.partition, view.atoms.bridges.width_px
        self.gaps_block.note.setText(f"{count_text(int(part.separates.sum()))} found")
        self.bars.show_gaps(widths[part.separates], view.gap_px)
        self.gap.show_value(view.gap_px)
        self.gap.name.setText(f"Bridge gaps up to {view.gap_px / sources.page.dpi * 25.4:.2f} mm,")
        self.auto.setChecked(sources.flats.gap_px is None)
        least = sources.flats.least_px
        self.least.show_value(least_region_px(view.atoms.line_px) if least is None else least)
        areas = view.atoms.areas
        self.regions.setText(count_text(len(regions_of(part.region, areas))))
        refused = sum(not keep for _, _, keep in sources.choices)
        self.bridges.setText(f"{count_text(int(part.closed.sum()))} drawn, {refused} refused")
        empty = np.array([a not in sources.pours for a in range(len(areas))])
        bare = len(regions_of(part.region, np.where(empty, areas, 0)))
        self.unfilled.setText("1 region" if bare == 1 else f"{count_text(bare)} regions")
        told, early = self.easel.fringe, bare > 0.15 * max(len(regions_of(part.region, areas)), 1)
        shown = "counting" if told is None else f"{count_text(told.px)} px of paper shown"
        self.fringe.setText("once it is poured" if early else shown)
