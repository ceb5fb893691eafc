"""The outline of regions on the page. Knows what is shown; of Qt only paths."""

from collections.abc import Iterable

import cv2
import numpy as np
from PyQt6.QtCore import QPointF
from PyQt6.QtGui import QPainter, QPainterPath, QPolygonF

from drip_pot.desk.session.page_view import Flatted
from drip_pot.desk.view.tool import draw_with

_MOST_PIXELS = 600_000


def outline(flat: Flatted, atoms: Iterable[int], level: int) -> QPainterPath:
    """Return the outline of atoms in page pixels, as fine as a level, coarser where they are very large."""
    path = QPainterPath()
    chosen = [a for a in atoms if a <= flat.atoms.count]
    if not chosen:
        return path
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
    for contour in contours:
        spots = (contour[:, 0].astype(np.float64) + 0.5) / 2 - 1
        path.addPolygon(QPolygonF([QPointF((x + left) * step, (y + top) * step) for x, y in spots.tolist()]))
        path.closeSubpath()
    return path


def draw_outline(painter: QPainter, path: QPainterPath, width: float) -> None:
    """Draw an outline in black within white, as wide on the screen at every zoom."""
    for shade, wide in (("#ffffff", width + 2.0), ("#161616", width)):
        draw_with(painter, shade, wide)
        painter.drawPath(path)
