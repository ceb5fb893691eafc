# SPDX-License-Identifier: GPL-3.0-or-later
"""A pot drawn: a disc cut by a hard wave, and its drip. Knows colours only."""

from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QColor, QPainter, QPainterPath, QPen, QPixmap, QPixmapCache

from drip_pot.desk.parts import theme


def paint_pot(painter: QPainter, at: QPointF, radius: float, local: str, shadow: str) -> None:
    """Draw a pot: a disc in its local colour, the lower part in shadow behind a hard wave."""
    ratio = painter.device().devicePixelRatioF()  # type: ignore[union-attr]
    key, side = f"pot/{radius}/{local}/{shadow}/{ratio}", 2 * round(radius + 2)
    picture: QPixmap | None = QPixmapCache.find(key)
    if picture is None:
        picture = QPixmap(round(side * ratio), round(side * ratio))
        picture.setDevicePixelRatio(ratio)
        picture.fill(Qt.GlobalColor.transparent)
        inner = QPainter(picture)
        inner.setRenderHint(QPainter.RenderHint.Antialiasing)
        _draw_pot(inner, QPointF(side / 2, side / 2), radius, local, shadow)
        inner.end()
        QPixmapCache.insert(key, picture)
    painter.drawPixmap(QPointF(round(at.x()), round(at.y())) - QPointF(side / 2, side / 2), picture)


def _draw_pot(painter: QPainter, at: QPointF, radius: float, local: str, shadow: str) -> None:
    disc = QPainterPath()
    disc.addEllipse(at, radius, radius)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(QColor(local))
    painter.drawPath(disc)
    wave = QPainterPath(QPointF(at.x() - radius, at.y() + 0.16 * radius))
    wave.cubicTo(at + QPointF(-0.4, -0.3) * radius, at + QPointF(0.2, 0.85) * radius, at + QPointF(1.0, 0.18) * radius)
    wave.lineTo(at + QPointF(1.1, 1.1) * radius)
    wave.lineTo(at + QPointF(-1.1, 1.1) * radius)
    painter.setBrush(QColor(shadow))
    painter.drawPath(disc.intersected(wave))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.setPen(QPen(QColor(0, 0, 0, 120), 1))
    painter.drawPath(disc)


def paint_drip(painter: QPainter, at: QPointF, size: float, color: str) -> None:
    """Draw a drip hanging at a point."""
    drip = QPainterPath(at)
    drip.cubicTo(at + QPointF(0.7, 0.9) * size, at + QPointF(0.8, 1.9) * size, at + QPointF(0, 1.9) * size)
    drip.cubicTo(at + QPointF(-0.8, 1.9) * size, at + QPointF(-0.7, 0.9) * size, at)
    painter.setPen(QPen(theme.color("text"), 1.4))
    painter.setBrush(QColor(color))
    painter.drawPath(drip)
