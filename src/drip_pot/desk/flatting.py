"""What the hand tools of Flats do with the page: fill, cut out, pick, sow, confine. Knows the easel; draws nothing."""

from __future__ import annotations

from typing import TYPE_CHECKING, Literal

import cv2
import numpy as np

from drip_pot.book import BALLOON, Seed, pots, verbs
from drip_pot.book.derived import links_of
from drip_pot.book.seeds import settle_seeds, sow
from drip_pot.core.arrays import Bool, Rect
from drip_pot.core.color import delta_e, from_hex, shifted, srgb8_to_oklab, to_hex
from drip_pot.core.errors import BadInput
from drip_pot.core.inks import stroke_ink
from drip_pot.core.regions import Panels, Path, covered_shares, find_panels, spread_seeds
from drip_pot.core.shade import loop_mask

if TYPE_CHECKING:
    from drip_pot.desk.easel import Easel
    from drip_pot.desk.view import PageView

Points = list[tuple[float, float]]
Shape = Literal["Freehand", "Straight", "Box", "Oval", "Pencil", "Eraser"]
Scope = Literal["region", "pot", "part"]
SHAPES: tuple[Shape, ...] = ("Freehand", "Straight", "Box", "Oval", "Pencil", "Eraser")
_WHOLLY, _SWEPT, _ALIKE = 0.995, 0.2, 3.0
WIDTHS = {"Sweep": (8.0, 600.0), "Leash": (1.0, 600.0), "Cut-out": (1.0, 200.0)}


