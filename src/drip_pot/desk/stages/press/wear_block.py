# SPDX-License-Identifier: GPL-3.0-or-later
"""The inspector's block of old stock: presets, and steps, each with an eye. Writes to the book through the easel."""

from functools import partial

import msgspec
from PyQt6.QtCore import QSize
from PyQt6.QtWidgets import QComboBox, QHBoxLayout, QLabel, QMenu, QPushButton, QToolButton, QVBoxLayout, QWidget

from drip_pot.book import verbs
from drip_pot.book.values import WEAR
from drip_pot.core.press import INK_WEAR, PRESETS, WEAR_KINDS, WORN_INKS, Wear, WearKind, WearStep, WornInk
from drip_pot.desk.parts import icons, theme
from drip_pot.desk.parts.widgets import Block, NumberRow, button
from drip_pot.desk.session.easel import Easel
from drip_pot.desk.stages.press.rubbing import Rubbing
from drip_pot.words import listed, tr

_TITLES: dict[WearKind, str] = {
    "register": "Plates astray", "thin": "Thin edges", "spread": "Ink spread", "screen": "Halftone dots",
    "fade": "Faded ink", "mottle": "Uneven ink", "scratches": "Scratches", "folds": "Folds", "warmth": "Warm black",
    "age": "Brown edges", "yellowing": "Yellow paper", "stains": "Stains", "grain": "Rough paper",
    "white": "White again",
}  # fmt: skip
_INKS: dict[WornInk, str] = {
    "cyan": "Cyan", "magenta": "Magenta", "yellow": "Yellow", "black": "Black in colours", "line": "Black line",
    "spots": "Inks beside the four",
}  # fmt: skip


class WearRow(QWidget):
    """A step of wear: an eye, its value, and a menu of what it works on."""

    def __init__(self, easel: Easel, step: WearStep) -> None:
        super().__init__()
        self.easel, self.step = easel, step
        self.eye = QToolButton()
        self.eye.setCheckable(True)
        self.eye.setIconSize(QSize(18, 18))
        self.eye.setIcon(icons.icon("eye", theme.bench().text, 18))
        self.eye.clicked.connect(lambda on: self._put(on=on))
        screen = step.kind == "screen"
        self.value = NumberRow(_TITLES[step.kind], 20, 200, 1, "lpi") if screen else NumberRow(
            _TITLES[step.kind], 0, 100, 1, "%")  # fmt: skip
        self.value.done.connect(lambda v: self._put(value=v if screen else v / 100))
        self.more = QToolButton()
        self.more.setText("⋯")
        self.more.setAccessibleName(tr("More of {0}", tr(_TITLES[step.kind])))
        self.more.setToolTip(tr("Its inks, rubbing it out, taking it away"))
        self.more.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        self.menu = QMenu(self.more)
        self.menu.aboutToShow.connect(self.list_menu)
        self.more.setMenu(self.menu)
        line = QHBoxLayout(self)
        line.setContentsMargins(0, 0, 0, 0)
        line.setSpacing(4)
        line.addWidget(self.eye)
        line.addWidget(self.value, 1)
        line.addWidget(self.more)

    def list_menu(self) -> None:
        """List what can be done with the step."""
        self.menu.clear()
        if self.step.kind in INK_WEAR:
            for ink in WORN_INKS:
                found = self.menu.addAction(tr(_INKS[ink]), partial(self._turn_ink, ink))
                if found is not None:
                    found.setCheckable(True)
                    found.setChecked(self.step.wears(ink))
            self.menu.addSeparator()
        self.menu.addAction(tr("Rub out this step alone"), self._rub)
        self.menu.addAction(tr("Take away"), self._remove)

    def _put(self, **values: object) -> None:
        step = msgspec.structs.replace(self.step, **values)
        self.easel.do(lambda book, page: verbs.set_wear_step(book, page, step))

    def _turn_ink(self, ink: WornInk) -> None:
        left = tuple(one for one in WORN_INKS if self.step.wears(one) != (one == ink))
        if not left:
            self.easel.said.emit(tr("A step works on one ink at least. Its eye switches it off."), False)
            return
        self._put(inks=left)

    def _rub(self) -> None:
        self.easel.own(Rubbing).step = self.step.number
        self.easel.choose_tool("Rub out")
        self.easel.chosen.emit()

    def _remove(self) -> None:
        self.easel.do(lambda book, page: verbs.remove_wear(book, page, self.step.number))

    def show_step(self, step: WearStep) -> None:
        """Show the step as it is now."""
        self.step = step
        self.eye.setChecked(step.on)
        self.eye.setIcon(icons.icon("eye", theme.bench().text if step.on else theme.bench().line, 18))
        title = tr(_TITLES[step.kind])
        self.eye.setToolTip(tr("{0} is done; a click switches it off", title) if step.on else tr("{0} is off", title))
        self.eye.setAccessibleName(tr("{0} on or off", title))
        self.value.setEnabled(step.on)
        self.value.show_value(step.value if step.kind == "screen" else step.value * 100)
        inks = listed([tr(_INKS[ink]) for ink in step.inks])
        self.value.name.setText(tr("{0}: {1}", title, inks) if inks else title)


