# SPDX-License-Identifier: GPL-3.0-or-later
"""How three works of the demo book are finished in the stack: light and colour over their flats. Knows verbs only."""

from contextlib import suppress

from drip_pot.book import verbs
from drip_pot.book.hand import Hand
from drip_pot.book.lamps import staged, suggestions
from drip_pot.book.values import SHADE_CUTS, Lamp
from drip_pot.book.where import Scope
from drip_pot.core.errors import NothingDone
from drip_pot.core.render import Finish, Form, Ramp, Stop
from drip_pot.core.shade import fitted

Place = tuple[float, float]
"""Row and column as shares of the page."""


def finish(hand: Hand, name: str) -> None:
    """Finish one of `FINISHED` by its short name."""
    FINISHED[name](_Light(hand))


class _Light:
    """Light laid on a page."""

    def __init__(self, hand: Hand) -> None:
        self.hand = hand
        book = hand.book
        self._pots = {pot.name: number for number, pot in book.pots().items()}
        self._parts = {part.name: number for number, part in book.parts().items()}

    def pots(self, *names: str) -> Scope:
        return Scope(pots=tuple(self._pots[name] for name in names))

    def parts(self, *names: str) -> Scope:
        return Scope(parts=tuple(self._parts[name] for name in names))

    def at(self, place: Place) -> tuple[float, float]:
        rows, cols = self.hand.shape
        return place[0] * rows, place[1] * cols

    def ramp(
        self, name: str, mode: str, strength: float, scope: Scope, start: Place, end: Place, *stops: tuple[float, str, float],
        form: Form = "linear",
    ) -> None:  # fmt: skip
        """Lay a ramp: from `start` to `end`, stops of place, colour and cover."""
        run = Ramp(self.at(start), self.at(end), tuple(Stop(*stop) for stop in stops), form)
        verbs.add_pass(self.hand.book, self.hand.page, name, "#000000", mode, strength, scope, ramp=run)

    def glow(self, name: str, color: str, scope: Scope, middle: Place, reach: float, strength: float = 0.9) -> None:
        """Lay a round glow; `reach` is a share of the page's rows."""
        rim = middle[0] + reach, middle[1]
        self.ramp(name, "screen", strength, scope, middle, rim,
                  (0.0, color, 1.0), (0.45, color, 0.42), (1.0, color, 0.0), form="radial")  # fmt: skip

    def rim(self, name: str, color: str, lamp: Place, part: str, panel: int) -> None:
        """Light the edges of a part in a panel from behind: all of it, less what turns away."""
        hand, found = self.hand, staged(self.hand)
        part_number = self._parts[part]
        regions = [k for k in found.forms if found.scene.part[k] == part_number and found.scene.panel[k] == panel]
        if not regions:
            return
        only = found.scene.panel == panel
        row, col = self.at(lamp)
        made = suggestions(found, {1: Lamp(row, col, panel, height=0.1, back=True)}, only)
        turned = [(k, loop) for k, loop, light, _ in made if k in regions and not light]
        if not turned:  # at a resolution at which all of it is too small
            return
        atoms = {a for k, _ in turned for a in found.atoms[k]}
        number = verbs.add_pass(hand.book, hand.page, name, color, "screen", 0.6, Scope(parts=(part_number,)))
        verbs.fill_pass(hand, atoms, into=number)
        for region, loop in turned:
            knots = fitted(loop, 0.8 * found.step)
            with suppress(NothingDone):  # at a resolution at which it lies between pixels
                verbs.cut_shade(hand, [], light=True, into=number, only=found.atoms[region][0], knots=knots)

    def key(self, row: float, col: float, *calm: str) -> None:
        """Place the key light and keep what it suggests; some parts are left alone."""
        book, page = self.hand.book, self.hand.page
        for part in calm:
            verbs.leave_calm(book, page, self._parts[part], calm=True)
        verbs.set_lamp(book, page, Lamp(*self.at((row, col))))
        verbs.suggest_cuts(self.hand)
        verbs.keep_cuts(self.hand, set(self.hand.sources[SHADE_CUTS]))

    def correct(self, name: str, finish: Finish, strength: float = 1.0) -> None:
        """Correct everything below."""
        verbs.add_pass(self.hand.book, self.hand.page, name, "#000000", "normal", strength, finish=finish)


