# SPDX-License-Identifier: GPL-3.0-or-later
"""What is seen of the page: the switches that chips and keys turn. Knows nothing of what they mean."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass

from PyQt6.QtCore import QObject, pyqtSignal

from drip_pot.desk.session.easel import Easel
from drip_pot.words import tr, tr_many

STEPS = (3, 4, 5)
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
        self.plates: tuple[bool, ...] = ALL_PLATES
        self.line_share = 1.0

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

    @property
    def steps(self) -> int:
        """In how many steps values are shown; 0 is smoothly."""
        return next((n for n in STEPS if self[f"steps {n}"]), 0)

    def next_steps(self) -> None:
        """Show values in three steps, then in four, in five, and smoothly again."""
        now = self.steps
        self._flags |= {f"steps {n}": n == (STEPS[0] if not now else now + 1) for n in STEPS}
        self._flags["values"] = self.steps > 0
        self.changed.emit()

    def show_line(self, share: float) -> None:
        """Show the line so strongly, 0..1, as for tracing."""
        self.line_share = share
        self.changed.emit()

    def show_plates(self, plates: tuple[bool, ...]) -> None:
        """Show some of the plates."""
        self.plates = plates
        self.changed.emit()


@dataclass(frozen=True)
class Chip:
    """A switch over the canvas: its name, whether it is on, what it shows, what a click does.

    Where it has a `share`, 0..1, a slider beside it sets that by `put`.
    """

    name: str
    on: bool
    tip: str
    done: Callable[[], object]
    share: float | None = None
    put: Callable[[float], object] = lambda _: None


def values_chips(seen: Seen) -> list[Chip]:
    """Return the chips of ways to judge light and dark."""
    steps = tr("{0} steps", seen.steps) if seen.steps else "Steps"
    return [
        flag(seen, "Values", "values", "Lightness alone, in grey (V)"),
        Chip(steps, seen.steps > 0, "Values in three, four or five steps (Shift+V)", seen.next_steps),
        flag(seen, "Squint", "squint", "Without detail, as with half-closed eyes (Shift+Q)"),
        flag(seen, "Alone", "alone", "The part of the pot in hand, or what is picked; all else dimmed (Shift+A)"),
    ]


def pick_chips(easel: Easel) -> list[Chip]:
    """Return the chip that says what work is confined to; a click frees it."""
    view, picked = easel.view, easel.picked
    if not picked or view is None or view.flat is None:
        return []
    region = view.flat.partition.region
    count = len({int(region[atom]) for atom in picked if atom < len(region)})
    said = tr_many("in one region  ×", "in {0} regions  ×", count, count)
    return [Chip(said, True, "Tools of every stage work in what is picked alone. A click, or Escape, lets it go.",
                 lambda: easel.pick(set()))]  # fmt: skip


def lines_chip(seen: Seen) -> Chip:
    """Return the chip that shows the line over the colour, as strongly as its slider says."""
    return Chip("Lines", seen["lines"], "The line over the colour (I)", lambda: seen.flip("lines"), seen.line_share,
                seen.show_line)  # fmt: skip


def flag(seen: Seen, name: str, field_: str, tip: str) -> Chip:
    """Return a chip that turns a switch."""
    return Chip(name, seen[field_], tip, lambda: seen.flip(field_))
