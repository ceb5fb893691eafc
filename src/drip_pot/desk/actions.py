# SPDX-License-Identifier: GPL-3.0-or-later
"""What can be done, in one table: it feeds keys and the sheet of keys. Knows the parts of a window."""

from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from functools import partial

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QAction, QKeySequence
from PyQt6.QtWidgets import QWidget

from drip_pot.desk.bars.look_here import LookHere
from drip_pot.desk.menus.books import BookMenu
from drip_pot.desk.menus.exporting import Exporting
from drip_pot.desk.menus.frames import FrameMenu
from drip_pot.desk.menus.helping import Helping
from drip_pot.desk.menus.pots import PotMenu
from drip_pot.desk.menus.sheets import SheetMenu
from drip_pot.desk.session.easel import Easel
from drip_pot.desk.stages import STAGES
from drip_pot.desk.stages.holds.holding import Holding
from drip_pot.desk.stages.shade.shading import Shading
from drip_pot.desk.view.canvas import Canvas
from drip_pot.desk.view.seen import Seen
from drip_pot.desk.view.senses import Mods
from drip_pot.desk.view.tool import tools_of
from drip_pot.words import listed, tr

_TURN_DEG, _NEARER, _WIDER = 15, 1.4, 1.25


@dataclass(frozen=True)
class Reach:
    """What actions are done with: parts of a window, and what the window itself does, by name."""

    easel: Easel
    seen: Seen
    canvas: Canvas
    look_here: LookHere
    title: QWidget
    books: BookMenu
    sheets: SheetMenu
    pots: PotMenu
    exporting: Exporting
    frames: FrameMenu
    helping: Helping
    take_up: Callable[[tuple[str, ...]], object]
    step: Callable[[int, float], object]
    itself: Mapping[str, Callable[[], object]]


@dataclass(frozen=True)
class Action:
    """Something that can be done.

    Attributes
    ----------
    group, title : str
        Where it stands on the sheet of keys, and what it is called there; without a title it stands not.
    key : str
        Its key; `shown` is how that is written, if otherwise.
    done : callable
        What it does.
    here : bool
        Whether the key belongs to the canvas and Look here alone, so that elsewhere it keeps its usual meaning.
    """

    group: str
    key: str
    title: str
    done: Callable[[], object]
    shown: str = ""
    here: bool = False

    @property
    def name(self) -> str:
        """What it is known by where keys are kept."""
        return f"{self.group}: {self.title}"

    @property
    def can_change(self) -> bool:
        """Whether its key can be another one; those that stand for several, or are held, stay."""
        return bool(self.title) and (not self.shown or bool(self.key)) and self.shown not in ("1 to 9",)


def actions(w: Reach) -> list[Action]:
    """Return everything that can be done."""
    return [
        *_stages(w),
        *_tools(w),
        *_books(w),
        *_frames(w),
        *_seeing(w),
        *_pots(w),
        *_inks(w),
        *_shade(w),
        *_look_here(w),
        *_recipes(w),
    ]


def _stages(w: Reach) -> Iterator[Action]:
    for place, stage in enumerate(STAGES, 1):
        yield Action("Stages", f"Alt+{place}", stage, partial(w.easel.choose_stage, stage))


def _tools(w: Reach) -> Iterator[Action]:
    keys: dict[str, list[str]] = {}
    for stage in STAGES:
        for name, kind in tools_of(stage).items():
            known = keys.setdefault(kind.key, [])
            if name not in known:
                known.append(name)
    for key, names in keys.items():
        yield Action("Tools", key, listed([tr(name) for name in names], either=True), partial(w.take_up, tuple(names)))


