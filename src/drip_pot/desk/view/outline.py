# SPDX-License-Identifier: GPL-3.0-or-later
"""The outline of regions on the page. Knows what is shown; of Qt only paths."""

from collections.abc import Callable, Iterable

import cv2
import numpy as np
from PyQt6.QtCore import QByteArray, QDataStream, Qt
from PyQt6.QtGui import QPainter, QPainterPath, QPixmap

from drip_pot.core.arrays import F64
from drip_pot.desk.session.page_view import Flatted
from drip_pot.desk.view.tool import draw_with

_MOST_PIXELS = 600_000


def outline(flat: Flatted, atoms: Iterable[int], level: int) -> QPainterPath:
    """Return the outline of atoms in page pixels, as fine as a level, coarser where they are very large."""
    chosen = [a for a in atoms if a <= flat.atoms.count]
    if not chosen:
        return QPainterPath()
    boxes = flat.divided.boxes[chosen]
    size = boxes[:, 2:].max(axis=0) - boxes[:, :2].min(axis=0)
    level = min(level, len(flat.labels) - 1)
    while level < len(flat.labels) - 1 and int(size.prod()) >> (2 * level) > _MOST_PIXELS:
        level += 1
    step = 1 << level
    top, left = (boxes[:, :2].min(axis=0) // step).tolist()
    bottom, right = (-(-boxes[:, 2:].max(axis=0) // step)).tolist()
    table = np.zeros(flat.atoms.count + 1, np.uint8)
    table[chosen] = 1
    mask = np.pad(table[flat.labels[level][top:bottom, left:right]], 1)
    fine = cv2.resize(mask, None, fx=2, fy=2, interpolation=cv2.INTER_NEAREST)  # so that the outline is not inside
    contours, _ = cv2.findContours(fine, cv2.RETR_LIST, cv2.CHAIN_APPROX_SIMPLE)
    return _path_of([((contour[:, 0] + 0.5) / 2 - 1 + (left, top)) * step for contour in contours])


def _path_of(rings: list[F64]) -> QPainterPath:
    """Return closed rings, each (K, 2) of x and y, as one path, by way of Qt's own format of a path (QDataStream)."""
    path, count = QPainterPath(), sum(len(ring) + 1 for ring in rings)
    if not rings:
        return path
    steps = np.ones(count, np.dtype([("kind", ">i4"), ("x", ">f8"), ("y", ">f8")]))
    steps["kind"][np.cumsum([0, *(len(ring) + 1 for ring in rings[:-1])])] = 0  # 0 goes there, 1 draws a line there
    spots = np.concatenate([spot for ring in rings for spot in (ring, ring[:1])])
    steps["x"], steps["y"] = spots[:, 0], spots[:, 1]
    written = count.to_bytes(4, "big") + steps.tobytes() + bytes(8)  # no ring left open; even-odd
    QDataStream(QByteArray(written)) >> path  # type: ignore[operator]
    return path


class PickOutline:
    """The outline of some regions: worked out when they change, drawn when they or the view do."""

    def __init__(self) -> None:
        self._key: object = None
        self._path = QPainterPath()
        self._seen: object = None
        self._picture = QPixmap()

    def show(self, painter: QPainter, key: object, work: Callable[[], QPainterPath], width: float) -> None:
        """Draw in black within white, as wide on the screen at every zoom; `work` is asked when `key` is another."""
        if key != self._key:
            self._key, self._path, self._seen = key, work(), None
        device = painter.device()
        if device is None or self._path.isEmpty():
            return
        ratio, seen = device.devicePixelRatioF(), (painter.transform(), device.width(), device.height(), width)
        if seen != self._seen:
            self._seen, self._picture = seen, QPixmap(round(seen[1] * ratio), round(seen[2] * ratio))
            self._picture.setDevicePixelRatio(ratio)
            self._picture.fill(Qt.GlobalColor.transparent)
            inner = QPainter(self._picture)
            inner.setRenderHint(QPainter.RenderHint.Antialiasing)
            inner.setTransform(seen[0])
            for shade, wide in (("#ffffff", width + 2.0), ("#161616", width)):
                draw_with(inner, shade, wide)
                inner.drawPath(self._path)
            inner.end()
        painter.save()
        painter.resetTransform()
        painter.drawPixmap(0, 0, self._picture)
        painter.restore()
