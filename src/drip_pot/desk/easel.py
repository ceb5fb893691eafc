"""The easel: which book, page, stage, tool and pot are in use, and the page kept up to date in the background.

It holds no truth of its own about the book: it listens to the book and derives. Knows the book, files, work.
"""

from collections.abc import Callable
from dataclasses import replace
from pathlib import Path
from typing import Any

import msgspec
import numpy as np
from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from drip_pot.book import Book, Derived, InkState, PageSources, Touched, build_tables, verbs
from drip_pot.book.look_here import STAGES, Finding, find, mend
from drip_pot.core.arrays import I64, Bool, Rect, Report
from drip_pot.core.errors import BadInput, DripPotError
from drip_pot.core.regions import BridgeChoice, auto_gap, decide, least_region_px, loud_colors
from drip_pot.core.render import label_pyramid, plane_pyramid
from drip_pot.core.shade import loop_mask
from drip_pot.desk.view import PageView
from drip_pot.desk.work import Work
from drip_pot.files import BookFile, Incoming, add_page, derive, new_book, open_book, read_page

TOOLS = {
    "Inks": ("Look", "Speck"),
    "Flats": ("Pour", "Take", "Bridge"),
    "Shade": ("Cut shade", "Cut light", "Take"),
    "Holds": ("Hold", "Take"),
    "Press": ("Look",),
}


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
        self.file: BookFile | None = None
        self.book: Book | None = None
        self.page = 0
        self.view: PageView | None = None
        self.stage = "Flats"
        self.tools = {stage: tools[0] for stage, tools in TOOLS.items()}
        self.pot: int | None = None
        self.findings: dict[str, list[Finding]] = {stage: [] for stage in STAGES}
        self.shade_version = 0
        self._derived: Derived | None = None
        self._loud: dict[int, int] = {}
        self._line_for: tuple[InkState, bytes] | None = None
        self._later = QTimer(self)
        self._later.setSingleShot(True)
        self._later.setInterval(250)
        self._later.timeout.connect(self._derive_later)

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
        self.pot = pot
        self.chosen.emit()

    # Opening

    def open(self, path: Path) -> None:
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

    def _read(self, image: Path, then: Callable[[Path, Incoming], None]) -> None:
        """Read a drawing in the background and go on with it."""

        def done(incoming: Incoming) -> None:
            try:
                then(image, incoming)
            except DripPotError as error:
                self.said.emit(str(error), True)

        self.work.start(
            "open", lambda report: read_page(image, report), done, lambda error: self.said.emit(str(error), True)
        )
        self.repaint.emit(None)

    def _new_from(self, image: Path, incoming: Incoming) -> None:
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

    def new_book(self, path: Path) -> None:
        """Make an empty book."""
        try:
            self._show(*new_book(path, path.stem))
        except DripPotError as error:
            self.said.emit(str(error), True)

    def add_page(self, image: Path) -> None:
        """Bring a drawing into the open book, or into a new one."""
        self._read(image, self._add if self.book is not None else self._new_from)

    def _add(self, image: Path, incoming: Incoming) -> None:
        file, book = self.file, self.book
        if file is None or book is None:
            self._new_from(image, incoming)
            return
        self.show_page(add_page(book, incoming, file.add_original(incoming.name, incoming.data)))
        if incoming.notes:
            self.said.emit(" ".join(incoming.notes), False)

    def close(self) -> None:
        """Let go of the book; everything is on disk already."""
        self._later.stop()
        self.work.close()
        if self.book is not None:
            self.book.changed.disconnect(self._on_changed)
        if self.file is not None:
            self.file.close()
        self.file = self.book = self._derived = self.view = None
        self.page = 0

    def _show(self, file: BookFile, book: Book) -> None:
        self.close()
        self.file, self.book = file, book
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
        self.work.close()
        self.page, self.view, self._loud = page, None, {}
        self.findings = {stage: [] for stage in STAGES}
        self._derived = derive(self.file, self.book, page) if page else None
        self.opened.emit()
        self.edited.emit()
        self.chosen.emit()
        if page:
            self._derive()

    # Deriving

    def _derive(self) -> None:
        """Work out ink, then regions, for the present inks."""
        derived, sources = self._derived, self.sources()
        assert derived is not None
        assert sources is not None
        inks = sources.inks

        def ink(report: Report) -> PageView:
            report(0.02, "Reading the drawing")
            gray = plane_pyramid(derived.gray())
            report(0.3, "Removing the paper")
            evened = plane_pyramid(derived.evened(inks))
            report(0.6, "Looking for specks")
            return PageView(inks, gray, evened, plane_pyramid(derived.ink(inks)), derived.pieces(inks))

        self.work.start("ink", ink, self._on_ink)

    def _on_ink(self, view: PageView) -> None:
        old = self.view
        if old is not None:
            view = replace(
                view, atoms=old.atoms, facts=old.facts, labels=old.labels, line_labels=old.line_labels,
                partition=old.partition, loud=old.loud, tables=old.tables, gap_px=old.gap_px,
            )  # fmt: skip
        assert self.book is not None
        self.view = replace(view, shade=self.book.plane(f"page/{self.page}/shade"))
        self.repaint.emit(None)
        self.refreshed.emit()
        derived, sources = self._derived, self.sources()
        assert derived is not None
        assert sources is not None

        def regions(report: Report) -> tuple[Any, ...]:
            def part(fraction: float, doing: str) -> None:
                report(0.9 * fraction, doing)

            report(0.01, "Finding the regions")
            carried = derived.carried(sources, part) if sources.cut != sources.inks else None
            atoms = derived.atoms(sources.inks, part)
            facts = derived.facts(sources.inks)
            report(0.95, "Finding the regions")
            return sources.inks, atoms, facts, label_pyramid(atoms.labels), carried

        self.work.start("regions", regions, self._on_regions)

    def _on_regions(self, found: tuple[Any, ...]) -> None:
        inks, atoms, facts, labels, carried = found
        assert self.view is not None
        assert self.book is not None
        self.view = replace(
            self.view,
            atoms=atoms,
            facts=facts,
            labels=labels,
            line_labels=None,
            tables=None,
            traps=None,
            trap_levels=None,
        )
        self._partition()
        if carried is not None and self.book.sources(self.page).inks == inks:
            self.do(lambda book, page: verbs.recut(book, page, carried))
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
        gap = auto_gap(atoms.bridges, atoms.line_px) if gap is None else gap
        part = decide(
            view.facts.areas, atoms.bridges, atoms.edges, gap_px=gap, least_px=least_region_px(atoms.line_px),
            choices=[BridgeChoice(r, c, k) for r, c, k in sources.choices],
        )  # fmt: skip
        pairs = part.region[view.facts.borders.pairs]
        self._loud = loud_colors(np.unique(part.region[1:]), pairs, self._loud)
        loud: I64 = np.array([0, *(self._loud[r] for r in part.region[1:].tolist())], np.int64)
        self.view = replace(view, partition=part, loud=loud, gap_px=gap)

    def try_gap(self, gap_px: float) -> None:
        """Show a gap width while its slider moves."""
        self._partition(gap_px)
        self.repaint.emit(None)
        self.refreshed.emit()

    def _retable(self) -> None:
        view, sources = self.view, self.sources()
        if view is None or view.atoms is None or self.book is None or sources is None:
            return
        if sources.cut != sources.inks or self.work.busy("regions") or self.work.busy("ink"):
            return
        self.view = replace(view, tables=build_tables(self.book, sources, view.atoms.count))

    def _derive_later(self) -> None:
        """Coloured line, findings and plates, once things have settled."""
        view, sources, derived = self.view, self.sources(), self._derived
        if view is None or view.tables is None or view.atoms is None or sources is None or derived is None:
            return
        if sources.cut != sources.inks or self.work.busy("regions") or self.work.busy("ink") or self.book is None:
            return
        tables = view.tables
        if view.labels is not None and tables.held.any():
            held = tables.held
            if self._line_for == (sources.inks, held.tobytes()) and view.line_labels is not None:
                self._derive_more(sources, derived)
                return
            self._line_for = sources.inks, held.tobytes()
            self.work.start("line", lambda _: label_pyramid(derived.line_atoms(sources, held)), self._on_line)
        elif view.line_labels is not None:
            self._on_line(None)
        self._derive_more(sources, derived)

    def _derive_more(self, sources: PageSources, derived: Derived) -> None:
        assert self.book is not None
        assert self.view is not None
        assert self.view.tables is not None
        assert self.view.atoms is not None
        tables, atoms = self.view.tables, self.view.atoms
        frozen = Book(None, self.book.snapshot())
        if len(tables.is_poured) == atoms.count + 1:
            self.work.start("findings", lambda _: find(frozen, sources, derived, tables), self._on_findings)
        if self.stage == "Press":
            self._derive_press(sources, derived)

    def _derive_press(self, sources: PageSources, derived: Derived) -> None:
        assert self.view is not None
        assert self.view.tables is not None
        tables, version = self.view.tables, self.shade_version
        shade = np.array(self.view.shade)

        def press(report: Report) -> tuple[Any, ...]:
            report(0.05, "Trapping")
            line = derived.line_atoms(sources, tables.held)
            traps = derived.traps(sources, shade, version, line, tables.plates, sources.press.trap_mm)
            levels = label_pyramid(traps.spread)  # type: ignore[arg-type]
            report(0.3, "Register test")
            told = derived.register(sources, shade, line, tables.plates, traps, lambda f, t: report(0.3 + 0.7 * f, t))
            return traps, levels, told

        self.work.start("press", press, self._on_press)

    def _on_line(self, levels: Any) -> None:
        if self.view is not None:
            self.view = replace(self.view, line_labels=levels)
            self.repaint.emit(None)

    def _on_findings(self, findings: dict[str, list[Finding]]) -> None:
        self.findings = findings
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
        if "inks" in mine:
            self._derive()
        if "flats" in mine or any(key.startswith("bridge/") for key in mine):
            self._partition()
            self.repaint.emit(None)
        poured = [int(key[5:]) for key in mine if key.startswith("pour/")]
        if shared or poured or mine & {"lines", "press", "cut"} or any(key.startswith("hold/") for key in mine):
            self._retable()
            everything = shared or len(poured) != len(mine) or len(poured) > 200
            self.repaint.emit(None if everything else self.boxes(poured))
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
        """Keep new ink settings."""
        if self.do(lambda book, page: verbs.set_inks(book, page, inks, title)) and self.view is not None:
            self.view = replace(self.view, preview=inks)

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
        return int(text) if text is not None else None

    def boxes(self, atoms: list[int]) -> list[Rect]:
        """Return where atoms lie on the page."""
        if self.view is None or self.view.facts is None:
            return []
        rows = self.view.facts.boxes[[a for a in atoms if a < len(self.view.facts.boxes)]]
        return [(int(a), int(b), int(c), int(d)) for a, b, c, d in rows]

    def preview_pour(self, atoms: list[int]) -> None:
        """Show atoms in the pot in hand before the gesture is finished."""
        if self.book is not None:
            pot = self.book.pots().get(self.pot or 0)
            self._preview(atoms, self.book.tone_pair(pot) if pot is not None else ("#ffffff", "#ffffff"))

    def preview_pot(self, number: int, local: str) -> None:
        """Show a pot in another colour while it is being mixed."""
        if self.book is not None:
            pot = msgspec.structs.replace(self.book.pots()[number], local=local)
            self._preview(self.atoms_of_pot(number), self.book.tone_pair(pot))

    def _preview(self, atoms: list[int], pair: tuple[str, str]) -> None:
        if self.view is None or self.view.tables is None:
            return
        tables = self.view.tables
        flat = tables.screen.flat.copy()
        for offset, text in ((0, pair[0]), (len(flat) // 2, pair[1])):
            flat[[a + offset for a in atoms]] = np.frombuffer(bytes.fromhex(text[1:] + "ff"), np.uint32)[0]
        self.view = replace(self.view, tables=replace(tables, screen=replace(tables.screen, flat=flat)))
        self.repaint.emit(self.boxes(atoms))

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
        if not atoms or self.view is None or self.view.partition is None or self._still_finding():
            return
        count = len({int(self.view.partition.region[a]) for a in atoms})
        if not self.do(lambda book, page: verbs.pour(book, page, atoms, self.pot, count)):
            self.drop_preview()

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

    def leave(self, finding: Finding) -> None:
        """Take a finding off the list."""
        self.do(lambda book, page: verbs.leave(book, page, finding.key))
