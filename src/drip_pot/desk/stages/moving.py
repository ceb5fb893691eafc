# SPDX-License-Identifier: GPL-3.0-or-later
"""The tool that moves the page about. Knows nothing of what is on it."""

from PyQt6.QtCore import Qt

from drip_pot.desk.view.tool import Tool, tool


@tool("Inks", "Press")
class Roam(Tool):
    """Move the page about."""

    name = "Roam"
    key = "R"
    place = 10
    pans = True
    says = "Drag to move the page, turn the wheel to zoom. The ink under the pointer is read at the right."
    cursor = Qt.CursorShape.OpenHandCursor
