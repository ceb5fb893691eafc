# SPDX-License-Identifier: GPL-3.0-or-later
"""The contact sheet: every page small, with how far it is; opened, ordered, named, copied, removed. Knows the easel."""

from collections.abc import Callable, Mapping
from functools import partial

import cv2
import msgspec
import numpy as np
from PyQt6.QtCore import QEvent, QObject, QSize, Qt
from PyQt6.QtGui import QCloseEvent, QIcon, QImage, QKeyEvent, QPixmap
from PyQt6.QtWidgets import QHBoxLayout, QListView, QListWidget, QListWidgetItem, QVBoxLayout, QWidget

from drip_pot.book import Book, Derived, PageSources, verbs
from drip_pot.book.loans import loans_of
from drip_pot.book.values import HOLDS, PASSES, POURS
from drip_pot.core.arrays import U8, Report
from drip_pot.core.regions import regions_of
from drip_pot.desk.dialogs.asking import Asking, ask_name, ask_whether
from drip_pot.desk.parts.dialog import Dialog
from drip_pot.desk.parts.pixels import image_of
from drip_pot.desk.parts.widgets import button, label
from drip_pot.desk.session.easel import Easel
from drip_pot.desk.session.work import Work
from drip_pot.files import derive, picture
from drip_pot.words import grouped, tr, tr_many

_HIGH, _CELL = 210, QSize(190, 290)
_PAGE = Qt.ItemDataRole.UserRole


def progress_of(derived: Derived, sources: PageSources) -> str:
    """Say how far a page is: what is poured, what lies over the flats, how many holds."""
    atoms, part = derived.regions.atoms(sources.line), derived.regions.partition(sources)
    pours = sources[POURS] if sources.cut == sources.line else derived.regions.carried(sources)[0]
    empty = np.ones(len(atoms.areas), bool)
    empty[[a for a in pours if a < len(empty)]] = False
    whole, left = (len(regions_of(part.region, areas)) for areas in (atoms.areas, np.where(empty, atoms.areas, 0)))
    flats = tr("{0} of {1} poured", grouped(whole - left), grouped(whole)) if left else tr("all poured")
    passes = len(sources[PASSES]) - 1
    shade = tr_many("one pass", "{0} passes", passes, passes) if passes else tr("tone") if sources[PASSES] else ""
    count = len(sources[HOLDS])
    holds = tr_many("one hold", "{0} holds", count, count) if count else ""
    return "\n".join([flats, ", ".join(word for word in (shade, holds) if word)])


def small_page(book: Book, derived: Derived, page: int) -> tuple[U8, str]:
    """Return a page made small, (m, n, 3) uint8, and how far it is."""
    sources = book.sources(page)
    scale = min(1.0, _HIGH / sources.page.rows, 1.3 * _HIGH / sources.page.cols)
    own = verbs.differs(book, page)
    told = progress_of(derived, sources) + (tr("\nown {0}", ", ".join(own)) if own else "")
    out = [sent.name for sent in loans_of(book).values() if page in sent.pages]
    told += tr("\nout to {0}", ", ".join(out)) if out else ""
    return picture(book, derived, page, "Holds", scale), told


class _Kept(msgspec.Struct):
    state: tuple[int, int]
    told: str
    picture: bytes


def _state(book: Book) -> tuple[int, int]:
    """Return what says that nothing was done since: how long the history is, and where the book is in it."""
    return len(book.history), book.position


def _packed(state: tuple[int, int], pixels: U8, told: str) -> bytes:
    """Pack a small picture for the book's file."""
    data = cv2.imencode(".jpg", np.ascontiguousarray(pixels[..., ::-1]), [cv2.IMWRITE_JPEG_QUALITY, 88])[1]
    return msgspec.msgpack.encode(_Kept(state, told, data.tobytes()))


def _unpacked(data: bytes | None) -> tuple[tuple[int, int], QImage, str] | None:
    """Undo `_packed`; None where there is nothing, or it is damaged."""
    try:
        kept = None if data is None else msgspec.msgpack.decode(data, type=_Kept)
    except msgspec.MsgspecError:
        return None
    image = QImage.fromData(kept.picture) if kept is not None else QImage()
    return None if kept is None or image.isNull() else (kept.state, image, kept.told)


def _icon(image: QImage) -> QIcon:
    icon = QIcon(QPixmap.fromImage(image))
    icon.addPixmap(QPixmap.fromImage(image), QIcon.Mode.Selected)  # as bright as the others
    return icon


