# SPDX-License-Identifier: GPL-3.0-or-later
"""What is in use in Flats: shape, brush widths; and what its tools do. Knows the easel; draws nothing."""

import numpy as np

from drip_pot.book import BALLOON, Seed, verbs
from drip_pot.book.derive import links_of
from drip_pot.book.hand import Points
from drip_pot.book.picking import More, picked_more
from drip_pot.book.values import POURS, SEEDS, SOWN
from drip_pot.book.verbs import Shape
from drip_pot.core.color import from_hex, shifted, to_hex
from drip_pot.core.regions import Path, spread_seeds
from drip_pot.desk.session.easel import Easel
from drip_pot.words import say, tr

WIDTHS = {"Sweep": (8.0, 400.0), "Leash": (1.0, 400.0), "Cut-out": (1.0, 200.0)}


class Flatting:
    """Settings of the tools of Flats.

    Attributes
    ----------
    shape : str
        What Cut-out draws.
    widths : dict
        Brush width in page pixels by tool.
    """

    def __init__(self, easel: Easel) -> None:
        self.easel = easel
        self.shape: Shape = "Freehand"
        self.widths = {"Sweep": 80.0, "Leash": 60.0, "Cut-out": 6.0}

    def put(self, name: str, value: object) -> None:
        """Change a setting."""
        setattr(self, name, value)
        self.easel.chosen.emit()

    def widen(self, tool: str, factor: float) -> None:
        """Make the brush of a tool wider, or finer."""
        low, high = WIDTHS[tool]
        self.widths[tool] = float(min(max(round(self.widths[tool] * factor), low), high))
        self.easel.said.emit(tr("{0} {1:g} px wide", tool, self.widths[tool]), False)
        self.easel.chosen.emit()

    # Filling

    def pour(self, atoms: set[int]) -> None:
        """Pour, or mix, the pot in hand into atoms, within the panel and the pick that tools are confined to."""
        pot, strength, within = self.easel.pot, self.easel.strength, self.easel.within or self.easel.picked
        if atoms and (not self.easel.do_here(lambda hand: verbs.fill(hand, atoms, pot, strength)) or within):
            self.easel.deriving.drop_preview()

    def preview_pour(self, atoms: list[int]) -> None:
        """Show atoms in the pot in hand before the gesture is finished, those alone that it may touch."""
        if self.easel.picked:
            atoms = [atom for atom in atoms if atom in self.easel.picked]
        if self.easel.book is not None and self.easel.strength == 1:
            pot = self.easel.book.pots().get(self.easel.pot or 0)
            pair = self.easel.book.tone_pair(pot) if pot is not None else ("#ffffff", "#ffffff")
            self.easel.preview(atoms, pair)

    def corral(self, points: Points, *, only_empty: bool) -> None:
        """Pour the pot in hand into every region that lies wholly inside a loop."""
        pot, strength = self.easel.pot, self.easel.strength
        self.easel.hands.start(lambda hand: verbs.corral(hand, points, pot, strength, only_empty=only_empty), points)

    def sweep(self, points: Points) -> None:
        """Pour the pot in hand into what is still empty under a wide brush."""
        pot, strength, wide = self.easel.pot, self.easel.strength, self.widths["Sweep"]
        self.easel.hands.start(lambda hand: verbs.sweep(hand, points, pot, wide, strength), points)

    def pour_panel(self, row: float, col: float, *, everything: bool) -> None:
        """Pour what is empty in the panel at a place, or everything; in the gutter, the gutter."""
        pot, strength = self.easel.pot, self.easel.strength
        self.easel.hands.start(lambda hand: verbs.pour_panel(hand, row, col, pot, strength, everything=everything))

    def silhouette(self, row: float, col: float, *, framed: bool) -> None:
        """Pour what the ground at a place encloses in its panel; `framed` also what touches the panel's edge."""
        pot, strength = self.easel.pot, self.easel.strength
        self.easel.hands.start(lambda hand: verbs.silhouette(hand, row, col, pot, strength, framed=framed))

    def check_silhouette(self, row: float, col: float, *, framed: bool) -> None:
        """Pick what the ground at a place encloses and is not of the part in hand."""
        hand = self.easel.hand()
        if hand is None:
            return

        def check() -> None:
            inside, known, pours = verbs.enclosed(hand, row, col, framed=framed), hand.book.pots(), hand.sources[POURS]
            part = known[self.easel.pot].part if self.easel.pot in known else None
            other = {a for a in inside if pours.get(a) not in known or known[pours[a]].part != part}
            self.easel.pick(other)
            what = "Picked what is not of the part in hand." if other else "All of it belongs to the part in hand."
            self.easel.said.emit(what, False)

        self.easel.trying(check)

    # Cutting

    def cut_out(self, points: Points, *, back: bool, keep: bool) -> None:
        """Cut the shape out in the pot in hand (`keep`: in the colour it lies on), or give it back."""
        pot, shape, wide = self.easel.pot, self.shape, self.widths["Cut-out"]
        if shape not in ("Pencil", "Eraser") and np.ptp(np.array(points), axis=0).min() < 1:
            return  # a click, or a stroke there and back, has no area
        self.easel.hands.start(
            lambda hand: verbs.cut_out(hand, points, pot, shape, wide, keep=keep, back=back), points
        )  # fmt: skip

    def brush(self, points: Points, reach: verbs.Reach) -> None:
        """Paint the pot in hand under a brush that stays in what it begins in."""
        pot, wide = self.easel.pot, self.widths["Leash"]
        self.easel.hands.start(lambda hand: verbs.brush(hand, points, pot, wide, reach), points)

    # What is picked

    def pick_more(self, how: More) -> None:
        """Pick more: 'pot', 'part', 'alike' or 'neighbours' of what is picked."""
        hand = self.easel.hand()
        if hand is not None:
            self.easel.pick(picked_more(hand, self.easel.picked, how))

    def preview_shift(self, light: float, chroma: float, hue_deg: float) -> None:
        """Show what is picked in shifted colours."""
        ready = self.easel.ready()
        if ready is None:
            return
        book, sources = ready
        self.easel.deriving.retable()
        groups: dict[int, list[int]] = {}
        for atom in self.easel.picked:
            groups.setdefault(sources[POURS].get(atom, BALLOON), []).append(atom)
        known = book.pots()
        for number, atoms in groups.items():
            if number in known:
                pair = [to_hex(shifted(from_hex(c), light, chroma, hue_deg)) for c in book.tone_pair(known[number])]
                self.easel.preview(atoms, (pair[0], pair[1]))

    def shift_picked(self, light: float, chroma: float, hue_deg: float) -> None:
        """Keep shifted colours of what is picked."""
        atoms = self.easel.picked
        if not self.easel.do(lambda book, page: verbs.shift_colors(book, page, atoms, light, chroma, hue_deg)):
            self.easel.deriving.drop_preview()

    def own_pot(self) -> None:
        """Give what is picked a pot of its own, and take it in hand."""
        made: list[int] = []
        atoms = self.easel.picked
        if self.easel.do(lambda book, page: made.append(verbs.own_pot(book, page, atoms))):
            self.easel.choose_pot(made[0])

    def to_part(self, part: int) -> None:
        """Move what is picked to a part."""
        atoms = self.easel.picked
        self.easel.do(lambda book, page: verbs.to_part(book, page, atoms, part))

    def join(self) -> None:
        """Join the regions that are picked into one."""
        atoms = set(self.easel.picked)
        self.easel.do_here(lambda hand: verbs.join_regions(hand, atoms))

    def split(self) -> None:
        """Part again what was joined by hand; otherwise make every piece of the picked regions a region of its own."""
        atoms = set(self.easel.picked)
        self.easel.hands.start(lambda hand: verbs.split(hand, atoms))

    # Seeds

    def sow(self, path: Path | None, number: int | None = None, *, recolor: bool = False) -> None:
        """Sow a seed of the pot in hand, move or recolour one of a number, or take it away (path None)."""
        ready = self.easel.ready()
        if ready is None:
            return
        book, sources = ready
        old = sources[SEEDS].get(number or 0)
        pot = self.easel.pot if old is None or recolor else old.pot
        moved = "Remove a seed" if path is None else "Recolour a seed" if recolor else "Move a seed"
        name = book.pots()[pot].name if pot is not None else "nothing"
        wanted = number or max(sources[SEEDS], default=0) + 1
        seed = None if path is None else Seed(path, pot)
        title = moved if old else say("Sow {0}", name)
        self.easel.hands.start(lambda hand: verbs.sow(hand, {wanted: seed}, title), None if path is None else [*path])

    def preview_sow(self, points: Points, number: int | None) -> None:
        """Show what a scribble would take, while it is drawn."""
        ready, hand = self.easel.ready(), self.easel.hand()
        if hand is None or ready is None or not points:
            return
        book, sources = ready
        old, atoms = sources[SEEDS].get(number or 0), hand.divided.atoms
        pot = book.pots().get((self.easel.pot if old is None else old.pot) or 0)
        free = np.ones(atoms.count + 1, bool)
        free[[a for a in sources[POURS] if a not in sources[SOWN] and a <= atoms.count]] = False
        seeds = [(s.path, s.pot) for n, s in sources[SEEDS].items() if n != number]
        seeds.append((tuple(points), -1))
        links = links_of(atoms, sources)
        spread = spread_seeds(atoms, hand.partition, hand.divided.boxes, hand.ink, seeds, free, links, share=False)
        self.easel.deriving.retable()
        pair = book.tone_pair(pot) if pot is not None else ("#ffffff", "#ffffff")
        self.easel.preview(np.flatnonzero(spread.seed == len(seeds) - 1).tolist(), pair)

    def settle(self) -> None:
        """Make what the seeds took plain flats."""
        self.easel.do(verbs.settle_seeds)
