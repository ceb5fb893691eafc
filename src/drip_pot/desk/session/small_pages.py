# SPDX-License-Identifier: GPL-3.0-or-later
"""Pages of the book made small, in the background: as they look, and their line. Knows the easel.

What was drawn once stays until something of that page, or a colour of the book, changes.
"""

from dataclasses import dataclass

import cv2
import numpy as np
from PyQt6.QtCore import QObject, Qt, pyqtSignal
from PyQt6.QtGui import QImage

from drip_pot.book import Book, Derived
from drip_pot.book.sources import PageSources
from drip_pot.book.values import PAGES
from drip_pot.core.arrays import U8
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


class SmallPages(QObject):
    """What is drawn of pages that are not open.

    Signals
    -------
    came()
        Another one is there.
    """

    came = pyqtSignal()

    def __init__(self, easel: InUse) -> None:
        super().__init__(easel)
        self.easel, self.work = easel, Work(self, patience=19)
        self._known: dict[int, tuple[object, SmallPage]] = {}

    def get(self, page: int) -> SmallPage | None:
        """Return a page as it was drawn last, also while that is being done anew; None where it never was."""
        found = self._known.get(page)
        return None if found is None else found[1]

    def want(self, pages: list[int]) -> None:
        """Work out the first of some pages that is missing or was changed; the next when it is there."""
        book, file = self.easel.book, self.easel.file
        if book is None or file is None or self.work.busy():
            return
        late = next((p for p in pages if p in book.pages() and not self._is_fresh(book, p)), None)
        if late is None:
            return
        still, state = book.still(), _state(book, late)

        def done(found: SmallPage) -> None:
            self._known.pop(late, None)
            self._known[late] = state, found
            while len(self._known) > _KEPT:
                del self._known[next(iter(self._known))]
            self.came.emit()

        work = lambda _: small_page(still, derive(file, still, late), late)  # noqa: E731
        self.work.start("small", work, done, lambda _: None)

    def _is_fresh(self, book: Book, page: int) -> bool:
        known = self._known.get(page)
        return known is not None and known[0] == _state(book, page)

    def forget(self) -> None:
        """Forget all of another book."""
        self.work.drop()
        self._known.clear()

    def close(self) -> None:
        """Stop."""
        self.work.close()
        self._known.clear()


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
