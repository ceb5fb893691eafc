# SPDX-License-Identifier: GPL-3.0-or-later
"""Verbs that part regions without ink: dams, bridges by hand, cut-outs, a brush on the leash. Knows a page at hand."""

from collections.abc import Sequence
from typing import Literal

import cv2
import numpy as np

from drip_pot.book.asking import order
from drip_pot.book.hand import Hand, Points
from drip_pot.book.numbers import AtomNumber, DamNumber, PouredNumber
from drip_pot.book.values import BRIDGES, DOORS, JOINS, POTS, Pot
from drip_pot.book.verbs.flats import Way, part_again
from drip_pot.book.verbs.setting import thinned
from drip_pot.core.arrays import Bool, Rect
from drip_pot.core.errors import BadInput, NothingDone
from drip_pot.core.inks import stroke_mask
from drip_pot.core.regions import Divided, Path, Stencil, bridge_paths, make_stencil, snapped
from drip_pot.core.shade import loop_mask
from drip_pot.words import say, tr

Shape = Literal["Freehand", "Straight", "Box", "Oval", "Pencil", "Eraser"]
SHAPES: tuple[Shape, ...] = ("Freehand", "Straight", "Box", "Oval", "Pencil", "Eraser")
Reach = Literal["region", "pot", "part"]
_MOST_PIECES, _LEAST_PIECE, _ALONG, _CRUMB_LINES = 200, 4, 0.7, 4.0
_REACH_PX, _REACH_LINES = 6.0, 1.5


@order
def set_dam(hand: Hand, path: Path | None, number: DamNumber | None = None) -> str | None:
    """Draw a dam, move one of a number, or remove it (path None); return what is to be told.

    Ends near a line, another dam or the page's edge go on to it.
    """
    if path is None:
        hand.lay({number or hand.next: None}, "set-dam", "Remove a dam")
        return None
    title = "Draw a dam" if number is None else "Move a dam"
    number = number or hand.next
    path = _to_borders(hand, path)
    kept, shut = _bridges_along(hand, path)
    after = hand.lay({number: path}, "set-dam", title, more=kept)
    return _parts_nothing(hand, after, number, "This dam parts nothing yet: drag its ends on to a line.", kept, shut)


@order
def draw_bridge(hand: Hand, path: Path, instead: tuple[float, float] | None = None) -> str | None:
    """Draw a bridge, which is a dam; `instead` is the middle of a found one that is refused for it.

    Ends near a line go on to it; what is to be told is returned.
    """
    refused = [] if instead is None else [(BRIDGES.key(hand.page, (instead[0], instead[1])), False)]
    title = "Draw a bridge" if instead is None else "Move a bridge"
    number, path = hand.next, _to_borders(hand, path)
    kept, shut = _bridges_along(hand, path)
    kept = [pair for pair in kept if pair[0] not in dict(refused)]
    after = hand.lay({number: path}, "draw-bridge", title, more=[*refused, *kept])
    return _parts_nothing(hand, after, number, "This bridge parts nothing yet: drag its ends on to a line.", kept, shut)


def _bridges_along(hand: Hand, path: Path) -> tuple[list[tuple[str, object]], bool]:
    """Return what keeps the found bridges that a stroke runs along, and whether all of them are shut already.

    The page is divided there already: the stroke itself would part nothing, and an open bridge would join both sides.
    """
    atoms, line = hand.divided.found, np.array(path, np.float64)
    reach = max(3.0, atoms.line_px)
    low, high = line.min(axis=0) - reach, line.max(axis=0) + reach
    feet = atoms.bridges.feet.reshape(-1, 2, 2)
    near = np.flatnonzero(((feet >= low) & (feet <= high)).all(axis=(1, 2)))
    if not len(near):
        return [], False
    rect, mask = stroke_mask([(float(r), float(c)) for r, c in path], 2 * reach, hand.shape)
    spots, owner = bridge_paths(atoms.bridges.some(near), hand.shape)
    at = spots - np.array(rect[:2])
    inside = ((at >= 0) & (at < mask.shape)).all(axis=1)
    on = np.zeros(len(spots), bool)
    on[inside] = mask[at[inside, 0], at[inside, 1]]
    share = np.bincount(owner, on, len(near)) / np.maximum(np.bincount(owner, minlength=len(near)), 1)
    along = [int(k) for k in near[share > _ALONG] if hand.partition.separates[k]]
    middle = (feet[:, 0] + feet[:, 1]) / 2
    keys = [BRIDGES.key(hand.page, (middle[k, 0], middle[k, 1])) for k in along]
    return [(key, True) for key in keys], bool(along) and all(bool(hand.partition.closed[k]) for k in along)


def _to_borders(hand: Hand, path: Path) -> Path:
    return snapped(thinned(path), hand.ink, hand.labels, border_reach(hand))


