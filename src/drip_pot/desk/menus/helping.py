"""Help and settings: the manual, keys, any action found by its name. Knows the easel and the table of actions."""

from collections.abc import Callable

from PyQt6.QtCore import QSettings
from PyQt6.QtWidgets import QWidget

from drip_pot.desk.dialogs.find_action import Entry, FindAction
from drip_pot.desk.dialogs.keys import Keys
from drip_pot.desk.dialogs.manual import Manual
from drip_pot.desk.dialogs.settings import Settings, pen_power
from drip_pot.desk.parts import theme
from drip_pot.desk.session.easel import Easel


class Helping:
    """What helps; `entries` and `sheet` are given once the window knows what can be done."""

    def __init__(
        self, window: QWidget, easel: Easel, store: QSettings, switch_bench: Callable[..., object]
    ) -> None:  # fmt: skip
        self.window, self.easel, self._store, self._switch_bench = window, easel, store, switch_bench
        easel.pen_power = pen_power(store)
        self.entries: list[Entry] = []
        self.sheet: dict[str, list[tuple[str, str]]] = {}

    def manual(self) -> None:
        """Show the manual, open at the stage in use."""
        Manual(self.window, self.easel.stage if self.easel.page else "Begin").show()

    def keys(self) -> None:
        """Show the sheet of keys."""
        Keys(self.window, self.sheet).show()

    def settings(self) -> None:
        """Show the settings."""
        Settings(self.window, self._store, self._settle).exec()

    def _settle(self) -> None:
        """Do as the settings say."""
        self.easel.pen_power = pen_power(self._store)
        wanted = str(self._store.value("bench", "") or "")
        dim = wanted == "dim" or (not wanted and theme.desktop_is_dark())
        if theme.bench() is not (theme.DIM if dim else theme.LIGHT):
            self._switch_bench(keep=False)

    def find(self) -> None:
        """Find anything that can be done, and do it."""
        FindAction(self.window, self.entries).exec()
