"""Help: the manual, the sheet of keys, any action found by its name. Knows the easel and the table of actions."""

from PyQt6.QtWidgets import QWidget

from drip_pot.desk.dialogs.find_action import Entry, FindAction
from drip_pot.desk.dialogs.keys import Keys
from drip_pot.desk.dialogs.manual import Manual
from drip_pot.desk.session.easel import Easel


class Helping:
    """What helps; `entries` and `sheet` are given once the window knows what can be done."""

    def __init__(self, window: QWidget, easel: Easel) -> None:
        self.window, self.easel = window, easel
        self.entries: list[Entry] = []
        self.sheet: dict[str, list[tuple[str, str]]] = {}

    def manual(self) -> None:
        """Show the manual, open at the stage in use."""
        Manual(self.window, self.easel.stage if self.easel.page else "Begin").show()

    def keys(self) -> None:
        """Show the sheet of keys."""
        Keys(self.window, self.sheet).show()

    def find(self) -> None:
        """Find anything that can be done, and do it."""
        FindAction(self.window, self.entries).exec()
