"""Line icons, drawn for this program, in whatever grey they are asked for. Knows Qt only."""

from functools import lru_cache

from PyQt6.QtCore import QByteArray, QRectF, Qt
from PyQt6.QtGui import QIcon, QPainter, QPixmap
from PyQt6.QtSvg import QSvgRenderer

_SHAPES = {
    "Roam": '<circle cx="10.5" cy="10.5" r="6.5"/><path d="M15.5 15.5 21 21"/>',
    "Speck": '<circle cx="12" cy="12" r="2.2" fill="C"/><path d="M12 3v3.5M12 17.5V21M3 12h3.5M17.5 12H21"/>',
    "Pour": '<path d="M4 12 12 4l8 8-8 7z"/><path d="M4 12h16"/><path d="M21 16.5c1.2 1.7 1.6 2.4 1.6 3.1a1.6 1.6 0 0 1-3.2 0c0-.7.4-1.4 1.6-3.1z" fill="C" stroke="none"/>',
    "Take": '<path d="M5 19l1-4 8-8 3 3-8 8z"/><path d="M13 6l5 5M16 8l3-3"/>',
    "Bridge": '<path d="M3 8c3 0 4 1 6 3M21 8c-3 0-4 1-6 3M3 17c3 0 4-1 6-3M21 17c-3 0-4-1-6-3"/><path d="M9 12.5h6" stroke-dasharray="1.5 1.6"/>',
    "Cut shade": '<path d="M5 8c2-4 12-4 14 1s-3 10-8 10S3 12 5 8z"/><path d="M7 17 18 7.5c1.8 5-2 11.500-7 11.500-1.600 0-3-.7-4-2z" fill="C"/>',
    "Cut light": '<path d="M5 8c2-4 12-4 14 1s-3 10-8 10S3 12 5 8z"/><path d="M12 1.500v1.500M20.500 4l-1.200 1.200M22.500 12H21" />',
    "Hold": '<path d="M3 17C7 5 10 19 14 9s5-4 7-3" stroke-width="3.400"/><path d="M4 21h16" stroke-width="1.200"/>',
    "Corral": '<path d="M4.500 9c1.500-5 13-5.500 15-1s-2 10.500-8 10.500S3 13.500 4.500 9z"/><path d="M11.500 18.500c-1 1.500-2.500 2.500-5 2.500"/><circle cx="12" cy="11" r="2.200" fill="C"/>',
    "Sweep": '<path d="M20 3 13 12"/><path d="M8.500 11.500l6.500 5c-1.500 2.500-4 4-8.500 4-1.500 0-3-.3-4-1 3-1 5-4 6-8z"/><path d="M7 20c1-.8 1.800-1.800 2.300-3"/>',
    "Dam": '<path d="M12 2.500v19"/><path d="M3 8c2 0 2 2 4 2M3 14c2 0 2 2 4 2M17 8c2 0 2 2 4 2M17 14c2 0 2 2 4 2"/>',
    "Door": '<path d="M12 2v6M12 16v6"/><path d="M3 12h16M15.500 8.500 19 12l-3.500 3.500"/>',
    "Seed": '<path d="M4 16c2-3 3-9 6-9s0 8 3 8 3-9 7-10" stroke-width="2.600"/><path d="M4 21h2M10 21h2M16 21h2M20 12v2M20 18v2"/>',
    "Leash": '<path d="M14 3l7 7-8 6-5-5z"/><path d="M8 11c-4 1-3 6-6 9 4 1 8 0 11-4"/><path d="M17 17c2 0 4 1 4 3"/>',
    "Cut-out": '<circle cx="6" cy="18" r="2.600"/><circle cx="18" cy="18" r="2.600"/><path d="M8 16 17 3M16 16 7 3"/>',
    "Silhouette": '<path d="M12 3a4 4 0 0 1 3 6.500c3 1 5 4.500 5 9.500H4c0-5 2-8.500 5-9.500A4 4 0 0 1 12 3z" fill="C"/><path d="M2 22h20"/>',
    "Panel": '<path d="M3 4h10v8H3zM16 4h5v8h-5zM3 15h6v6H3zM12 15h9v6h-9z"/>',
    "Pick": '<path d="M5 3l13 9-6 1.500L9 20z"/><path d="M15 17l4 4" />',
    "Keep speck": '<circle cx="9" cy="10" r="1.6" fill="C"/><circle cx="15" cy="14" r="1.6" fill="C"/><path d="M3 14c0-7 5-10 9-10s9 3 9 9-5 8-9 8" stroke-dasharray="2.4 2.2"/><path d="M8 21l4 0"/>',
    "Pen": '<path d="M12 3 7.500 11c-.6 2.500.8 6 4.500 10 3.700-4 5.100-7.500 4.500-10z"/><path d="M12 21v-8"/><circle cx="12" cy="11.500" r="1.300"/>',
    "Scraper": '<path d="M4 20 14 6l5 4L8 21z"/><path d="M4 20l4 1"/><path d="M12.500 8l5 4"/>',
    "Mirror": '<path d="M12 3v18" stroke-dasharray="2.200 2"/><path d="M9 7c-6 1-6 9 0 10z"/><path d="M15 7c6 1 6 9 0 10z" fill="C"/>',
    "Effect": '<path d="M12 2v5M12 17v5M2 12h5M17 12h5M5 5l3.500 3.500M15.500 15.500 19 19M19 5l-3.500 3.500M8.500 15.500 5 19"/>',
    "Crop": '<path d="M7 2v15h15M2 7h15v15"/>',
    "Mist": '<path d="M3 14.500c2.500-5 5.500 0 8-4s5-4.500 10-5" stroke-width="4.200" stroke-opacity=".55"/><path d="M4 20c3-3.500 6 0 9-3s4-2 7-2.500" stroke-width="1.600"/>',
    "eye": '<path d="M2 12c4-6 16-6 20 0-4 6-16 6-20 0z"/><circle cx="12" cy="12" r="2.600" fill="C"/>',
    "undo": '<path d="M4 9h10a5.500 5.500 0 0 1 0 11h-4"/><path d="M8 5 4 9l4 4"/>',
    "redo": '<path d="M20 9H10a5.500 5.500 0 0 0 0 11h4"/><path d="M16 5l4 4-4 4"/>',
    "bench": '<circle cx="12" cy="12" r="8"/><path d="M12 4a8 8 0 0 1 0 16z" fill="C"/>',
    "close": '<path d="M6 6l12 12M18 6 6 18"/>',
    "plus": '<path d="M12 5v14M5 12h14"/>',
    "help": '<path d="M8.500 9a3.500 3.500 0 1 1 5 3.200c-1 .6-1.500 1.200-1.500 2.300"/><circle cx="12" cy="18.500" r=".8" fill="C"/>',
    "drop": '<path d="M12 2c4.500 6 6.500 9 6.500 12.500a6.500 6.500 0 0 1-13 0C5.500 11 7.500 8 12 2z" fill="C"/>',
}  # fmt: skip

