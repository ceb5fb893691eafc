# SPDX-License-Identifier: GPL-3.0-or-later
"""Small pictures of what is painted in each pass, worked out in the background. Knows the easel; draws nothing."""

import numpy as np
from PyQt6.QtCore import QObject, pyqtSignal
from PyQt6.QtGui import QColor, QImage

from drip_pot.book import TilePlane
from drip_pot.book.values import PASSES
from drip_pot.core.arrays import U8, Report
from drip_pot.desk.parts.pixels import image_of
from drip_pot.desk.session.easel import Easel
from drip_pot.desk.session.work import Work

_HIGH = 56


class PassPictures(QObject):
    """The pictures of the page at hand.

    Signals
    -------
    fresh()
        There are others than before.
    """

    fresh = pyqtSignal()

    def __init__(self, easel: Easel) -> None:
        super().__init__(easel)
        self._easel, self._work = easel, Work(self, patience=19)
        self._known: dict[int, tuple[int, U8]] = {}
        easel.opened.connect(self._known.clear)

    def picture(self, number: int, light: str, dark: str) -> QImage | None:
        """Return what is painted in a pass in one colour on another; None while that is not known, or nothing is."""
        cover = self._known.get(number, (0, None))[1]
        if cover is None or not cover.any():
            return None
        ends = [np.array(QColor(name).getRgb()[:3], np.float32) for name in (light, dark)]
        share = cover[..., None].astype(np.float32) / 255
        return image_of(np.rint(ends[0] * (1 - share) + ends[1] * share).astype(np.uint8))

    def look(self) -> None:
        """Look at passes that changed since the last time."""
        view, sources = self._easel.view, self._easel.sources()
        if view is None or sources is None:
            return
        planes = dict(zip(sources[PASSES], view.covers, strict=False))
        fresh = {n: p for n, p in planes.items() if self._known.get(n, (0,))[0] != p.version}
        if fresh and not self._work.busy("passes"):
            self._work.start("passes", lambda report: _small(fresh, report), self._on_found)

    def _on_found(self, found: dict[int, tuple[int, U8]]) -> None:
        self._known.update(found)
        self.fresh.emit()


def _small(planes: dict[int, TilePlane], report: Report) -> dict[int, tuple[int, U8]]:
    """Return the version of planes, and what is on them, (56, N) uint8."""
    found = {}
    for place, (number, plane) in enumerate(planes.items()):
        report(place / len(planes), "Looking at passes")
        step = max(1, plane.shape[0] // _HIGH)
        found[number] = plane.version, plane.read((0, 0, *plane.shape), step)
    return found
