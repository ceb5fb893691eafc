# SPDX-License-Identifier: GPL-3.0-or-later
"""Bridges kept, refused, moved, drawn and removed. Knows the page at hand; a drawn one is a dam."""

import numpy as np

from drip_pot.book import verbs
from drip_pot.book.verbs.setting import thinned
from drip_pot.desk.stages.flats.damming import Dam
from drip_pot.desk.view.senses import Senses
from drip_pot.desk.view.tool import Mods, length, tool


@tool("Flats")
class Bridge(Dam):
    """Keep, refuse, move or draw bridges; those drawn by hand are seen, moved and removed like dams."""

    name = "Bridge"
    place = 110
    key = "B"
    group = "border"
    says = "Click a bridge: refuse or keep it. Drag: draw one from line to line, or move an end."
    senses = Senses(alt="take it back: a drawn one goes, another is undecided again")

    def drag(self, row: float, col: float, mods: Mods) -> None:
        if self._held is not None:
            super().drag(row, col, mods)
        elif self._points:
            self._points = [self._points[0], (row, col)]

    def done(self, points: list[tuple[float, float]], mods: Mods) -> None:
        flat = None if self.easel.view is None else self.easel.view.flat
        if flat is None:
            return
        if self._held is not None:
            super().done(points, mods)
            return
        if len(points) < 2 or length(points) < 8 / max(self.easel.zoom, 0.01):
            self._choose(*points[0], undecided=bool(mods & Mods.AltModifier))
            return
        start, end = points
        feet = flat.atoms.bridges.feet.reshape(-1, 2)
        away = np.hypot(feet[:, 0] - start[0], feet[:, 1] - start[1])
        away[~np.repeat(flat.partition.separates, 2)] = 1e9
        foot = int(away.argmin()) if len(away) else 0
        moved = None
        if len(away) and away[foot] <= 10 / max(self.easel.zoom, 0.01):
            far = feet[foot ^ 1].tolist()
            start = float(far[0]), float(far[1])
            middle = (feet[foot] + feet[foot ^ 1]) / 2
            moved = float(middle[0]), float(middle[1])
        path = thinned((start, end))
        self.easel.hands.start(lambda hand: verbs.draw_bridge(hand, path, moved), [start, end])

    def _choose(self, row: float, col: float, *, undecided: bool) -> None:
        flat = None if self.easel.view is None else self.easel.view.flat
        assert flat is not None
        feet = flat.atoms.bridges.feet
        middle = (feet[:, :2] + feet[:, 2:]) / 2
        away = (middle[:, 0] - row) ** 2 + (middle[:, 1] - col) ** 2
        away[~flat.partition.separates] = 1e12
        index = int(away.argmin()) if len(away) else -1
        if index < 0 or away[index] > (flat.atoms.bridges.width_px[index] + 20) ** 2:
            self.easel.said.emit("There is no bridge here. Drag from line to line to draw one.", False)
            return
        keep = None if undecided else not bool(flat.partition.closed[index])
        at = float(middle[index, 0]), float(middle[index, 1])
        self.easel.do(lambda book, page: verbs.choose_bridge(book, page, *at, keep))
