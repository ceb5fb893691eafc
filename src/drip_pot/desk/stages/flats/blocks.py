# SPDX-License-Identifier: GPL-3.0-or-later
"""The inspector in Flats: the tool in hand, gaps, regions. Writes to the book through the easel."""

import numpy as np
from PyQt6.QtWidgets import QCheckBox, QLabel

from drip_pot.book import verbs
from drip_pot.book.leftovers import regions_left
from drip_pot.book.values import DAMS, FLATS
from drip_pot.book.verbs.flats import GAP_MOST
from drip_pot.core.regions import least_region_px, regions_of
from drip_pot.desk.parts.lengths import length_text
from drip_pot.desk.parts.widgets import Block, NumberRow
from drip_pot.desk.session.easel import Easel
from drip_pot.desk.stages.flats.gap_bars import GapBars
from drip_pot.desk.stages.flats.tool_block import ToolBlock
from drip_pot.desk.stages.panel import Panel
from drip_pot.words import grouped, tr


class FlatsPanel(Panel):
    """The tool in hand, gaps in the line, and what is proved of the regions."""

    def __init__(self, easel: Easel) -> None:
        super().__init__(easel)
        self.tool = ToolBlock(easel)
        gaps = Block("Gaps in the line")
        self.bars = GapBars()
        gaps.add(self.bars)
        self.gap = NumberRow("Bridge gaps up to", 0, GAP_MOST, 1, "px")
        self.gap.slider.hide()
        gaps.add(self.gap)
        self.auto = QCheckBox(tr("Set from the page"))
        gaps.add(self.auto)
        self.least = NumberRow("Smallest region", 0, 2000, 1, "px")
        self.least.setToolTip(tr("Smaller ones join the neighbour they are least parted from. 0 keeps all."))
        facts = Block("Regions")
        facts.add(self.least)
        self.gaps_block = gaps
        self.regions = facts.note
        self.bridges = facts.fact("Bridges")
        self.unfilled = facts.fact("Unpoured")
        self.fringe: QLabel = facts.fact("Paper at the line")
        self.fringe.setToolTip(
            tr("Pixels where paper would show between flat and line; flats go under it to its middle")
        )
        self.blocks = [self.tool, gaps, facts]
        for part in (self.bars, self.gap):
            part.moved.connect(self.easel.deriving.try_gap)
            part.done.connect(self._keep)
        self.auto.clicked.connect(lambda on: self._keep(None if on else self.gap.value()))
        self.least.done.connect(lambda v: self.easel.do(lambda book, page: verbs.set_least(book, page, int(v))))

    def _keep(self, gap: float | None) -> None:
        self.easel.do(lambda book, page: verbs.set_gap(book, page, gap))
        self.refresh()

    def refresh(self) -> None:
        self.tool.refresh()
        ready, view = self._ready(), self.easel.view
        if ready is None or view is None or view.flat is None:
            self.gaps_block.note.setText("")
            self.regions.setText(tr("finding them"))
            self.bars.show_gaps(np.zeros(0), 0.0)
            self.gap.name.setText(tr("Bridge gaps up to"))
            for fact in (self.bridges, self.unfilled, self.fringe):
                fact.setText("")
            return
        _, sources = ready
        flat = view.flat
        part, widths = flat.partition, flat.atoms.bridges.width_px
        bridged = grouped(int(part.closed.sum()))
        self.gaps_block.note.setText(tr("{0} gaps, {1} bridged", grouped(int(part.separates.sum())), bridged))
        self.bars.show_gaps(widths[part.separates], flat.gap_px)
        self.gap.show_value(flat.gap_px)
        self.gap.name.setText(tr("Bridge gaps up to {0}", length_text(flat.gap_px / sources.page.dpi * 25.4, 2)))
        self.auto.setChecked(sources[FLATS].gap_px is None)
        least = sources[FLATS].least_px
        self.least.show_value(least_region_px(flat.atoms.line_px) if least is None else least)
        areas = flat.atoms.areas
        self.regions.setText(grouped(len(regions_of(part.region, areas))))
        refused = sum(not keep for _, _, keep in sources.choices)
        by_hand = len(sources[DAMS])
        self.bridges.setText(tr("{0} found, {1} refused, {2} by hand", bridged, refused, by_hand))
        bare = len(regions_left(part.region, flat.leftovers))
        self.unfilled.setText(tr("1 region") if bare == 1 else tr("{0} regions", grouped(bare)))
        told, early = self.easel.deriving.looking.fringe, bare > 0.15 * max(len(regions_of(part.region, areas)), 1)
        shown = "counting" if told is None else tr("{0} px of paper shown", grouped(told.px))
        self.fringe.setText(tr("once it is poured") if early else shown)
