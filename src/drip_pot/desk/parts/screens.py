# SPDX-License-Identifier: GPL-3.0-or-later
"""Windows that fit the screen they are on, whatever its size and scaling. Knows widgets only."""

from PyQt6.QtWidgets import QApplication, QWidget

_FRAME = 8, 40
"""What a window manager usually adds, while it is not known yet: at the sides together, and above."""


def fit_to_screen(window: QWidget) -> None:
    """Make a window no larger than the room on its screen, its frame and all, and have it wholly there."""
    screen = window.screen() or QApplication.primaryScreen()
    if screen is None or window.isMaximized() or window.isFullScreen():
        return
    room = screen.availableGeometry()
    frame, inside = window.frameGeometry(), window.geometry()
    side, above = frame.width() - inside.width(), frame.height() - inside.height()
    if side == above == 0:
        side, above = _FRAME
    most_wide, most_high = room.width() - side, room.height() - above
    least = window.minimumSize()
    if least.width() > most_wide or least.height() > most_high:
        window.setMinimumSize(min(least.width(), most_wide), min(least.height(), most_high))
    window.resize(min(window.width(), most_wide), min(window.height(), most_high))
    left = min(max(window.x(), room.left()), room.left() + max(0, room.width() - window.width() - side))
    top = min(max(window.y(), room.top()), room.top() + max(0, room.height() - window.height() - above))
    if (left, top) != (window.x(), window.y()):
        window.move(left, top)
