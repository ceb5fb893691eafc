# SPDX-License-Identifier: GPL-3.0-or-later
"""Lamps in use in Shade: the one in hand, and what it would suggest while it is dragged. Draws nothing."""

import msgspec
import numpy as np

from drip_pot.book import verbs
from drip_pot.book.lamps import bounced, staged, suggestions
from drip_pot.book.values import LAMPS, PASSES, SHADE_CUTS, Lamp
from drip_pot.core.arrays import F64, Report
from drip_pot.desk.session.easel import Easel
from drip_pot.desk.stages.shade.shading import Shading

_BOUNCE = "#e8a860"


class Lighting:
    """The lamp in hand, and outlines of what it would suggest.

    Attributes
    ----------
    number : int or None
        The lamp in hand.
    moved : Lamp or None
        How it stands while it is dragged.
    preview : list of (outline, light)
        What it would suggest there: (K, 2) rows and columns.
    """

    def __init__(self, easel: Easel) -> None:
        self.easel, self._shading = easel, easel.own(Shading)
        self.number: int | None = None
        self.moved: Lamp | None = None
        self.preview: list[tuple[F64, bool]] = []
        easel.opened.connect(self.forget)

    def forget(self) -> None:
        """Put the lamp down and drop what it would suggest."""
        self.number, self.moved, self.preview = None, None, []
        if self.easel.deriving.work.busy("lamp"):
            self.easel.deriving.work.cancel("lamp")

    def lamps(self) -> dict[int, Lamp]:
        """Return the lamps of the page as they stand now."""
        sources = self.easel.sources()
        found = {} if sources is None else dict(sources[LAMPS])
        if self.moved is not None and self.number in found:
            found[self.number] = self.moved
        return found

    def in_hand(self) -> Lamp | None:
        """Return the lamp in hand; the first one where none was chosen."""
        known = self.lamps()
        if self.number not in known:
            self.number = next(iter(known), None)
        return None if self.number is None else known[self.number]

    def choose(self, number: int | None) -> None:
        """Take a lamp in hand; who asks tells of it when the gesture is done."""
        self.number = number

    def panel_at(self, row: float, col: float) -> int:
        """Return the panel at a place; 0 where panels are not known or there is none."""
        hand = self.easel.hand()
        if hand is None or hand.known_panels is None or not hand.known_panels.framed:
            return 0
        return int(hand.known_panels.panel[hand.atom_at(row, col)])

    def place(self, row: float, col: float, panel: int = 0, *, bounce: bool = False) -> None:
        """Place a lamp for all panels, or for one; a bounce has the colour of the pot in hand."""
        made: list[int | None] = []
        book = self.easel.book
        pot = None if book is None else book.pots().get(self.easel.pot or 0)
        color = "" if not bounce else _BOUNCE if pot is None else pot.local
        lamp = Lamp(row, col, panel, color=color)
        if self.easel.do(lambda book, page: made.append(verbs.set_lamp(book, page, lamp))):
            self.choose(made[0])

    def drag_to(self, row: float, col: float) -> None:
        """Let the lamp in hand stand elsewhere, and show what it would suggest."""
        lamp = self.in_hand()
        if lamp is not None:
            self.moved = msgspec.structs.replace(lamp, row=row, col=col)
            self._look_ahead()

    def drop(self) -> None:
        """Leave the lamp where it was dragged, and renew what it suggested before."""
        moved, self.moved, self.preview = self.moved, None, []
        self.easel.deriving.work.cancel("lamp")
        if moved is not None:
            self.change(row=moved.row, col=moved.col)

    def change(self, **values: object) -> None:
        """Change the lamp in hand; what it suggested, and nobody kept, follows."""
        lamp, number = self.in_hand(), self.number
        if lamp is None:
            return
        changed = msgspec.structs.replace(lamp, **values)
        if self.easel.do(lambda book, page: verbs.set_lamp(book, page, changed, number)) and self._follows(changed):
            self.suggest()

    def remove(self) -> bool:
        """Take the lamp in hand away; return whether there was one."""
        number = self.number
        if self.in_hand() is None:
            return False
        return self.easel.do(lambda book, page: verbs.set_lamp(book, page, None, number))

    def suggest(self) -> None:
        """Suggest cuts in the pass in hand, or lay the bounce."""
        lamp, number = self.in_hand(), self.number
        if lamp is not None and lamp.color and number is not None:
            self.easel.said.emit("Working out what the bounce reaches…", False)
            self.easel.hands.start(lambda hand: verbs.lay_bounce(hand, number))
            return
        self.easel.said.emit("Working out what the lamp suggests…", False)
        self._shading.lay(lambda hand, into: verbs.suggest_cuts(hand, into), None)

    def leave_calm(self, calm: bool | None) -> None:
        """Have suggestions leave the part in hand alone, or not."""
        book, pot = self.easel.book, self.easel.pot
        known = {} if book is None else book.pots()
        if pot in known:
            part = known[pot].part
            if self.easel.do(lambda book, page: verbs.leave_calm(book, page, part, calm)) and self._offered():
                self.suggest()

    def _follows(self, lamp: Lamp) -> bool:
        """Whether what a lamp made is to be made anew when it changes."""
        sources = self.easel.sources()
        return self._offered() if not lamp.color else sources is not None and lamp.into in sources[PASSES]

    def _offered(self) -> bool:
        sources, held = self.easel.sources(), self._shading.in_hand()
        return sources is not None and held is not None and any(
            cut.offered and cut.into == held[0] for cut in sources[SHADE_CUTS].values()
        )  # fmt: skip

    def _look_ahead(self) -> None:
        hand, work = self.easel.hand(), self.easel.deriving.work
        lamp = self.moved
        if hand is None or lamp is None or work.busy("lamp"):
            return
        lamps = self.lamps()

        def found(report: Report) -> list[tuple[F64, bool]]:
            def stop() -> None:
                report(0.5, "Following the lamp")

            stage = staged(hand, stop)
            if lamp.color:
                return [(loop, light) for _, loop, light, _ in bounced(stage, lamp, stop)]
            only = stage.scene.panel == lamp.panel if lamp.panel else np.ones(stage.scene.count + 1, bool)
            return [(loop, light) for _, loop, light, _ in suggestions(stage, lamps, only, stop)]

        def show(made: list[tuple[F64, bool]]) -> None:
            if self.moved is not None:
                self.preview = made
                self.easel.repaint.emit([])
                if self.moved is not lamp:
                    self._look_ahead()

        work.start("lamp", found, show)