_PLAIN = '<path d="M4 18C8 6 11 18 14 11s3-5 6-6" stroke-width="3"/>'
"""A stroke, for what has no icon of its own."""


@lru_cache(maxsize=256)
def pixmap(name: str, color: str, size: int, ratio: float = 1.0) -> QPixmap:
    """Draw an icon: `size` logical pixels, `ratio` device pixels for each."""
    svg = (
        '<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 24 24"><g fill="none" stroke="C" stroke-width="1.700" '
        f'stroke-linecap="round" stroke-linejoin="round">{_SHAPES.get(name, _PLAIN)}</g></svg>'
    )
    renderer = QSvgRenderer(QByteArray(svg.replace('"C"', f'"{color}"').encode()))
    picture = QPixmap(round(size * ratio), round(size * ratio))
    picture.fill(Qt.GlobalColor.transparent)
    painter = QPainter(picture)
    renderer.render(painter, QRectF(0, 0, picture.width(), picture.height()))
    painter.end()
    picture.setDevicePixelRatio(ratio)
    return picture


def icon(name: str, color: str, size: int = 24) -> QIcon:
    """Return an icon at one and two device pixels a pixel."""
    found = QIcon(pixmap(name, color, size))
    found.addPixmap(pixmap(name, color, size, 2.0))
    return found