def _books(w: Reach) -> list[Action]:
    return [
        Action("Book", "Ctrl+O", "Open a drawing or a book", w.books.open_file),
        Action("Book", "Ctrl+N", "New book", w.books.new_book),
        Action("Book", "Ctrl+Shift+O", "Add a page", w.books.add_page),
        Action("Book", "", "Add a folder of pages", w.books.add_folder),
        Action("Book", "Ctrl+V", "Paste a drawing as a page", w.books.paste),
        Action("Book", "Ctrl+Shift+V", "Paste it as a sheet", lambda: w.books.paste(sheet=True)),
        Action("Book", "Ctrl+I", "Simulated flatbed", w.books.show_scanner),
        Action("Book", "Ctrl+Shift+P", "Size and edges of the page", w.books.set_page),
        Action("Book", "Ctrl+P", "Pages", lambda: w.books.popup(w.title)),
        Action("Book", "Ctrl+Shift+G", "Contact sheet", w.books.show_contact),
        Action("Book", "Ctrl+Shift+D", "Recipes", w.books.show_recipes),
        Action("Book", "", "Go on after a pause of the recipe, or without its step", w.books.recipes.cooking.leave_out),
        Action("Book", "", "End the recipe", w.books.recipes.cooking.end),
        Action("Book", "", "Look for figures of another page", lambda: w.books.figures.ask(w.title)),
        Action("Book", "", "Look for figures of this page on all others", w.books.figures.look_everywhere),
        Action("Book", "Shift+N", "Go to the next page with figures offered", w.books.figures.next_page),
        Action("Book", "", "Send this page out to somebody", w.books.loans.send),
        Action("Book", "", "Take pages back that were sent out", w.books.loans.take),
        Action("Book", "", "Bring in pages, parts and schemes of another book", w.books.bringing.ask),
        Action("Book", "", "Bring in finished flats of this page", w.books.bring_flats),
        Action("Book", "", "Stand a prop on this page", w.books.stand_prop),
        Action("Book", "", "Press settings of this page for every page", partial(w.books.share, "press")),
        Action("Book", "", "Line colours of this page for every page", partial(w.books.share, "lines")),
        Action("Book", "", "Wear of this page for every page", partial(w.books.share, "wear")),
        Action("Book", "", "Forget what was said to lie in front", lambda: w.easel.own(Holding).forget_depths()),
        Action("Book", "", "Name this page", w.books.name_page),
        Action("Book", "", "Name the book", w.books.name_book),
        Action("Book", "", "Put a corrected drawing in the place of the sheet", w.books.reink),
        Action("Book", "Ctrl+E", "Export", w.exporting.export),
        Action("Book", "Ctrl+Z", "Undo", w.itself["undo"]),
        Action("Book", "Ctrl+Shift+Z", "Redo", w.itself["redo"]),
        Action("Book", "Ctrl+H", "History", w.itself["show_history"]),
        Action("Book", "Ctrl+Q", "Close the window", w.itself["close"]),
    ]


def _frames(w: Reach) -> list[Action]:
    frames = w.frames
    return [
        Action("Frames", "Alt+Right", "Next frame", partial(frames.step, 1)),
        Action("Frames", "Alt+Left", "Frame before", partial(frames.step, -1)),
        Action("Frames", ".", "Pour this frame like the one before", frames.carry),
        Action("Frames", "Ctrl+.", "Light this frame like the one before", frames.light),
        Action("Frames", "", "Markings as on the frame before", frames.markings),
        Action("Frames", "", "Pour the empty frames between from both sides", frames.between),
        Action("Frames", "Alt+.", "Go on and pour the next frame like this one", frames.carry_on),
        Action("Frames", ",", "Ghosts of the frames beside: line, colour, off", frames.ghost),
        Action("Frames", "Alt+,", "Play the sequence", frames.play),
        Action("Frames", "", "Show the frame longer", partial(frames.hold, 1)),
        Action("Frames", "", "Show the frame shorter", partial(frames.hold, -1)),
        Action("Frames", "", "Play faster", partial(frames.rate, 1)),
        Action("Frames", "", "Play slower", partial(frames.rate, -1)),
    ]


def _recipes(w: Reach) -> Iterator[Action]:
    for name, key in w.books.recipes.keys().items():
        yield Action("Recipes", key, name, partial(w.books.recipes.do, name))


