# SPDX-License-Identifier: GPL-3.0-or-later
"""The window: bars, canvas, inspector and shelf put together. Knows all of the desk."""

from collections.abc import Callable
from functools import partial
from pathlib import Path

from PyQt6.QtCore import QByteArray, QEvent, QSettings
from PyQt6.QtGui import QAction, QCloseEvent, QResizeEvent
from PyQt6.QtWidgets import (
    QAbstractSpinBox,
    QApplication,
    QHBoxLayout,
    QLineEdit,
    QMainWindow,
    QMenu,
    QVBoxLayout,
    QWidget,
)

from drip_pot.book.findings import Finding
from drip_pot.core.errors import DripPotError
from drip_pot.desk import actions
from drip_pot.desk.bars.chips import Chips
from drip_pot.desk.bars.frames import FrameStrip
from drip_pot.desk.bars.look_here import LookHere
from drip_pot.desk.bars.recipe_strip import RecipeStrip
from drip_pot.desk.bars.status import StatusLine
from drip_pot.desk.bars.strip import CardStrip, Progress
from drip_pot.desk.bars.toolbar import ToolBar
from drip_pot.desk.bars.topbar import TopBar
from drip_pot.desk.bars.welcome import Welcome
from drip_pot.desk.comparing import Comparing
from drip_pot.desk.dialogs.pages import ask_dpi
from drip_pot.desk.findable import controls_of
from drip_pot.desk.inspector import Inspector
from drip_pot.desk.memory import recent, used
from drip_pot.desk.menus.books import BookMenu
from drip_pot.desk.menus.demo_making import DemoMaking
from drip_pot.desk.menus.exporting import Exporting
from drip_pot.desk.menus.frames import FrameMenu
from drip_pot.desk.menus.helping import Helping
from drip_pot.desk.menus.pots import PotMenu
from drip_pot.desk.menus.sheets import SheetMenu
from drip_pot.desk.parts import theme
from drip_pot.desk.parts.calm import Calm
from drip_pot.desk.parts.screens import fit_to_screen
from drip_pot.desk.pointer import UnderPointer
from drip_pot.desk.session.easel import Easel
from drip_pot.desk.session.small_pages import SmallPages
from drip_pot.desk.session.work import Work
from drip_pot.desk.shelf.shelf import Shelf
from drip_pot.desk.stages import STAGES
from drip_pot.desk.stages.inks.cards import SheetCards
from drip_pot.desk.view.canvas import Canvas
from drip_pot.desk.view.overview import Overview
from drip_pot.desk.view.seen import Seen, pick_chips
from drip_pot.desk.view.senses import NONE
from drip_pot.desk.view.tool import tools_of
from drip_pot.desk.whereabouts import Whereabouts
from drip_pot.words import tr

_LEAST = 880, 540
_TRY = (
    "Try this: press 1 to 9 for a pot of this part, click a region or drag across several. "
    "[ and ] go to other parts. Hold Q to see the line alone. Alt+1 to Alt+5 go through the stages."
)


