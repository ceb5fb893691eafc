# SPDX-License-Identifier: GPL-3.0-or-later
"""The inspector in Inks: paper and ink, pencil, specks of the sheet in hand; the pen. Writes through the easel."""

from typing import Any

import msgspec
import numpy as np
from PyQt6.QtWidgets import QCheckBox

from drip_pot.book import InkState
from drip_pot.book.derive import MOST_SPECK_PX, chosen_specks
from drip_pot.book.values import INKS, SHEETS
from drip_pot.core.inks import Pencil, suggest_settings
from drip_pot.desk.parts.widgets import Block, NumberRow, button
from drip_pot.desk.session.easel import Easel
from drip_pot.desk.stages.inks.effect_block import EffectBlock
from drip_pot.desk.stages.inks.ink_stroke import InkStroke
from drip_pot.desk.stages.inks.inking import Inking
from drip_pot.desk.stages.inks.propping import PropBlock
from drip_pot.desk.stages.panel import Panel
from drip_pot.words import grouped, tr


class InksPanel(Panel):
    """Paper and ink, pencil, specks of the sheet in hand; the pen; effect lines."""

    def __init__(self, easel: Easel) -> None:
        super().__init__(easel)
        self.paper, self.pencil, self.specks = Block("Paper and ink"), Block("Coloured pencil"), Block("Specks")
        self.mend, self.effects = Block("Pen and scraper", "repair sheet"), EffectBlock(easel)
        self.prop = PropBlock(easel)
        self._inking = easel.own(Inking)
        self._paper_rows()
        self._speck_rows()
        self._mend_rows()
        self.blocks = [self.prop, self.effects, self.mend, self.paper, self.pencil, self.specks]

    def _paper_rows(self) -> None:
        self.stroke = InkStroke()
        self.paper.add(self.stroke)
        self.black = NumberRow("Black from", 0, 254, 1)
        self.white = NumberRow("Paper from", 1, 255, 1)
        self.weight = NumberRow("Line weight", -4, 4, 0.25, "px", 2)
        self.even = QCheckBox(tr("Even out the paper light"))
        self.turned = QCheckBox(tr("Light line on dark, turned round"))
        self.two = QCheckBox(tr("Two levels, no soft edge"))
        self.threshold = NumberRow("Ink from", 1, 100, 1, "%")
        for row in (self.black, self.white, self.weight, self.even, self.turned, self.two, self.threshold):
            self.paper.add(row)
        self.paper.row(button("Set from the page", self._suggest, "Work paper, black and speck sizes out"))
        self.keep_pencil = QCheckBox(tr("Take it out"))
        self.hue = NumberRow("Hue", 0, 360, 1, "°")
        self.strength = NumberRow("Strength", 0, 100, 1, "%")
        for part in (self.keep_pencil, self.hue, self.strength):
            self.pencil.add(part)
        self.stroke.moved.connect(lambda b, w: self._try(black=b, white=w))
        self.stroke.done.connect(lambda b, w: self._keep(black=b, white=w))
        for number, name in ((self.black, "black"), (self.white, "white"), (self.weight, "weight_px")):
            number.moved.connect(lambda v, n=name: self._try(**{n: v}))
            number.done.connect(lambda v, n=name: self._keep(**{n: v}))
        self.threshold.moved.connect(lambda v: self._try(threshold=max(1, round(v * 2.55))))
        self.threshold.done.connect(lambda v: self._keep(threshold=max(1, round(v * 2.55))))
        self.even.clicked.connect(lambda on: self._keep(even_paper=on))
        self.turned.clicked.connect(lambda on: self._keep(turned=on))
        self.two.clicked.connect(lambda on: self._keep(threshold=128 if on else None))
        self.keep_pencil.clicked.connect(lambda on: self._keep(pencil=self._found_pencil() if on else None))
        for number in (self.hue, self.strength):
            number.done.connect(lambda _: self._keep(pencil=Pencil(self.hue.value(), self.strength.value() / 100)))

    def _speck_rows(self) -> None:
        self.speck_size = NumberRow("Remove up to", 0, MOST_SPECK_PX, 1, "px")
        self.alone = NumberRow("Alone within", 1, 400, 1, "px")
        self.faint = NumberRow("Or paler than ink by", 0, 120, 1, "L")
        self.holes = NumberRow("Fill pinholes up to", 0, MOST_SPECK_PX, 1, "px")
        for row in (self.speck_size, self.alone, self.faint, self.holes):
            self.specks.add(row)
        self.faint.setToolTip(tr("Dust on the glass is paler than ink. 0 looks at size alone."))
        self.found = self.specks.fact("Taken out")
        self.by_hand = self.specks.fact("By hand")
        for number, name in ((self.speck_size, "speck_px"), (self.alone, "alone_px"), (self.faint, "faint")):
            number.moved.connect(lambda v, n=name: self._try(**{n: v}))
            number.done.connect(lambda v, n=name: self._keep(**{n: v}))
        self.holes.done.connect(lambda v: self._keep(hole_px=v))

    def _mend_rows(self) -> None:
        self.width_row = NumberRow("Width", 0.5, 120, 0.5, "px", 1)
        self.smooth = NumberRow("Steady", 0, 100, 1, "%")
        self.mend.add(self.width_row)
        self.mend.add(self.smooth)
        self.taper = NumberRow("Taper at both ends", 0, 100, 1, "%")
        self.matches = QCheckBox(tr("As wide as the line it begins on"))
        self.matches.setToolTip(tr("A stroke takes the width of the line at its ends, and goes evenly between them"))
        self.mend.add(self.taper)
        self.mend.add(self.matches)
        self.matches.clicked.connect(lambda on: setattr(self._inking, "matches", on))
        for signal in (self.taper.moved, self.taper.done):
            signal.connect(lambda v: setattr(self._inking, "taper", v / 100))
        for signal in (self.width_row.moved, self.width_row.done):
            signal.connect(lambda v: setattr(self._inking, "pen_px", v))
        for signal in (self.smooth.moved, self.smooth.done):
            signal.connect(lambda v: setattr(self._inking, "smoothing", v / 100))

    def _with(self, **values: Any) -> InkState | None:
        sources = self.easel.sources()
        if sources is None:
            return None
        inks = sources[INKS][self.easel.sheet]
        now = inks.settings
        whole = ("black", "white", "speck_px", "faint", "hole_px", "threshold")
        fixed = {k: int(v) if k in whole and v is not None else v for k, v in values.items()}
        black, white = int(fixed.get("black", now.black)), int(fixed.get("white", now.white))
        if black >= white:
            fixed["black"], fixed["white"] = (white - 1, white) if "white" in values else (black, black + 1)
        return msgspec.structs.replace(inks, settings=msgspec.structs.replace(now, **fixed))

    def _try(self, **values: Any) -> None:
        self.easel.deriving.set_preview(self._with(**values))
        self._show_settings()

    def _keep(self, **values: Any) -> None:
        inks, sources = self._with(**values), self.easel.sources()
        if inks is not None and sources is not None:
            if inks != sources[INKS][self.easel.sheet]:
                self._inking.set_inks(inks)
            else:
                self.easel.deriving.set_preview(None)

    def _suggest(self) -> None:
        view, sources = self.easel.view, self.easel.sources()
        if view is not None and sources is not None:
            inks = sources[INKS][self.easel.sheet]
            settings = msgspec.structs.replace(
                suggest_settings(view.drawing.evened[0], sources.page.dpi), pencil=inks.settings.pencil,
                turned=inks.settings.turned,
            )  # fmt: skip
            self._inking.set_inks(msgspec.structs.replace(inks, settings=settings), "Take the line from the page")

    def _found_pencil(self) -> Pencil:
        return Pencil(self.hue.value() or 250.0, 1.0)

    def refresh(self) -> None:
        ready = self._ready()
        if ready is None or self.easel.view is None:
            return
        view, tool = self.easel.view, self.easel.tool
        self.effects.setVisible(tool == "Effect")
        self.mend.setVisible(tool in ("Pen", "Scraper"))
        self.specks.setVisible(tool in ("Speck", "Keep speck"))
        self.paper.setVisible(tool in ("Roam", "Mirror", "Crop"))
        self.pencil.setVisible(view.drawing.is_colored and tool in ("Roam", "Mirror", "Crop"))
        self.paper.note.setText(ready[1][SHEETS][self.easel.sheet].name if len(ready[1][SHEETS]) > 1 else "")
        thin = np.ascontiguousarray(view.drawing.evened[-1])
        grey = thin.ravel() if thin.dtype == np.uint8 else (thin >> 8).ravel()
        counts = np.bincount(grey, minlength=256).astype(np.float64)
        self._heights = np.log1p(counts) / max(float(np.log1p(counts.max())), 1e-9)
        self._show_settings()
        self.width_row.show_value(self._inking.pen_px)
        self.smooth.show_value(self._inking.smoothing * 100)
        self.taper.show_value(self._inking.taper * 100)
        self.matches.setChecked(self._inking.matches)
        for part in (self.taper, self.matches):
            part.setVisible(tool == "Pen")
        self.effects.refresh()
        self.prop.refresh()

    def _show_settings(self) -> None:
        view, ready = self.easel.view, self._ready()
        if view is None or ready is None:
            return
        inks = view.preview or ready[1][INKS][self.easel.sheet]
        s = inks.settings
        self.stroke.show_page(self._heights, s.black, s.white)
        for row, value in (
            (self.black, s.black), (self.white, s.white), (self.weight, s.weight_px), (self.speck_size, s.speck_px),
            (self.faint, s.faint), (self.holes, s.hole_px), (self.threshold, (s.threshold or 128) / 2.55),
            (self.alone, s.alone_px or max(1, round(6.8 * s.speck_px**0.5))),
        ):  # fmt: skip
            row.show_value(value)
        self.even.setChecked(s.even_paper)
        self.turned.setChecked(s.turned)
        self.two.setChecked(s.threshold is not None)
        self.threshold.setVisible(s.threshold is not None)
        self.keep_pencil.setChecked(s.pencil is not None)
        if s.pencil is not None:
            self.hue.show_value(s.pencil.hue_deg)
            self.strength.show_value(s.pencil.strength * 100)
        for row in (self.hue, self.strength):
            row.setEnabled(s.pencil is not None)
        self.alone.setEnabled(s.speck_px > 0)
        self.faint.setEnabled(s.speck_px > 0)
        self.found.setText(tr("{0} specks", grouped(len(chosen_specks(view.drawing.pieces, inks)))))
        self.by_hand.setText(tr("{0} taken out, {1} kept", len(inks.erased), len(inks.kept)))
