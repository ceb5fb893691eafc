"""The window: the bars, the canvas and the panels put together, keys, menus, looks. Knows all of the desk."""

import itertools
import subprocess
import sys
from collections.abc import Callable
from functools import partial
from pathlib import Path

from PyQt6.QtCore import QBuffer, QByteArray, QIODevice, QPoint, QSettings, Qt
from PyQt6.QtGui import QAction, QCloseEvent, QKeySequence, QResizeEvent
from PyQt6.QtWidgets import (
    QApplication,
    QFileDialog,
    QHBoxLayout,
    QMainWindow,
    QMenu,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from drip_pot.book import ROLES, Book, Role, pots, verbs
from drip_pot.book.finding import Finding
from drip_pot.book.look_here import STAGES
from drip_pot.core.arrays import Report
from drip_pot.core.errors import DripPotError
from drip_pot.core.inks import find_skew
from drip_pot.desk import theme
from drip_pot.desk.bars import Chips, Progress, StatusLine, Strip, ToolBar, TopBar
from drip_pot.desk.canvas import Canvas
from drip_pot.desk.dialogs import (
    ExportDialog,
    FindPot,
    History,
    Keys,
    PotEditor,
    RemovePart,
    RemovePot,
    ask_name,
    ask_replace,
    pick_color,
)
from drip_pot.desk.easel import TOOLS, Easel
from drip_pot.desk.flat_panel import FlatsPanel
from drip_pot.desk.flatting import WIDTHS
from drip_pot.desk.look_here import LookHere
from drip_pot.desk.overview import Overview
from drip_pot.desk.page_dialogs import PageDialog, PicturesDialog, ScannerWindow, ask_dpi
from drip_pot.desk.palette_dialog import PaletteDialog
from drip_pot.desk.panels import HoldsPanel, InksPanel, Panel, PressPanel, ShadePanel, count_text, counted
from drip_pot.desk.shelf import Shelf, pots_by_part
from drip_pot.desk.tools import TOOL_CLASSES
from drip_pot.desk.view import Look, plates_at
from drip_pot.desk.widgets import Block, button, label
from drip_pot.desk.work import Work
from drip_pot.files import (
    IMAGE_SUFFIXES,
    book_palette,
    derive,
    export_page,
    export_targets,
    pictures_in,
    read_file,
    without_dpi,
    write_palette,
)

_DRAWINGS = " ".join(f"*{suffix}" for suffix in IMAGE_SUFFIXES)
_FILES = f"Drawings and books (*.drip {_DRAWINGS})"
_PANELS: dict[str, type[Panel]] = {
    "Inks": InksPanel, "Flats": FlatsPanel, "Shade": ShadePanel, "Holds": HoldsPanel, "Press": PressPanel,
}  # fmt: skip
_TRY = (
    "Try this: press 1 to 9 for a pot of this part, click a region or drag across several. "
    "[ and ] go to other parts. Hold Q to see the line alone. Alt+1 to Alt+5 go through the stages."
)


class Window(QMainWindow):
    """One window on one book."""

    def __init__(self, settings: QSettings | None = None) -> None:
        super().__init__()
        self.setWindowTitle("Drip Pot")
        self.settings = settings or QSettings("drip-pot", "drip-pot")
        self.easel = Easel(self)
        self.lines, self.loud, self.tone, self.values = True, False, True, False
        self.scan, self.specks, self.bridges, self.trap, self.losses = False, True, False, False, True
        self.lettering = self.outline = self.whole = self.leftovers = False
        self.names = True
        self.easel.ask_dpi = partial(ask_dpi, self)
        self._tried = False
        self._errand_text = ""
        self._offered = (False, False)
        self.errands = Work(self, threads=2)
        self.errands.progress.connect(self._errand)
        self._exports = itertools.count(1)
        self._keys: dict[str, list[tuple[str, str]]] = {}
        self._build()
        self._bind_keys()
        self._connect()
        self.resize(1280, 800)
        geometry = self.settings.value("geometry")
        if isinstance(geometry, QByteArray):
            self.restoreGeometry(geometry)
        self.refresh_look()
        self.canvas.setFocus()

    # Building

    def _build(self) -> None:
        self.topbar = TopBar(
            self.easel,
            {
                "undo": self.undo, "redo": self.redo, "bench": self.switch_bench,
                "history": self.show_history, "export": self.export,
            },
        )  # fmt: skip
        self.canvas = Canvas(self.easel)
        self.toolbar = ToolBar(self.easel)
        self.shelf = Shelf(self.easel)
        self.status = StatusLine()
        self.chips = Chips(self.canvas)
        self.strip = Strip(self.canvas)
        self.overview = Overview(self.canvas)
        self.progress = Progress(self.canvas, self.easel.work, ("press", "open"))
        self.exporting = Progress(self.canvas, self.errands, ("export",), shown=("export",), top=64)
        self.look_here = LookHere(self.easel)
        self.panels: dict[str, Panel] = {stage: kind(self.easel) for stage, kind in _PANELS.items()}
        self.inspector = self._inspector()
        middle = QHBoxLayout()
        middle.setSpacing(0)
        for part in (self.toolbar, self.canvas, self.inspector):
            middle.addWidget(part, 1 if part is self.canvas else 0)
        whole = QWidget()
        column = QVBoxLayout(whole)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self.topbar)
        column.addLayout(middle, 1)
        column.addWidget(self.shelf)
        column.addWidget(self.status)
        self.setCentralWidget(whole)
        self.setMinimumSize(1100, 640)

    def _inspector(self) -> QWidget:
        holder = QWidget()
        holder.setObjectName("inspector")
        holder.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        holder.setFixedWidth(296)
        inside = QWidget()
        inside.setObjectName("blocks")
        self._blocks = QVBoxLayout(inside)
        self._blocks.setContentsMargins(16, 12, 16, 12)
        self._blocks.setSpacing(12)
        for panel in self.panels.values():
            column = QVBoxLayout(panel)
            column.setContentsMargins(0, 0, 0, 0)
            column.setSpacing(12)
            for block in panel.blocks:
                column.addWidget(block)
            self._blocks.addWidget(panel)
        self.nothing = Block("No page yet", ruled=False)
        self.nothing.row(button("Open", self.open_file, "Open a drawing or a book (Ctrl+O)", strong=True),
                         button("New book", self.new_book, "Make an empty book (Ctrl+N)"))  # fmt: skip
        words = label("A drawing is kept in a book beside it; the drawing itself is never changed.", "muted")
        words.setWordWrap(True)
        self.nothing.add(words)
        self._blocks.addWidget(self.nothing)
        self._blocks.addWidget(self.look_here)
        self._blocks.addStretch(1)
        scroll = QScrollArea()
        scroll.setWidget(inside)
        scroll.setWidgetResizable(True)
        scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        scroll.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        column = QVBoxLayout(holder)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(scroll)
        return holder

    def _connect(self) -> None:
        e = self.easel
        e.chosen.connect(self.refresh_look)
        e.refreshed.connect(self._refresh_panel)
        e.edited.connect(self._refresh_panel)
        e.opened.connect(self._on_opened)
        e.said.connect(self.strip.say)
        for work in (e.work, e.looking, self.errands):
            work.problem.connect(self._on_problem)
        self.canvas.moved.connect(self._on_moved)
        self.canvas.zoomed.connect(lambda: self._on_moved(*self._last))
        self.canvas.dropped.connect(self._on_dropped)
        self.topbar.menu_wanted.connect(self._book_menu)
        self.shelf.pots.edit_wanted.connect(self.edit_pot)
        self.shelf.pots.name_wanted.connect(self.name_part)
        self.shelf.pots.menu_wanted.connect(lambda at, pot, part: self.fill_pot_menu(QMenu(self), pot, part).popup(at))
        self.shelf.in_hand.more_wanted.connect(self._more_menu)
        self.shelf.in_hand.edit_wanted.connect(self.edit_pot)
        self.shelf.in_hand.add_wanted.connect(lambda: self.edit_pot(None))
        self.shelf.in_hand.page_wanted.connect(self.set_page)
        self.shelf.in_hand.sheet_wanted.connect(lambda at: self.sheet_menu(at.mapToGlobal(at.rect().topLeft())))
        self.shelf.cards.menu_wanted.connect(self.sheet_menu)
        self.shelf.cards.name_wanted.connect(self.name_sheet)
        self.shelf.cards.plates_changed.connect(lambda _: self.refresh_look())
        self.look_here.shown.connect(self._on_shown)
        self.strip.closed.connect(lambda: self.settings.setValue("tried", True))
        self._last = (-1.0, -1.0)

    def _bind_keys(self) -> None:
        def bind(
            group: str, key: str, text: str, done: Callable[[], object], *, shown: str = "",
            within: tuple[QWidget, ...] = (),
        ) -> None:  # fmt: skip
            action = QAction(text, self)
            action.setShortcut(QKeySequence(key))
            action.triggered.connect(lambda: done())
            if within:  # elsewhere the key belongs to what has the focus
                action.setShortcutContext(Qt.ShortcutContext.WidgetWithChildrenShortcut)
            for widget in within or (self,):
                widget.addAction(action)
            if text:
                self._keys.setdefault(group, []).append((shown or key, text))

        for place, stage in enumerate(STAGES, 1):
            bind("Stages", f"Alt+{place}", stage, partial(self.easel.choose_stage, stage))
        seen: dict[str, list[str]] = {}
        for name, kind in TOOL_CLASSES.items():
            seen.setdefault(kind.key, []).append(name)
        for key, names in seen.items():
            bind("Tools", key, " or ".join(names), partial(self._take_up, tuple(names)))
        e = self.easel
        bind("Book", "Ctrl+O", "Open a drawing or a book", self.open_file)
        bind("Book", "Ctrl+N", "New book", self.new_book)
        bind("Book", "Ctrl+Shift+O", "Add a page", self.add_page)
        bind("Book", "Ctrl+V", "Paste a drawing as a page", self.paste)
        bind("Book", "Ctrl+Shift+V", "Paste it as a sheet", lambda: self.paste(sheet=True))
        bind("Book", "Ctrl+I", "Scan a drawing", self.show_scanner)
        bind("Book", "Ctrl+Shift+P", "Size and edges of the page", self.set_page)
        bind("Book", "Ctrl+P", "Pages", lambda: self._book_menu(self.topbar.title))
        bind("Book", "Ctrl+E", "Export", self.export)
        bind("Book", "Ctrl+Z", "Undo", self.undo)
        bind("Book", "Ctrl+Shift+Z", "Redo", self.redo)
        bind("Book", "Ctrl+H", "History", self.show_history)
        bind("Seeing", "Ctrl+0", "Whole page", self.canvas.fit)
        bind("Seeing", "Ctrl+1", "100 %", lambda: self.canvas.set_zoom(1.0))
        bind("Seeing", "+", "Nearer", lambda: self.canvas.set_zoom(self.canvas.zoom * 1.4))
        bind("Seeing", "=", "", lambda: self.canvas.set_zoom(self.canvas.zoom * 1.4))
        bind("Seeing", "-", "Further", lambda: self.canvas.set_zoom(self.canvas.zoom / 1.4))
        bind("Seeing", "I", "Line on or off", lambda: self._flip("lines"))
        bind("Seeing", "U", "Loud or local colours", lambda: self._flip("loud"))
        bind("Seeing", "V", "Values in grey", lambda: self._flip("values"))
        bind("Seeing", "J", "Leftovers striped", lambda: self._flip("leftovers"))
        bind("Seeing", "W", "Wipe between before and now", self._toggle_wipe)
        bind("Seeing", "Ctrl+Right", "Turn the view", lambda: self._turn(15))
        bind("Seeing", "Ctrl+Left", "", lambda: self._turn(-15))
        bind("Seeing", "Ctrl+Up", "Upright again", lambda: self.canvas.set_turn(0, mirrored=False))
        bind("Seeing", "Y", "Mirror the view", self._mirror)
        bind("Seeing", "Ctrl+2", "Whole page in a corner", lambda: self._flip("whole"))
        self._keys["Seeing"] += [("hold Q", "Peek without"), ("hold Space", "Move the page")]
        bind("Seeing", "F11", "Panels away or back", self.toggle_panels)
        bind("Seeing", "D", "Light or dim bench", self.switch_bench)
        for number in range(1, 10):
            text = "Pot of the part in hand" if number == 1 else ""
            bind("Pots", str(number), text, partial(self._pot_key, number), shown="1 to 9")
        bind("Pots", "Ctrl+F", "Find a pot", self.find_pot)
        bind("Pots", "Ctrl+Shift+C", "Colours from a picture", self.show_palette)
        bind("Pots", "0", "Paper", lambda: e.choose_pot(None))
        bind("Pots", "]", "Next part, wider pen", lambda: self._step(1))
        bind("Pots", "[", "Part before, finer pen", lambda: self._step(-1))
        bind("Inks", "Shift+Right", "Next sheet", lambda: self._step_sheet(1))
        bind("Inks", "Shift+Left", "Sheet before", lambda: self._step_sheet(-1))
        bind("Inks", "Shift+H", "Hide or show the sheet in hand", self._hide_sheet)
        bind("Inks", "Delete", "Remove effect lines in hand", self._delete)
        here, list_ = (self.canvas, self.look_here), self.look_here
        bind("Look here", "N", "Next finding", list_.next)
        bind("Look here", "Return", "Do its verb", list_.mend, shown="Enter", within=here)
        bind("Look here", "Enter", "", list_.mend, within=here)
        bind("Look here", "Shift+Return", "Do it to all of the kind", list_.mend_all, shown="Shift+Enter", within=here)
        bind("Look here", "Backspace", "Leave it", list_.leave, within=here)
        bind("Look here", "F1", "These keys", self.show_keys)
        bind("Look here", "?", "", self.show_keys)

    # What is seen

    def refresh_look(self) -> None:
        """Choose looks and chips for the stage."""
        stage = self.easel.stage
        line = Look(kind="line")
        if stage == "Inks":
            look, before = Look(kind="scan") if self.scan else Look(kind="line", losses=self.losses), Look(kind="scan")
        elif stage == "Flats":
            look = Look(
                lines=self.lines, loud=self.loud, tone=False, lettering=self.lettering, outline=self.outline,
                values=self.values, leftovers=self.leftovers,
            )  # fmt: skip
            before = line
        elif stage == "Shade":
            look = Look(lines=self.lines, tone=self.tone, values=self.values)
            before = Look(lines=self.lines, tone=False, values=self.values)
        elif stage == "Holds":
            look, before = Look(lines=True, tone=self.tone), Look(tone=self.tone, held=False)
        else:
            look, before = Look(kind="press", plates=self.shelf.cards.plates, trap=self.trap), Look()
        self.canvas.show_specks = stage == "Inks" and self.specks
        self.canvas.show_bridges = stage == "Flats" and (self.bridges or self.easel.tool == "Bridge")
        self.easel.want_regions(loud=look.loud, outlines=look.outline)
        self.canvas.show_names = self.names
        self.overview.setVisible(self.whole and self.easel.view is not None)
        self.canvas.set_looks(look, before)
        self._fill_chips(stage)
        self._refresh_panel()
        self._hint()

    def _fill_chips(self, stage: str) -> None:
        def chip(name: str, field: str, tip: str) -> tuple[str, bool, str, Callable[[], object]]:
            return name, bool(getattr(self, field)), tip, lambda: self._flip(field)

        local = ("Local", not self.loud, "The real colours (U)", lambda: self._set("loud", False))
        loud = ("Loud", self.loud, "Working colours that merely differ (U)", lambda: self._set("loud", True))
        chips = {
            "Inks": [
                ("Line", not self.scan, "The line as it will be", lambda: self._set("scan", False)),
                ("Scan", self.scan, "The original", lambda: self._set("scan", True)),
                chip("Specks", "specks", "Ring the specks that are removed"),
                *([chip("Losses", "losses", "Line that two levels lose")] if self._two_level() else []),
            ],
            "Flats": [
                chip("Lines", "lines", "The line over the colour (I)"), local, loud,
                chip("Bridges", "bridges", "Bridges drawn in black, open gaps in vermilion"),
                chip("Outlines", "outline", "Where regions meet, without line or colour"),
                chip("Leftovers", "leftovers", "What nobody poured, striped in vermilion (J)"),
                chip("Values", "values", "Lightness alone, in grey (V)"),
                chip("Names", "names", "The pot under the pointer"),
                *([chip("Lettering", "lettering", "Balloons and letters")] if self._has_lettering() else []),
            ],
            "Shade": [
                chip("Lines", "lines", "The line over the colour (I)"),
                chip("Tone", "tone", "Shadow as well as local colour"),
                chip("Values", "values", "Lightness alone, in grey (V)"),
            ],
            "Holds": [chip("Tone", "tone", "Shadow as well as local colour")],
            "Press": [chip("Traps", "trap", "Where the lighter colour spreads, in black")],
        }[stage]  # fmt: skip
        wipe = ("Wipe", self.canvas.wipe is not None, "Before and now, with a divider (W)",
                lambda: self._toggle_wipe())  # fmt: skip
        self.chips.fill([*chips, wipe])
        self.chips.move(12, 12)

    def _two_level(self) -> bool:
        sources = self.easel.sources()
        inks = None if sources is None else sources.inks.get(self.easel.sheet)
        return inks is not None and inks.settings.threshold is not None

    def _has_lettering(self) -> bool:
        sources = self.easel.sources()
        return sources is not None and bool(sources.over.lettering)

    def _toggle_wipe(self) -> None:
        if self.canvas.earlier is not None:
            self.canvas.compare_with(None)
        else:
            self.canvas.set_wipe(self.canvas.wipe is None)
        self.refresh_look()

    def _flip(self, field: str) -> None:
        self._set(field, not getattr(self, field))

    def _set(self, field: str, value: bool) -> None:
        setattr(self, field, value)
        self.refresh_look()

    def _refresh_panel(self) -> None:
        self.setWindowTitle(self.easel.book.info.title if self.easel.book is not None else "Drip Pot")
        there = bool(self.easel.page)
        for stage, panel in self.panels.items():
            panel.setVisible(there and stage == self.easel.stage)
        for part in (self.look_here, self.chips, self.shelf.in_hand):
            part.setVisible(there)
        self.nothing.setVisible(not there)
        offered = (self._two_level(), self._has_lettering())
        if offered != self._offered:
            self._offered = offered
            self._fill_chips(self.easel.stage)
        if there:
            self.panels[self.easel.stage].refresh()

    def toggle_panels(self) -> None:
        """Give the canvas the whole window, or put the panels back."""
        away = self.inspector.isVisible()
        for part in (self.topbar, self.toolbar, self.inspector, self.shelf, self.status):
            part.setVisible(not away)

    def switch_bench(self) -> None:
        """Change between the light and the dim bench."""
        chosen = theme.DIM if theme.bench() is theme.LIGHT else theme.LIGHT
        self.settings.setValue("bench", chosen.name)
        app = QApplication.instance()
        assert isinstance(app, QApplication)
        theme.apply(app, chosen)
        self.topbar.refresh()
        self.refresh_look()
        for part in self.findChildren(QWidget):
            part.update()

    def undo(self) -> None:
        """Give up what the pointer is doing, or take back the last gesture."""
        if not self.canvas.cancel_gesture():
            self.easel.undo()

    def redo(self) -> None:
        """Do the last undone gesture again."""
        self.canvas.cancel_gesture()
        self.easel.redo()

    def _turn(self, by_deg: float) -> None:
        self.canvas.set_turn(self.canvas.turn_deg + by_deg, mirrored=self.canvas.mirrored)

    def _mirror(self) -> None:
        self.canvas.set_turn(-self.canvas.turn_deg, mirrored=not self.canvas.mirrored)

    def compare_with(self, position: int) -> None:
        """Wipe between the page as it was after so many steps and as it is."""
        view = self.easel.view_at(position)
        if view is not None:
            self.canvas.compare_with(view)
            self.refresh_look()
            self.strip.say("Left of the divider is the page as it was then. W ends it; hold Q to see all of it.")

    # Pots and tools

    def _take_up(self, names: tuple[str, ...]) -> None:
        for name in names:
            if name in TOOLS[self.easel.stage]:
                self.easel.choose_tool(name)

    def _pot_key(self, number: int) -> None:
        groups = pots_by_part(self.easel.book)
        members = next((m for m in groups.values() if self.easel.pot in m), next(iter(groups.values()), []))
        if number <= len(members):
            self.easel.choose_pot(members[number - 1])

    def _step(self, step: int) -> None:
        """Another part, or in Inks a wider or finer pen, or in Flats a wider or finer sweep."""
        if self.easel.stage == "Inks":
            wide = self.easel.pen_px * (1.25 if step > 0 else 0.8)
            self.easel.pen_px = min(max(round(wide * 2) / 2, 0.5), 120.0)
            self._refresh_panel()
        elif self.easel.stage == "Flats" and self.easel.tool in WIDTHS:
            low, high = WIDTHS[self.easel.tool]
            wide = self.easel.flats.widths[self.easel.tool] * (1.25 if step > 0 else 0.8)
            self.easel.flats.widths[self.easel.tool] = float(min(max(round(wide), low), high))
            self.strip.say(f"{self.easel.tool} {self.easel.flats.widths[self.easel.tool]:g} px wide")
            self._refresh_panel()
        else:
            self._step_part(step)

    def _step_sheet(self, step: int) -> None:
        sources = self.easel.sources()
        if self.easel.stage == "Inks" and sources is not None:
            order = list(sources.sheets)
            self.easel.choose_sheet(order[(order.index(self.easel.sheet) + step) % len(order)])

    def _hide_sheet(self) -> None:
        sources, number = self.easel.sources(), self.easel.sheet
        if self.easel.stage == "Inks" and sources is not None:
            shown = not sources.sheets[number].shown
            self.easel.do(lambda book, page: verbs.set_sheet(book, page, number, shown=shown))

    def _delete(self) -> None:
        if self.easel.stage == "Inks" and self.easel.effect is not None:
            self.easel.set_effect(None, self.easel.effect)

    def _step_part(self, step: int) -> None:
        groups = [m for m in pots_by_part(self.easel.book).values() if m]
        if groups:
            place = next((i for i, m in enumerate(groups) if self.easel.pot in m), -step)
            self.easel.choose_pot(groups[(place + step) % len(groups)][0])

    def edit_pot(self, number: int | None) -> None:
        """Ask for a pot's name and colours; None makes a new pot."""
        book, sources = self.easel.book, self.easel.sources()
        if book is None or sources is None:
            return
        known = book.pots()
        part = known[self.easel.pot].part if self.easel.pot in known else next(iter(book.parts()), 0)
        around = self.easel.flats.neighbors(number) if number is not None else ()
        editor = PotEditor(self, book, number, part, sources.press, around)
        if number is not None:
            editor.editor.changed.connect(lambda color: self.easel.preview_pot(number, color))
        corner = self.inspector.mapToGlobal(self.inspector.rect().bottomLeft())
        editor.adjustSize()
        editor.move(corner.x() - editor.width() - 12, corner.y() - editor.height() - 12)
        try:
            if editor.exec() and editor.number in book.pots():
                self.easel.choose_pot(editor.number)
            else:
                self.easel.drop_preview()
        except DripPotError as error:
            self.strip.say(str(error), True)

    def _more_menu(self, at: QWidget) -> None:
        known = self.easel.book.pots() if self.easel.book is not None else {}
        part = known[self.easel.pot].part if self.easel.pot in known and self.easel.pot is not None else 0
        menu = self.fill_pot_menu(QMenu(self), self.easel.pot or 0, part)
        menu.popup(at.mapToGlobal(QPoint(0, -menu.sizeHint().height())))

    def fill_pot_menu(self, menu: QMenu, pot: int, part: int) -> QMenu:
        """Fill a menu with what can be done with a pot and a part (0 for none); return it."""
        book = self.easel.book
        if book is None:
            return menu
        if pot in book.pots():
            menu.addAction(f"Edit {book.pots()[pot].name}", lambda: self.edit_pot(pot))
            menu.addAction("Pick its regions", lambda: self._pick_pot(pot))
            menu.addAction("Remove it, or merge it into another", lambda: self.remove_pot(pot))
            menu.addSeparator()
        if part in book.parts():
            name = book.parts()[part].name
            menu.addAction(f"Name the part {name}", lambda: self.name_part(part))
            menu.addAction(f"Fold {name}, or open it", lambda: self.shelf.pots.fold(part))
            menu.addAction(f"Move {name} left", lambda: self.easel.do(lambda b, _: pots.move_part(b, part, -1)))
            menu.addAction(f"Move {name} right", lambda: self.easel.do(lambda b, _: pots.move_part(b, part, 1)))
            menu.addAction(f"Remove the part {name}", lambda: self.remove_part(part))
            menu.addSeparator()
        menu.addAction("Add a part", self.add_part)
        menu.addAction("Find a pot", self.find_pot)
        menu.addAction("Colours from a picture or a palette", self.show_palette)
        menu.addAction("Write all pots as a palette", self.write_palette)
        return menu

    def _pick_pot(self, pot: int) -> None:
        self.easel.choose_stage("Flats")
        self.easel.choose_tool("Pick")
        self.easel.flats.pick(set(self.easel.atoms_of_pot(pot)))

    def remove_pot(self, number: int) -> None:
        """Ask what a pot's regions become, and remove it."""
        if self.easel.book is not None:
            asking = RemovePot(self, self.easel.book, number)
            if asking.exec():
                self.easel.do(lambda book, _: pots.remove_pot(book, number, asking.into()))

    def remove_part(self, number: int) -> None:
        """Ask where a part's pots go, and remove it."""
        if self.easel.book is not None:
            asking = RemovePart(self, self.easel.book, number)
            if asking.exec():
                self.easel.do(lambda book, _: pots.remove_part(book, number, asking.into()))

    def add_part(self) -> None:
        """Ask for a name and add a part."""
        name = ask_name(self, "Name of the part", "") if self.easel.book is not None else None
        if name:
            self.easel.do(lambda book, _: verbs.add_part(book, name))

    def find_pot(self) -> None:
        """Find a pot by typing and take it in hand."""
        if self.easel.book is not None:
            asking = FindPot(self, self.easel.book)
            if asking.exec() and asking.chosen() is not None:
                self.easel.choose_pot(asking.chosen())

    def show_palette(self) -> None:
        """Collect colours from pictures and palettes and add them as pots."""
        book = self.easel.book
        if book is None:
            return
        pot = book.pots().get(self.easel.pot or 0)
        asking = PaletteDialog(self, book, pot.local if pot is not None else None)
        if asking.exec() and asking.made:
            self.easel.choose_pot(asking.made[0])

    def write_palette(self) -> None:
        """Ask where, and write all pots of the book as a palette."""
        if self.easel.book is None:
            return
        place = str(Path.home() / "pots.json")
        found, _ = QFileDialog.getSaveFileName(self, "Palette", place, "Palettes (*.txt *.csv *.json)")
        if found:
            try:
                write_palette(Path(found), book_palette(self.easel.book))
                self.strip.say(f"Wrote {Path(found).name}")
            except DripPotError as error:
                self.strip.say(str(error), True)

    # Book

    def _book_menu(self, at: QWidget) -> None:
        menu = QMenu(self)
        book = self.easel.book
        if book is not None:
            for place, (number, page) in enumerate(book.pages().items(), 1):
                entry = QAction(f"{place}   {page.name}", menu)
                entry.setCheckable(True)
                entry.setChecked(number == self.easel.page)
                entry.triggered.connect(lambda _, n=number: self.easel.show_page(n))
                menu.addAction(entry)
            menu.addSeparator()
            menu.addAction("Add a page", self.add_page)
            menu.addAction("Scan a drawing", self.show_scanner)
            menu.addAction("Size and edges of this page", self.set_page)
            menu.addAction("Name this page", self.name_page)
            menu.addAction("Name the book", self.name_book)
            menu.addSeparator()
        menu.addAction("Open a drawing or a book", self.open_file)
        menu.addAction("New book", self.new_book)
        menu.addAction("Keys", self.show_keys)
        menu.popup(at.mapToGlobal(at.rect().bottomLeft()))

    def name_book(self) -> None:
        """Ask for the book's title."""
        if self.easel.book is not None:
            name = ask_name(self, "Name of the book", self.easel.book.info.title)
            if name:
                self.easel.do(lambda book, _: verbs.name_book(book, name))

    def name_page(self) -> None:
        """Ask for the name of the page that is shown."""
        sources = self.easel.sources()
        if sources is not None:
            name = ask_name(self, "Name of the page", sources.page.name)
            if name:
                self.easel.do(lambda book, page: verbs.name_page(book, page, name))

    def name_part(self, part: int) -> None:
        """Ask for the name of a part."""
        if self.easel.book is not None:
            name = ask_name(self, "Name of the part", self.easel.book.parts()[part].name)
            if name:
                self.easel.do(lambda book, _: verbs.rename_part(book, part, name))

    def name_sheet(self) -> None:
        """Ask for the name of the sheet in hand."""
        sources, number = self.easel.sources(), self.easel.sheet
        if sources is not None:
            name = ask_name(self, "Name of the sheet", sources.sheets[number].name)
            if name:
                self.easel.do(lambda book, page: verbs.set_sheet(book, page, number, name=name))

    def sheet_menu(self, at: QPoint) -> None:
        """Show what can be done with the sheet in hand."""
        self.fill_sheet_menu(QMenu(self)).popup(at)

    def fill_sheet_menu(self, menu: QMenu) -> QMenu:
        """Fill a menu with what can be done with the sheet in hand; return it."""
        sources, number = self.easel.sources(), self.easel.sheet
        if sources is None:
            return menu
        sheet = sources.sheets[number]

        def do(text: str, verb: Callable[[Book, int], object], *, on: bool | None = None) -> None:
            entry = QAction(text, menu)
            if on is not None:
                entry.setCheckable(True)
                entry.setChecked(on)
            entry.triggered.connect(lambda: self.easel.do(verb))
            menu.addAction(entry)

        def becomes(role: Role) -> Callable[[Book, int], None]:
            return lambda book, page: verbs.set_sheet(book, page, number, role=role)

        for role, means in ROLES.items():
            do(f"{role.capitalize()}: {means}", becomes(role), on=role == sheet.role)
        menu.addSeparator()
        menu.addAction("Name the sheet", self.name_sheet)
        if sheet.role == "effect":
            menu.addAction("Colour of the effect", self._color_sheet)
        do("Hide" if sheet.shown else "Show", lambda b, p: verbs.set_sheet(b, p, number, shown=not sheet.shown))
        do("Move left", lambda b, p: verbs.move_sheet(b, p, number, -1))
        do("Move right", lambda b, p: verbs.move_sheet(b, p, number, 1))
        menu.addSeparator()
        menu.addAction("Re-ink: replace with a corrected drawing", self.reink)
        menu.addAction("Add a sheet", self.add_sheet)
        if number:
            do("Take the sheet off", lambda b, p: verbs.remove_sheet(b, p, number))
        return menu

    def _color_sheet(self) -> None:
        sources, number = self.easel.sources(), self.easel.sheet
        if sources is not None:
            chosen = pick_color(self, "Effect", sources.sheets[number].color, sources.press)
            if chosen is not None:
                self.easel.do(lambda book, page: verbs.set_sheet(book, page, number, color=chosen))

    def set_page(self) -> None:
        """Ask for size, resolution, trim, bleed, edges and a turn."""
        sources, view = self.easel.sources(), self.easel.view
        if sources is None:
            return
        asking = PageDialog(self, sources.page, find_skew(view.ink[0]) if view is not None else None)
        if not asking.exec():
            return
        wish, old = asking.wish(), sources.page
        if wish.turn_deg:
            self.easel.do(lambda book, page: verbs.straighten_page(book, page, wish.turn_deg))
        rect = wish.rect
        if rect is not None:
            self.easel.do(lambda book, page: verbs.crop_page(book, page, rect))
        if (wish.dpi, wish.trim_mm, wish.bleed_mm) != (old.dpi, old.trim_mm, old.bleed_mm):
            self.easel.do(
                lambda book, page: verbs.set_print(
                    book, page, dpi=wish.dpi, trim_mm=wish.trim_mm, bleed_mm=wish.bleed_mm
                )
            )

    def show_scanner(self) -> None:
        """Show the flatbed."""
        scanner = ScannerWindow(self)
        scanner.scanned.connect(lambda name, data: self.easel.add_page(self._beside(name), data))
        scanner.show()

    def _beside(self, name: str) -> Path:
        """Return a place for a drawing that is no file: beside the book, or at home."""
        return (self.easel.file.path.parent if self.easel.file is not None else Path.home()) / name

    def paste(self, *, sheet: bool = False) -> None:
        """Bring in the picture, or the files, on the clipboard."""
        clipboard = QApplication.clipboard()
        data = clipboard.mimeData() if clipboard is not None else None
        if data is not None and data.hasUrls():
            for url in data.urls():
                if url.isLocalFile():
                    self._bring_in(Path(url.toLocalFile()), sheet=sheet)
        elif clipboard is not None and data is not None and data.hasImage():
            buffer = QBuffer()
            buffer.open(QIODevice.OpenModeFlag.WriteOnly)
            clipboard.image().save(buffer, "PNG")
            take = self.easel.add_sheet if sheet else self.easel.add_page
            take(self._beside("Pasted drawing.png"), without_dpi(bytes(buffer.data().data())))
        else:
            self.strip.say("There is no picture on the clipboard. Copy a drawing or an image file first.")

    def open_file(self) -> None:
        """Ask for a drawing or a book and open it."""
        found, _ = QFileDialog.getOpenFileName(self, "Open a drawing or a book", str(Path.home()), _FILES)
        if found:
            self.easel.open(Path(found))

    def add_page(self) -> None:
        """Ask for drawings and add them to the book as pages."""
        for path in self._ask_drawings("Add pages"):
            self._bring_in(path)

    def add_sheet(self) -> None:
        """Ask for drawings and lay them on the page as sheets."""
        for path in self._ask_drawings("Add sheets"):
            self._bring_in(path, sheet=True)

    def reink(self) -> None:
        """Ask for a corrected drawing and put it in the place of the sheet in hand."""
        found, _ = QFileDialog.getOpenFileName(self, "Corrected drawing", str(Path.home()), f"Drawings ({_DRAWINGS})")
        if found:
            self.easel.reink(Path(found))

    def _ask_drawings(self, title: str) -> list[Path]:
        found, _ = QFileDialog.getOpenFileNames(self, title, str(Path.home()), f"Drawings ({_DRAWINGS})")
        return [Path(name) for name in found]

    def _bring_in(self, path: Path, *, sheet: bool = False) -> None:
        """Bring in a file as a page or as a sheet; one with several pictures is asked about first."""
        pictures: list[int] | None = None
        try:
            data = read_file(path)
            inside = pictures_in(data, path.name)
        except DripPotError as error:
            self.strip.say(str(error), True)
            return
        if len(inside) > 1 and not inside[0].is_layer:
            asking = PicturesDialog(self, path.name, inside, bool(self.easel.page))
            asking.sheets.setChecked(sheet)
            if not asking.exec():
                return
            pictures, sheet = asking.chosen(), asking.sheets.isChecked()
        (self.easel.add_sheet if sheet else self.easel.add_page)(path, pictures=pictures)

    def new_book(self) -> None:
        """Ask where, and make an empty book."""
        found, _ = QFileDialog.getSaveFileName(self, "New book", str(Path.home() / "Book.drip"), "Books (*.drip)")
        if found:
            self.easel.new_book(Path(found).with_suffix(".drip"))

    def export(self) -> None:
        """Ask what to write and write it in the background."""
        file, book = self.easel.file, self.easel.book
        if file is None or book is None or not self.easel.page:
            return
        asking = ExportDialog(self, file.path.parent / f"{file.path.stem} export", len(book.pages()))
        if asking.exec():
            pages = list(book.pages()) if asking.all_pages.isChecked() else [self.easel.page]
            folder, kinds = Path(asking.folder.text()).expanduser(), asking.kinds()
            targets = [path for page in pages for path in export_targets(book, page, folder, kinds)]
            if ask_replace(self, [path for path in targets if path.exists()]):
                self.write_files(folder, kinds, pages)

    def write_files(self, folder: Path, kinds: tuple[str, ...], pages: list[int]) -> None:
        """Write pages as files, from a snapshot of the book."""
        file, book = self.easel.file, self.easel.book
        assert file is not None
        assert book is not None
        snapshot = Book(None, book.snapshot(), book.tiles())
        written: list[Path] = []
        release = file.hold()

        def work(report: Report) -> None:
            for place, page in enumerate(pages):

                def part(fraction: float, doing: str, place: int = place) -> None:
                    report((place + fraction) / len(pages), doing)

                written.extend(
                    export_page(snapshot, derive(file, snapshot, page), page, folder, kinds=kinds, report=part)
                )

        def done(_: None) -> None:
            release()
            self.strip.say(f"Wrote {counted(len(written), 'file')} into {folder}.")

        def failed(error: Exception) -> None:
            release()
            self.strip.say(f"{error} {counted(len(written), 'file')} had been written into {folder}.", True)

        def stopped() -> None:
            release()
            self.strip.say(f"Export was stopped; {counted(len(written), 'file')} of {len(pages) * len(kinds)} "
                           f"had been written into {folder}.")  # fmt: skip

        self.errands.start(f"export {next(self._exports)}", work, done, failed, stopped)

    def prepare_demo(self, book: Path, dpi: float) -> None:
        """Make the demo book in a process of its own; open it when it is there, unless something was done here."""
        first = self.easel.file.path if self.easel.file is not None else None
        position = self.easel.book.position if self.easel.book is not None else 0

        def work(report: Report) -> bool:
            command = [sys.executable, "-m", "drip_pot", "demo", "--prepare", "--dpi", f"{dpi:g}"]
            with subprocess.Popen(command, stdout=subprocess.DEVNULL, stderr=subprocess.PIPE, text=True) as child:
                try:
                    for line in child.stderr or ():
                        share, _, doing = line.strip().partition("% ")
                        report(int(share) / 100 if share.isdigit() else 0.0, doing or line.strip())
                except BaseException:
                    child.terminate()
                    raise
            return child.returncode == 0

        def done(good: bool) -> None:
            self._errand("", 1.0, "")
            file, now = self.easel.file, self.easel.book
            if not good:
                self.strip.say("The full-size demo book could not be made. Run: drip-pot demo --prepare", True)
            elif file is not None and now is not None and (file.path, now.position) == (first, position):
                self.easel.open(book)
            else:
                self.strip.say(f"The whole demo book at {dpi:g} dpi is ready: open {book}", lasting=True)

        self.errands.start("demo", work, done)

    def _errand(self, name: str, fraction: float, doing: str) -> None:
        if name.startswith("export"):
            return
        self._errand_text = f"     Making the full-size demo book, {fraction:.0%}: {doing}" if doing else ""
        self._hint()

    def _hint(self) -> None:
        """Say at the lower left what the tool does, or how to begin."""
        begin = "Open a drawing or a book to begin: Ctrl+O, or drop one on the window."
        self.status.left.setText((self.canvas.tool.hint() if self.easel.page else begin) + self._errand_text)

    def show_history(self) -> None:
        """Show what was done."""
        history = History(self, self.easel)
        history.compare.connect(self.compare_with)
        history.show()

    def show_keys(self) -> None:
        """Show the sheet of keys."""
        Keys(self, self._keys).show()

    # Events

    def _on_opened(self) -> None:
        self._refresh_panel()
        if self.easel.file is not None:
            self.settings.setValue("last", str(self.easel.file.path))
        if not self._tried and not self.settings.value("tried", False, bool) and self.easel.page:
            self._tried = True
            self.strip.say(_TRY, lasting=True)

    def _on_dropped(self, path: Path) -> None:
        if path.suffix.lower() == ".drip":
            self.easel.open(path)
        else:
            self._bring_in(path)

    def _on_problem(self, error: Exception) -> None:
        if not isinstance(error, DripPotError):
            raise error
        self.strip.say(str(error), True)

    def _on_shown(self, finding: Finding) -> None:
        if finding.rect is not None:
            self.canvas.go_to(finding.rect)

    def _on_moved(self, row: float, col: float) -> None:
        self._last = (row, col)
        view, book, sources = self.easel.view, self.easel.book, self.easel.sources()
        zoom = f"{self.canvas.zoom * 100:.0f} %"
        if (
            view is None
            or book is None
            or sources is None
            or not (0 <= row < view.shape[0] and 0 <= col < view.shape[1])
        ):
            self.status.right.setText(zoom)
            return
        where = f"{count_text(int(col))}, {count_text(int(row))} px"
        what = ""
        inks = plates_at(view, int(row), int(col)) if self.easel.stage == "Press" else None
        atom = self.easel.atom_at(int(row), int(col))
        if inks is not None:
            what = "C {} M {} Y {} K {}".format(*inks) + f" = {sum(inks)} %"
        elif self.easel.stage == "Inks":
            what = f"ink {round(int(view.ink[0][int(row), int(col)]) / 2.55)} %"
        elif atom and view.partition is not None and view.facts is not None:
            pot = self.easel.pot_of(atom)
            name = book.pots()[pot].name if pot in book.pots() and pot is not None else "paper"
            area = int(view.facts.areas[self.easel.region_atoms(atom)].sum())
            what = f"{name}, region of {count_text(area)} px"
        self.status.right.setText(f"{what}     {where}     {zoom}")

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        if self.strip.isVisible():
            self.strip.place()

    def closeEvent(self, event: QCloseEvent | None) -> None:
        self.settings.setValue("geometry", self.saveGeometry())
        self.canvas.tiles.close()
        self.errands.close()
        self.easel.close()
        super().closeEvent(event)