class WearBlock(Block):
    """Presets, and every step of wear."""

    def __init__(self, easel: Easel) -> None:
        super().__init__("Old stock")
        self.easel = easel
        self.preset = QComboBox()
        self.preset.setAccessibleName(tr("Old stock by name"))
        self.preset.addItems([*(tr(name) for name in PRESETS), tr("Own")])
        self.preset.activated.connect(self._choose)
        self.again = button("Another sheet", self._another, "The same wear on another sheet of the pile")
        self.row(self.preset, self.again)
        self.adding = QPushButton(tr("Add a step"))
        self.adding.setAccessibleName(tr("Add a step of wear"))
        kinds = QMenu(self.adding)
        for kind in WEAR_KINDS:
            kinds.addAction(tr(_TITLES[kind]), partial(self.add_step, kind))
        self.adding.setMenu(kinds)
        self.all_steps = button("Rub out all", self._rub_all, "The brush Rub out works on every step again")
        self.row(self.adding, self.all_steps)
        self.rubs = QLabel()
        self.rubs.setProperty("role", "muted")
        self.rubs.setWordWrap(True)
        self.add(self.rubs)
        self.rows: dict[int, WearRow] = {}
        self._list = QVBoxLayout()
        self._list.setSpacing(4)
        self.column.addLayout(self._list)

    def _wear(self) -> Wear | None:
        sources = self.easel.sources()
        return None if sources is None else sources[WEAR]

    def add_step(self, kind: WearKind) -> None:
        """Add a step of a kind."""
        self.easel.do(lambda book, page: verbs.add_wear(book, page, kind))

    def _choose(self, place: int) -> None:
        if place < len(PRESETS):
            self.easel.do(lambda book, page: verbs.age_page(book, page, list(PRESETS)[place]))

    def _another(self) -> None:
        wear = self._wear()
        if wear is not None:
            other = msgspec.structs.replace(wear, seed=wear.seed % 9999 + 1)
            self.easel.do(lambda book, page: verbs.set_wear(book, page, other))

    def _rub_all(self) -> None:
        self.easel.own(Rubbing).step = 0
        self.easel.chosen.emit()

    def refresh(self) -> None:
        """Show the wear of the page."""
        wear = self._wear()
        if wear is None:
            return
        alike = [preset.steps for preset in PRESETS.values()]
        self.preset.setCurrentIndex(alike.index(wear.steps) if wear.steps in alike else len(PRESETS))
        steps = sorted(wear.steps, key=lambda step: WEAR_KINDS.index(step.kind))
        if [(row.step.number, row.step.kind) for row in self.rows.values()] != [(s.number, s.kind) for s in steps]:
            self._list_steps(steps)
        for step in steps:
            self.rows[step.number].show_step(step)
        rubbing = self.easel.own(Rubbing)
        if rubbing.step and rubbing.step not in self.rows:
            rubbing.step = 0
        alone = tr(_TITLES[self.rows[rubbing.step].step.kind]) if rubbing.step else ""
        self.rubs.setText(tr("Rub out takes {0} away alone", alone) if alone else "")
        self.rubs.setVisible(bool(alone))
        self.all_steps.setVisible(bool(alone))
        self.note.setText("" if wear.is_new else tr("sheet {0}; see it with the chip Old stock", wear.seed))

    def _list_steps(self, steps: list[WearStep]) -> None:
        for row in self.rows.values():
            self._list.removeWidget(row)
            row.deleteLater()
        self.rows = {step.number: WearRow(self.easel, step) for step in steps}
        for row in self.rows.values():
            self._list.addWidget(row)
