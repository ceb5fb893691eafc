# SPDX-License-Identifier: GPL-3.0-or-later
"""What is in use in Holds: the hold in hand, the brush. Knows the easel; draws nothing."""

from typing import Any

import msgspec
import numpy as np

from drip_pot.book import verbs
from drip_pot.book.derive import PIECES, over_rows
from drip_pot.book.hand import Hand
from drip_pot.book.lines import lines_of, matched, owners
from drip_pot.book.presets import PRESETS
from drip_pot.book.scope import Ground
from drip_pot.book.values import HOLDS, POURS, Hold
from drip_pot.book.where import Scope
from drip_pot.core.errors import NothingDone
from drip_pot.core.holds import LinePieces
from drip_pot.core.render import Ramp, Stop
from drip_pot.desk.session.easel import Easel
from drip_pot.desk.stages.scoping import Scoping
from drip_pot.words import say, tr

WIDTHS = (2.0, 600.0)
_DARKER = 0.55
_FINDING = "The strokes of the line are still being found. Try again in a moment."
Places = list[tuple[float, float]]


class Holding(Scoping):
    """The hold in hand, and what is done with holds.

    Attributes
    ----------
    number : int
        The hold in hand; 0 is none.
    width_px : float
        How wide the brush is.
    """

    what = "hold"

    def __init__(self, easel: Easel) -> None:
        super().__init__(easel)
        self.number = 0
        self.width_px = 40.0
        easel.opened.connect(self._forget)

    def _forget(self) -> None:
        self.number = 0

    def in_hand(self) -> tuple[int, Hold] | None:
        """Return the hold in hand; the topmost where it is gone, None where there is none."""
        sources = self.easel.sources()
        if sources is None or not sources[HOLDS]:
            return None
        number = self.number if self.number in sources[HOLDS] else next(reversed(sources[HOLDS]))
        return number, sources[HOLDS][number]

    def pieces(self) -> LinePieces | None:
        """Return the stroke pieces of the page shown; says so where they are not found yet."""
        flat = None if self.easel.view is None else self.easel.view.flat
        found = None if flat is None else flat.painted.pieces
        if found is None:
            self.easel.said.emit(_FINDING, False)
        return found

    def strokes(self) -> dict[int, int]:
        """Return how many strokes every hold colours, by number; none while that is not known."""
        flat = None if self.easel.view is None else self.easel.view.flat
        if flat is None or flat.painted.pieces is None:
            return {}
        first = over_rows(flat.atoms.count) + PIECES
        return {number: int((rows > first).sum()) for number, rows in flat.tables.held.items()}

    def choose(self, number: int) -> None:
        """Take a hold in hand."""
        self.number = number
        self.easel.chosen.emit()

    def widen(self, factor: float) -> None:
        """Make the brush wider, or finer."""
        self.set_width(self.width_px * factor)
        self.easel.said.emit(tr("The brush is {0:g} px wide", self.width_px), False)

    def set_width(self, width_px: float) -> None:
        """Set how wide the brush is."""
        self.width_px = min(max(float(round(width_px)), WIDTHS[0]), WIDTHS[1])
        self.easel.chosen.emit()

    # The list

    def add(self, preset: str) -> None:
        """Add a hold to begin with, for the part of the pot in hand, and take it in hand."""
        hold, ready = PRESETS[preset], self.easel.ready()
        if ready is None:
            return
        pot, known = self.easel.pot, ready[0].pots()
        if pot is not None and pot in known and hold.kinds and not {"letters", "effect"} & set(hold.kinds):
            part = known[pot].part
            hold = msgspec.structs.replace(
                hold, scope=Scope(parts=(part,)), name=f"{hold.name}, {ready[0].parts()[part].name}"
            )
        self._added(hold)

    def _added(self, hold: Hold) -> int:
        sources = self.easel.sources()
        known = set() if sources is None else {one.name for one in sources[HOLDS].values()}
        names = (hold.name if n == 1 else f"{hold.name} {n}" for n in range(1, 10_000))
        hold = msgspec.structs.replace(hold, name=next(name for name in names if name not in known))
        made: list[int] = []
        if self.easel.do(lambda book, page: made.append(verbs.add_hold(book, page, hold))):
            self.choose(made[0])
            return made[0]
        return 0

    def copy(self) -> None:
        """Copy the hold in hand, without what was marked in it."""
        held = self.in_hand()
        if held is not None:
            self._added(msgspec.structs.replace(held[1], name=say("{0} copy", held[1].name)))

    def change(self, number: int | None = None, **values: Any) -> None:
        """Change the hold in hand, or one of a number."""
        sources, held = self.easel.sources(), self.in_hand()
        if sources is None or held is None:
            return
        which = held[0] if number is None else number
        if values.get("how") == "ramp" and sources[HOLDS][which].ramp is None:
            values["ramp"] = self._ramp()
        elif "how" in values and values["how"] != "ramp":
            values["ramp"] = None
        changed = msgspec.structs.replace(sources[HOLDS][which], **values)
        self.easel.do(lambda book, page: verbs.set_hold(book, page, which, changed))

    def _ramp(self) -> Ramp:
        rows, cols = (1.0, 1.0) if self.easel.view is None else self.easel.view.shape
        return Ramp((0.1 * rows, cols / 2), (0.9 * rows, cols / 2), (Stop(0, "#7a3b1f"), Stop(1, "#1f3f6b")))

    def share(self) -> None:
        """Give the hold in hand to the whole book."""
        held = self.in_hand()
        if held is not None:
            self.easel.do(lambda book, page: verbs.share_hold(book, page, held[0]))

    def turn_eye(self, number: int) -> None:
        """Show a hold, or hide it."""
        sources = self.easel.sources()
        if sources is not None:
            self.change(number, shown=not sources[HOLDS][number].shown)

    def solo(self, number: int) -> None:
        """Show a hold alone, or all of them again."""
        ready = self.easel.ready()
        if ready is None:
            return
        alone = [n for n, one in ready[1][HOLDS].items() if one.shown] != [number]
        with ready[0].as_one():
            for n, one in ready[1][HOLDS].items():
                if one.shown != (n == number or not alone):
                    self.change(n, shown=n == number or not alone)

    def move(self, number: int, step: int) -> None:
        """Move a hold so many places up."""
        self.easel.do(lambda book, page: verbs.move_hold(book, page, number, step))

    def remove(self, number: int) -> None:
        """Remove a hold."""
        self.easel.do(lambda book, page: verbs.remove_hold(book, page, number))

    def scope_held(self) -> Scope | None:
        held = self.in_hand()
        return None if held is None else held[1].scope

    def put_scope(self, scope: Scope) -> None:
        self.change(scope=scope)

    # On the page

    def pick(self, spots: Places, preset: str = "Strokes picked by hand") -> None:
        """Give strokes to the hold in hand, where it is of strokes picked by hand and of this kind, or to a new one."""
        held, wanted = self.in_hand(), PRESETS[preset]
        ready = self.easel.ready()
        if ready is None:
            return
        picks = held is not None and (held[1].spots or not held[1].kinds) and not held[1].brushed
        with ready[0].as_one():
            if held is None or not picks or (wanted.how == "beneath") != (held[1].how == "beneath"):
                number = self._added(msgspec.structs.replace(wanted, kinds=()))
            else:
                number = held[0]
            if number:
                self.easel.do(lambda book, page: verbs.pick_line(book, page, number, spots))

    def take(self, row: float, col: float) -> bool:
        """Take the topmost hold of the stroke at a place in hand; return whether there is one."""
        ready, view = self.easel.ready(), self.easel.view
        flat = None if view is None else view.flat
        pieces = self.pieces()
        if ready is None or flat is None or pieces is None:
            return False
        piece = pieces.at(row, col, flat.atoms.line_px / 2)
        told, ground = lines_of(*ready, pieces, flat.panels, at_once=True), Ground(flat.labels[0], lambda: flat.panels)
        count = flat.atoms.count
        flats = flat.tables.screen.flat[:, :3].reshape(2, -1, 3)
        for number, hold in reversed(ready[1][HOLDS].items()):
            if piece and hold.shown and matched(*ready, hold, told, owners(told, flats, hold), count, ground)[piece]:
                self.choose(number)
                self.easel.said.emit(tr("In hand: {0}", hold.name), False)
                return True
        return False

    def let_go(self, spots: Places) -> None:
        """Take strokes out of the hold in hand."""
        held = self.in_hand()
        if held is None:
            self.easel.said.emit("There is no hold to take strokes from.", False)
            return
        self.easel.hands.start(lambda hand: verbs.let_go(hand, held[0], spots))

    def hold_part(self, row: float, col: float, *, away: bool) -> None:
        """Hold the lines of the part at a place, take their hold in hand, or let them go (`away`)."""
        ready, pot = self.easel.ready(), self.easel.pot_of(self.easel.atom_at(int(row), int(col)))
        if ready is None:
            return
        if pot is None:
            self.easel.said.emit(
                "This region has no pot yet, so its lines have no part. Pour it first, in Flats.", False
            )
            return
        book, sources = ready
        part = book.pots()[pot].part
        name = book.parts()[part].name
        known = next((n for n, h in sources[HOLDS].items() if h.scope == Scope(parts=(part,))), 0)
        if away and known:
            self.remove(known)
        elif known:
            self.choose(known)
            self.easel.said.emit(tr("The lines of {0} are held already. The right button lets them go.", name), False)
        elif not away and self.easel.do(lambda book, page: verbs.hold_part(book, page, part, _DARKER)):
            self.choose(max(self.easel.sources()[HOLDS]))  # type: ignore[index]

    def forget_depths(self) -> None:
        """Forget what was said to lie in front of what."""
        self.easel.do(lambda book, _: verbs.forget_depths(book))

    def like(self, piece: int) -> Places:
        """Return a place of every stroke of the same kind, of what the same pot outlines."""
        ready, view = self.easel.ready(), self.easel.view
        pieces = self.pieces()
        if ready is None or pieces is None or view is None or view.flat is None:
            return []
        told = lines_of(*ready, pieces, view.flat.panels, at_once=True)
        pot = [ready[1][POURS].get(int(o)) for o in told.owner]
        same = [p for p in range(1, pieces.count + 1) if told.kind[p] == told.kind[piece] and pot[p] == pot[piece]]
        return [place for p in same if (place := self.place_of(pieces, p)) is not None]

    @staticmethod
    def place_of(pieces: LinePieces, piece: int) -> tuple[float, float] | None:
        """Return a pixel of a stroke, about its middle."""
        top, left, bottom, right = pieces.boxes[piece].tolist()
        found = np.argwhere(pieces.plane[top:bottom, left:right] == piece)
        if not len(found):
            return None
        row, col = found[len(found) // 2].tolist()
        return float(top + row), float(left + col)

    def brush(self, points: list[tuple[float, float, float]], *, away: bool) -> None:
        """Hold the line under a stroke, in a hold of what was brushed; or let it go from the one in hand."""
        held = self.in_hand()
        number, wide = (0 if held is None else held[0]), self.width_px
        if not away and (held is None or not held[1].brushed):
            number = self._added(PRESETS["Strokes brushed by hand"])
        if not number:
            self.easel.said.emit("There is no hold to take strokes from.", False)
            return
        work = lambda hand: verbs.brush_hold(hand, number, points, wide, away=away)  # noqa: E731
        self.easel.hands.start(work, [(row, col) for row, col, _ in points])

    def fade(self, points: Places) -> None:
        """Fade the hold in hand out along a way."""
        held = self.in_hand()

        def work(hand: Hand) -> None:
            if held is None:
                raise NothingDone("There is no hold to fade. Add one first, or pick strokes with Hold.")
            verbs.fade_hold(hand, held[0], points)

        self.easel.hands.start(work, points)
