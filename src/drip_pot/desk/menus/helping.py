# SPDX-License-Identifier: GPL-3.0-or-later
"""Help and settings: the manual, keys, any action found by its name. Knows the easel and the table of actions."""

from collections.abc import Callable

from PyQt6.QtCore import QSettings
from PyQt6.QtWidgets import QMenu, QWidget

from drip_pot.book.store import keep_decoded
from drip_pot.desk.dialogs.find_action import Entry, FindAction
from drip_pot.desk.dialogs.keys import Keys
from drip_pot.desk.dialogs.manual import Manual
from drip_pot.desk.dialogs.own_keys import ChangeKeys
from drip_pot.desk.dialogs.settings import (
    CONDITION_TITLES,
    MEMORY,
    MEMORY_BYTES,
    Settings,
    folder_of,
    one_of,
    pen_power,
)
from drip_pot.desk.dialogs.trouble import Trouble
from drip_pot.desk.memory import copies_folder
from drip_pot.desk.parts import theme
from drip_pot.desk.parts.lengths import UNIT, UNITS
from drip_pot.desk.parts.own_keys import OwnKeys
from drip_pot.desk.session.easel import Easel
from drip_pot.desk.trouble import reports
from drip_pot.words import tr


class Helping:
    """What helps; `entries` and `sheet` are given once the window knows what can be done."""

    def __init__(
        self, window: QWidget, easel: Easel, store: QSettings, switch_bench: Callable[..., object]
    ) -> None:  # fmt: skip
        self.window, self.easel, self._store, self._switch_bench = window, easel, store, switch_bench
        self._obey()
        self.entries: list[Entry] = []
        self.sheet: dict[str, list[tuple[str, str]]] = {}
        self.usual: dict[str, str] = {}
        self.own_keys = OwnKeys(store)
        self.rekeyed: Callable[[], object] = lambda: None
        self.demo: Callable[[], object] = lambda: None
        self.controls: Callable[[], list[Entry]] = list

    def manual(self) -> None:
        """Show the manual, open at the stage in use."""
        Manual(self.window, self.easel.stage if self.easel.page else "Begin").show()

    def keys(self) -> None:
        """Show the sheet of keys."""
        Keys(self.window, self.sheet).show()

    def popup(self, at: QWidget) -> None:
        """Show what helps, and the settings."""
        menu = QMenu(self.window)
        for words, done in (
            ("Manual", self.manual), ("Keys", self.keys), ("Find an action", self.find),
            ("Settings", self.settings), ("What went wrong last", self.trouble),
        ):  # fmt: skip
            menu.addAction(tr(words), done)
        menu.addSeparator()
        menu.addAction(tr("Open the demo book"), self.demo)
        menu.popup(at.mapToGlobal(at.rect().bottomLeft()))

    def change_keys(self) -> None:
        """Let keys be changed."""
        ChangeKeys(self.window, self.own_keys, self.usual, self.rekeyed).exec()

    def trouble(self) -> None:
        """Show the newest report of what went wrong."""
        kept = reports()
        if not kept:
            self.easel.said.emit("Nothing went wrong so far; there is no report.", False)
            return
        Trouble(self.window, kept[0].read_text(encoding="utf-8", errors="replace"), str(kept[0])).show()

    def settings(self) -> None:
        """Show the settings."""
        Settings(self.window, self._store, self._settle, self.change_keys).exec()

    def _obey(self) -> None:
        """Do as the settings say of the pen, memory and books."""
        self.easel.pen_power = pen_power(self._store)
        self.easel.usual_folder = folder_of(self._store)
        UNIT.use(one_of(self._store.value("unit", ""), UNITS))
        keep_decoded(MEMORY_BYTES[one_of(self._store.value("memory", ""), MEMORY)])
        self.easel.opening.condition = one_of(self._store.value("condition", ""), CONDITION_TITLES)
        self.easel.opening.copies = copies_folder() if self._store.value("copies", "") == "daily" else None

    def _settle(self) -> None:
        """Do as the settings say."""
        self._obey()
        wanted = str(self._store.value("bench", "") or "")
        dim = wanted == "dim" or (not wanted and theme.desktop_is_dark())
        if theme.bench() is not (theme.DIM if dim else theme.LIGHT):
            self._switch_bench(keep=False)

    def find(self) -> None:
        """Find anything that can be done, and do it."""
        FindAction(self.window, [*self.entries, *self.controls()], self.easel.stage).exec()
