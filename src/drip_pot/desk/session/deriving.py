# SPDX-License-Identifier: GPL-3.0-or-later
"""The page in the window, kept up to date in the background. Knows the easel, the snapshot and work; draws nothing.

What is shown is always one whole moment. A change that needs no planes (a pour, a pot's colour) is shown at once; all
else is worked out in another thread and takes the place of the old moment when it is whole.
"""

from collections.abc import Callable
from dataclasses import replace
from functools import cache, partial
from typing import Any

import numpy as np
from PyQt6.QtCore import QTimer

from drip_pot.book import Book, PageSources, Tables, Touched, verbs
from drip_pot.book.derive import Derived, stride
from drip_pot.book.lines import lines_of
from drip_pot.book.ready import marks_of
from drip_pot.book.rubbed import rubbed_of
from drip_pot.book.tables import learn_inks
from drip_pot.book.values import COVER, HOLDS, KEPT_NEW, MARKS, PAGES, PAINT, PRESS, REPAIR, RUBBED, SHEETS, fed_by
from drip_pot.core.arrays import F64, Rect, Report
from drip_pot.core.holds import LinePieces
from drip_pot.core.regions import divide
from drip_pot.core.render import label_pyramid
from drip_pot.desk.session.in_use import InUse
from drip_pot.desk.session.looking import AtHand, Looking
from drip_pot.desk.session.page_view import (
    Drawing,
    Flatted,
    PageView,
    PaintedPage,
    Proved,
    covers_of,
    cut_from,
    decided,
    drawing_of,
    flatted,
    painted_of,
    ready_of,
    recut,
    small_plates,
    with_panels,
)
from drip_pot.desk.session.showing import Showing
from drip_pot.desk.session.work import Work
from drip_pot.files import derive

LATER_MS = 250


