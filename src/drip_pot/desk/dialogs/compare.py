# SPDX-License-Identifier: GPL-3.0-or-later
"""Pages, schemes and values side by side, in views that move together. Knows the easel."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import partial

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QCloseEvent, QImage
from PyQt6.QtWidgets import QComboBox, QGridLayout, QHBoxLayout, QVBoxLayout, QWidget

from drip_pot.book import Book
from drip_pot.book.values import PLAN
from drip_pot.desk.parts.dialog import Dialog
from drip_pot.desk.parts.lens import Lens, LensView, levels_of
from drip_pot.desk.parts.widgets import button, label
from drip_pot.desk.session.easel import Easel
from drip_pot.desk.session.sights import Manner, PageShown, Sight, draw_sight
from drip_pot.desk.session.work import Work
from drip_pot.words import tr

_MOST = 4
_MANNERS: dict[Manner, str] = {
    "colors": "In colour", "values": "Values", "plan": "Values as planned", "line": "The line alone",
}  # fmt: skip


def first_sights(easel: Easel) -> list[Sight]:
    """Return what is looked at first: the page in its schemes and bare, or in colour and values where it has one."""
    book, page = easel.book, easel.page
    if book is None or not page:
        return []
    known, now = book.schemes(), book.scheme
    if not known:
        return [Sight(page), Sight(page, manner="plan" if book.sources(page)[PLAN] else "values")]
    order = [now, *(number for number in known if number != now)][: _MOST - 1]
    return [*(Sight(page, number) for number in order), Sight(page, now, "line")]


@dataclass(frozen=True)
class _Does:
    """What a view asks for: to be drawn, closed, and its scheme taken in hand."""

    draw: Callable[["_View"], None]
    close: Callable[["_View"], None]
    use: Callable[["_View"], None]


class _View(QWidget):
    """A view with what says of what it is."""

    def __init__(self, book: Book, sight: Sight, lens: Lens, does: _Does) -> None:
        super().__init__()
        self.sight, self._does = sight, does
        self.seen = LensView(lens)
        pages = {number: f"{place}   {page.name}" for place, (number, page) in enumerate(book.pages().items(), 1)}
        self.pages = self._choice("Page", pages, sight.page)
        self.schemes = self._choice("Scheme", {n: one.name for n, one in book.schemes().items()}, sight.scheme)
        manners = {name: tr(says) for name, says in _MANNERS.items()}
        self.manners = self._choice("How it is shown", manners, sight.manner)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        line = QHBoxLayout()
        line.addWidget(self.pages, 1)
        line.addWidget(button("Close", lambda: does.close(self), "Close this view"))
        column.addLayout(line)
        column.addWidget(self.manners)
        if book.schemes():
            line = QHBoxLayout()
            line.addWidget(self.schemes, 1)
            line.addWidget(button("Use", lambda: does.use(self), "Take this scheme in hand"))
            column.addLayout(line)
        column.addWidget(self.seen, 1)
        self._name()

    def _choice(self, name: str, things: dict[int, str] | dict[Manner, str], now: int | str) -> QComboBox:
        box = QComboBox()
        box.setAccessibleName(tr(name))
        box.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        box.setMinimumContentsLength(8)
        for number, words in things.items():
            box.addItem(words, number)
        box.setCurrentIndex(max(0, box.findData(now)))
        box.activated.connect(lambda _: self._take())
        return box

    def _take(self) -> None:
        scheme = self.schemes.currentData() or 0
        self.sight = Sight(self.pages.currentData(), scheme, self.manners.currentData())
        self._name()
        self._does.draw(self)

    def _name(self) -> None:
        words = (box.currentText() for box in (self.pages, self.schemes, self.manners) if box.count())
        self.seen.setAccessibleName(", ".join(words))


class SideBySide(Dialog):
    """Up to four views of pages, in any scheme and manner; zoomed and moved in one, all of them are.

    Attributes
    ----------
    views : list
        Its views.
    """

    def __init__(
        self, parent: QWidget | None, easel: Easel, sights: Sequence[Sight], use: Callable[[int], object]
    ) -> None:
        super().__init__(parent)
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.setWindowTitle(tr("Side by side"))
        self.resize(1120, 700)
        self._easel, self._use, self.work, self.lens = easel, use, Work(self, patience=4), Lens(self)
        self._known: dict[Sight, tuple[QImage, ...]] = {}
        self.views: list[_View] = []
        column = QVBoxLayout(self)
        self._grid = QGridLayout()
        column.addLayout(self._grid, 1)
        line = QHBoxLayout()
        told = label("Wheel or + and − zoom, a drag or the arrows move, 0 or a double click shows all.", "smallmuted")
        line.addWidget(told, 1)
        self._more = button("Add a view", self._add)
        line.addWidget(self._more)
        column.addLayout(line)
        for sight in sights:
            self._open(sight)
        easel.edited.connect(self._anew)
        self.finished.connect(lambda _: easel.edited.disconnect(self._anew))

    def _open(self, sight: Sight) -> None:
        book = self._easel.book
        assert book is not None
        view = _View(book, sight, self.lens, _Does(self._draw, self._close, self._use_of))
        self.views.append(view)
        self._arrange()
        self._draw(view)

    def _add(self) -> None:
        if len(self.views) < _MOST:
            self._open(self.views[-1].sight if self.views else Sight(self._easel.page))

    def _close(self, view: _View) -> None:
        if len(self.views) == 1:
            self.close()
            return
        self.views.remove(view)
        view.hide()
        view.deleteLater()
        self._arrange()

    def _arrange(self) -> None:
        for place, view in enumerate(self.views):
            self._grid.addWidget(view, 0, place)
        for place in range(_MOST):
            self._grid.setColumnStretch(place, int(place < len(self.views)))
        self._more.setEnabled(len(self.views) < _MOST)

    def _draw(self, view: _View) -> None:
        """Show what a view is of: at once where it was drawn before, else once it is."""
        book, file, sight = self._easel.book, self._easel.file, view.sight
        known = self._known.get(sight)
        if known is not None or book is None or file is None:
            view.seen.show_levels(known or ())
            return
        if sight.manner == "plan" and not book.sources(sight.page)[PLAN]:
            view.seen.show_levels((), "No plan of values was kept for this page. Keep one in Shade.")
            return
        view.seen.show_levels((), "Drawing the page")
        still, shown = book.still(), self._shown()
        self.work.start(
            f"view-{id(view)}",
            lambda _: levels_of(draw_sight(sight, still, file, shown)),
            partial(self._came, view, sight),
            lambda error: view.seen.show_levels((), str(error)),
        )

    def _shown(self) -> PageShown | None:
        view = self._easel.view
        flat = None if view is None else view.flat
        return None if view is None or flat is None else PageShown(self._easel.page, view, flat)

    def _came(self, view: _View, sight: Sight, levels: tuple[QImage, ...]) -> None:
        self._known[sight] = levels
        if view in self.views and view.sight == sight:
            view.seen.show_levels(levels)

    def _anew(self) -> None:
        """Draw all views anew: the book has changed."""
        self._known.clear()
        for view in self.views:
            self._draw(view)

    def _use_of(self, view: _View) -> None:
        book = self._easel.book
        if book is not None and view.sight.scheme not in (0, book.scheme):
            self._use(view.sight.scheme)

    def closeEvent(self, event: QCloseEvent | None) -> None:
        self.work.close()
        super().closeEvent(event)
