# SPDX-License-Identifier: GPL-3.0-or-later
"""The brush on the leash. Knows the page at hand."""

import cv2
import numpy as np
from PyQt6.QtCore import QRectF
from PyQt6.QtGui import QColor, QImage, QPainter

from drip_pot.book import verbs
from drip_pot.desk.session.easel import Easel
from drip_pot.desk.stages.flats.flatting import Flatting
from drip_pot.desk.view.senses import Senses
from drip_pot.desk.view.tool import Mods, StrokeTool, kept_in, tool


@tool("Flats")
class Leash(StrokeTool):
    """A brush that cannot leave the region it began in."""

    name = "Leash"
    place = 50
    key = "L"
    group = "colour"
    closed = False
    says = "Paint: the brush cannot leave the region it began in. [ and ]: width."
    senses = Senses(ctrl="all of that pot, with Shift of its part")

    def __init__(self, easel: Easel) -> None:
        super().__init__(easel)
        self._reach: verbs.Reach = "region"
        self._allowed: set[int] = set()

    def press(self, row: float, col: float, mods: Mods) -> None:
        super().press(row, col, mods)
        self._reach = kept_in(self.easel, (row, col), mods)[1]
        hand = self.easel.hand()
        self._allowed = set() if hand is None else verbs.leashed(hand, row, col, self._reach)

    def done(self, points: list[tuple[float, float]], mods: Mods) -> None:
        allowed, self._allowed = self._allowed, set()
        if allowed:
            self.easel.own(Flatting).brush(points, self._reach)

    def cancel(self) -> None:
        super().cancel()
        self._allowed = set()

    def widen(self, factor: float) -> bool:
        self.easel.own(Flatting).widen("Leash", factor)
        return True

    def marks(self, painter: QPainter, zoom: float) -> None:
        view = self.easel.view
        if not self._points or view is None or view.flat is None or not self._allowed:
            return
        book, width = self.easel.book, self.easel.own(Flatting).widths["Leash"]
        pot = book.pots().get(self.easel.pot or 0) if book is not None else None
        shade = pot.local if pot is not None else "#ffffff"
        spots = np.array(self._points)
        level = view.level(zoom)
        step = 1 << level
        low = np.maximum(spots.min(axis=0) - width, 0) // step
        high = np.minimum(spots.max(axis=0) + width, view.shape) // step + 1
        (top, left), (bottom, right) = low.astype(int).tolist(), high.astype(int).tolist()
        labels = view.flat.labels[level][top:bottom, left:right]
        if not labels.size or labels.size > 16_000_000:
            return
        brush = np.zeros(labels.shape, np.uint8)
        path = np.rint(spots / step - (top, left))[:, ::-1].astype(np.int32)
        cv2.polylines(brush, [path], False, 255, max(1, round(width / step)), cv2.LINE_8)
        inside = np.zeros(int(labels.max()) + 1, bool)
        inside[[a for a in self._allowed if a < len(inside)]] = True
        brush[~inside[labels]] = 0
        color = QColor(shade)
        rgba = np.zeros((*labels.shape, 4), np.uint8)
        rgba[brush > 0] = (color.blue(), color.green(), color.red(), 255)
        image = QImage(rgba.tobytes(), labels.shape[1], labels.shape[0], QImage.Format.Format_ARGB32)
        painter.drawImage(QRectF(left * step, top * step, labels.shape[1] * step, labels.shape[0] * step), image)
