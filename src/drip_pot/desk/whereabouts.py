# SPDX-License-Identifier: GPL-3.0-or-later
"""Where one is in a book, kept for the next time: page, stage, tool, zoom and what is seen. Knows parts of a window."""

from PyQt6.QtCore import QSettings

from drip_pot.book.values import POURS
from drip_pot.desk.memory import WindowPlace, keep_picture, recall, remember
from drip_pot.desk.session.easel import Easel
from drip_pot.desk.session.small_pages import SmallPages
from drip_pot.desk.stages import STAGES
from drip_pot.desk.view.canvas import Canvas
from drip_pot.desk.view.seen import Seen


class Whereabouts:
    """Keeps where one is in the book that is open, and goes back there."""

    def __init__(self, settings: QSettings, easel: Easel, canvas: Canvas, seen: Seen, small: SmallPages) -> None:
        self._settings, self._easel, self._canvas, self._seen, self._small = settings, easel, canvas, seen, small
        self._usual = seen.flags()

    def go_back(self) -> None:
        """Go to where one was in the book."""
        book, file = self._easel.book, self._easel.file
        place = None if file is None else recall(self._settings, file.path)
        if book is None or file is None:
            return
        if place is None:  # a book that was never open here: a new drawing begins at its line
            poured = bool(self._easel.page) and bool(book.sources(self._easel.page)[POURS])
            self._seen.turn_all(self._usual)
            self._easel.begin_anew("Flats" if poured else "Inks")
            return
        self._seen.turn_all({name: on for name, on in place.seen.items() if isinstance(on, bool)})
        if place.stage in STAGES:
            self._easel.choose_stage(place.stage)
            self._easel.choose_tool(place.tool)
        if place.page in book.pages() and place.page != self._easel.page:
            self._easel.show_page(place.page)
        if place.zoom > 0:
            self._canvas.set_zoom(place.zoom)
            self._canvas.center(place.row, place.col)

    def keep(self) -> None:
        """Keep where one is in the book, and a picture to know it by."""
        file, e, canvas = self._easel.file, self._easel, self._canvas
        if file is None or not e.page:
            return
        row, col = canvas.to_page(canvas.rect().toRectF().center())
        zoom = 0.0 if canvas.is_fitted() else canvas.zoom
        remember(self._settings, file.path, WindowPlace(e.page, e.stage, e.tool, zoom, row, col, self._seen.flags()))
        known = self._small.get(e.page)
        keep_picture(file.path, canvas.grab().toImage() if known is None else known.picture)