def _seeing(w: Reach) -> list[Action]:
    canvas, flip = w.canvas, w.seen.flip
    return [
        Action("Seeing", "Ctrl+0", "Whole page", canvas.fit),
        Action("Seeing", "Shift+F", "As large as the panel here", partial(canvas.zoom_to, "panel")),
        Action(
            "Seeing", "Shift+R", "As large as the region here, or what is picked", partial(canvas.zoom_to, "region")
        ),
        Action("Seeing", "Ctrl+1", "100 %", lambda: canvas.set_zoom(1.0)),
        Action("Seeing", "+", "Nearer", lambda: canvas.set_zoom(canvas.zoom * _NEARER)),
        Action("Seeing", "=", "", lambda: canvas.set_zoom(canvas.zoom * _NEARER)),
        Action("Seeing", "-", "Further", lambda: canvas.set_zoom(canvas.zoom / _NEARER)),
        Action("Seeing", "I", "Line on or off", lambda: flip("lines")),
        Action("Seeing", "U", "Loud or local colours", lambda: flip("loud")),
        Action("Seeing", "V", "Values in grey", lambda: flip("values")),
        Action("Seeing", "J", "Leftovers striped", lambda: flip("leftovers")),
        Action("Seeing", "W", "Wipe between before and now", w.itself["toggle_wipe"]),
        Action("Seeing", "Shift+W", "Before and now side by side", w.itself["toggle_beside"]),
        Action("Seeing", "Shift+V", "Values in three, four or five steps", w.seen.next_steps),
        Action("Seeing", "Shift+Q", "Squint: without detail", lambda: flip("squint")),
        Action("Seeing", "Shift+A", "The part in hand alone", lambda: flip("alone")),
        Action("Seeing", "Ctrl+Right", "Turn the view", lambda: canvas.turn(_TURN_DEG)),
        Action("Seeing", "Ctrl+Left", "", lambda: canvas.turn(-_TURN_DEG)),
        Action("Seeing", "Ctrl+Up", "Upright again", lambda: canvas.set_turn(0, mirrored=False)),
        Action("Seeing", "Y", "Mirror the view", canvas.mirror),
        Action("Seeing", "Ctrl+2", "Whole page in a corner", lambda: flip("whole")),
        Action("Seeing", "", "Peek without", lambda: None, "hold Q"),
        Action("Seeing", "", "Move the page", lambda: None, "hold Space"),
        Action("Seeing", "F11", "Panels away or back", w.itself["toggle_panels"]),
        Action("Seeing", "D", "Light or dim bench", w.itself["switch_bench"]),
    ]


def _pots(w: Reach) -> Iterator[Action]:
    for number in range(1, 10):
        title = "Pot of the part in hand" if number == 1 else ""
        yield Action("Pots", str(number), title, partial(w.pots.take_key, number), "1 to 9")
    yield Action("Pots", "Ctrl+F", "Find a pot", w.pots.find_pot)
    yield Action("Pots", "Ctrl+Shift+C", "Colours from a picture", w.pots.show_palette)
    yield Action("Pots", "Ctrl+Shift+R", "References: pinned pictures", w.pots.show_references)
    yield Action("Pots", "Ctrl+Shift+S", "Next scheme", w.pots.schemes.next)
    yield Action("Pots", "", "Add a scheme from these colours", w.pots.schemes.add)
    yield Action("Pots", "Ctrl+Shift+B", "Compare pages, schemes and values side by side", w.pots.schemes.compare)
    yield Action("Pots", "", "Write all pots as a palette", w.pots.write_palette)
    yield Action("Pots", "", "Follow a palette of the house", w.pots.house.choose)
    yield Action("Pots", "", "Remove unused pots", w.pots.remove_unused)
    yield Action("Pots", "0", "Paper", partial(w.pots.take_key, 0))
    yield Action("Pots", "]", "Next part, wider brush", lambda: w.step(1, _WIDER))
    yield Action("Pots", "[", "Part before, finer brush", lambda: w.step(-1, 1 / _WIDER))


def _inks(w: Reach) -> list[Action]:
    def in_inks(done: Callable[[], object]) -> Callable[[], object]:
        return lambda: done() if w.easel.stage == "Inks" else None

    def remove() -> None:
        if not w.look_here.drop():
            w.canvas.tool.delete()

    return [
        Action("Inks", "Shift+Right", "Next sheet", in_inks(lambda: w.sheets.step(1))),
        Action("Inks", "Shift+Left", "Sheet before", in_inks(lambda: w.sheets.step(-1))),
        Action("Inks", "Shift+H", "Hide or show the sheet in hand", in_inks(w.sheets.hide)),
        Action("Inks", "Delete", "Remove what the tool has in hand", remove, here=True),
    ]


