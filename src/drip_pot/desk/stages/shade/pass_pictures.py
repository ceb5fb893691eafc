# SPDX-License-Identifier: GPL-3.0-or-later
"""Small pictures of what is painted in each pass, worked out in the background. Knows the easel; draws nothing."""

from typing import NamedTuple

import numpy as np
from PyQt6.QtCore import QObject, pyqtSignal
from PyQt6.QtGui import QColor, QImage

from drip_pot.book import Book, TilePlane
from drip_pot.book.values import PAINT, PASSES, Pass
from drip_pot.core.arrays import U8, Report
from drip_pot.desk.parts.pixels import image_of
from drip_pot.desk.session.easel import Easel
from drip_pot.desk.session.work import Work

_HIGH = 56


class _SmallPass(NamedTuple):
    """What is painted in a pass: versions of its planes, coverage (56, N) uint8, colours (56, N, 3) if it has any."""

    versions: tuple[int, ...]
    cover: U8
    colors: U8 | None


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
        self._known: dict[int, _SmallPass] = {}
        easel.opened.connect(self._known.clear)

    def picture(self, number: int, light: str, dark: str) -> QImage | None:
        """Return what is painted in a pass in one colour on another, or in its own on `light`.

        None while that is not known, or nothing is.
        """
        small = self._known.get(number)
        if small is None or not small.cover.any():
            return None
        ends = [np.array(QColor(name).getRgb()[:3], np.float32) for name in (light, dark)]
        share = small.cover[..., None].astype(np.float32) / 255
        over = ends[1] if small.colors is None else small.colors
        return image_of(np.rint(ends[0] * (1 - share) + over * share).astype(np.uint8))

    def look(self) -> None:
        """Look at passes that changed since the last time."""
        view, sources, book = self._easel.view, self._easel.sources(), self._easel.book
        if view is None or sources is None or book is None:
            return
        planes = {
            number: (cover, *_paint_of(book, sources.number, number, one))
            for (number, one), cover in zip(sources[PASSES].items(), view.covers, strict=False)
        }
        fresh = {n: p for n, p in planes.items() if n not in self._known or self._known[n].versions != _versions(p)}
        if fresh and not self._work.busy("passes"):
            self._work.start("passes", lambda report: _small(fresh, report), self._on_found)

    def _on_found(self, found: dict[int, _SmallPass]) -> None:
        self._known.update(found)
        self.fresh.emit()


def _paint_of(book: Book, page: int, number: int, one: Pass) -> tuple[TilePlane, ...]:
    """Return the planes of the colours of a pass that is painted in many; none of others."""
    return tuple(book.plane(kind.key(page, number)).copy() for kind in PAINT) if one.kind == "paint" else ()


def _versions(planes: tuple[TilePlane, ...]) -> tuple[int, ...]:
    return tuple(plane.version for plane in planes)


def _small(passes: dict[int, tuple[TilePlane, ...]], report: Report) -> dict[int, _SmallPass]:
    """Return what is in the planes of passes: coverage, and red, green and blue where they have them."""
    found = {}
    for place, (number, planes) in enumerate(passes.items()):
        report(place / len(passes), "Looking at passes")
        step = max(1, planes[0].shape[0] // _HIGH)
        cover, *colors = (plane.read((0, 0, *plane.shape), step) for plane in planes)
        found[number] = _SmallPass(_versions(planes), cover, np.dstack(colors) if colors else None)
    return found