class Flatting:
    """The hand in Flats.

    Attributes
    ----------
    strength : float
        Of a pour, 0..1; below 1 it mixes.
    shape : str
        What Cut-out draws.
    widths : dict
        Brush width in page pixels by tool.
    picked : frozenset of int
        Atoms of the regions that are picked.
    panel : int
        The panel that tools are confined to; 0 is none.
    """

    def __init__(self, easel: Easel) -> None:
        self.easel = easel
        self.strength = 1.0
        self.shape: Shape = "Freehand"
        self.widths = {"Sweep": 80.0, "Leash": 60.0, "Cut-out": 6.0}
        self.picked: frozenset[int] = frozenset()
        self.panel = 0
        self._panels: tuple[object, Panels] | None = None

    def forget(self) -> None:
        """Let go of what is picked and confined, as for another page."""
        self.picked, self.panel, self._panels = frozenset(), 0, None

    def _ready(self) -> PageView | None:
        view = self.easel.view
        known = view is not None and view.labels is not None and view.partition is not None and view.atoms is not None
        return view if known else None

    def _say(self, sentence: str) -> None:
        self.easel.said.emit(sentence, False)

    # Panels

    def panels(self) -> Panels | None:
        """Return the panels of the page; None before regions are known."""
        view = self._ready()
        if view is None or view.partition is None or view.labels is None or view.divided is None:
            return None
        if self._panels is None or self._panels[0] is not view.partition:
            found = find_panels(view.labels[0], view.partition.region, view.divided.boxes)
            self._panels = (view.partition, found)
        return self._panels[1]

    def confine(self, panel: int) -> None:
        """Confine the tools to a panel; the same again, or 0, frees them."""
        self.panel = 0 if panel == self.panel else panel
        self._say(
            f"Tools work in panel {self.panel} alone. Escape frees them." if self.panel else "Tools work anywhere."
        )
        self.easel.chosen.emit()

    def _inside(self, atoms: set[int]) -> set[int]:
        panels = self.panels() if self.panel else None
        if panels is None:
            return atoms
        return {a for a in atoms if a < len(panels.panel) and panels.panel[a] == self.panel}

    def pour_panel(self, row: float, col: float, *, everything: bool) -> None:
        """Pour what is empty in the panel at a place, or everything; in the gutter, the gutter."""
        panels, sources, view = self.panels(), self.easel.sources(), self._ready()
        if panels is None or sources is None or view is None or view.atoms is None:
            return
        number = panels.at(row, col)
        mine = set(np.flatnonzero((panels.panel == number) & (view.atoms.areas > 0)).tolist())
        kept = {a for a, pot in sources.pours.items() if pot == BALLOON or not everything}
        if mine - kept:
            self.easel.pour(mine - kept)
        else:
            self._say("Nothing here is empty. Shift pours the whole panel.")

    # Filling

    def _regions_in(self, rect: Rect, mask: Bool, least: float) -> Bool:
        """Tell which regions a mask covers by a share of their area, (A + 1,)."""
        view = self._ready()
        assert view is not None
        assert view.labels is not None
        assert view.atoms is not None
        assert view.partition is not None
        region, areas = view.partition.region, view.atoms.areas
        share = covered_shares(view.labels[0][rect[0] : rect[2], rect[1] : rect[3]], mask, areas)
        inside = np.bincount(region, weights=share * areas, minlength=len(areas))
        whole = np.bincount(region, weights=areas, minlength=len(areas))
        return np.asarray((inside >= least * np.maximum(whole, 1)) & (whole > 0))

    def corral(self, points: Points, *, only_empty: bool) -> None:
        """Pour the pot in hand into every region that lies wholly inside a loop."""
        view = self._ready()
        if view is None:
            return
        try:
            rect, mask = loop_mask(points, view.shape)
        except BadInput:
            return
        whole = self._regions_in(rect, mask, _WHOLLY)
        self._pour_regions(whole, only_empty=only_empty, nothing="No region lies wholly inside the loop.")

    def sweep(self, points: Points) -> None:
        """Pour the pot in hand into what is still empty under a wide brush: what it crosses or covers by a fifth."""
        view = self._ready()
        if view is None or view.partition is None:
            return
        try:
            rect, ink = stroke_ink([(r, c, 1.0) for r, c in points], self.widths["Sweep"], view.shape)
        except BadInput:
            return
        touched = self._regions_in(rect, ink > 127, _SWEPT)
        for row, col in points:
            touched[view.partition.region[self.easel.atom_at(int(row), int(col))]] = True
        touched[0] = False
        self._pour_regions(touched, only_empty=True, nothing="Nothing empty lies under the brush.")

    def _pour_regions(self, wanted: Bool, *, only_empty: bool, nothing: str) -> None:
        view, sources = self._ready(), self.easel.sources()
        assert view is not None
        assert view.partition is not None
        assert view.atoms is not None
        assert sources is not None
        chosen = wanted[view.partition.region] & (view.atoms.areas > 0)
        atoms = set(np.flatnonzero(chosen).tolist())
        atoms -= {a for a, pot in sources.pours.items() if only_empty or pot == BALLOON}
        if self._inside(atoms):
            self.easel.pour(atoms)
        else:
            self._say(nothing)

    def pour(self, atoms: set[int]) -> None:
        """Pour, or mix, the pot in hand into atoms, within the panel that tools are confined to."""
        view = self._ready()
        if view is None or view.partition is None:
            return
        inside = self._inside(atoms)
        if not inside:
            self._say(f"Tools are confined to panel {self.panel}. Escape frees them.")
            self.easel.drop_preview()
            return
        count = len({int(view.partition.region[a]) for a in inside})
        pot, strength = self.easel.pot, self.strength
        if strength < 1:
            done = self.easel.do(lambda book, page: pots.mix_pour(book, page, inside, pot, strength, count))
        else:
            done = self.easel.do(lambda book, page: verbs.pour(book, page, inside, pot, count))
        if not done or inside != atoms:
            self.easel.drop_preview()

    def silhouette(self, row: float, col: float, *, framed: bool, check: bool) -> None:
        """Pour what the ground at a place encloses in its panel; `framed` also what touches the panel's edge.

        With `check` nothing is poured: what is not of the part in hand is picked.
        """
        view, panels, sources, book = self._ready(), self.panels(), self.easel.sources(), self.easel.book
        atom = self.easel.atom_at(int(row), int(col))
        if view is None or panels is None or sources is None or not atom or book is None:
            return
        inside = self._enclosed(view, panels, atom, framed=framed)
        if not inside:
            self._say("This ground encloses nothing. Shift: what touches the panel's edge as well.")
        elif check:
            known = book.pots()
            part = known[self.easel.pot].part if self.easel.pot in known else None
            other = {a for a in inside if sources.pours.get(a) not in known or known[sources.pours[a]].part != part}
            self.pick(other)
            self._say(
                "All of it belongs to the part in hand." if not other else "Picked what is not of the part in hand."
            )
        else:
            self.easel.pour(inside)

    def _enclosed(self, view: PageView, panels: Panels, atom: int, *, framed: bool) -> set[int]:
        assert view.partition is not None
        assert view.atoms is not None
        assert view.divided is not None
        number, pot = int(panels.panel[atom]), self.easel.pot_of(atom)
        ground = set(self.easel.region_atoms(atom)) if pot is None else set(self.easel.atoms_of_pot(pot))
        mine = ((panels.panel == number) | (number == 0)) & (view.atoms.areas > 0)  # in the gutter, the whole page
        rest = mine.copy()
        rest[[a for a in ground if a < len(rest)]] = False
        if not framed:
            pairs = view.atoms.borders.pairs
            outside = np.zeros(len(rest), bool)
            across = mine[pairs[:, 0]] != mine[pairs[:, 1]]
            outside[pairs[across].ravel()] = True
            boxes = view.divided.boxes
            outside |= (boxes[:, 0] == 0) | (boxes[:, 1] == 0)
            outside |= (boxes[:, 2] == view.shape[0]) | (boxes[:, 3] == view.shape[1])
            inner = pairs[rest[pairs].all(axis=1)]
            while True:
                spread = inner[outside[inner].any(axis=1)].ravel()
                if outside[spread].all():
                    break
                outside[spread] = True
            rest &= ~outside
        return set(np.flatnonzero(rest).tolist())

    # Cutting

    def shape_mask(self, points: Points, view: PageView) -> tuple[Rect, Bool]:
        """Return where the shape in use lies and its hard mask; raises `BadInput` for a shape without area."""
        if self.shape in ("Pencil", "Eraser"):
            rect, ink = stroke_ink([(r, c, 1.0) for r, c in points], self.widths["Cut-out"], view.shape)
            return rect, ink > 127
        if self.shape in ("Box", "Oval"):
            ends = np.sort(np.array([points[0], points[-1]], np.float64), axis=0)
            (top, left), (bottom, right) = ends.tolist()
            if self.shape == "Box":
                return loop_mask([(top, left), (top, right), (bottom, right), (bottom, left)], view.shape)
            turn = np.linspace(0, 2 * np.pi, 120, endpoint=False)
            circle = np.stack([np.sin(turn), np.cos(turn)], axis=1)
            return loop_mask(circle * (ends[1] - ends[0]) / 2 + ends.mean(axis=0), view.shape)
        return loop_mask(points, view.shape)

    def cut_out(self, points: Points, *, back: bool, keep: bool) -> None:
        """Cut the shape out in the pot in hand (`keep`: in the colour it lies on), or give it back."""
        view = self._ready()
        if view is None or view.labels is None:
            return
        if self.shape not in ("Pencil", "Eraser") and np.ptp(np.array(points), axis=0).min() < 1:
            return  # a click, or a stroke there and back, has no area
        try:
            rect, mask = self.shape_mask(points, view)
        except BadInput:
            return
        mask = self._masked(view, rect, mask)
        pot = self.easel.pot
        if keep and mask.any():
            labels = view.labels[0][rect[0] : rect[2], rect[1] : rect[3]][mask]
            pot = self.easel.pot_of(int(np.bincount(labels).argmax()))
        if back or self.shape == "Eraser":
            self.easel.by_hand(lambda hand: hand.give_back(rect, mask))
        else:
            self.easel.by_hand(lambda hand: hand.cut_out(rect, mask, pot))

    def _masked(self, view: PageView, rect: Rect, mask: Bool, allowed: set[int] | None = None) -> Bool:
        """Keep a mask within the panel that tools are confined to, and within some atoms."""
        panels = self.panels() if self.panel else None
        assert view.labels is not None
        assert view.atoms is not None
        table = np.ones(view.atoms.count + 1, bool)
        if panels is not None:
            table &= panels.panel[: len(table)] == self.panel
        if allowed is not None:
            inside = np.zeros_like(table)
            inside[list(allowed)] = True
            table &= inside
        if table.all():
            return mask
        return np.asarray(mask & table[view.labels[0][rect[0] : rect[2], rect[1] : rect[3]]])

    def leashed(self, row: float, col: float, scope: Scope) -> set[int]:
        """Return the atoms that a brush may touch that begins at a place."""
        atom = self.easel.atom_at(int(row), int(col))
        if not atom:
            return set()
        pot, book = self.easel.pot_of(atom), self.easel.book
        if scope == "region" or pot is None or book is None:
            return set(self.easel.region_atoms(atom))
        known = book.pots()
        wanted = {pot} if scope == "pot" else {n for n, p in known.items() if p.part == known[pot].part}
        return {a for n in wanted for a in self.easel.atoms_of_pot(n)}

    def brush(self, points: Points, allowed: set[int]) -> None:
        """Paint the pot in hand under a brush, within some atoms."""
        view = self._ready()
        if view is None or not allowed:
            return
        try:
            rect, ink = stroke_ink([(r, c, 1.0) for r, c in points], self.widths["Leash"], view.shape)
        except BadInput:
            return
        mask, pot = self._masked(view, rect, ink > 127, allowed), self.easel.pot
        if mask.any():
            self.easel.by_hand(lambda hand: hand.cut_out(rect, mask, pot, "Paint on the leash"))

    # Picking

    def pick(self, atoms: set[int] | frozenset[int]) -> None:
        """Pick regions by their atoms; an empty set lets go."""
        self.picked = frozenset(atoms)
        self.easel.refreshed.emit()
        self.easel.repaint.emit([])

    def pick_more(self, how: str) -> None:
        """Pick more: 'pot', 'part', 'alike' or 'neighbours' of what is picked."""
        view, sources, book = self._ready(), self.easel.sources(), self.easel.book
        if view is None or sources is None or book is None or view.atoms is None or view.partition is None:
            return
        known = book.pots()
        mine = {sources.pours[a] for a in self.picked if sources.pours.get(a) in known}
        atoms = set(self.picked)
        if how == "neighbours":
            pairs = view.atoms.borders.pairs
            inside = np.isin(pairs, list(self.picked))
            near = set(pairs[inside.any(axis=1)].ravel().tolist())
            regions = set(view.partition.region[list(near)].tolist())
            atoms |= set(
                np.flatnonzero(np.isin(view.partition.region, list(regions)) & (view.atoms.areas > 0)).tolist()
            )
        else:
            parts = {known[n].part for n in mine}
            lab = {n: srgb8_to_oklab(from_hex(p.local)) for n, p in known.items()}
            wanted = {
                n for n, p in known.items()
                if n in mine or (how == "part" and p.part in parts)
                or (how == "alike" and any(float(delta_e(lab[n], lab[m])) < _ALIKE for m in mine))
            }  # fmt: skip
            atoms |= {a for a, n in sources.pours.items() if n in wanted}
            if not mine:
                atoms |= set(self.easel.atoms_of_pot(None))
        self.pick(atoms)

    def preview_shift(self, light: float, chroma: float, hue_deg: float) -> None:
        """Show what is picked in shifted colours."""
        sources, book = self.easel.sources(), self.easel.book
        if sources is None or book is None:
            return
        self.easel.restore_tables()
        groups: dict[int, list[int]] = {}
        for atom in self.picked:
            groups.setdefault(sources.pours.get(atom, BALLOON), []).append(atom)
        known = book.pots()
        for number, atoms in groups.items():
            if number in known:
                pair = [to_hex(shifted(from_hex(c), light, chroma, hue_deg)) for c in book.tone_pair(known[number])]
                self.easel.preview(atoms, (pair[0], pair[1]))

    def shift_picked(self, light: float, chroma: float, hue_deg: float) -> None:
        """Keep shifted colours of what is picked."""
        atoms = self.picked
        if not self.easel.do(lambda book, page: pots.shift_colors(book, page, atoms, light, chroma, hue_deg)):
            self.easel.drop_preview()

    def own_pot(self) -> None:
        """Give what is picked a pot of its own, and take it in hand."""
        made: list[int] = []
        atoms = self.picked
        if self.easel.do(lambda book, page: made.append(pots.own_pot(book, page, atoms))):
            self.easel.choose_pot(made[0])

    def to_part(self, part: int) -> None:
        """Move what is picked to a part."""
        atoms = self.picked
        self.easel.do(lambda book, page: pots.to_part(book, page, atoms, part))

    def join(self) -> None:
        """Join the regions that are picked into one."""
        view = self._ready()
        if view is None or view.partition is None or view.labels is None or view.divided is None:
            return
        regions = {int(view.partition.region[a]): a for a in sorted(self.picked)}
        if len(regions) < 2:
            self._say("Pick two regions or more to join them.")
            return
        spots = []
        for atom in regions.values():
            top, left, bottom, right = view.divided.boxes[atom].tolist()
            rows, cols = np.nonzero(view.labels[0][top:bottom, left:right] == atom)
            spots.append((float(top + rows[len(rows) // 2]), float(left + cols[len(cols) // 2])))
        self.easel.do(lambda book, page: verbs.join(book, page, tuple(spots), f"Join {len(spots)} regions"))

    def split(self) -> None:
        """Part again what was joined by hand; otherwise make every piece of the picked regions a region of its own."""
        view = self._ready()
        if view is None or view.partition is None or view.labels is None or view.divided is None or view.atoms is None:
            return
        sources = self.easel.sources()
        ways = [] if sources is None else [("join", sources.joins), ("door", sources.doors)]
        joined = [
            (kind, number) for kind, paths in ways for number, spots in paths.items()
            if any(self.easel.atom_at(round(r), round(c)) in self.picked for r, c in spots)
        ]  # fmt: skip
        if joined:
            self.easel.do(lambda book, page: verbs.part_again(book, page, joined))
            return
        masks: list[tuple[Rect, Bool]] = []
        for root in {int(view.partition.region[a]) for a in self.picked}:
            own = [a for a in self.easel.region_atoms(root) if view.atoms.areas[a]]
            boxes = view.divided.boxes[own]
            top, left = boxes[:, :2].min(axis=0).tolist()
            bottom, right = boxes[:, 2:].max(axis=0).tolist()
            labels = view.labels[0][top:bottom, left:right]
            pieces = []
            for atom in own:
                count, parts, stats, _ = cv2.connectedComponentsWithStats(
                    (labels == atom).view(np.uint8), connectivity=8, ltype=cv2.CV_32S
                )
                pieces += [(int(stats[k, cv2.CC_STAT_AREA]), parts == k) for k in range(1, count)]
            pieces.sort(key=lambda piece: -piece[0])
            masks += [((top, left, bottom, right), mask) for area, mask in pieces[1:200] if area >= 4]
        if not masks:
            self._say("What is picked is all one piece. Draw a dam across it to part it.")
            return
        self.easel.by_hand(lambda hand: hand.cut_apart(masks))

    def neighbors(self, pot: int) -> list[tuple[str, float]]:
        """List the colours that a pot borders on this page and along how many pixels, the longest first."""
        view, sources, book = self._ready(), self.easel.sources(), self.easel.book
        if view is None or sources is None or book is None or view.atoms is None:
            return []
        known, borders = book.pots(), view.atoms.borders
        table = np.full(view.atoms.count + 1, -1, np.int64)
        for atom, number in sources.pours.items():
            if atom < len(table):
                table[atom] = number
        ends = table[borders.pairs]
        mine = (ends == pot).any(axis=1) & (ends[:, 0] != ends[:, 1])
        other = np.where(ends[mine, 0] == pot, ends[mine, 1], ends[mine, 0])
        found: dict[str, float] = {}
        for number, px in zip(other.tolist(), borders.length_px[mine].tolist(), strict=True):
            color = known[number].local if number in known else "#ffffff"
            found[color] = found.get(color, 0.0) + px
        return sorted(found.items(), key=lambda item: -item[1])[:8]

    # Seeds

    def sow(self, path: Path | None, number: int | None = None, *, recolor: bool = False) -> None:
        """Sow a seed of the pot in hand, move or recolour one of a number, or take it away (path None)."""
        sources = self.easel.sources()
        if sources is None:
            return
        old = sources.seeds.get(number or 0)
        pot = self.easel.pot if old is None or recolor else old.pot
        title = (
            ("Take away a seed" if path is None else "Recolour a seed" if recolor else "Move a seed") if old else "Sow"
        )
        name = self.easel.book.pots()[pot].name if self.easel.book is not None and pot is not None else "nothing"
        wanted = number or max(sources.seeds, default=0) + 1
        seed = None if path is None else Seed(path, pot)
        self.easel.by_hand(lambda hand: sow(hand, {wanted: seed}, title if old else f"Sow {name}"))

    def preview_sow(self, points: Points, number: int | None) -> None:
        """Show what a scribble would take, while it is drawn."""
        view, sources, book = self._ready(), self.easel.sources(), self.easel.book
        if view is None or view.atoms is None or view.partition is None or view.divided is None or not points:
            return
        if sources is None or book is None:
            return
        old = sources.seeds.get(number or 0)
        pot = book.pots().get((self.easel.pot if old is None else old.pot) or 0)
        free = np.ones(view.atoms.count + 1, bool)
        free[[a for a in sources.pours if a not in sources.sown and a <= view.atoms.count]] = False
        seeds = [(s.path, s.pot) for n, s in sources.seeds.items() if n != number]
        seeds.append((tuple(points), -1))
        links = links_of(view.atoms, sources)
        spread = spread_seeds(
            view.atoms, view.partition, view.divided.boxes, view.ink[0], seeds, free, links, share=False
        )  # fmt: skip
        self.easel.restore_tables()
        pair = book.tone_pair(pot) if pot is not None else ("#ffffff", "#ffffff")
        self.easel.preview(np.flatnonzero(spread.seed == len(seeds) - 1).tolist(), pair)

    def settle(self) -> None:
        """Make what the seeds took plain flats."""
        self.easel.do(settle_seeds)
