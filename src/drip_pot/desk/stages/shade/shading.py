# SPDX-License-Identifier: GPL-3.0-or-later
"""What is in use in Shade: the pass in hand, the brush. Knows the easel; draws nothing."""

from collections.abc import Callable
from pathlib import Path
from typing import Any, Literal

import msgspec

from drip_pot.book import verbs
from drip_pot.book.hand import Hand
from drip_pot.book.values import PASSES, TONE, Pass
from drip_pot.book.where import Scope
from drip_pot.core.errors import NothingDone
from drip_pot.core.render import Finish, Form, Ramp, Stop, ToneRamp
from drip_pot.desk.session.easel import Easel
from drip_pot.desk.stages.scoping import Scoping
from drip_pot.desk.view.tool import Mods, kept_in
from drip_pot.words import tr

WIDTHS = (2.0, 2000.0)


class Shading(Scoping):
    """The pass in hand, and what is done with passes.

    Attributes
    ----------
    number : int
        The pass in hand.
    width_px, softness, flow : float
        The brush: how wide, which share falls off, how dense it is (0..1).
    """

    def __init__(self, easel: Easel) -> None:
        super().__init__(easel)
        self.number = TONE
        self.width_px, self.softness, self.flow = 160.0, 0.8, 0.6
        self._strokes = 0
        easel.opened.connect(self._forget)

    def _forget(self) -> None:
        self.number = TONE

    def in_hand(self) -> tuple[int, Pass] | None:
        """Return the pass in hand; the first one where it is gone."""
        sources = self.easel.sources()
        if sources is None:
            return None
        number = self.number if self.number in sources[PASSES] else TONE
        return number, sources[PASSES][number]

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
        self.easel.said.emit(tr("The brush is {0:g} px wide", self.width_px), False)
        self.easel.chosen.emit()

    def add(self) -> None:
        """Add a pass in the shadow colour of the pot in hand, and take it in hand."""
        self._added("Pass", color=self._shadow())

    def add_ramp(self) -> None:
        """Add a ramp down the page, from the shadow of the pot in hand to nothing, and take it in hand."""
        view = self.easel.view
        if view is not None:
            rows, cols = view.shape
            self._run((0.1 * rows, cols / 2), (0.9 * rows, cols / 2), "linear")

    def add_finish(self) -> None:
        """Add a pass that corrects what lies below, and take it in hand."""
        self._added("Finish", finish=Finish(), mode="normal", strength=1.0)

    def add_values(self) -> None:
        """Add a pass that colours what lies below by its values, in the part of the pot in hand."""
        stops = Stop(0.0, self._shadow()), Stop(0.5, "#b08a7a"), Stop(1.0, "#fff4e0")
        self._added("Tone ramp", values=ToneRamp(stops), mode="normal", strength=1.0, scope=self._part())

    def add_glaze(self) -> None:
        """Add a grey painting with the local colours glazed over it, and take its first dark in hand."""
        made: list[int] = []
        scope = self._part()
        if self.easel.do(lambda book, page: made.extend(verbs.add_glaze(book, page, scope))):
            self.choose(made[1])

    def add_ambient(self, use: Literal["shadow", "bounce"]) -> None:
        """Lay the colour round the part of the pot in hand over it, and take that pass in hand."""
        scope, made = self._part(), list[int]()
        if not scope.parts:
            self.easel.said.emit("Take a pot in hand first: the colour round its part is laid over that.", False)
        elif self.easel.do_here(lambda hand: made.append(verbs.ambient_pass(hand, scope.parts[0], use))):
            self.choose(made[0])

    def add_picture(self, path: Path) -> None:
        """Lay a picture over the page, and take it in hand with the tool that moves it."""

        def laid(original: int, size: tuple[int, int]) -> None:
            made: list[int] = []

            def verb(hand: Hand) -> None:
                scope = Scope(panels=(hand.within,)) if hand.within else Scope(spots=hand.spots_of(hand.picked))
                number = verbs.place_picture(hand.book, hand.page, original, size, path.stem, scope)
                hand.book.pictures(verbs.known_picture(hand.book, hand.page, number))  # so that it is there to be drawn
                made[:] = [number]

            def then() -> None:
                if made:
                    self.number = made[0]
                    self.easel.choose_tool("Place")
                    self.easel.chosen.emit()

            self.easel.hands.start(verb, then=then)

        self.easel.opening.take_picture(path, laid)

    def _part(self) -> Scope:
        """Return the part of the pot in hand as a scope; everywhere where there is none."""
        book, pot = self.easel.book, self.easel.pot
        known = {} if book is None else book.pots()
        return Scope(parts=(known[pot].part,)) if pot in known and pot is not None else Scope()

    def copy(self, to: int | None = None) -> None:
        """Copy the pass in hand, on this page or to another one."""
        held, made = self.in_hand(), list[int]()
        if held is not None and self.easel.do(
            lambda book, page: made.append(verbs.copy_pass(book, page, held[0], to))
        ):  # fmt: skip
            if to is None or to == self.easel.page:
                self.choose(made[0])
            elif self.easel.book is not None:
                there = self.easel.book.pages()[to].name
                self.easel.said.emit(tr("{0} was copied to {1}.", held[1].name, there), False)

    def join(self) -> None:
        """Join the pass in hand with the one below it."""
        held = self.in_hand()
        if held is not None:
            order = list(self.easel.sources()[PASSES])  # type: ignore[index]
            below, number = order[max(order.index(held[0]) - 1, 0)], held[0]

            def then() -> None:
                if number not in self.easel.sources()[PASSES]:  # type: ignore[index]
                    self.choose(below)

            self.easel.hands.start(lambda hand: verbs.join_pass(hand, number), then=then)

    def run(self, start: tuple[float, float], end: tuple[float, float], *, radial: bool) -> None:
        """Move the handles of the ramp in hand, or lay a new one."""
        held = self.in_hand()
        if held is None or held[1].ramp is None:
            self._run(start, end, "radial" if radial else "linear")
        else:
            form = "radial" if radial else held[1].ramp.form
            self.change(ramp=msgspec.structs.replace(held[1].ramp, start=start, end=end, form=form))

    def run_along(self, line: tuple[tuple[float, float], ...]) -> None:
        """Let the ramp in hand run along a line, or lay a new one that does."""
        held = self.in_hand()
        if held is None or held[1].ramp is None:
            self._run(line[0], line[-1], "along", line[1:-1])
        else:
            ramp = msgspec.structs.replace(held[1].ramp, start=line[0], end=line[-1], form="along", path=line[1:-1])
            self.change(ramp=ramp)

    def _run(
        self, start: tuple[float, float], end: tuple[float, float], form: Form,
        path: tuple[tuple[float, float], ...] = (),
    ) -> None:  # fmt: skip
        stops = Stop(0, self._shadow(), 1.0), Stop(1, self._shadow(), 0.0)
        self._added("Ramp", ramp=Ramp(start, end, stops, form, path), mode="multiply", strength=0.8)

    def color_here(self) -> str:
        """Return the colour that a pass painted in many colours is painted in: the pot's in hand; '' without one."""
        book = self.easel.book
        pot = None if book is None else book.pots().get(self.easel.pot or 0)
        return "" if pot is None else pot.local

    def _paint(self) -> None:
        """Take a pass in hand that is painted in many colours: the topmost one, or a new one."""
        held, sources = self.in_hand(), self.easel.sources()
        if held is None or sources is None or held[1].kind == "paint":
            return
        known = [number for number, one in sources[PASSES].items() if one.kind == "paint"]
        if known:
            self.choose(known[-1])
        else:
            self.add_paint()

    def add_paint(self) -> None:
        """Add a pass that is painted in the colours of pots, and take it in hand."""
        self._added("Paint", paint=True, mode="normal", strength=1.0)

    def _shadow(self) -> str:
        book = self.easel.book
        pot = None if book is None else book.pots().get(self.easel.pot or 0)
        return "#5a4a78" if pot is None or book is None else book.tone_pair(pot)[1]

    def _added(self, stem: str, **values: Any) -> None:
        sources = self.easel.sources()
        if sources is None:
            return
        known = {one.name for one in sources[PASSES].values()}
        name = next(f"{stem} {n}" for n in range(1, 10_000) if f"{stem} {n}" not in known)
        made: list[int] = []
        if self.easel.do(lambda book, page: made.append(verbs.add_pass(book, page, name, **values))):
            self.choose(made[0])

    def change(self, number: int | None = None, **values: object) -> None:
        """Change the pass in hand, or one of a number."""
        sources, held = self.easel.sources(), self.in_hand()
        if sources is None or held is None:
            return
        which = held[0] if number is None else number
        changed = msgspec.structs.replace(sources[PASSES][which], **values)
        self.easel.do(lambda book, page: verbs.set_pass(book, page, which, changed))

    def turn_eye(self, number: int) -> None:
        """Show a pass, or hide it."""
        sources = self.easel.sources()
        if sources is not None:
            self.change(number, shown=not sources[PASSES][number].shown)

    def solo(self, number: int) -> None:
        """Show a pass alone, or all of them again."""
        ready = self.easel.ready()
        if ready is None:
            return
        alone = [n for n, one in ready[1][PASSES].items() if one.shown] != [number]
        with ready[0].as_one():
            for n, one in ready[1][PASSES].items():
                if one.shown != (n == number or not alone):
                    self.change(n, shown=n == number or not alone)

    def move(self, number: int, step: int) -> None:
        """Move a pass so many places up."""
        self.easel.do(lambda book, page: verbs.move_pass(book, page, number, step))

    def remove(self, number: int) -> None:
        """Remove a pass."""
        self.easel.do(lambda book, page: verbs.remove_pass(book, page, number))

    def brush(self, kind: str, points: list[tuple[float, float, float]], mods: Mods, wide: float) -> None:
        """Lay a stroke of mist or bristles, so wide, into the pass in hand, or take it away (Alt)."""
        only, reach, inside = *kept_in(self.easel, points[0][:2], mods), set(self.easel.picked)
        soft, flow, away = self.softness, self.flow, bool(mods & Mods.AltModifier)
        self._strokes += 1
        seed, color = self._strokes, self.color_here()

        def lay(hand: Hand, into: int) -> object:
            if kind == "Streak":
                return verbs.streak_pass(
                    hand, points, wide, flow, seed, away=away, only=only, reach=reach, into=into, inside=inside,
                    color=color,
                )  # fmt: skip
            return verbs.mist_pass(
                hand, points, wide, soft, flow, away=away, only=only, reach=reach, into=into, inside=inside, color=color
            )

        if kind == "Crayon":
            self._paint()
        self.lay(lay, [(row, col) for row, col, _ in points])

    def fill(self, atoms: set[int], at: list[tuple[float, float]], *, away: bool) -> None:
        """Fill areas in the pass in hand, or empty them; of those with borders the sides at some places."""
        inside, color = set(self.easel.picked), self.color_here()
        self.lay(lambda hand, into: verbs.fill_pass(
            hand, atoms, away=away, into=into, inside=inside, at=at, color=color), None)  # fmt: skip

    def lay(self, verb: Callable[[Hand, int], object], ghost: list[tuple[float, float]] | None) -> None:
        """Have a verb lay something in the pass in hand, unless that is hidden; `ghost` is shown meanwhile."""
        held = self.in_hand()
        if held is not None and self._is_seen(held[1]):
            into = held[0]
            self.easel.hands.start(lambda hand: verb(hand, into), ghost)

    # Where it applies

    def scope_held(self) -> Scope | None:
        held = self.in_hand()
        return None if held is None else held[1].scope

    def put_scope(self, scope: Scope) -> None:
        self.change(scope=scope)

    def _is_seen(self, one: Pass) -> bool:
        """Whether a pass is shown; a stroke in one that is not would be lost from sight, and is refused."""

        def refuse() -> None:
            if not one.shown:
                raise NothingDone("The pass {0} is hidden. Click its eye to paint in it.", one.name)

        return self.easel.trying(refuse)