class Deriving(Showing):
    """What follows from the page in use.

    Attributes
    ----------
    looking : Looking
        What is left to look at.
    behind : Work
        Draws coloured line, so that the next page need not wait for it.
    """

    def __init__(self, easel: InUse) -> None:
        super().__init__(easel)
        self.looking = Looking(self, self._at_hand, easel.refreshed.emit)
        self.behind = Work(self, patience=17)
        self.derived: Derived | None = None
        self.coming: tuple[Flatted, Rect | None] | None = None
        self._painted_for: object = None
        self._told: set[int] = set()
        self._later = QTimer(self)
        self._later.setSingleShot(True)
        self._later.setInterval(LATER_MS)
        self._later.timeout.connect(self._derive_more)

    def show(self, page: int) -> None:
        """Forget the page shown, and begin with another one."""
        self.work.drop()
        self.behind.drop()
        self.looking.forget()
        self._later.stop()
        self.view, self.coming, self._painted_for, self._loud, self._panels = None, None, None, {}, None
        file, book = self.easel.file, self.easel.book
        self.derived = derive(file, book, page) if page and file is not None and book is not None else None

    def close(self) -> None:
        """Stop everything."""
        self._later.stop()
        self.work.close()
        self.behind.close()
        self.looking.close()
        self.view = self.derived = None
        self._told.clear()

    def later(self) -> None:
        """Work out what is not seen at once, when nothing has changed for a moment; findings when longer."""
        self._later.start()
        self.looking.later()

    def is_settled(self) -> bool:
        """Whether nothing is being worked out, and nothing is about to be."""
        return not (self.work.busy() or self.behind.busy() or self.looking.busy() or self._later.isActive())

    def _start(self, name: str, work: Callable[[Report], Any], done: Callable[[Any], None]) -> None:
        self.work.start(name, work, done, lambda error: self.easel.said.emit(str(error), True))

    # The drawing

    def draw(self) -> None:
        """Work out ink, then regions, for the present line."""
        ready, derived, page = self.easel.ready(), self.derived, self.easel.page
        if derived is None or ready is None:
            return
        book, sources = ready
        if self.easel.sheet not in sources[SHEETS]:
            self.easel.sheet = 0
        number, still = self.easel.sheet, book.still()
        repair = book.frozen(REPAIR.key(page), sources.line.repair) if sources.line.repair else None
        fresh = page not in self._told

        def work(report: Report) -> tuple[Drawing, str]:
            report(0.1, "Reading the drawing")
            lost = still.damage(page) if fresh else ""
            return drawing_of(derived, sources, number, repair), lost

        self._start("ink", work, self._on_drawing)

    def _on_drawing(self, found: tuple[Drawing, str]) -> None:
        drawing, lost = found
        old, page, book = self.view, self.easel.page, self.easel.book
        assert book is not None
        self._told.add(page)
        if lost:
            self.easel.said.emit(lost, True)
        view = PageView(drawing, covers_of(book, page), marks=marks_of(book, page), rubbed=rubbed_of(book, page))
        if old is not None and old.shape == view.shape:
            view = replace(view, flat=old.flat, proved=old.proved)
        self.view = view
        self.easel.repaint.emit(None)
        self.easel.refreshed.emit()
        sources = self.easel.sources()
        if view.flat is not None and sources is not None and view.flat.line == sources.line == sources.cut:
            self._painted_for = None
            self.later()
        else:
            self._find_regions()

    def _find_regions(self) -> None:
        """Divide the page, and carry colours where its line has changed."""
        ready, derived = self.easel.ready(), self.derived
        if derived is None or ready is None or self.view is None:
            return
        sources, drawing, still, page = ready[1], self.view.drawing, ready[0].still(), self.easel.page

        def work(report: Report) -> tuple[Flatted, Any]:
            def part(fraction: float, doing: str) -> None:
                report(0.9 * fraction, doing)

            report(0.01, "Finding the regions")
            carried = derived.regions.carried(sources, part) if sources.cut != sources.line else None
            divided = derived.regions.divided(sources.line, part)
            report(0.95, "Finding the regions")
            if carried is not None:
                verbs.recut(still, page, *carried)
            return flatted(still, still.sources(page), divided, drawing), carried

        self._start("regions", work, self._on_regions)

    def _on_regions(self, found: tuple[Flatted, Any]) -> None:
        flat, carried = found
        book, page = self.easel.book, self.easel.page
        assert self.view is not None
        assert book is not None
        if book.sources(page).line != flat.line:  # something was changed meanwhile; its own work follows
            self._find_regions()
            return
        self._put(flat)
        if carried is not None:
            self.easel.do(lambda book, page: verbs.recut(book, page, *carried))
        self.retable()
        self.easel.repaint.emit(None)
        self.easel.refreshed.emit()
        self.later()

    def _put(self, flat: Flatted) -> None:
        """Show regions of another moment."""
        assert self.view is not None
        self.view = replace(self.view, flat=flat, proved=None)
        self._painted_for = None
        self._color_loudly()

    # What is seen at once

    def changed(self, touched: Touched) -> None:
        """Follow an edit."""
        page = self.easel.page
        fed = fed_by(touched.keys, page)
        reframed = PAGES.key(page) in touched.keys
        if reframed:
            self._forget_other_size()
        if reframed or "drawing" in fed or REPAIR.key(page) in touched.planes:
            self.draw()
        elif "cuts" in fed:
            self._recut()
        elif "engine" in fed and self._is_of_another_engine():
            self._find_regions()
        elif "effects" in fed:
            self.retable()
            self.draw()
        if "ways" in fed and "cuts" not in fed:
            self._decide()
        if "colors" in fed:
            before = self._tables()
            self.retable()
            self.easel.repaint.emit(self._recolored(before))
        self._mark(touched.of(MARKS.below(page)))
        plates = [rect for kind in (RUBBED, KEPT_NEW) for rect in touched.of(kind.below(page)).values()]
        if (plates or "colors" in fed) and self.view is not None and self.easel.book is not None:
            self.view = replace(self.view, rubbed=rubbed_of(self.easel.book, page))
            if plates:
                self.easel.repaint.emit(plates)
        painted = [rect for kind in (COVER, *PAINT) for rect in touched.of(kind.below(page)).values()]
        if (painted or "passes" in fed) and self.view is not None and self.easel.book is not None:
            self.view = replace(self.view, covers=covers_of(self.easel.book, page))
            self.retable()
            self.easel.repaint.emit(None if "passes" in fed else painted)
        if "marks" in fed:
            self.easel.repaint.emit([])
        self.later()

    def _is_of_another_engine(self) -> bool:
        """Whether the page is to be divided another way than it is shown."""
        sources, view = self.easel.sources(), self.view
        if sources is None or view is None or view.flat is None:
            return False
        return view.flat.line.engine != sources.line.engine

    def _decide(self) -> None:
        """Decide the regions anew, after bridges, doors, joins or the gap width were changed."""
        sources, view = self.easel.sources(), self.view
        if view is None or view.flat is None or sources is None or sources.line != view.flat.line:
            return
        old = view.flat.partition.region
        self.view = replace(view, flat=decided(view.flat, sources))
        self._color_loudly()
        now = self.view.flat.partition.region if self.view.flat is not None else old
        if not (self._wants_loud or self._wants_outlines):
            self.easel.repaint.emit([])  # pots hang on atoms, so that nothing but marks looks different
        elif len(old) != len(now):
            self.easel.repaint.emit(None)
        else:
            self.easel.repaint.emit(view.flat.boxes(np.flatnonzero(old != now).tolist()))

    # Cuts by hand

    def _recut(self) -> None:
        """Show the page as it is cut by hand now: as it was worked out already, or once it is."""
        ready, view, coming = self.easel.ready(), self.view, self.coming
        self.coming = None
        if view is None or view.flat is None or ready is None:
            return
        book, sources = ready
        if view.flat.line.uncut != sources.line.uncut or self.work.busy("regions"):
            self._find_regions()
            return
        self.behind.cancel("line")
        if coming is not None and coming[0].line == sources.line:
            self._on_recut(coming)
            return
        still, page, flat, ink = book.still(), self.easel.page, view.flat, view.drawing.ink[0]

        def work(report: Report) -> tuple[Flatted, Rect | None]:
            report(0.2, "Cutting")
            return recut(flat, divide(flat.divided, ink, sources.line.cuts), still, still.sources(page))

        self._start("recut", work, self._on_recut)

    def _on_recut(self, found: tuple[Flatted, Rect | None]) -> None:
        flat, rect = found
        sources = self.easel.sources()
        if self.view is None or sources is None or self.derived is None:
            return
        if flat.line != sources.line:  # cut again meanwhile
            self._recut()
            return
        before = self.view.flat
        if before is not None and rect is not None and self.easel.picked:
            self.easel.picked |= cut_from(self.easel.picked, before, flat, rect)
        self.derived.regions.adopt(sources.line, flat.divided)
        loud = dict(self._loud)
        self._put(flat)
        self.retable()
        if self._wants_loud and any(self._loud.get(region, color) != color for region, color in loud.items()):
            self.easel.repaint.emit(None)
        else:
            moved = self._recolored(None if before is None else before.tables) or []
            self.easel.repaint.emit([*([rect] if rect is not None else []), *moved])
        self.easel.refreshed.emit()
        self.later()

    # What comes later

    def _derive_more(self) -> None:
        """Work out coloured line, panels and plates, once things have settled."""
        found, view = self._at_hand(), self.view
        if found is None or view is None or view.flat is None:
            return
        book, sources, derived, tables = found
        still = book.still()
        self.behind.start("inks", lambda _: learn_inks(still, sources[PRESS]), lambda _: None)
        pieces = bool(sources[HOLDS]) or self.easel.stage == "Holds"
        fading = tuple(wash.key for wash in tables.washes if wash.feather_px)
        wanted = (sources.line, sources.over, pieces, fading, view.flat.partition.region.tobytes())
        flat = view.flat
        known = cache(lambda: flat if flat.panels is not None else with_panels(flat, sources))
        if flat.panels is None:
            self.behind.start("panels", lambda _: known(), self.show_panels)
        if self._painted_for != wanted:
            self._painted_for = wanted
            work = partial(_drawn, still, sources, derived, tables, pieces, known)
            self.behind.start("line", work, self._on_line, lambda error: self.easel.said.emit(str(error), True))
        elif tables.told is not None:
            self.behind.start("whose", partial(_judged, still, sources, tables.told.pieces, known), self.show_front)
        if self.easel.stage == "Press":
            self._start("plates", lambda _: small_plates(view, view.flat), self.show_plates)  # type: ignore[arg-type]
            self._start("press", lambda report: _proved(derived, sources, view, report), self._on_press)

    def _at_hand(self) -> AtHand | None:
        """Return the page as it is shown, where that is up to date with the book."""
        ready, tables = self.easel.ready(), self._tables()
        if ready is None or tables is None or self.derived is None or self.is_behind():
            return None
        return (*ready, self.derived, tables) if ready[1].cut == ready[1].line else None

    def _on_line(self, found: tuple[PaintedPage, PaintedPage | None]) -> None:
        painted, flatting = found
        sources = self.easel.sources()
        if self.view is None or self.view.flat is None or sources is None or self.view.flat.line != sources.line:
            return
        self.view = replace(self.view, flat=replace(self.view.flat, painted=painted, flatting=flatting))
        self.retable()  # scopes may name stroke pieces
        self.easel.repaint.emit(None)

    def _on_press(self, found: tuple[Proved, Tables]) -> None:
        proved, tables = found
        if self.view is not None and self._tables() is tables:
            self.view = replace(self.view, proved=proved)
            self.easel.repaint.emit(None)
            self.easel.refreshed.emit()
        else:
            self.later()