def border_reach(hand: Hand) -> float:
    """Return how near a line is taken for the one that was meant, in pixels."""
    return max(_REACH_PX, _REACH_LINES * hand.divided.atoms.line_px)


def _parts_nothing(
    hand: Hand, after: Divided, number: int, nothing: str, kept: list[tuple[str, object]], shut: bool
) -> str | None:
    """Say what is to be told of a dam or a bridge that was drawn."""
    if kept:
        closes = "A bridge parts this place already; it is kept, whatever the gap width."
        return closes if shut else "The bridge that was found here is shut for it."
    order_of = list(hand.sources.by_hand)
    rect = after.steps[order_of.index(number)].rect
    return None if rect[2] > rect[0] else tr(nothing)


def shape_mask(shape: Shape, points: Points, width_px: float, page: tuple[int, int]) -> tuple[Rect, Bool]:
    """Return where a shape lies and its hard mask.

    Parameters
    ----------
    shape : str
        One of `SHAPES`; of Box and Oval only the first and the last point count.
    points : list of (row, col)
        As the hand went.
    width_px : float
        Of Pencil and Eraser.
    page : tuple of int
        Rows and columns.

    Raises
    ------
    BadInput
        For a shape without area.
    """
    if shape in ("Pencil", "Eraser"):
        return stroke_mask(points, width_px, page)
    if len(points) < 2 or np.ptp(np.array(points), axis=0).min() < 1:
        raise NothingDone("A click has no area. Draw round what you mean.")
    if shape in ("Box", "Oval"):
        ends = np.sort(np.array([points[0], points[-1]], np.float64), axis=0)
        (top, left), (bottom, right) = ends.tolist()
        if shape == "Box":
            return loop_mask([(top, left), (top, right), (bottom, right), (bottom, left)], page)
        turn = np.linspace(0, 2 * np.pi, 120, endpoint=False)
        circle = np.stack([np.sin(turn), np.cos(turn)], axis=1)
        return loop_mask(circle * (ends[1] - ends[0]) / 2 + ends.mean(axis=0), page)
    return loop_mask(points, page)


@order
def cut_out(
    hand: Hand, points: Points, pot: PouredNumber | None, shape: Shape = "Freehand", width_px: float = 6.0, *,
    keep: bool = False, back: bool = False,
) -> None:  # fmt: skip
    """Make a shape a region of its own in a pot (`keep`: in the colour it lies on), or give it `back`."""
    rect, mask = shape_mask(shape, points, width_px, hand.shape)
    mask, drawn = hand.masked(rect, mask), mask
    if drawn.any() and not mask.any() and hand.picked:
        raise hand.no_room()
    if keep and mask.any():
        pot = hand.pot_of(int(np.bincount(hand.labels[rect[0] : rect[2], rect[1] : rect[3]][mask]).argmax()))
    if back or shape == "Eraser":
        give_back(hand, rect, mask)
    else:
        cut_mask(hand, rect, mask, pot)


def cut_mask(hand: Hand, rect: Rect, mask: Bool, pot: PouredNumber | None, title: str = "") -> None:
    """Make what a mask over `rect` covers a region of its own in a pot, or paper (None)."""
    number, name = hand.next, hand.book.read(POTS.key(pot), Pot).name if pot is not None else "paper"
    hand.lay(
        {number: _stencil(rect, mask, back=False)}, "cut-out", title or say("Cut out {0}", name), pots={number: pot}
    )


def cut_apart(hand: Hand, masks: Sequence[tuple[Rect, Bool]]) -> None:
    """Make what each mask covers a region of its own, in the colour it lies on."""
    first = hand.next
    cuts = {first + k: _stencil(rect, mask, back=False) for k, (rect, mask) in enumerate(masks)}
    hand.lay(cuts, "cut-apart", say("Split off {0} pieces", len(cuts)) if len(cuts) > 1 else "Split off a piece")


def give_back(hand: Hand, rect: Rect, mask: Bool) -> None:
    """Give what was cut out under a mask over `rect` back to the regions it was taken from, crumbs of it as well."""
    rect, mask = _with_crumbs(hand, rect, mask)
    hand.lay({hand.next: _stencil(rect, mask, back=True)}, "give-back", "Give back what was cut out")


