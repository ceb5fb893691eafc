# SPDX-License-Identifier: GPL-3.0-or-later
"""Tiles of a page, drawn in other threads and kept while they last. Knows views; nothing of where they are shown."""

import itertools
from collections import OrderedDict
from collections.abc import Callable

from PyQt6.QtCore import QObject, pyqtSignal
from PyQt6.QtGui import QColorSpace, QImage

from drip_pot.core.arrays import Rect
from drip_pot.desk.session.page_view import PageView
from drip_pot.desk.session.work import SPARE_CORES, Pool, step_back
from drip_pot.desk.view.render import TILE, Look, render_tile
from drip_pot.desk.view.screen_profile import on_screen

_KEPT = 900
Key = tuple[Look, int, int, int]


class _TileTold(QObject):
    drawn = pyqtSignal(object, int, object)
    failed = pyqtSignal(object, int, object)


class _Draw:
    def __init__(
        self, key: Key, ticket: int, view: PageView, told: _TileTold, wanted: Callable[[Key, int], bool],
        space: QColorSpace | None,
    ) -> None:  # fmt: skip
        self._space = space
        self._key, self._ticket, self._view, self._told, self._wanted = key, ticket, view, told, wanted

    def run(self) -> None:
        if not self._wanted(self._key, self._ticket):
            return
        step_back(2)
        look, level, row, col = self._key
        try:
            image = on_screen(render_tile(self._view, look, level, row, col), self._space)
        except Exception as error:  # noqa: BLE001 - handed on to the interface thread, which reports it
            self._told.failed.emit(self._key, self._ticket, error)
        else:
            self._told.drawn.emit(self._key, self._ticket, image)


class Tiles(QObject):
    """Drawn tiles of one page, kept while they last; stale ones are shown until their successors are ready.

    Attributes
    ----------
    space : QColorSpace or None
        Of the screen they are shown on; None is sRGB.

    Signals
    -------
    ready()
        A tile was drawn.
    problem(object)
        One could not be drawn.
    """

    ready = pyqtSignal()
    problem = pyqtSignal(object)

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._pool = Pool(self, min(SPARE_CORES, 4))
        self.space: QColorSpace | None = None
        self._told = _TileTold()
        self._told.drawn.connect(self._on_drawn)
        self._told.failed.connect(self._on_failed)
        self._images: OrderedDict[Key, QImage] = OrderedDict()
        self._fresh: set[Key] = set()
        self._asked: dict[Key, int] = {}
        self._tickets = itertools.count()
        self.drawn_count = 0

    def clear(self) -> None:
        """Forget everything."""
        self._images.clear()
        self._fresh.clear()
        self._asked.clear()

    def stale(self, rects: list[Rect] | None) -> None:
        """Mark tiles touching any of the page rectangles (or all) as out of date, those being drawn among them."""
        old = [key for key in (*self._fresh, *self._asked) if rects is None or _touched(key, rects)]
        self._fresh.difference_update(old)
        for key in old:
            self._asked.pop(key, None)

    def get(self, key: Key, view: PageView) -> QImage | None:
        """Return a tile, perhaps a stale one, and have it drawn if it is not up to date."""
        if key not in self._fresh and key not in self._asked:
            self._asked[key] = next(self._tickets)
            self._pool.start(_Draw(key, self._asked[key], view, self._told, self._is_asked, self.space).run)
        kept = self._images.get(key)
        if kept is not None:
            self._images.move_to_end(key)
        return kept

    def kept(self, key: Key) -> QImage | None:
        """Return a tile that is there, perhaps a stale one; none is drawn for it."""
        return self._images.get(key)

    def has(self, key: Key) -> bool:
        """Whether there is an image of a tile, stale or not."""
        return key in self._images

    def settled(self) -> bool:
        """Whether nothing is being drawn."""
        return not self._asked

    def close(self) -> None:
        """Draw nothing any more."""
        self._asked.clear()
        self._pool.leave()

    def _is_asked(self, key: Key, ticket: int) -> bool:
        return self._asked.get(key) == ticket

    def _on_failed(self, key: Key, ticket: int, error: Exception) -> None:
        if self._is_asked(key, ticket):
            del self._asked[key]
            self.problem.emit(error)

    def _on_drawn(self, key: Key, ticket: int, image: QImage) -> None:
        if not self._is_asked(key, ticket):
            return
        del self._asked[key]
        self.drawn_count += 1
        self._fresh.add(key)
        self._images[key] = image
        while len(self._images) > _KEPT:
            self._fresh.discard(self._images.popitem(last=False)[0])
        self.ready.emit()


def _touched(key: Key, rects: list[Rect]) -> bool:
    _, level, row, col = key
    size = TILE << level
    top, left = row * size, col * size
    return any(r[0] < top + size and r[2] > top and r[1] < left + size and r[3] > left for r in rects)
