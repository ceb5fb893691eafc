"""The easel: which book, page, stage, tool and pot are in use, and the page kept up to date in the background.

It holds no truth of its own about the book: it listens to the book and derives. Knows the book, files, work.
"""

from collections.abc import Callable
from dataclasses import replace
from pathlib import Path as FilePath
from typing import Any, Literal

import msgspec
import numpy as np
from PyQt6.QtCore import QObject, QThreadPool, QTimer, pyqtSignal

from drip_pot.book import (
    BALLOON,
    Book,
    Derived,
    InkState,
    LineState,
    Page,
    PageSources,
    Sheet,
    SheetLine,
    Tables,
    Touched,
    build_tables,
    verbs,
)
from drip_pot.book.by_hand import Hand
from drip_pot.book.derived import facts_of, partition_of
from drip_pot.book.finding import Finding
from drip_pot.book.look_here import STAGES, find, mend
from drip_pot.core.arrays import I64, Bool, Rect, Report
from drip_pot.core.errors import BadInput, DripPotError
from drip_pot.core.inks import Effect, covered, lay_ink, mirrored, scrape, smoothed, stroke_ink
from drip_pot.core.regions import (
    Divided,
    Fringe,
    Path,
    Stencil,
    auto_gap,
    changed_rect,
    divide,
    loud_colors,
    regions_of,
)
from drip_pot.core.render import label_pyramid, plane_pyramid
from drip_pot.core.shade import loop_mask
from drip_pot.desk.flatting import Flatting
from drip_pot.desk.view import PageView, Painted, detached, recut, thumbnail
from drip_pot.desk.work import Work
from drip_pot.files import (
    BookFile,
    Incoming,
    add_page,
    add_sheets,
    derive,
    new_book,
    open_book,
    read_page,
    reink_sheet,
    take_in,
    with_dpi,
)

TOOLS = {
    "Inks": ("Look", "Speck", "Belongs", "Pen", "Scraper", "Mirror", "Effect", "Crop"),
    "Flats": (
        "Pour",
        "Corral",
        "Sweep",
        "Seed",
        "Leash",
        "Cut-out",
        "Silhouette",
        "Panel",
        "Pick",
        "Take",
        "Bridge",
        "Dam",
        "Door",
    ),
    "Shade": ("Cut shade", "Cut light", "Take"),
    "Holds": ("Hold", "Take"),
    "Press": ("Look",),
}


_MANY = 400