def _shade(w: Reach) -> list[Action]:
    def invert() -> None:
        scoping = {"Shade": Shading, "Holds": Holding}.get(w.easel.stage)
        if scoping is not None:
            w.easel.own(scoping).invert_scope()

    return [Action("Shade", "Ctrl+Shift+I", "Invert where the pass or hold in hand applies", invert)]


def _look_here(w: Reach) -> list[Action]:
    found = w.look_here

    def mend() -> None:
        if w.canvas.press_region(Mods.NoModifier) or w.canvas.tool.finish():
            return
        if found.stepped_to() is not None or not w.canvas.tool.confirm():
            found.mend()

    def every() -> None:
        if not w.canvas.press_region(Mods.ShiftModifier):
            found.mend_all()

    def at(mods: Mods) -> Callable[[], object]:
        return lambda: w.canvas.press_region(mods)

    return [
        Action("Look here", "N", "Next finding", found.next),
        Action("Look here", "Return", "Do its verb", mend, "Enter", here=True),
        Action("Look here", "Enter", "", mend, here=True),
        Action("Look here", "Shift+Return", "Do it to all of the kind", every, "Shift+Enter", here=True),
        Action("Keys on the page", "", "Go to the region beside", lambda: None, "Arrows"),
        Action("Keys on the page", "", "Go by size, from the largest on", lambda: None, "Tab"),
        Action("Keys on the page", "", "Click in the region with the tool in hand", lambda: None, "Enter"),
        Action("Keys on the page", "", "Move the page", lambda: None, "Ctrl+arrows"),
        Action("Keys on the page", "Ctrl+Return", "Click with Ctrl", at(Mods.ControlModifier), "Ctrl+Enter", here=True),
        Action("Keys on the page", "Alt+Return", "Click with Alt", at(Mods.AltModifier), "Alt+Enter", here=True),
        Action("Look here", "Backspace", "Leave it", found.leave, here=True),
        Action("Help", "Ctrl+K", "Find an action", w.helping.find),
        Action("Help", "F1", "Manual", w.helping.manual),
        Action("Help", "Ctrl+,", "Settings", w.helping.settings),
        Action("Help", "?", "These keys", w.helping.keys),
        Action("Help", "", "Show the trouble report", w.helping.trouble),
        Action("Help", "", "Change keys", w.helping.change_keys),
    ]


def usual_keys(table: list[Action]) -> dict[str, str]:
    """Return the key of every action that can have another one."""
    return {one.name: one.key for one in table if one.can_change}


def with_keys(table: list[Action], keys: Mapping[str, str]) -> list[Action]:
    """Return a table in which some actions have other keys."""
    return [replace(one, key=keys[one.name], shown="") if one.can_change and one.name in keys else one for one in table]


def tool_keys(table: list[Action], keys: Mapping[str, str]) -> dict[str, str]:
    """Return the key of every tool by its usual one."""
    return {one.key: keys.get(one.name, one.key) for one in table if one.group == "Tools"}


def bind(window: QWidget, here: Sequence[QWidget], table: list[Action]) -> list[QAction]:
    """Give a window the keys of a table; `here` are the widgets that keys without a window's reach belong to."""
    made = []
    for one in table:
        if not one.key:
            continue
        action = QAction(tr(one.title), window)
        action.setShortcut(QKeySequence(one.key))
        action.triggered.connect(lambda _, done=one.done: done())
        if one.here:
            action.setShortcutContext(Qt.ShortcutContext.WidgetWithChildrenShortcut)
        for widget in here if one.here else (window,):
            widget.addAction(action)
        made.append(action)
    return made


def sheet_of(table: list[Action]) -> dict[str, list[tuple[str, str]]]:
    """Return the keys and titles of a table by group, for the sheet of keys."""
    groups: dict[str, list[tuple[str, str]]] = {}
    for one in table:
        if one.title and (one.key or one.shown):
            groups.setdefault(one.group, []).append((one.shown or one.key, one.title))
    return groups


def entries_of(table: list[Action]) -> list[tuple[str, str, str, Callable[[], object]]]:
    """Return group, title, key and what is done of everything that can be looked for."""
    return [
        (one.group, one.title, one.shown or one.key, one.done)
        for one in table
        if one.title and (one.key or not one.shown)
    ]
