# SPDX-License-Identifier: GPL-3.0-or-later
"""The inspector's block of halftone screens, one plate at a time. Writes to the book through the easel."""

import msgspec

from drip_pot.book import verbs
from drip_pot.book.values import PRESS
from drip_pot.core.press import Dot, PressSettings, Screen
from drip_pot.desk.parts.widgets import Block, Choice, NumberRow
from drip_pot.desk.session.easel import Easel
from drip_pot.desk.stages.press.plate_choice import PlateChoice, spots_here
from drip_pot.words import tr

_LEAST = 20

_DOTS: dict[Dot, str] = {"round": "Round", "ellipse": "Ellipse", "line": "Line"}


class ScreenBlock(Block):
    """Ruling, angle and dot of a plate."""

    def __init__(self, easel: Easel) -> None:
        super().__init__("Screens")
        self.easel = easel
        self.plate = PlateChoice(easel, "Plate whose screen is set")
        self.plate.chosen.connect(self.refresh)
        self.angle = NumberRow("Angle", 0, 180, 1, "°")
        self.angle.done.connect(lambda v: self._put(angle_deg=v))
        self.ruling = NumberRow("Ruling (0: the press's)", 0, 300, 1, "lpi")
        self.ruling.done.connect(lambda v: self._put(lpi=0.0 if v < _LEAST else v))
        self.dot = Choice("Shape of the dot", list(_DOTS.values()), 3)
        self.dot.chosen.connect(lambda word: self._put(dot=next(dot for dot, said in _DOTS.items() if said == word)))
        for part in (self.plate, self.angle, self.ruling, self.dot):
            self.add(part)

    def _press(self) -> PressSettings | None:
        sources = self.easel.sources()
        return None if sources is None else sources[PRESS]

    def _put(self, **values: object) -> None:
        press = self._press()
        if press is not None:
            screen = msgspec.structs.replace(self._screen(press), **values)
            changed = press.with_screen(self.plate.place, screen, spots_here(self.easel))
            self.easel.do(lambda book, page: verbs.set_press(book, page, changed))

    def _screen(self, press: PressSettings) -> Screen:
        return press.screens_of(spots_here(self.easel))[self.plate.place]

    def refresh(self) -> None:
        """Show the screen of the plate chosen."""
        press = self._press()
        if press is None:
            return
        self.plate.refresh()
        one = self._screen(press)
        self.angle.show_value(one.angle_deg)
        self.ruling.show_value(one.lpi)
        self.dot.show_choice(_DOTS[one.dot])
        self.note.setText(tr("{0:g} lpi; see them with the chip Dots", one.lpi or press.press.ruling_lpi))