class ContactSheet(Dialog):
    """All pages of the book; small pictures come in as they are worked out."""

    def __init__(self, parent: QWidget | None, easel: Easel, uses: Mapping[str, Callable[[list[int]], object]]) -> None:
        super().__init__(parent)
        self._uses = uses
        self.setWindowTitle(tr("Contact sheet"))
        self.resize(900, 640)
        self.easel, self.work = easel, Work(self, patience=10)
        self._small: dict[tuple[int, int], tuple[QIcon, str]] = {}
        column = QVBoxLayout(self)
        column.addWidget(label("Contact sheet", "title"))
        self.list = QListWidget()
        self.list.setAccessibleName(tr("Pages of the book"))
        self.list.setViewMode(QListView.ViewMode.IconMode)
        self.list.setIconSize(QSize(_CELL.width() - 20, _HIGH))
        self.list.setGridSize(_CELL)
        self.list.setResizeMode(QListView.ResizeMode.Adjust)
        self.list.setMovement(QListView.Movement.Static)
        self.list.setWordWrap(True)
        self.list.setSelectionMode(QListWidget.SelectionMode.ExtendedSelection)
        self.list.itemActivated.connect(lambda _: self._open())
        self.list.installEventFilter(self)
        column.addWidget(self.list, 1)
        row = QHBoxLayout()
        first = button("Open", self._open, "Show the page (Enter)")
        self.buttons = [
            first,
            button("Earlier", partial(self._move, -1), "One place earlier in the book (Alt+Left)"),
            button("Later", partial(self._move, 1), "One place later in the book (Alt+Right)"),
            button("Name", self._name, "Give the page another name (F2)"),
            button("Copy", self._copy, "Copy the page with all that is on it"),
            button("Sequence", self._sequence, "Make the pages chosen the frames of a movement, or take it apart"),
            button("Figures", partial(self._use, "figures"), "Look on all others for figures of the pages chosen"),
            button("Send out", partial(self._use, "send"), "Send the pages chosen to somebody, as a book of their own"),
            button("Remove", self._remove, "Remove the pages chosen (Delete); it can be undone"),
        ]
        for one in self.buttons:
            row.addWidget(one)
        row.addStretch(1)
        row.addWidget(button("Close", self.reject))
        column.addLayout(row)
        self.list.itemSelectionChanged.connect(self._enable)
        easel.edited.connect(self.refresh)
        self._recall()
        self.refresh()

    def refresh(self) -> None:
        """Show the pages as they are now."""
        book = self.easel.book
        chosen = set(self.chosen())
        self.list.clear()
        for place, (number, page) in enumerate({} if book is None else book.pages().items(), 1):
            item = QListWidgetItem(f"{place}   {page.name}")
            item.setData(_PAGE, number)
            item.setTextAlignment(Qt.AlignmentFlag.AlignHCenter)
            item.setSizeHint(_CELL)
            self.list.addItem(item)
            item.setSelected(number in chosen or (not chosen and number == self.easel.page))
        self._enable()
        self._next()

    def chosen(self) -> list[int]:
        """Return the numbers of the pages that are chosen."""
        return [int(item.data(_PAGE)) for item in self.list.selectedItems()]

    def _enable(self) -> None:
        count = len(self.chosen())
        for one in self.buttons:
            one.setEnabled(count > 0)

    def _next(self) -> None:
        """Work the next small picture out, where one is missing."""
        book, file = self.easel.book, self.easel.file
        if book is None or file is None:
            return
        for row in range(self.list.count()):
            item = self.list.item(row)
            assert item is not None
            number = int(item.data(_PAGE))
            key = (number, book.position)
            known = next((k for k in (key, *((number, at) for at in self._seen_at(number))) if k in self._small), None)
            if known is not None:
                icon, told = self._small[known]
                item.setIcon(icon)
                item.setText(f"{row + 1}   {book.pages()[number].name}\n{told}")
            if known != key and not self.work.busy():
                self._work_out(number, key)

    def _seen_at(self, number: int) -> list[int]:
        """Return the positions of the book that a page was drawn at, the newest first."""
        return sorted((at for page, at in self._small if page == number), reverse=True)

    def _work_out(self, number: int, key: tuple[int, int]) -> None:
        book, file = self.easel.book, self.easel.file
        assert book is not None
        assert file is not None
        still, state = book.still(), _state(book)

        def work(_: Report) -> tuple[U8, str]:
            made = small_page(still, derive(file, still, number), number)
            file.keep(f"small/{number}", _packed(state, *made))
            return made

        self.work.start("small", work, partial(self._came, key), lambda _: None)

    def _recall(self) -> None:
        """Show at once what was kept of every page, and take it for right where nothing was done since."""
        book, file = self.easel.book, self.easel.file
        if book is None or file is None:
            return
        for number in book.pages():
            kept = _unpacked(file.recall(f"small/{number}"))
            if kept is not None:
                fresh = kept[0] == _state(book)
                self._small[(number, book.position if fresh else -1)] = _icon(kept[1]), kept[2]

    def _came(self, key: tuple[int, int], found: tuple[U8, str]) -> None:
        self._small[key] = _icon(image_of(found[0])), found[1]
        self._next()

    # What is done with pages

    def _open(self) -> None:
        pages = self.chosen()
        if pages:
            self.easel.show_page(pages[0])
            self.accept()

    def _move(self, step: int) -> None:
        for number in self.chosen()[::-step]:
            self.easel.do(lambda book, _, n=number: verbs.move_page(book, n, step))  # type: ignore[misc]

    def _name(self) -> None:
        book, pages = self.easel.book, self.chosen()
        if book is not None and pages:
            name = ask_name(self, tr("Name of the page"), book.pages()[pages[0]].name)
            if name:
                self.easel.do(lambda book, _: verbs.name_page(book, pages[0], name))

    def _copy(self) -> None:
        for number in self.chosen():
            self.easel.do(lambda book, _, n=number: verbs.duplicate_page(book, n))  # type: ignore[misc]

    def _sequence(self) -> None:
        book, pages = self.easel.book, self.chosen()
        if book is None or not pages:
            return
        known = book.sequence_of(pages[0])
        if known is not None:
            if ask_whether(
                self, tr("Take {0} apart?", known[1].name), tr("Its pages stay as they are."), tr("Take apart")
            ):
                self.easel.do(lambda book, _: verbs.remove_sequence(book, known[0]))
            return
        order = list(book.pages())
        places = sorted(order.index(page) + 1 for page in pages)
        if len(places) < 2:
            self.easel.said.emit("Choose two pages or more: they become the frames, in the order of the book.", False)
            return
        name = ask_name(self, tr("Name of the sequence"), tr("Movement"))
        if name:
            self.easel.do(lambda book, _: verbs.make_sequence(book, places, name))

    def _use(self, how: str) -> None:
        """Close, and have something done with the pages chosen."""
        pages = self.chosen()
        if pages:
            self.accept()
            self._uses[how](pages)

    def _remove(self) -> None:
        pages, book = self.chosen(), self.easel.book
        if book is None or not pages:
            return
        what = book.pages()[pages[0]].name if len(pages) == 1 else tr("{0} pages", len(pages))
        asking = Asking(self, tr("Remove {0}?", what), "Remove")
        asking.body.addWidget(label("The drawing stays in the book's file; Undo brings the page back.", "muted"))
        if not asking.exec():
            return
        left = [n for n in book.pages() if n not in pages]
        if self.easel.page in pages:
            self.easel.show_page(left[0] if left else 0)
        with book.as_one():
            for number in pages:
                self.easel.do(lambda book, _, n=number: verbs.remove_page(book, n))  # type: ignore[misc]

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        """Take the keys that mean something here before the list does."""
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyPress and self._key(event):
            return True
        return super().eventFilter(watched, event)

    def _key(self, event: QKeyEvent) -> bool:
        alt = event.modifiers() & Qt.KeyboardModifier.AltModifier
        keys: dict[tuple[Qt.Key, bool], Callable[[], object]] = {
            (Qt.Key.Key_Left, True): partial(self._move, -1), (Qt.Key.Key_Right, True): partial(self._move, 1),
            (Qt.Key.Key_F2, False): self._name, (Qt.Key.Key_Delete, False): self._remove,
        }  # fmt: skip
        done = keys.get((Qt.Key(event.key()), bool(alt)))
        if done is not None:
            done()
        return done is not None

    def done(self, result: int) -> None:
        """Stop working when it is closed."""
        self.work.close()
        super().done(result)

    def closeEvent(self, event: QCloseEvent | None) -> None:
        self.work.close()
        super().closeEvent(event)