def _with_crumbs(hand: Hand, rect: Rect, mask: Bool) -> tuple[Rect, Bool]:
    """Add what a stroke of the eraser leaves of cut-outs that is too small to be meant: it would be seen by nobody."""
    atoms, line = hand.divided.atoms, max(hand.divided.atoms.line_px, 1.0)
    rect = rect[0], rect[1], rect[0] + mask.shape[0], rect[1] + mask.shape[1]
    if min(rect[:2]) < 0 or rect[2] > hand.shape[0] or rect[3] > hand.shape[1]:
        return rect, mask
    under = np.unique(hand.labels[rect[0] : rect[2], rect[1] : rect[3]][mask])
    cut = under[under > hand.divided.found.count]
    if not len(cut):
        return rect, mask
    boxes = hand.divided.boxes[cut]
    low, high = np.minimum(boxes[:, :2].min(axis=0), rect[:2]), np.maximum(boxes[:, 2:].max(axis=0), rect[2:])
    whole: Rect = (*low.tolist(), *high.tolist())
    labels = atoms.labels[whole[0] : whole[2], whole[1] : whole[3]]
    out = np.zeros(labels.shape, bool)
    out[rect[0] - whole[0] : rect[2] - whole[0], rect[1] - whole[1] : rect[3] - whole[1]] = mask
    beside = cv2.dilate(out.view(np.uint8), np.ones((3, 3), np.uint8)) > 0
    for atom in cut.tolist():
        left = ((labels == atom) & ~out).astype(np.uint8)
        _, pieces, stats, _ = cv2.connectedComponentsWithStats(left, connectivity=4)
        small = np.flatnonzero(stats[:, cv2.CC_STAT_AREA] <= max(_LEAST_PIECE, _CRUMB_LINES * line**2))
        small = small[(small > 0) & np.isin(small, np.unique(pieces[beside]))]  # what lay apart before stays
        out |= np.isin(pieces, small)
    return whole, out


def _stencil(rect: Rect, mask: Bool, *, back: bool) -> Stencil:
    stencil = make_stencil(rect, mask, back=back)
    if stencil is None:
        raise BadInput("The shape covers nothing here. Draw it over the page.")
    return stencil


def leashed(hand: Hand, row: float, col: float, reach: Reach) -> set[int]:
    """Return the atoms that a brush may touch that begins at a place: of its region, its pot or its part."""
    return leashed_from(hand, hand.atom_at(row, col), reach)


def leashed_from(hand: Hand, atom: int, reach: Reach) -> set[int]:
    """Return the atoms of the region, the pot or the part of an atom."""
    pot, known = hand.pot_of(atom), hand.book.pots()
    if reach == "region" or pot not in known or pot is None:
        return hand.region_of(atom)
    wanted = {pot} if reach == "pot" else {n for n, p in known.items() if p.part == known[pot].part}
    return {a for n in wanted for a in hand.in_pot(n)}


@order
def brush(hand: Hand, points: Points, pot: PouredNumber | None, width_px: float, reach: Reach = "region") -> None:
    """Paint a pot under a brush that stays in what it begins in."""
    rect, stroke = stroke_mask(points, width_px, hand.shape)
    mask = hand.masked(rect, stroke, leashed(hand, *points[0], reach))
    if not mask.any() and hand.picked:
        raise hand.no_room()
    if not mask.any():
        raise NothingDone("The brush covers nothing that it began in.")
    cut_mask(hand, rect, mask, pot, "Paint on the leash")


@order
def split(hand: Hand, atoms: set[AtomNumber]) -> None:
    """Part again what was joined by hand; otherwise make every piece of some regions a region of its own."""
    ways: list[tuple[Way, dict[int, Path]]] = [("join", hand.sources[JOINS]), ("door", hand.sources[DOORS])]
    joined = [(kind, number) for kind, paths in ways for number, spots in paths.items()
              if any(hand.atom_at(round(r), round(c)) in atoms for r, c in spots)]  # fmt: skip
    if joined:
        part_again(hand.book, hand.page, joined)
        return
    masks = [found for root in {int(hand.partition.region[a]) for a in atoms} for found in _pieces(hand, root)]
    if not masks:
        raise NothingDone("What is picked is all one piece. Draw a dam across it to part it.")
    cut_apart(hand, masks)


def _pieces(hand: Hand, root: int) -> list[tuple[Rect, Bool]]:
    """Return where all pieces of a region but the largest lie, and their masks."""
    own = [a for a in hand.region_of(root) if hand.areas[a]]
    if not own:
        return []
    boxes = hand.divided.boxes[own]
    top, left = boxes[:, :2].min(axis=0).tolist()
    bottom, right = boxes[:, 2:].max(axis=0).tolist()
    labels = hand.labels[top:bottom, left:right]
    pieces = []
    for atom in own:
        count, parts, stats, _ = cv2.connectedComponentsWithStats(
            (labels == atom).view(np.uint8), connectivity=8, ltype=cv2.CV_32S
        )
        pieces += [(int(stats[k, cv2.CC_STAT_AREA]), parts == k) for k in range(1, count)]
    pieces.sort(key=lambda piece: -piece[0])
    rect = (top, left, bottom, right)
    return [(rect, mask) for area, mask in pieces[1:_MOST_PIECES] if area >= _LEAST_PIECE]