def _drawn(
    still: Book, sources: PageSources, derived: Derived, tables: Tables, pieces: bool, known: Callable[[], Flatted],
    report: Report,
) -> tuple[PaintedPage, PaintedPage | None]:  # fmt: skip
    """Draw the line; whose it is, is judged here too, so that tables need not wait for it."""
    found = painted_of(derived, sources, tables, pieces=pieces, report=report)
    if found[0].pieces is not None:
        lines_of(still, sources, found[0].pieces, known().panels)
    return found


def _judged(
    still: Book, sources: PageSources, pieces: LinePieces, known: Callable[[], Flatted], _: Report
) -> F64:  # fmt: skip
    """Judge anew which side of every stroke piece lies in front, (P + 1,)."""
    return lines_of(still, sources, pieces, known().panels).front


def _proved(derived: Derived, sources: PageSources, view: PageView, report: Report) -> tuple[Proved, Tables]:
    """Trap the page and try the register, all of one moment."""
    report(0.05, "Trapping")
    assert view.flat is not None
    tables = view.flat.tables
    ready = ready_of(view, view.flat)
    planes = (*ready.covers, *ready.marks.values(), *ready.rubbed.planes())
    keys = [wash.key for wash in tables.stack], [wash.key for wash in tables.washes]
    version = tuple(p.version for p in planes), keys
    traps = derived.press.traps(sources, ready.composing(), version, view.flat.partition.region)
    levels = label_pyramid(traps.spread)
    report(0.3, "Register test")
    thin = ready.trapped_by(traps).thinned(stride(sources))
    plates = lambda rows, tried: thin.plates_each(tried, rows)  # noqa: E731
    told = derived.press.register(
        sources, plates, tables.plates, traps, lambda f, t: report(0.3 + 0.7 * f, t)
    )  # fmt: skip
    return Proved(traps, levels, told), tables