class Window(QMainWindow):
    """One window on one book."""

    def __init__(self, settings: QSettings | None = None) -> None:
        super().__init__()
        self.setWindowTitle(tr("Drip Pot"))
        self.settings = settings or QSettings("drip-pot", "drip-pot")
        self._kinds = {name: tools_of(name) for name in STAGES}
        self.easel = Easel({name: tuple(kinds) for name, kinds in self._kinds.items()}, self)
        self.seen = Seen({flag: on for stage in STAGES.values() for flag, on in stage.flags.items()}, self)
        self.easel.opening.ask_dpi = partial(ask_dpi, self)
        self._tried, self._making = False, ""
        self._known: Path | None = None
        self._build()
        self._bound: list[QAction] = []
        self.helping.rekeyed = self.bind_keys
        self.bind_keys()
        self._connect()
        self.resize(1280, 800)
        geometry = self.settings.value("geometry")
        if isinstance(geometry, QByteArray):
            self.restoreGeometry(geometry)
        fit_to_screen(self)
        self.refresh_look()
        self.canvas.setFocus()

    # Building

    def _build(self) -> None:
        e, seen = self.easel, self.seen
        self.exporting, self.demo_making = Exporting(self, e, self.settings), DemoMaking(e)
        self.books, self.helping = BookMenu(self, e, self.settings), Helping(self, e, self.settings, self.switch_bench)
        self.sheets = SheetMenu(self, e, self.books)
        self.topbar = TopBar(e, {
            "undo": self.undo, "redo": self.redo, "bench": self.switch_bench,
            "history": self.show_history, "export": self.exporting.export,
            "contact": self.books.show_contact,
        })  # fmt: skip
        tools = {name: kind(e) for kinds in self._kinds.values() for name, kind in kinds.items()}
        self.canvas = Canvas(e, tools, {name: stage.overlay(e, seen) for name, stage in STAGES.items()})
        self.toolbar = ToolBar(e, self._kinds)
        self.cards = {name: stage.cards(e, seen) for name, stage in STAGES.items() if stage.cards is not None}
        tells = {name: stage.tells for name, stage in STAGES.items() if stage.tells is not None}
        self.shelf, self.status = Shelf(e, self.cards, tells), StatusLine(e)
        self.small, self.comparing = SmallPages(e), Comparing(e, self.canvas)
        self.whereabouts = Whereabouts(self.settings, e, self.canvas, seen, self.small)
        self.frames = FrameMenu(self, e, self.small, self.settings)
        self.frames.canvas = self.canvas
        f = self.frames
        done = {"carry_on": f.carry_on, "light": f.light, "between": f.between, "ghost": f.ghost, "play": f.play}
        self.film = FrameStrip(e, self.small, done, lambda: self.frames.how)
        self.chips, self.strip, self.overview = Chips(self.canvas), CardStrip(self.canvas), Overview(self.canvas)
        self.cooking_strip = RecipeStrip(self.canvas, self.books.recipes, self.chips)
        begin = {"Open": self.books.open_file, "New book": self.books.new_book, "Demo book": self.demo_making.open,
                 "Manual": self.helping.manual}  # fmt: skip
        self.welcome = Welcome(self.canvas, begin, e.opening.open)
        self.helping.demo = self.demo_making.open
        self.progress = _progress_of(self)
        self.look_here = LookHere(e)
        panels = {name: stage.panel(e) for name, stage in STAGES.items()}
        self.inspector = Inspector(e, panels, self.look_here, self.books)
        self.helping.controls = lambda: controls_of(e, self.seen, panels, self.inspector.show_control)
        self.pots = PotMenu(self, e, self.shelf.pots, self.inspector)
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
        column.addWidget(self.film)
        column.addWidget(self.shelf)
        column.addWidget(self.status)
        self.setCentralWidget(whole)
        self.setMinimumSize(*_LEAST)
        self.calm = Calm(self, self.canvas.setFocus)
        self.calm.watch(whole)

    def _reach(self) -> actions.Reach:
        """Return what actions are done with."""
        itself: dict[str, Callable[[], object]] = {
            "undo": self.undo, "redo": self.redo, "show_history": self.show_history,
            "toggle_wipe": self.comparing.toggle_wipe, "toggle_beside": self.comparing.toggle_beside,
            "toggle_panels": self.toggle_panels,
            "switch_bench": self.switch_bench, "close": self.close,
        }  # fmt: skip
        return actions.Reach(
            self.easel, self.seen, self.canvas, self.look_here, self.topbar.title, self.books, self.sheets, self.pots,
            self.exporting, self.frames, self.helping, self.take_up, self.step, itself,
        )  # fmt: skip

    def bind_keys(self) -> None:
        """Give every action the key it has now."""
        for action in self._bound:
            for widget in (self, self.canvas, self.look_here):
                widget.removeAction(action)
            action.deleteLater()
        usual, chosen = actions.actions(self._reach()), self.helping.own_keys.chosen()
        table = actions.with_keys(usual, chosen)
        self._bound = actions.bind(self, (self.canvas, self.look_here), table)
        self.helping.usual = actions.usual_keys(usual)
        self.books.taken_keys = self.helping.usual | chosen
        self.helping.entries, self.helping.sheet = actions.entries_of(table), actions.sheet_of(table)
        self.toolbar.set_keys(actions.tool_keys(usual, chosen))

    def _connect(self) -> None:
        e = self.easel
        e.chosen.connect(self.refresh_look)
        e.refreshed.connect(self._refresh)
        e.opened.connect(self._on_opened)
        e.said.connect(self.strip.say)
        self.seen.changed.connect(self.refresh_look)
        self.comparing.changed.connect(self.refresh_look)
        for work in self.works():
            work.problem.connect(self._on_problem)
        for tiles in self.canvas.every_tiles():
            tiles.problem.connect(self._on_problem)
        self.demo_making.progress.connect(self._on_making)
        self.pointer = UnderPointer(e, self.canvas, self.status.right.setText)
        self.canvas.dropped.connect(self._on_dropped)
        self.topbar.menu_wanted.connect(self.books.popup)
        self.topbar.help_wanted.connect(self.helping.popup)
        self.books.recipes.changed.connect(self.bind_keys)
        self.exporting.written.connect(self.strip.offer_folder)
        shelf = self.shelf
        shelf.pots.edit_wanted.connect(self.pots.edit_pot)
        shelf.pots.name_wanted.connect(self.pots.name_part)
        shelf.pots.menu_wanted.connect(lambda at, pot, part: self.pots.fill(QMenu(self), pot, part).popup(at))
        shelf.in_hand.more_wanted.connect(self.pots.more_menu)
        shelf.in_hand.edit_wanted.connect(self.pots.edit_pot)
        shelf.in_hand.add_wanted.connect(lambda: self.pots.edit_pot(None))
        shelf.in_hand.page_wanted.connect(self.books.set_page)
        shelf.in_hand.sheet_wanted.connect(lambda at: self.sheets.popup(at.mapToGlobal(at.rect().topLeft())))
        for cards in self.cards.values():
            if isinstance(cards, SheetCards):
                cards.menu_wanted.connect(self.sheets.popup)
                cards.name_wanted.connect(self.sheets.name_sheet)
        self.look_here.shown.connect(self._on_shown)
        self.look_here.gone.connect(self.canvas.unring)
        self.look_here.let_go.connect(self.canvas.setFocus)
        self.strip.closed.connect(lambda: self.settings.setValue("tried", True))

    def works(self) -> list[Work]:
        """Return everything that works in the background here."""
        e = self.easel
        return [e.deriving.work, e.deriving.behind, e.deriving.looking.work, e.opening.work, e.hands.work,
                self.exporting.errands, self.demo_making.errands, self.small.work, self.pots.house.work,
                *self.books.works()]  # fmt: skip

    def is_settled(self) -> bool:
        """Whether nothing is being worked out or drawn, and nothing is about to be."""
        busy = any(work.busy() for work in self.works()) or self.easel.hands.busy()
        return not busy and self.easel.deriving.is_settled() and self.canvas.tiles.settled()

    # What is seen

    def refresh_look(self) -> None:
        """Show what the stage and its switches say."""
        look, before = STAGES[self.easel.stage].looks(self.easel, self.seen)
        self.easel.deriving.want_regions(loud=look.loud, outlines=look.outline)
        self.overview.setVisible(self.seen["whole"] and self.easel.view is not None)
        self.canvas.set_looks(look, before)
        self._refresh()
        self._hint()

    def _fill_chips(self) -> None:
        chips = STAGES[self.easel.stage].chips(self.easel, self.seen)
        self.chips.fill([*pick_chips(self.easel), *chips, *self.comparing.chips()])
        self.chips.move(12, 12)

    def _refresh(self) -> None:
        self.setWindowTitle(self.easel.book.info.title if self.easel.book is not None else tr("Drip Pot"))
        there = bool(self.easel.page)
        for part in (self.chips, self.shelf.in_hand):
            part.setVisible(there)
        self._fill_chips()
        self._welcome(show=self.easel.book is None)
        self.inspector.refresh()
        if self.easel.stage != "Flats":
            self.strip.unsay(_TRY)
        elif there and not (self._tried or self.settings.value("tried", False, bool)):
            self._tried = True
            self.strip.say(_TRY)

    def _welcome(self, *, show: bool) -> None:
        if show and not self.welcome.isVisible():
            self.welcome.show_books(recent(self.settings))
        self.welcome.setVisible(show and not self.easel.opening.work.busy())

    def toggle_panels(self) -> None:
        """Give the canvas the whole window, or put the panels back."""
        away = self.inspector.isVisible()
        for part in (self.topbar, self.toolbar, self.inspector, self.shelf, self.status):
            part.setVisible(not away)

    def switch_bench(self, *, keep: bool = True) -> None:
        """Change between the light and the dim bench, for good unless not to `keep`."""
        chosen = theme.DIM if theme.bench() is theme.LIGHT else theme.LIGHT
        if keep:
            self.settings.setValue("bench", chosen.name)
        app = QApplication.instance()
        assert isinstance(app, QApplication)
        theme.apply(app, chosen)
        self.topbar.refresh()
        self.refresh_look()

    # Doing

    def undo(self) -> None:
        """Give up what the pointer is doing, or take back the last gesture."""
        if not self.canvas.cancel_gesture():
            self.easel.undo()

    def redo(self) -> None:
        """Do the last undone gesture again."""
        self.canvas.cancel_gesture()
        self.easel.redo()

    def take_up(self, names: tuple[str, ...]) -> None:
        """Take up the tool of the stage that has one of some names."""
        for name in names:
            self.easel.choose_tool(name)

    def step(self, step: int, factor: float) -> None:
        """Make the tool in hand wider or finer, or where it has no width go to another part."""
        if not self.canvas.tool.widen(factor):
            self.pots.step_part(step)

    def show_history(self) -> None:
        """Show what was done."""
        self.books.show_history(self.comparing.compare_with)

    # Events

    def changeEvent(self, event: QEvent | None) -> None:
        """Give the keys back to the page when a dialog is done with."""
        super().changeEvent(event)
        if event is not None and event.type() == QEvent.Type.ActivationChange and self.isActiveWindow():
            held = self.focusWidget()
            if not isinstance(held, QAbstractSpinBox | QLineEdit) or not held.hasFocus():
                self.canvas.setFocus()

    def _hint(self) -> None:
        """Say at the lower left what the tool does, or how to begin."""
        begin = "Open a drawing or a book to begin: Ctrl+O, or drop one on the window."
        tool = self.canvas.tool
        there = bool(self.easel.page)
        self.status.say(tr(tool.hint() if there else begin) + self._making, tool.senses if there else NONE)

    def _on_making(self, fraction: float, doing: str) -> None:
        self._making = tr("     Making the demo book, {0:.0%}: {1}", fraction, doing) if doing else ""
        self._hint()

    def _on_opened(self) -> None:
        self._refresh()
        file = self.easel.file
        if file is not None and file.path != self._known:
            self._known = file.path
            self.small.forget()
            self.settings.setValue("last", str(file.path))
            used(self.settings, file.path)
            self.whereabouts.go_back()

    def _on_dropped(self, path: Path) -> None:
        if path.suffix.lower() == ".drip":
            self.easel.opening.open(path)
        else:
            self.books.bring_in(path)

    def _on_problem(self, error: Exception) -> None:
        if not isinstance(error, DripPotError):
            raise error
        self.strip.say(str(error), True)

    def _on_shown(self, finding: Finding) -> None:
        if finding.rect is not None:
            self.canvas.go_to(finding.rect)

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        if self.strip.isVisible():
            self.strip.place()

    def closeEvent(self, event: QCloseEvent | None) -> None:
        self.settings.setValue("geometry", self.saveGeometry())
        self.hide()  # what is being worked out may take a moment to stop
        self.whereabouts.keep()
        self.canvas.close_tiles()
        self.easel.opening.close()
        for work in self.findChildren(Work):  # those of dialogs and blocks as well
            work.close()
        super().closeEvent(event)


def _progress_of(window: Window) -> list[Progress]:
    """Return what tells how far work in the background is that takes long enough to be watched."""
    e, b = window.easel, window.books
    watched = (
        (e.deriving.work, ("press",), 14), (e.opening.work, ("open",), 14), (e.hands.work, ("hand",), 14),
        (window.exporting.errands, ("export",), 64), (b.figures.work, ("figures",), 114),
        (b.loans.work, ("send", "compare", "take"), 164), (b.bringing.work, ("look", "bring"), 164),
    )  # fmt: skip
    return [Progress(window.canvas, work, stop, top=top, beside=window.chips) for work, stop, top in watched]
