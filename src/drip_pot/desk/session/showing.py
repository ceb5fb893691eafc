# SPDX-License-Identifier: GPL-3.0-or-later
"""What is shown of the page in use, and how it is changed at once. Knows the snapshot and work."""

from dataclasses import replace
from functools import partial

import numpy as np
from PyQt6.QtCore import QObject

from drip_pot.book import Book, Hold, InkState, Page, Tables, build_tables
from drip_pot.book.hand import Hand
from drip_pot.book.ready import marks_of
from drip_pot.book.scope import Ground
from drip_pot.book.values import HOLDS
from drip_pot.core.arrays import F64, Rect
from drip_pot.core.errors import BadInput
from drip_pot.core.regions import Panels
from drip_pot.desk.session.in_use import InUse
from drip_pot.desk.session.page_view import (
    Flatted,
    PageView,
    SmallPlates,
    decided,
    loudly,
    loudly_at_once,
    recolored,
    with_loud,
)
from drip_pot.desk.session.work import Work
from drip_pot.files import BookFile, hand_on

_MANY = 400


def _other(file: BookFile | None, book: Book, page: int) -> Hand:
    if file is None:
        raise BadInput("The book was closed meanwhile.")
    return hand_on(file, book, page)


class Showing(QObject):
    """What is shown of the page in use.

    Attributes
    ----------
    view : PageView or None
        One moment of it.
    work : Work
        What works it out.
    """

    def __init__(self, easel: InUse) -> None:
        super().__init__(easel)
        self.easel = easel
        self.work = Work(self)
        self.view: PageView | None = None
        self._loud: dict[int, int] = {}
        self._panels: Panels | None = None
        self._wants_loud = self._wants_outlines = False
        easel.refused.connect(self.drop_preview)

    def is_behind(self) -> bool:
        """Whether what is shown is not yet the page as the book has it."""
        sources = self.easel.sources()
        if self.view is None or self.view.flat is None or sources is None:
            return True
        return self.view.flat.line != sources.line or self.work.busy("ink") or self.work.busy("regions")

    def hand(self) -> Hand | None:
        """Return a hand at work on the page as it is shown; None while its regions are being found."""
        view, book = self.view, self.easel.book
        if book is None or view is None or view.flat is None or self.is_behind():
            return None
        flat = view.flat
        return Hand(
            book, self.easel.page, flat.divided, view.drawing.ink[0], flat.partition, within=self.easel.within,
            picked=self.easel.picked,
            known_panels=flat.panels, pieces=lambda: flat.painted.pieces, others=partial(_other, self.easel.file),
        )  # fmt: skip

    def _tables(self) -> Tables | None:
        return None if self.view is None or self.view.flat is None else self.view.flat.tables

    def _recolored(self, before: Tables | None) -> list[Rect] | None:
        """Return where the page has other colours than with tables before; None for everywhere."""
        if before is None or self.view is None or self.view.flat is None:
            return None
        return recolored(self.view.flat, before, self.view.flat.tables, _MANY)

    def retable(self) -> None:
        """Show the colours as the book has them, where its regions are those that are shown."""
        ready, view = self.easel.ready(), self.view
        if view is None or view.flat is None or ready is None:
            return
        book, sources = ready
        if sources.cut == sources.line == view.flat.line:
            flat = view.flat
            self._panels = flat.panels or self._panels  # while new ones are found, those before hold for most atoms
            ground = Ground(flat.labels[0], lambda: self._panels, lambda: flat.painted.pieces, at_once=True)
            tables = build_tables(book, sources, flat.atoms.count, ground)
            proved = view.proved if view.proved is not None and view.proved.traps.fits(tables.plates) else None
            self.view = replace(view, flat=replace(view.flat, tables=tables), proved=proved)

    def try_gap(self, gap_px: float) -> None:
        """Show a gap width while its slider moves."""
        sources = self.easel.sources()
        if self.view is not None and self.view.flat is not None and sources is not None:
            self.view = replace(self.view, flat=decided(self.view.flat, sources, gap_px))
            self._color_loudly()
            self.easel.repaint.emit(None)
            self.easel.refreshed.emit()

    def want_regions(self, *, loud: bool, outlines: bool) -> None:
        """Say whether regions are seen as such: in working colours, which are worked out only then, or as outlines."""
        self._wants_loud, self._wants_outlines = loud, outlines
        self._color_loudly()

    def _color_loudly(self) -> None:
        """Give regions working colours where those are seen: at once, or as before until they are worked out."""
        view, before = self.view, self._loud
        if not self._wants_loud or view is None or view.flat is None or view.flat.loud is not None:
            return
        flat = view.flat
        kept = loudly_at_once(flat, before)
        self._loud = before if kept is None else kept
        self.view = replace(view, flat=with_loud(flat, self._loud))
        if kept is None:
            self.work.start("loud", lambda _: (flat, loudly(flat, before)), self._on_loud)

    def _on_loud(self, found: tuple[Flatted, dict[int, int]]) -> None:
        flat, chosen = found
        if self.view is not None and self.view.flat is not None and self.view.flat.partition is flat.partition:
            self._loud = chosen
            self.view = replace(self.view, flat=with_loud(self.view.flat, chosen))
            self.easel.repaint.emit(None)

    def show_panels(self, told: Flatted) -> None:
        """Show the panels found in regions, where those are still the same."""
        view = self.view
        if view is None or view.flat is None or view.flat.partition is not told.partition:
            return  # decided anew meanwhile, it has other panels
        before = view.flat.tables
        self.view = replace(view, flat=replace(view.flat, panels=told.panels))
        self.retable()  # scopes may name panels
        self.easel.repaint.emit(self._recolored(before))
        self.easel.refreshed.emit()

    def show_front(self, front: F64) -> None:
        """Show whose line is as it was judged now, where that changed."""
        before = self._tables()
        if before is not None and before.told is not None and not np.array_equal(before.told.front, front):
            self.retable()
            self.easel.repaint.emit(self._recolored(before))
            self.easel.refreshed.emit()

    def show_plates(self, small: SmallPlates) -> None:
        """Show the plates of the whole page made small."""
        if self.view is not None:
            self.view = replace(self.view, plates=small)
            self.easel.refreshed.emit()

    def set_preview(self, inks: InkState | None) -> None:
        """Show the line with other settings while a slider moves; None shows the real ones."""
        if self.view is not None and self.view.preview != inks:
            self.view = replace(self.view, preview=inks)
            self.easel.repaint.emit(None)

    def preview(self, atoms: list[int], pair: tuple[str, str]) -> None:
        """Show atoms in a pair of colours until the tables are made again."""
        if self.view is None or self.view.flat is None:
            return
        flat, tables = self.view.flat, self.view.flat.tables
        colors = tables.screen.flat.copy()
        for offset, text in ((0, pair[0]), (len(colors) // 2, pair[1])):
            colors[[a + offset for a in atoms]] = np.frombuffer(bytes.fromhex(text[1:] + "ff"), np.uint8)
        shown = replace(tables, screen=replace(tables.screen, flat=colors))
        self.view = replace(self.view, flat=replace(flat, tables=shown))
        self.easel.repaint.emit(flat.boxes(atoms))

    def drop_preview(self) -> None:
        """Show the pours as they are."""
        self.retable()
        self.easel.repaint.emit(None)

    def _mark(self, planes: dict[str, Rect]) -> None:
        """Follow what was marked in holds."""
        view, book = self.view, self.easel.book
        if view is not None and book is not None and (planes or set(view.marks) != set(self._holds())):
            self.view = replace(view, marks=marks_of(book, self.easel.page))
            before = self._tables()
            self.retable()  # the first mark of a hold, or the last, is another way to colour
            moved = self._recolored(before)
            self.easel.repaint.emit(None if moved is None else [*moved, *planes.values()])

    def _holds(self) -> dict[int, Hold]:
        sources = self.easel.sources()
        return {} if sources is None else sources[HOLDS]

    def _forget_other_size(self) -> None:
        known = self.easel.book.pages().get(self.easel.page) if self.easel.book is not None else None
        if isinstance(known, Page) and self.view is not None and (known.rows, known.cols) != self.view.shape:
            self.view = None
            self.easel.opened.emit()
