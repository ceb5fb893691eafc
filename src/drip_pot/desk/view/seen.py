"""What is seen of the page: the switches that chips and keys turn. Knows nothing of what they mean."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass

from PyQt6.QtCore import QObject, pyqtSignal

ALL_PLATES = (True, True, True, True)


class Seen(QObject):
    """Switches by name; one nobody has declared is off.

    Signals
    -------
    changed()
        A switch was turned.
    """

    changed = pyqtSignal()

    def __init__(self, flags: Mapping[str, bool], parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._flags = dict(flags)
        self.plates = ALL_PLATES

    def __getitem__(self, name: str) -> bool:
        return self._flags.get(name, False)

    def __setitem__(self, name: str, on: bool) -> None:
        if self[name] != on:
            self._flags[name] = on
            self.changed.emit()

    def flags(self) -> dict[str, bool]:
        """Return all switches."""
        return dict(self._flags)

    def turn_all(self, flags: Mapping[str, bool]) -> None:
        """Turn switches as they were."""
        self._flags |= flags
        self.changed.emit()

    def flip(self, name: str) -> None:
        """Turn a switch."""
        self[name] = not self[name]

    def show_plates(self, plates: tuple[bool, bool, bool, bool]) -> None:
        """Show some of the plates."""
        self.plates = plates
        self.changed.emit()


@dataclass(frozen=True)
class Chip:
    """A switch over the canvas: its name, whether it is on, what it shows, what a click does."""

    name: str
    on: bool
    tip: str
    done: Callable[[], object]


def flag(seen: Seen, name: str, field_: str, tip: str) -> Chip:
    """Return a chip that turns a switch."""
    return Chip(name, seen[field_], tip, lambda: seen.flip(field_))
