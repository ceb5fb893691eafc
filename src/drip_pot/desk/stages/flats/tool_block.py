# SPDX-License-Identifier: GPL-3.0-or-later
"""The inspector's block of the tool in hand in Flats. Writes to the book through the easel."""

from collections.abc import Callable
from typing import TypeVar

from PyQt6.QtWidgets import QComboBox, QHBoxLayout, QVBoxLayout, QWidget

from drip_pot.book import verbs
from drip_pot.book.values import SEEDS, SOWN
from drip_pot.desk.parts.widgets import Block, Choice, NumberRow, button, label
from drip_pot.desk.session.easel import Easel
from drip_pot.desk.stages.flats.flatting import WIDTHS, Flatting
from drip_pot.words import grouped, tr

W = TypeVar("W", bound=QWidget)


class ToolBlock(Block):
    """What the tool in hand can be set to; hidden for tools without settings."""

    def __init__(self, easel: Easel) -> None:
        super().__init__("Tool")
        self.easel, self._flatting = easel, easel.own(Flatting)
        self._rows: dict[str, list[QWidget]] = {}
        self.strength = self._row("Pour", NumberRow("Strength", 1, 100, 1, "%"))
        self.strength.setToolTip(tr("Below 100 % the pot is mixed into what is there; each mix becomes a pot."))
        self.strength.done.connect(self._set_strength)
        self.shape = self._row("Cut-out", Choice("Shape", verbs.SHAPES, 3))
        self.shape.chosen.connect(self._set_shape)
        self.widths: dict[str, NumberRow] = {}
        for tool, (low, high) in WIDTHS.items():
            row = self._row(tool, NumberRow("Width", low, high, 1, "px"))
            row.done.connect(lambda v, t=tool: self._set_width(t, v))
            self.widths[tool] = row
        self._pick_rows()
        self.sown = self._row("Seed", label("", "muted"))
        self.settle = self._row("Seed", button("Settle", self._flatting.settle, "Make what the seeds took plain flats"))
        self.confined = self._row("Panel", label("", "muted"))
        self.free = self._row("Panel", button("Work anywhere", lambda: easel.confine(0), "Free the tools again"))

    def _row(self, tool: str, widget: W) -> W:
        self.add(widget)
        self._rows.setdefault(tool, []).append(widget)
        return widget

    def _pick_rows(self) -> None:
        flats = self._flatting
        more = QWidget()
        column = QVBoxLayout(more)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(6)

        def line(*acts: tuple[str, Callable[[], object], str]) -> None:
            row = QHBoxLayout()
            for text, done, tip in acts:
                row.addWidget(button(text, done, tip), 1)
            column.addLayout(row)

        line(("Same pot", lambda: flats.pick_more("pot"), "Pick every region of the same pots"),
             ("Same part", lambda: flats.pick_more("part"), "Pick every region of the same parts"))  # fmt: skip
        line(("Like colours", lambda: flats.pick_more("alike"), "Pick every region in a colour within 3 ΔE"),
             ("Neighbours", lambda: flats.pick_more("neighbours"), "Pick what touches it"))  # fmt: skip
        line(("Join", flats.join, "Make one region of what is picked"),
             ("Split", flats.split, "Make every piece a region of its own"),
             ("Pour", lambda: flats.pour(set(self.easel.picked)), "Pour the pot in hand into it"))  # fmt: skip
        line(("New pot", flats.own_pot, "Give what is picked a pot of its own"),
             ("Pick none", lambda: self.easel.pick(set()), "Pick nothing (Escape)"))  # fmt: skip
        self._row("Pick", more)
        self.part = self._row("Pick", QComboBox())
        self.part.setAccessibleName(tr("Move to part"))
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
            self._flatting.shift_picked(*shift)

    def _to_part(self, place: int) -> None:
        if place > 0:
            self._flatting.to_part(self.part.itemData(place))
        self.part.setCurrentIndex(0)

    def _set_strength(self, value: float) -> None:
        self.easel.set_strength(value / 100)

    def _set_shape(self, name: str) -> None:
        self._flatting.put("shape", next(s for s in verbs.SHAPES if s == name))

    def _set_width(self, tool: str, value: float) -> None:
        self._flatting.put("widths", self._flatting.widths | {tool: value})

    def refresh(self) -> None:
        """Show the tool in hand."""
        flats, tool = self._flatting, self.easel.tool
        self.head.setText(tr(tool))
        self.setVisible(tool in self._rows)
        for name, rows in self._rows.items():
            for row in rows:
                row.setVisible(name == tool)
        self.widths["Cut-out"].setVisible(tool == "Cut-out" and flats.shape in ("Pencil", "Eraser"))
        self.strength.show_value(self.easel.strength * 100)
        self.shape.show_choice(flats.shape)
        for name, row in self.widths.items():
            row.show_value(flats.widths[name])
        self.note.setText("")
        book, sources, view = self.easel.book, self.easel.sources(), self.easel.view
        if book is None or sources is None or view is None or view.flat is None:
            return
        if tool == "Pick":
            picked = len(
                {int(view.flat.partition.region[a]) for a in self.easel.picked if a < len(view.flat.partition.region)}
            )
            self.note.setText(
                tr("nothing picked") if not picked else tr("1 region") if picked == 1 else tr("{0} regions", picked)
            )
            for row in self._rows["Pick"]:
                row.setEnabled(picked > 0)
            self.part.clear()
            self.part.addItem(tr("Move to part"))
            for number, part in book.parts().items():
                self.part.addItem(part.name, number)
        elif tool == "Seed":
            self.note.setText(tr("{0} sown", len(sources[SEEDS])))
            self.sown.setText(tr("{0} areas follow them until they are settled.", grouped(len(sources[SOWN]))))
            self.settle.setEnabled(bool(sources[SEEDS]))
        elif tool == "Panel":
            panels = view.flat.panels
            if panels is None:
                self.note.setText(tr("looking"))
            else:
                self.note.setText(tr("{0} found", len(panels.rects)) if panels.framed else tr("the whole page"))
            where = (
                tr("Tools work in panel {0} alone.", self.easel.within)
                if self.easel.within
                else "Tools work anywhere. Alt+click confines."
            )
            self.confined.setText(where)
            self.free.setEnabled(bool(self.easel.within))