class Easel(QObject):
    """The state of one window.

    Signals
    -------
    opened()
        Another book or page is shown.
    repaint(object)
        Page pixels changed: a list of rectangles, or None for everything.
    edited()
        The book changed: names, pots, history.
    chosen()
        Another stage, tool or pot.
    refreshed()
        Derived facts changed: regions, findings, plates.
    said(str, bool)
        A sentence for the person, and whether it is a problem.
    """

    opened = pyqtSignal()
    repaint = pyqtSignal(object)
    edited = pyqtSignal()
    chosen = pyqtSignal()
    refreshed = pyqtSignal()
    said = pyqtSignal(str, bool)

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.work = Work(self)
        self.looking = Work(self)  # findings, so that they never hold up what is seen
        self.file: BookFile | None = None
        self.book: Book | None = None
        self.page = 0
        self.view: PageView | None = None
        self.stage = "Flats"
        self.tools = {stage: tools[0] for stage, tools in TOOLS.items()}
        self.pot: int | None = None
        self.sheet = 0
        self.effect: int | None = None
        self.effect_kind: Literal["burst", "speed", "focus"] = "focus"
        self.pen_px, self.smoothing, self.pressure, self.zoom = 9.0, 0.3, 1.0, 1.0
        self.flats = Flatting(self)
        self.ask_dpi: Callable[[str], float | None] = lambda name: 300.0
        self.findings: dict[str, list[Finding]] = {stage: [] for stage in STAGES}
        self.looked = False
        self.shade_version = 0
        self.fringe: Fringe | None = None
        self._derived: Derived | None = None
        self._loud: dict[int, int] = {}
        self._wants_loud = self._wants_outlines = False
        self._line_for: Any = None
        self._coming: tuple[LineState, Divided] | None = None
        self._later = QTimer(self)
        self._later.setSingleShot(True)
        self._later.setInterval(250)
        self._later.timeout.connect(self._derive_later)
        self._rest = QTimer(self)
        self._rest.setSingleShot(True)
        self._rest.setInterval(3000)
        self._rest.timeout.connect(self._settle)

    # What is in use

    @property
    def tool(self) -> str:
        """The tool of the present stage."""
        return self.tools[self.stage]

    def sources(self) -> PageSources | None:
        """Return the page's sources, or None without a page."""
        return self.book.sources(self.page) if self.book is not None and self.page else None

    def choose_stage(self, stage: str) -> None:
        """Go to a stage."""
        if stage != self.stage:
            self.stage = stage
            self.set_preview(None)
            self.chosen.emit()
            self.repaint.emit(None)
            self._later.start()

    def choose_tool(self, tool: str) -> None:
        """Take up a tool of the present stage."""
        if tool in TOOLS[self.stage]:
            self.tools[self.stage] = tool
            self.chosen.emit()

    def choose_pot(self, pot: int | None) -> None:
        """Take a pot in hand; None is paper."""
        self.pot = None if pot == BALLOON else pot
        self.chosen.emit()

    def choose_sheet(self, number: int) -> None:
        """Take a sheet in hand; the settings of Inks are its."""
        if number != self.sheet:
            self.sheet = number
            self.chosen.emit()
            self._derive()

    def choose_effect(self, number: int | None) -> None:
        """Take effect lines in hand."""
        self.effect = number
        self.chosen.emit()

    @staticmethod
    def made_from(sources: PageSources, number: int) -> SheetLine:
        """Return what a sheet is made from."""
        sheet = sources.sheets[number]
        return SheetLine(sheet.original, sheet.picture, sheet.place, sources.inks[number])

    # Opening

    def open(self, path: FilePath) -> None:
        """Open a book, or a drawing into a new book beside it; problems are said."""
        if path.suffix.lower() != ".drip":
            self._read(path, self._new_from)
            return
        if self.file is not None and path.is_file() and path.samefile(self.file.path):
            self.said.emit(f"{path.name} is open here already.", False)
            return
        try:
            self._show(*open_book(path))
        except DripPotError as error:
            self.said.emit(str(error), True)

    def _read(
        self, image: FilePath, then: Callable[[FilePath, Incoming], None], data: bytes | None = None,
        pictures: list[int] | None = None,
    ) -> None:  # fmt: skip
        """Read a drawing (or several pictures of a file) in the background and go on with it."""

        def read(report: Report) -> list[Incoming]:
            if data is not None:
                return [take_in(data, image.name, report)]
            return [read_page(image, report, picture=k) for k in (pictures or (None,))]

        def done(found: list[Incoming]) -> None:
            dpi = None if found[0].knows_dpi else self.ask_dpi(found[0].name)
            if not found[0].knows_dpi and dpi is None:
                self.said.emit(f"{image.name} was not opened.", False)
                return
            try:
                for incoming in found:
                    then(image, incoming if dpi is None else with_dpi(incoming, dpi))
            except DripPotError as error:
                self.said.emit(str(error), True)

        self.work.start("open", read, done, lambda error: self.said.emit(str(error), True))
        self.repaint.emit(None)

    def _new_from(self, image: FilePath, incoming: Incoming) -> None:
        place, number = image.with_suffix(".drip"), 1
        while place.exists():
            number += 1
            place = image.with_name(f"{image.stem}-{number}.drip")
        file, book = new_book(place, image.stem.replace("-", " ").replace("_", " ").capitalize())
        try:
            add_page(book, incoming, file.add_original(incoming.name, incoming.data))
        except DripPotError:
            file.close()
            place.unlink(missing_ok=True)
            raise
        self._show(file, book)
        self.said.emit(" ".join([*incoming.notes, f"The book is kept in {place.name}, beside the drawing."]), False)

    def new_book(self, path: FilePath) -> None:
        """Make an empty book."""
        try:
            self._show(*new_book(path, path.stem))
        except DripPotError as error:
            self.said.emit(str(error), True)

    def add_page(self, image: FilePath, data: bytes | None = None, pictures: list[int] | None = None) -> None:
        """Bring a drawing into the open book, or into a new one; `data` stands in for the file, if given."""
        self._read(image, self._add, data, pictures)

    def add_sheet(self, image: FilePath, data: bytes | None = None, pictures: list[int] | None = None) -> None:
        """Lay a drawing on the page as further sheets."""
        if self.page:
            self._read(image, self._add_sheet, data, pictures)

    def _add(self, image: FilePath, incoming: Incoming) -> None:
        file, book = self.file, self.book
        if file is None or book is None:
            self._new_from(image, incoming)
            return
        self.show_page(add_page(book, incoming, file.add_original(incoming.name, incoming.data)))
        if incoming.notes:
            self.said.emit(" ".join(incoming.notes), False)

    def _add_sheet(self, image: FilePath, incoming: Incoming) -> None:
        assert self.file is not None
        assert self.book is not None
        original = self.file.add_original(incoming.name, incoming.data)
        self.choose_sheet(add_sheets(self.book, self.page, incoming, original)[-1])
        self.said.emit(" ".join([*incoming.notes, "Say on the shelf what the new sheet is for."]), False)

    def reink(self, image: FilePath) -> None:
        """Put a corrected drawing in the place of the sheet in hand, laid over the old one by itself."""
        file, book, page, number = self.file, self.book, self.page, self.sheet
        if file is None or book is None or not page:
            return
        frozen = Book(None, book.snapshot())

        def work(report: Report) -> tuple[Sheet, InkState, list[str]]:
            incoming = read_page(image, lambda f, t: report(0.2 * f, t))
            laid = reink_sheet(file, frozen, page, number, incoming, lambda f, t: report(0.2 + 0.8 * f, t))
            return (*laid, incoming.notes)

        def done(found: tuple[Sheet, InkState, list[str]]) -> None:
            sheet, inks, notes = found
            self.do(lambda book, _: verbs.reink(book, page, number, sheet, inks))
            turn = f"turned {sheet.place.turn_deg:.2f}°, scaled {sheet.place.scale:.3f}"
            self.said.emit(f"{' '.join(notes)} Laid over the old drawing: {turn}. Look here lists what changed.", False)

        self.work.start("open", work, done, lambda error: self.said.emit(str(error), True))

    def close(self) -> None:
        """Let go of the book; everything is on disk already."""
        self._later.stop()
        self._rest.stop()
        self.work.close()
        self.looking.close()
        if self.book is not None:
            self.book.changed.disconnect(self._on_changed)
        if self.file is not None:
            self.file.close()
        self.file = self.book = self._derived = self.view = None
        self.page = 0

    def _settle(self) -> None:
        """Nothing was done for a while: let the book's file alone be the whole book."""
        pool = QThreadPool.globalInstance()
        if self.file is not None and pool is not None:
            pool.start(self.file.settle)

    def _show(self, file: BookFile, book: Book) -> None:
        self.close()
        self.file, self.book = file, book
        file.moved = lambda sentence: self.said.emit(sentence, True)
        book.changed.connect(self._on_changed)
        pots = list(book.pots())
        self.pot = pots[0] if pots else None
        if file.read_only:
            self.said.emit(file.read_only, True)
        if book.lost:
            self.said.emit(f"{book.lost} tiles of shade were damaged and are left out; all else is here.", True)
        self.show_page(next(iter(book.pages()), 0))

    def show_page(self, page: int) -> None:
        """Show a page of the open book."""
        assert self.book is not None
        assert self.file is not None
        self.work.drop()
        self.looking.drop()
        self.page, self.view, self._loud, self._line_for = page, None, {}, None
        self.sheet, self.effect = 0, None
        self.flats.forget()
        self.fringe = None
        self.findings, self.looked = {stage: [] for stage in STAGES}, False
        self._derived = derive(self.file, self.book, page) if page else None
        self.opened.emit()
        self.edited.emit()
        self.chosen.emit()
        if page:
            self._derive()

    # Deriving

    def _derive(self) -> None:
        """Work out ink, then regions, for the present line."""
        derived, sources = self._derived, self.sources()
        if derived is None or sources is None:
            return
        if self.sheet not in sources.sheets:
            self.sheet = 0
        line, over, role = sources.line, sources.over, sources.sheets[self.sheet].role
        sheet = self.made_from(sources, self.sheet)
        repair = self.book.frozen(f"page/{self.page}/repair", line.repair) if line.repair and self.book else None

        def ink(report: Report) -> PageView:
            report(0.02, "Reading the drawing")
            gray = plane_pyramid(derived.gray(line, sheet))
            report(0.3, "Removing the paper")
            evened = plane_pyramid(derived.evened(line, sheet))
            report(0.5, "Looking for specks")
            contour, above = derived.contour(line), derived.over(line, over)
            every = contour if above is None else np.maximum(contour, above.ink)
            report(0.8, "Laying the sheets together")
            own = contour if role == "contour" else derived.sheet_ink(line, sheet)
            levels = plane_pyramid(contour)
            thumbs = {n: thumbnail(derived.sheet_ink(line, self.made_from(sources, n))) for n in sources.sheets}
            return PageView(
                line, sheet, gray, evened, levels if own is contour else plane_pyramid(own),
                None if every is own else plane_pyramid(every),
                label_pyramid(repair) if repair is not None and role == "contour" else None,
                levels, derived.pieces(line, sheet), derived.is_colored(sheet), thumbs=thumbs,
            )  # fmt: skip

        self.work.start("ink", ink, self._on_ink)

    def _on_ink(self, view: PageView) -> None:
        old = self.view
        if old is not None and old.shape == view.shape:
            view = replace(
                view, divided=old.divided,
                atoms=old.atoms, facts=old.facts, labels=old.labels, painted=old.painted, flatting=old.flatting,
                partition=old.partition, loud=old.loud, tables=old.tables, gap_px=old.gap_px,
            )  # fmt: skip
        assert self.book is not None
        self.view = replace(view, shade=self.book.plane(f"page/{self.page}/shade"))
        self.repaint.emit(None)
        self.refreshed.emit()
        sources = self.sources()
        assert sources is not None
        if self.view.atoms is not None and old is not None and old.line == view.line and sources.cut == sources.line:
            self._later.start()
            return
        self._find_regions()

    def _find_regions(self) -> None:
        """Divide the page, and carry colours where its line has changed."""
        derived, sources = self._derived, self.sources()
        if derived is None or sources is None:
            return

        def regions(report: Report) -> tuple[Any, ...]:
            def part(fraction: float, doing: str) -> None:
                report(0.9 * fraction, doing)

            report(0.01, "Finding the regions")
            carried = derived.carried(sources, part) if sources.cut != sources.line else None
            divided = derived.divided(sources.line, part)
            report(0.95, "Finding the regions")
            return sources.line, divided, label_pyramid(divided.atoms.labels), carried

        self.work.start("regions", regions, self._on_regions)

    def _on_regions(self, found: tuple[Any, ...]) -> None:
        line: LineState = found[0]
        _, divided, labels, carried = found
        self.flats.picked = frozenset()
        assert self.view is not None
        assert self.book is not None
        self.view = replace(
            self.view,
            line=line,
            divided=divided,
            atoms=divided.atoms,
            facts=facts_of(divided),
            labels=labels,
            painted=Painted(labels, self.view.ink, labels),
            flatting=None,
            tables=None,
            traps=None,
            trap_levels=None,
        )
        self._partition()
        self._line_for = None
        if carried is not None and self.book.sources(self.page).line == line:
            self.do(lambda book, page: verbs.recut(book, page, *carried))
        self._retable()
        self.repaint.emit(None)
        self.refreshed.emit()
        self._later.start()

    def _partition(self, gap_px: float | None = None) -> None:
        """Decide the regions; `gap_px` tries a width without keeping it."""
        view, sources = self.view, self.sources()
        if view is None or view.atoms is None or view.facts is None or sources is None:
            return
        atoms = view.atoms
        gap = sources.flats.gap_px if gap_px is None else gap_px
        gap = auto_gap(atoms) if gap is None else gap
        part = partition_of(atoms, sources, gap)
        self.view = replace(view, partition=part, loud=None, gap_px=gap)
        self._color_loudly()

    def want_regions(self, *, loud: bool, outlines: bool) -> None:
        """Say whether regions are seen as such: in working colours, which are worked out only then, or as outlines."""
        self._wants_loud, self._wants_outlines = loud, outlines
        if self.view is not None and self.view.loud is None:
            self._color_loudly()

    def _color_loudly(self) -> None:
        view = self.view
        if not self._wants_loud or view is None or view.atoms is None or view.partition is None:
            return
        region, areas = view.partition.region, view.atoms.areas
        pairs = region[view.atoms.borders.pairs]
        self._loud = loud_colors(regions_of(region, areas), pairs, self._loud)
        loud: I64 = np.array([self._loud.get(r, 0) for r in region.tolist()], np.int64)
        self.view = replace(view, loud=loud)

    def _recut(self) -> None:
        """Show the page as it is cut by hand now; only where that changed is anything worked out anew."""
        view, sources, derived = self.view, self.sources(), self._derived
        if view is None or view.divided is None or sources is None or derived is None:
            return
        if view.line.uncut != sources.line.uncut or self.work.busy("regions"):
            self._find_regions()
            return
        line, after = self._coming or (None, None)
        self._coming = None
        if after is None or line != sources.line:
            after = divide(view.divided, view.ink[0], sources.line.cuts)
        derived.adopt(sources.line, after)
        self.work.cancel("line")
        before, rect, loud = view.divided, changed_rect(view.divided, after), dict(self._loud)
        self._line_for = None
        if rect is None:
            self.view = replace(view, line=sources.line, divided=after)
            return
        self.view = recut(view, sources.line, after, facts_of(after), rect)
        self._partition()
        if self._wants_loud and any(self._loud.get(region, color) != color for region, color in loud.items()):
            self.repaint.emit(None)
        elif self._wants_loud or self._wants_outlines or not _only_dams(before, after):
            self.repaint.emit([rect])

    def _adopt(self, line: LineState, after: Divided) -> None:
        self._coming = (line, after)

    def by_hand(self, work: Callable[[Hand], object]) -> bool:
        """Let a hand cut the page; a problem is said and False returned."""
        view = self.view
        if view is None or view.divided is None or self._still_finding():
            return False
        divided, ink = view.divided, view.ink[0]
        return self.do(lambda book, page: work(Hand(book, page, divided, ink, self._adopt)))

    def set_dam(self, path: Path | None, number: int | None = None) -> None:
        """Draw a dam, move one of a number, or take it away (None)."""
        verb = "Take away" if path is None else "Move" if number is not None else "Draw"
        self.by_hand(lambda hand: hand.lay({number or hand.next: path}, "set-dam", f"{verb} a dam"))

    def draw_bridge(self, path: Path, instead: tuple[float, float] | None) -> None:
        """Draw a bridge, which is a dam; `instead` is the middle of a found one that is refused for it."""
        refused = [] if instead is None else [(f"page/{self.page}/bridge/{instead[0]:g}:{instead[1]:g}", False)]
        title = "Draw a bridge" if instead is None else "Move a bridge"
        self.by_hand(lambda hand: hand.lay({hand.next: path}, "draw-bridge", title, more=refused))

    def try_gap(self, gap_px: float) -> None:
        """Show a gap width while its slider moves."""
        self._partition(gap_px)
        self.repaint.emit(None)
        self.refreshed.emit()

    def _retable(self) -> None:
        view, sources = self.view, self.sources()
        if view is None or view.atoms is None or self.book is None or sources is None:
            return
        if sources.cut != sources.line or self.work.busy("regions") or self.work.busy("ink"):
            return
        self.view = replace(view, tables=build_tables(self.book, sources, view.atoms.count))

    def _derive_later(self) -> None:
        """Coloured line, findings and plates, once things have settled."""
        view, sources, derived = self.view, self.sources(), self._derived
        if view is None or view.tables is None or view.atoms is None or sources is None or derived is None:
            return
        if sources.cut != sources.line or self.work.busy("regions") or self.work.busy("ink") or self.book is None:
            return
        held = view.tables.held
        wanted = (sources.line, sources.over, held.tobytes())
        if self._line_for != wanted:
            self._line_for = wanted
            self.work.start("line", lambda _: self._paint(derived, sources, held), self._on_line)
        self._derive_more(sources, derived)

    def _paint(self, derived: Derived, sources: PageSources, held: Bool) -> tuple[Painted, Painted | None]:
        """Lay out what is painted, and the same without lettering."""
        found: list[Painted] = []
        for lettering in (True, False) if sources.over.lettering else (True,):
            shown = derived.shown(sources, held, lettering=lettering)
            labels = label_pyramid(shown.labels)
            line = labels if shown.line is shown.labels else label_pyramid(shown.line)
            found.append(Painted(labels, plane_pyramid(shown.ink), line))
        derived.hand_over()
        return found[0], found[1] if len(found) > 1 else None

    def _derive_more(self, sources: PageSources, derived: Derived) -> None:
        assert self.book is not None
        assert self.view is not None
        assert self.view.tables is not None
        assert self.view.atoms is not None
        tables, atoms = self.view.tables, self.view.atoms
        frozen = Book(None, self.book.snapshot())
        if len(tables.is_poured) == atoms.count + 1:

            def findings(report: Report) -> tuple[dict[str, list[Finding]], Fringe]:
                return find(frozen, sources, derived, tables, report), derived.fringe(sources, tables.is_poured)

            self.looking.start("findings", findings, self._on_findings)
        if self.stage == "Press":
            self._derive_press(sources, derived)

    def _derive_press(self, sources: PageSources, derived: Derived) -> None:
        assert self.view is not None
        assert self.view.tables is not None
        tables, version = self.view.tables, self.shade_version
        shade = np.array(self.view.shade)

        def press(report: Report) -> tuple[Any, ...]:
            report(0.05, "Trapping")
            shown = derived.shown(sources, tables.held)
            traps = derived.traps(sources, shade, version, shown, tables.plates, sources.press.trap_mm)
            levels = label_pyramid(traps.spread)
            report(0.3, "Register test")
            told = derived.register(sources, shade, shown, tables.plates, traps, lambda f, t: report(0.3 + 0.7 * f, t))
            return traps, levels, told

        self.work.start("press", press, self._on_press)

    def _on_line(self, found: tuple[Painted, Painted | None]) -> None:
        if self.view is not None:
            self.view = replace(self.view, painted=found[0], flatting=found[1])
            self.repaint.emit(None)

    def _on_findings(self, found: tuple[dict[str, list[Finding]], Fringe]) -> None:
        (self.findings, self.fringe), self.looked = found, True
        self.refreshed.emit()

    def _on_press(self, found: tuple[Any, ...]) -> None:
        if self.view is not None:
            traps, levels, register = found
            self.view = replace(self.view, traps=traps, trap_levels=levels, register=register)
            self.repaint.emit(None)
            self.refreshed.emit()

    def _on_changed(self, touched: Touched) -> None:
        top = f"page/{self.page}/"
        mine = {key[len(top) :] for key in touched.keys if key.startswith(top)}
        shared = any(key.startswith(("pot/", "part/", "tone")) for key in touched.keys)
        page = f"page/{self.page}" in touched.keys
        line = page or any(key.split("/")[0] in ("inks", "sheet", "stroke", "tone") for key in mine)
        cut = any(key.startswith(("dam/", "stencil/")) for key in mine)
        if line or f"{top}repair" in touched.planes:
            if page and self.view is not None and self.book is not None:
                shape = self.book.read(f"page/{self.page}", Page)
                if (shape.rows, shape.cols) != self.view.shape:
                    self.view = None
                    self.opened.emit()
            self._derive()
        elif cut:
            self._recut()
        elif any(key.startswith("effect/") for key in mine):
            self._retable()
            self._derive()
        if "flats" in mine or any(key.startswith(("bridge/", "door/", "join/")) for key in mine):
            old = self.view.partition if self.view is not None else None
            self._partition()
            now = self.view.partition if self.view is not None else None
            if not (self._wants_loud or self._wants_outlines):
                self.repaint.emit([])  # pots hang on atoms, so that nothing but marks looks different
            elif old is None or now is None or len(old.region) != len(now.region):
                self.repaint.emit(None)
            else:
                self.repaint.emit(self.boxes(np.flatnonzero(old.region != now.region).tolist()))
        colored = any(key.startswith(("pour/", "hold/")) for key in mine)
        if shared or cut or colored or mine & {"lines", "press", "cut"}:
            before = None if self.view is None else self.view.tables
            self._retable()
            self.repaint.emit(self._recolored(before, None if self.view is None else self.view.tables))
        for plane, rect in touched.planes.items():
            if plane == f"{top}shade":
                self.shade_version += 1
                self.repaint.emit([rect])
        pots = self.book.pots() if self.book is not None else {}
        if self.pot is not None and self.pot not in pots:
            self.pot = next(iter(pots), None)
            self.chosen.emit()
        self.edited.emit()
        self.refreshed.emit()
        self._later.start()
        self._rest.start()

    def view_at(self, position: int) -> PageView | None:
        """Return the page as it was after so many steps; None, with a sentence, if its line was another one."""
        view, sources = self.view, self.sources()
        if view is None or view.divided is None or view.partition is None or self.book is None or sources is None:
            return None
        past = self.book.at(position)
        if self.page not in past.pages() or (old := past.sources(self.page)).line.uncut != sources.line.uncut:
            self.said.emit("The line itself was another one then. Choose a later step to compare with.", False)
            return None
        after = divide(view.divided, view.ink[0], old.line.cuts)
        rect = changed_rect(view.divided, after)
        seen = view if rect is None else recut(detached(view), old.line, after, facts_of(after), rect)
        tables = build_tables(past, old, after.atoms.count)
        shade = past.plane(f"page/{self.page}/shade")
        return replace(seen, tables=tables, partition=partition_of(after.atoms, old), shade=shade)

    def _recolored(self, before: Tables | None, now: Tables | None) -> list[Rect] | None:
        """Return where tables draw other colours; None for everywhere."""
        if before is None or now is None:
            return None
        count = min(len(before.held), len(now.held))
        changed = before.held[:count] != now.held[:count]
        for old, new in ((before.screen, now.screen), (before.plates.colors, now.plates.colors)):
            halves = [(t.flat[:count], t.flat[len(t.flat) // 2 :][:count], t.line[:count]) for t in (old, new)]
            if not np.array_equal(old.line[-8:], new.line[-8:]):
                return None
            for one, two in zip(*halves, strict=True):
                changed |= one != two
        atoms = np.flatnonzero(changed).tolist()
        return None if len(atoms) > _MANY else self.boxes(atoms)

    # Doing

    def do(self, verb: Any) -> bool:
        """Call `verb(book, page)`; a problem is said and False returned."""
        if self.book is None:
            return False
        try:
            verb(self.book, self.page)
        except DripPotError as error:
            self.said.emit(str(error), True)
            self.repaint.emit(None)
            return False
        return True

    def undo(self) -> None:
        """Take back the last gesture."""
        self.do(lambda book, _: book.undo())

    def redo(self) -> None:
        """Do the last undone gesture again."""
        self.do(lambda book, _: book.redo())

    def set_preview(self, inks: InkState | None) -> None:
        """Show the line with other settings while a slider moves; None shows the real ones."""
        if self.view is not None and self.view.preview != inks:
            self.view = replace(self.view, preview=inks)
            self.repaint.emit(None)

    def set_inks(self, inks: InkState, title: str = "Adjust the line") -> None:
        """Keep new ink settings of the sheet in hand."""
        number = self.sheet
        if self.do(lambda book, page: verbs.set_inks(book, page, inks, title, number)) and self.view is not None:
            self.view = replace(self.view, preview=inks)

    def mend_stroke(self, points: list[tuple[float, float, float]], *, away: bool) -> None:
        """Lay a stroke of ink on the repair sheet, or scrape ink away."""
        view, book = self.view, self.book
        if view is None or book is None or not points:
            return
        try:
            steady = smoothed(points, self.smoothing)
            rect, stroke = stroke_ink(steady, self.pen_px, view.shape)
        except BadInput as error:
            self.said.emit(str(error), False)
            return
        cut = slice(rect[0], rect[2]), slice(rect[1], rect[3])
        before = book.plane(f"page/{self.page}/repair")[cut]
        repair = (scrape if away else lay_ink)(before, view.ink[0][cut], stroke)
        title = "Scrape ink away" if away else "Draw with the pen"
        self.do(lambda book, page: verbs.mend_line(book, page, rect, repair, title))

    def mirror(self, points: list[tuple[float, float]], axis_col: float) -> None:
        """Lift what a loop encloses and lay its mirror image on the repair sheet, about an upright axis."""
        view, book = self.view, self.book
        if view is None or book is None:
            return
        try:
            rect, mask = loop_mask(points, view.shape)
        except BadInput:
            return
        top, left, bottom, right = rect
        ink = view.ink[0][top:bottom, left:right]
        shift, flipped, where = mirrored(ink, mask.astype(np.uint8), axis_col - left)
        start = left + shift
        low, high = max(start, 0), min(start + flipped.shape[1], view.shape[1])
        if high <= low:
            self.said.emit("The mirror image would lie beside the page.", False)
            return
        cut = slice(top, bottom), slice(low, high)
        before = book.plane(f"page/{self.page}/repair")[cut]
        own = slice(low - start, high - start)
        repair = covered(before, flipped[:, own], where[:, own])
        self.do(lambda book, page: verbs.mend_line(book, page, (top, low, bottom, high), repair, "Mirror a loop"))

    def set_effect(self, effect: Effect | None, number: int | None = None) -> None:
        """Add effect lines, change those of a number, or take them away (None)."""
        kept: list[int] = []
        self.do(lambda book, page: kept.append(verbs.set_effect(book, page, number, effect)))
        if kept:
            self.choose_effect(kept[0] if effect is not None else None)

    def atom_at(self, row: int, col: int) -> int:
        """Return the atom at a page pixel; 0 outside the page or before regions are known."""
        view = self.view
        if view is None or view.labels is None or not (0 <= row < view.shape[0] and 0 <= col < view.shape[1]):
            return 0
        return int(view.labels[0][row, col])

    def region_atoms(self, atom: int) -> list[int]:
        """Return all atoms of the region an atom belongs to."""
        if self.view is None or self.view.partition is None or atom == 0:
            return []
        region = self.view.partition.region
        return [int(a) for a in np.flatnonzero(region == region[atom]) if a]

    def atoms_of_pot(self, pot: int | None) -> list[int]:
        """Return all atoms that have a pot; for None, all that have none."""
        sources = self.sources()
        if sources is None or self.view is None or self.view.atoms is None:
            return []
        if pot is None:
            return [a for a in range(1, self.view.atoms.count + 1) if a not in sources.pours]
        return [a for a, p in sources.pours.items() if p == pot]

    def pot_of(self, atom: int) -> int | None:
        """Return an atom's pot, or None for paper."""
        text = dict(self.book.below(f"page/{self.page}/pour/{atom}")).get("") if self.book is not None else None
        return int(text) if text is not None and int(text) != BALLOON else None

    def boxes(self, atoms: list[int]) -> list[Rect]:
        """Return where atoms lie on the page."""
        if self.view is None or self.view.facts is None:
            return []
        rows = self.view.facts.boxes[[a for a in atoms if a < len(self.view.facts.boxes)]]
        return [(int(a), int(b), int(c), int(d)) for a, b, c, d in rows]

    def preview_pour(self, atoms: list[int]) -> None:
        """Show atoms in the pot in hand before the gesture is finished."""
        if self.book is not None and self.flats.strength == 1:
            pot = self.book.pots().get(self.pot or 0)
            self.preview(atoms, self.book.tone_pair(pot) if pot is not None else ("#ffffff", "#ffffff"))

    def preview_pot(self, number: int, local: str) -> None:
        """Show a pot in another colour while it is being mixed."""
        if self.book is not None:
            pot = msgspec.structs.replace(self.book.pots()[number], local=local)
            self.preview(self.atoms_of_pot(number), self.book.tone_pair(pot))

    def preview(self, atoms: list[int], pair: tuple[str, str]) -> None:
        """Show atoms in a pair of colours until the tables are made again."""
        if self.view is None or self.view.tables is None:
            return
        tables = self.view.tables
        flat = tables.screen.flat.copy()
        for offset, text in ((0, pair[0]), (len(flat) // 2, pair[1])):
            flat[[a + offset for a in atoms]] = np.frombuffer(bytes.fromhex(text[1:] + "ff"), np.uint32)[0]
        self.view = replace(self.view, tables=replace(tables, screen=replace(tables.screen, flat=flat)))
        self.repaint.emit(self.boxes(atoms))

    def restore_tables(self) -> None:
        """Forget previews without drawing anything."""
        self._retable()

    def drop_preview(self) -> None:
        """Show the pours as they are."""
        self._retable()
        self.repaint.emit(None)

    def _still_finding(self) -> bool:
        if self.work.busy("ink") or self.work.busy("regions"):
            self.said.emit("The regions are still being found; nothing was changed. Try again in a moment.", False)
            self.drop_preview()
            return True
        return False

    def pour(self, atoms: set[int]) -> None:
        """Pour the pot in hand into atoms, as one gesture."""
        if atoms and not self._still_finding():
            self.flats.pour(atoms)

    def cut(self, points: list[tuple[float, float]], *, light: bool, only: int = 0) -> None:
        """Cut a loop (row, col) into shadow or light; `only` keeps it inside the region of that atom."""
        view = self.view
        if view is None or view.labels is None or view.tables is None or self._still_finding():
            return
        try:
            rect, mask = loop_mask(points, view.shape)
        except BadInput:
            return
        top, left, bottom, right = rect
        allowed: Bool = view.tables.is_poured.copy()
        if only:
            inside = np.zeros_like(allowed)
            inside[self.region_atoms(only)] = True
            allowed &= inside
        where = allowed[view.labels[0][top:bottom, left:right]]
        self.do(lambda book, page: verbs.cut_shade(book, page, rect, mask, where, light=light))

    def mend(self, finding: Finding) -> None:
        """Do a finding's verb."""
        self.do(lambda book, page: mend(book, page, finding))

    def mend_all(self, findings: list[Finding]) -> None:
        """Do the verbs of several findings as one step."""
        if self.book is None or self._still_finding():
            return
        with self.book.as_one():
            for finding in findings:
                if not self.do(lambda book, page, f=finding: mend(book, page, f)):
                    break

    def leave(self, finding: Finding) -> None:
        """Take a finding off the list."""
        self.do(lambda book, page: verbs.leave(book, page, finding.key))


def _only_dams(before: Divided, after: Divided) -> bool:
    """Whether dams alone were added, under which every piece keeps its colour."""
    shared = zip(before.steps, after.steps, strict=False)
    fresh = after.steps[len(before.steps) :]
    return bool(fresh) and all(a is b for a, b in shared) and not any(isinstance(s.cut, Stencil) for s in fresh)
