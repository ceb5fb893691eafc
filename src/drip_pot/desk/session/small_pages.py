# SPDX-License-Identifier: GPL-3.0-or-later
"""Pages of the book made small, in the background: as they look, and their line. Knows the easel.

What was drawn once stays until something of that page, or a colour of the book, changes.
"""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass

import cv2
import numpy as np
from PyQt6.QtCore import QObject, Qt, pyqtSignal
from PyQt6.QtGui import QImage

from drip_pot.book import Book, Derived
from drip_pot.book.reading import split_key
from drip_pot.book.sources import PageSources
from drip_pot.book.store import Touched
from drip_pot.book.values import DOUBTS, PAGES
from drip_pot.core.arrays import U8, Report
from drip_pot.core.regions import Stencil
from drip_pot.desk.parts.pixels import image_of
from drip_pot.desk.session.in_use import InUse
from drip_pot.desk.session.work import Work
from drip_pot.files import derive, picture

MOST_PX, THUMB_PX = 900, 120
_KEPT, _CUT = 60, 200


@dataclass(frozen=True)
class SmallPage:
    """A page at most 900 px long: in colour, its line and what a hand cut, (m, n) uint8, and a picture for a card."""

    picture: QImage
    line: U8
    thumb: QImage

    def ghost(self, color: tuple[int, int, int]) -> QImage:
        """Return its line in one colour on nothing."""
        high, wide = self.line.shape
        pixels = np.zeros((high, wide, 4), np.uint8)
        pixels[..., :3] = color[::-1]
        pixels[..., 3] = self.line
        return QImage(pixels.tobytes(), wide, high, wide * 4, QImage.Format.Format_ARGB32).copy()


@dataclass(frozen=True)
class Thumb:
    """A page on a card: its picture, whether something of it was carried in doubt, and what it was drawn from."""

    picture: QImage
    doubtful: bool
    state: object


class SmallPages(QObject):
    """What is drawn of pages that are not open.

    What an edit touched is looked at again when it is wanted; no page is read to find that out.

    Signals
    -------
    came()
        Another one is there.
    """

    came = pyqtSignal()

    def __init__(self, easel: InUse) -> None:
        super().__init__(easel)
        self.easel, self.work = easel, Work(self, patience=19)
        self._known: dict[int, SmallPage] = {}
        self._thumbs: dict[int, Thumb] = {}
        self._fresh, self._broken = set[int](), set[int]()
        self._watched: Book | None = None

    def thumb(self, page: int) -> Thumb | None:
        """Return a page as it was drawn last for a card; None where it never was."""
        return self._thumbs.get(page)

    def get(self, page: int) -> SmallPage | None:
        """Return a page as it was drawn last, also while that is done anew; None where it is not kept so large."""
        return self._known.get(page)

    def want(self, pages: Iterable[int], *, thumbs: bool = False) -> None:
        """Work out the first of some pages that is missing or was changed; the next when it is there.

        Only the last few are kept as large as they were drawn; for cards ask for `thumbs`, which are all kept.
        """
        book, file = self.easel.book, self.easel.file
        if book is None or file is None or self.work.busy():
            return
        if book is not self._watched:
            book.changed.connect(self._on_change)
            self._watched = book
        kept: Mapping[int, object] = self._thumbs if thumbs else self._known
        known = book.pages()
        late = next((p for p in pages if p in known and (p not in kept or p not in self._fresh)
                     and not (p in self._broken and p in self._fresh)), None)  # fmt: skip
        if late is None:
            return
        still, before = book.still(), self._thumbs.get(late) if late in kept else None
        self._fresh.add(late)  # what is done from here on makes it stale again

        def work(_: Report) -> tuple[SmallPage, Thumb] | None:
            state = _state(still, late)
            if before is not None and before.state == state:
                return None
            small = small_page(still, derive(file, still, late), late)
            told = [doubt.is_open for doubt in still.sources(late)[DOUBTS].values()]
            return small, Thumb(small.thumb, any(told), state)

        def done(found: tuple[SmallPage, Thumb] | None) -> None:
            self._broken.discard(late)
            if found is not None:
                self._known.pop(late, None)
                self._known[late], self._thumbs[late] = found
                while len(self._known) > _KEPT:
                    del self._known[next(iter(self._known))]
            self.came.emit()

        def failed(_: Exception) -> None:  # it is told when the page is opened
            self._broken.add(late)
            self.came.emit()

        self.work.start("small", work, done, failed)

    def _on_change(self, touched: Touched) -> None:
        """Take for stale what an edit touched: pages, or all of them for what they share."""
        pages = {split_key(f"{name}/")[0] for name in (*touched.keys, *touched.planes)}
        if None in pages:
            self._fresh.clear()
        self._fresh -= pages

    def forget(self) -> None:
        """Forget all of another book."""
        self.work.drop()
        self._forget()

    def close(self) -> None:
        """Stop."""
        self.work.close()
        self._forget()

    def _forget(self) -> None:
        if self._watched is not None:
            self._watched.changed.disconnect(self._on_change)
        self._watched = None
        for kept in (self._known, self._thumbs, self._fresh, self._broken):
            kept.clear()


def _state(book: Book, page: int) -> object:
    """Return what a page's picture follows from, cheap to compare."""
    planes = tuple((name, book.plane(name).version) for name in book.planes(page))
    return tuple(book.below(f"{PAGES.key(page)}/")), tuple(map(book.tone_pair, book.pots().values())), planes


def small_page(book: Book, derived: Derived, page: int) -> SmallPage:
    """Draw a page small."""
    sources = book.sources(page)
    scale = min(1.0, MOST_PX / max(sources.page.rows, sources.page.cols))
    seen = picture(book, derived, page, "Holds", scale)
    high, wide = seen.shape[:2]
    line = cv2.resize(derived.inks.contour(sources.line), (wide, high), interpolation=cv2.INTER_AREA)
    _draw_cuts(line, sources, scale)
    image = image_of(seen)
    thumb = image.scaledToHeight(min(high, THUMB_PX), Qt.TransformationMode.SmoothTransformation)
    return SmallPage(image, np.asarray(line, np.uint8), thumb)


def _draw_cuts(line: U8, sources: PageSources, scale: float) -> None:
    """Draw the dams of a page and the outlines of its cut-outs thin into its line, (m, n) uint8, made small."""
    for cut in sources.by_hand.values():
        if isinstance(cut, Stencil):
            found, _ = cv2.findContours(cut.mask().view(np.uint8), cv2.RETR_LIST, cv2.CHAIN_APPROX_SIMPLE)
            paths = [(one[:, 0] + [cut.left, cut.top], True) for one in found]
        else:
            paths = [(np.array([(col, row) for row, col in cut]), False)]
        for path, closed in paths:
            cv2.polylines(line, [np.rint(path * scale).astype(np.int32)], closed, _CUT)
