"""What is in use in Shade: the pass in hand, the brush. Knows the easel; draws nothing."""

import msgspec

from drip_pot.book import verbs
from drip_pot.book.model import TONE, Pass
from drip_pot.core.errors import NothingDone
from drip_pot.desk.session.easel import Easel

WIDTHS = (2.0, 2000.0)


class Shading:
    """The pass in hand, and what is done with passes.

    Attributes
    ----------
    number : int
        The pass in hand.
    width_px, softness, flow : float
        The brush: how wide, which share falls off, how dense it is (0..1).
    """

    def __init__(self, easel: Easel) -> None:
        self.easel = easel
        self.number = TONE
        self.width_px, self.softness, self.flow = 160.0, 0.8, 0.6
        self._alone = 0
        easel.opened.connect(self._forget)

    def _forget(self) -> None:
        self.number, self._alone = TONE, 0

    def in_hand(self) -> tuple[int, Pass] | None:
        """Return the pass in hand; the first one where it is gone."""
        sources = self.easel.sources()
        if sources is None:
            return None
        number = self.number if self.number in sources.passes else TONE
        return number, sources.passes[number]

    def choose(self, number: int) -> None:
        """Take a pass in hand."""
        self.number = number
        self.easel.chosen.emit()

    def put(self, name: str, value: float) -> None:
        """Change the brush."""
        setattr(self, name, value)
        self.easel.chosen.emit()

    def widen(self, factor: float) -> None:
        """Make the brush wider, or finer."""
        self.width_px = min(max(round(self.width_px * factor), WIDTHS[0]), WIDTHS[1])
        self.easel.said.emit(f"Mist {self.width_px:g} px wide", False)
        self.easel.chosen.emit()

    def add(self) -> None:
        """Add a pass in the shadow colour of the pot in hand, and take it in hand."""
        ready = self.easel.ready()
        if ready is None:
            return
        pot = ready[0].pots().get(self.easel.pot or 0)
        color = "#5a4a78" if pot is None else ready[0].tone_pair(pot)[1]
        known = {one.name for one in ready[1].passes.values()}
        name = next(f"Pass {n}" for n in range(len(known) + 1, 10_000) if f"Pass {n}" not in known)
        made: list[int] = []
        if self.easel.do(lambda book, page: made.append(verbs.add_pass(book, page, name, color))):
            self.choose(made[0])

    def change(self, number: int | None = None, **values: object) -> None:
        """Change the pass in hand, or one of a number."""
        sources, held = self.easel.sources(), self.in_hand()
        if sources is None or held is None:
            return
        which = held[0] if number is None else number
        changed = msgspec.structs.replace(sources.passes[which], **values)
        self.easel.do(lambda book, page: verbs.set_pass(book, page, which, changed))

    def turn_eye(self, number: int) -> None:
        """Show a pass, or hide it."""
        sources = self.easel.sources()
        if sources is not None:
            self.change(number, shown=not sources.passes[number].shown)

    def solo(self, number: int) -> None:
        """Show a pass alone, or all of them again."""
        ready = self.easel.ready()
        if ready is None:
            return
        alone = [n for n, one in ready[1].passes.items() if one.shown] != [number]
        with ready[0].as_one():
            for n, one in ready[1].passes.items():
                if one.shown != (n == number or not alone):
                    self.change(n, shown=n == number or not alone)

    def move(self, number: int, step: int) -> None:
        """Move a pass so many places up."""
        self.easel.do(lambda book, page: verbs.move_pass(book, page, number, step))

    def remove(self, number: int) -> None:
        """Remove a pass."""
        self.easel.do(lambda book, page: verbs.remove_pass(book, page, number))

    def cut(self, points: list[tuple[float, float]], *, light: bool, only: int) -> None:
        """Cut a loop into the pass in hand, or out of it."""
        held = self.in_hand()
        if held is not None and self._is_seen(held[1]):
            into = held[0]
            self.easel.hands.start(
                lambda hand: verbs.cut_shade(hand, points, light=light, only=only, into=into), points
            )  # fmt: skip

    def mist(self, points: list[tuple[float, float, float]], *, away: bool, only: int) -> None:
        """Lay a soft stroke into the pass in hand, or take it away."""
        held = self.in_hand()
        if held is not None and self._is_seen(held[1]):
            into, wide, soft, flow = held[0], self.width_px, self.softness, self.flow
            self.easel.hands.start(
                lambda hand: verbs.mist_pass(hand, points, wide, soft, flow, away=away, only=only, into=into),
                [(row, col) for row, col, _ in points],
            )

    def _is_seen(self, one: Pass) -> bool:
        """Whether a pass is shown; a stroke in one that is not would be lost from sight, and is refused."""

        def refuse() -> None:
            if not one.shown:
                raise NothingDone(f"The pass {one.name} is hidden. Click its eye to paint in it.")

        return self.easel.trying(refuse)