def _day(light: _Light) -> None:
    light.ramp("Deep sky", "multiply", 0.8, light.pots("Air"), (0.03, 0.5), (0.3, 0.5),
               (0.0, "#5b93cf", 0.75), (0.55, "#9cc6e6", 0.3), (1.0, "#ffffff", 0.0))  # fmt: skip
    light.ramp("Haze", "screen", 0.55, light.parts("Distance"), (0.33, 0.5), (0.22, 0.5),
               (0.0, "#dfeaf0", 0.7), (1.0, "#dfeaf0", 0.1))  # fmt: skip
    light.ramp("Bounce", "screen", 0.5, light.parts("Wren"), (0.40, 0.5), (0.24, 0.5),
               (0.0, "#e8843c", 0.0), (0.12, "#e8843c", 0.75), (1.0, "#e8843c", 0.0))  # fmt: skip
    light.glow("Burst", "#fff6c8", light.pots("Flash"), (0.56, 0.72), 0.2, 0.75)
    light.ramp("Evening", "multiply", 0.6, light.pots("Dusk"), (0.70, 0.5), (0.86, 0.5),
               (0.0, "#c86f7c", 0.8), (1.0, "#ffffff", 0.0))  # fmt: skip
    light.glow("Low sun", "#ffb44a", light.pots("Dusk", "Sun", "Band", "Hill", "Far roof"), (0.83, 0.77), 0.16, 0.7)
    light.glow("From the window", "#fff2c8", Scope(panels=(4,)), (0.76, 0.12), 0.2, 0.45)


def _storm(light: _Light) -> None:
    night = "#26346e"
    light.ramp("Night", "multiply", 0.7, light.parts("Wren", "Bram", "Kites", "Rooftops"), (0.0, 0.5), (1.0, 0.5),
               (0.0, "#8fa0dc", 0.7), (1.0, "#8fa0dc", 0.55))  # fmt: skip
    light.ramp("Heavy sky", "multiply", 0.8, light.parts("Storm"), (0.03, 0.5), (0.3, 0.5),
               (0.0, night, 0.7), (1.0, "#ffffff", 0.0))  # fmt: skip
    for place, col in (("left", 0.14), ("right", 0.89)):
        light.glow(f"Lightning {place}", "#cfdcff", Scope(panels=(1,)), (0.14, col), 0.13, 0.8)
    light.glow("Struck", "#fff8dc", light.parts("Storm"), (0.57, 0.71), 0.2, 0.85)
    light.glow("Street lamp", "#ffc766", Scope(panels=(5,)), (0.815, 0.885), 0.17, 0.85)
    light.glow("Lit window", "#ffb950", Scope(panels=(5,)), (0.86, 0.665), 0.15, 0.6)
    light.rim("Rim", "#bcd2ff", (0.02, 0.02), "Wren", 1)
    light.rim("Rim below", "#9db6ff", (0.72, 0.02), "Wren", 4)


def _cover(light: _Light) -> None:
    light.key(0.02, 0.9, "Sky", "Distance")
    light.ramp("Deep sky", "multiply", 0.75, light.parts("Sky"), (0.0, 0.5), (0.52, 0.5),
               (0.0, "#4f7fc8", 0.85), (1.0, "#ffffff", 0.0))  # fmt: skip
    light.ramp("Haze", "screen", 0.6, light.parts("Distance"), (0.70, 0.5), (0.48, 0.5),
               (0.0, "#f2e4c8", 0.0), (1.0, "#f2e4c8", 0.7))  # fmt: skip
    light.glow("Sunrise", "#ffe39a", light.parts("Sky", "Distance", "Clouds"), (0.54, 0.5), 0.36, 0.75)
    light.ramp("Bounce", "screen", 0.25, light.parts("Wren"), (1.0, 0.5), (0.62, 0.5),
               (0.0, "#d8703c", 0.8), (1.0, "#d8703c", 0.0))  # fmt: skip
    light.correct("Finish", Finish(shadows=-0.25, lights=0.2, chroma=1.08))


FINISHED = {"page-1": _day, "page-4": _storm, "cover": _cover}
"""What is done to each work that is finished."""
