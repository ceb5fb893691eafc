# SPDX-License-Identifier: GPL-3.0-or-later
"""Verbs that lay shade and light: shapes cut, strokes, areas filled, borders drawn. Knows a page at hand; no window."""

from typing import Literal

import cv2
import msgspec
import numpy as np

from drip_pot.book.asking import order
from drip_pot.book.book import Book
from drip_pot.book.hand import OUTSIDE_PICK, Hand, Points
from drip_pot.book.numbers import AtomNumber, CutNumber, PassNumber
from drip_pot.book.scope import colored_atoms, scope_atoms
from drip_pot.book.store import Edit
from drip_pot.book.values import COVER, PASSES, SHADE_CUTS, TONE, Pass, ShadeCut
from drip_pot.book.verbs.borders import sides
from drip_pot.book.verbs.cutting import Reach, leashed_from
from drip_pot.book.verbs.layers import change_cuts, cuts_in, paint, paint_color
from drip_pot.book.verbs.passes import known_pass, remove_pass
from drip_pot.book.where import Scope
from drip_pot.core.arrays import U8, Bool, Rect
from drip_pot.core.errors import BadInput, NothingDone
from drip_pot.core.shade import Knot, cornered, fitted, laid, mist, shape_cover, streak
from drip_pot.core.shade import cut as with_mask
from drip_pot.words import say, say_many

NOWHERE: set[int] = set()
_OUTSIDE_PASS = "This lies outside what the pass {0} covers; nothing was changed."
PLACES: Points = []
_FIT_LINES = 0.3
Line = Literal["freehand", "straight", "curved"]


@order
def cut_shade(
    hand: Hand, points: Points, *, light: bool = False, only: AtomNumber = 0, reach: Reach = "region",
    into: PassNumber = TONE, inside: set[AtomNumber] = NOWHERE, softness_px: float = 0.0, line: Line = "freehand",
    knots: tuple[Knot, ...] = (), color: str = "",
) -> str | None:  # fmt: skip
    """Cut a shape into a pass, or out of it (`light`); return what is to be told. It is kept and can be pulled later.

    It stays in the pass's scope, in the atoms `inside` if there are any, and, from an atom `only` on, in its region,
    pot or part (`reach`). The points are those of a hand, corners, or points of a curve (`line`); `knots` are given
    instead where corners and curves mix. In a pass that is painted in many colours it is laid as paint of a `color`.
    """
    one = known_pass(hand.book, hand.page, into)
    if not knots and line == "freehand":
        knots = fitted(points, max(0.7, _FIT_LINES * hand.divided.atoms.line_px))
    shape = knots or cornered(points, smooth=line == "curved")
    rect, cover = shape_cover(shape, softness_px, hand.shape)
    if one.kind == "paint":
        return _lay(
            hand, rect, cover, "Cut {0} away" if light else "Cut into {0}", light, only, reach, into, inside, color
        )
    touched = (cover > 0) & _allowed(hand, rect, only, reach, one, inside)
    _refuse_outside(hand, one, rect, cover > 0, touched, inside)
    made = ShadeCut(into, shape, light, softness_px, _within(hand, only, reach, inside))
    number = max(hand.sources[SHADE_CUTS], default=0) + 1
    change_cuts(hand, into, {number: made}, "cut-light" if light else "cut-shade",
                "Cut light" if light else "Cut shade")  # fmt: skip
    return None if light else _uncolored(hand, rect, touched)


@order
def set_cut(hand: Hand, number: CutNumber, changed: ShadeCut | None) -> None:
    """Change a shape cut into a pass, or take it away (None)."""
    old = hand.sources[SHADE_CUTS].get(number)
    if old is None:
        raise BadInput("This page has no cut {0}.", number)
    if changed is not None and changed.into != old.into:
        raise BadInput("A cut stays in its pass. Cut it anew in the other one.")
    if changed is not None:
        shape_cover(changed.knots, changed.softness_px, (1, 1))  # refuses what is no shape
    change_cuts(hand, old.into, {number: changed}, "set-cut", "Pull a cut" if changed else "Remove a cut")


@order
def keep_cuts(hand: Hand, numbers: set[CutNumber], *, drop: bool = False) -> None:
    """Keep cuts that were suggested, or `drop` them."""
    for into in sorted({cut.into for n, cut in hand.sources[SHADE_CUTS].items() if n in numbers}):
        chosen = {n: cut for n, cut in cuts_in(hand, into).items() if n in numbers and cut.offered}
        if chosen:
            kept = {n: None if drop else msgspec.structs.replace(cut, offered=False) for n, cut in chosen.items()}
            title = say_many("Keep a suggested cut", "Keep {0} suggested cuts", len(chosen), len(chosen))
            if drop:
                title = say_many("Drop a suggested cut", "Drop {0} suggested cuts", len(chosen), len(chosen))
            change_cuts(hand, into, kept, "keep-cuts", title)


@order
def mist_pass(
    hand: Hand, points: list[tuple[float, float, float]], width_px: float, softness: float = 0.8, flow: float = 0.6,
    *, away: bool = False, only: AtomNumber = 0, reach: Reach = "region", into: PassNumber = TONE,
    inside: set[AtomNumber] = NOWHERE, color: str = "",
) -> str | None:  # fmt: skip
    """Lay a soft stroke (row, col, pressure 0..1) into a pass, or take it `away`; the rest as `cut_shade`."""
    rect, cover = mist(points, width_px, softness, flow, hand.shape)
    return _lay(hand, rect, cover, "Wipe mist off {0}" if away else "Mist {0}", away, only, reach, into, inside, color)


@order
def streak_pass(
    hand: Hand, points: list[tuple[float, float, float]], width_px: float, flow: float = 0.8, seed: int = 1,
    *, away: bool = False, only: AtomNumber = 0, reach: Reach = "region", into: PassNumber = TONE,
    inside: set[AtomNumber] = NOWHERE, color: str = "",
) -> str | None:  # fmt: skip
    """Lay a stroke of bristles (row, col, pressure 0..1) into a pass, or take it `away`; the rest as `cut_shade`."""
    rect, cover = streak(points, width_px, flow, seed, hand.shape)
    return _lay(hand, rect, cover, "Streak {0} away" if away else "Streak {0}", away, only, reach, into, inside, color)


@order
def join_pass(hand: Hand, number: PassNumber) -> str | None:
    """Join a pass of one colour with the pass right below it; return what is to be told.

    The lower one keeps its settings and covers wherever either did: what only the upper one covers looks as before,
    unless it was the stronger one. Shapes of the upper one become paint. Raises `BadInput` where the two differ in what
    one pass cannot be: kind, colour, mode or scope.
    """
    book, page = hand.book, hand.page
    upper, passes = known_pass(book, page, number), hand.sources[PASSES]
    place = list(passes).index(number)
    if not place:
        raise BadInput("{0} is the lowest pass; there is none below to join it with.", upper.name)
    below = list(passes)[place - 1]
    lower = passes[below]
    alike = {
        "{0} and {1} have to be of one colour to be joined.": upper.kind == lower.kind == "tint",
        "{0} and {1} have to have the same colour to be joined.": upper.color == lower.color,
        "{0} and {1} have to have the same blend mode to be joined.": upper.mode == lower.mode,
        "{0} and {1} have to apply to the same to be joined.": upper.scope == lower.scope,
    }
    for problem, same in alike.items():
        if not same:
            raise BadInput(problem, upper.name, lower.name)
    share = min(upper.strength / lower.strength, 1.0) if lower.strength > 0 else 1.0
    plane, told = book.plane(COVER.key(page, number)), None
    with book.as_one():
        if plane.any():
            rect = (0, 0, *hand.shape)
            cover = np.asarray(cv2.convertScaleAbs(plane.whole(), alpha=share), np.uint8)
            title = say("Join {0} with {1}", upper.name, lower.name)
            told = paint(hand, below, rect, cover > 0, lambda under: laid(under, cover, away=False), title, away=False)
        remove_pass(book, page, number)
    return told


@order
def fill_pass(
    hand: Hand, atoms: set[AtomNumber], *, away: bool = False, into: PassNumber = TONE,
    inside: set[AtomNumber] = NOWHERE, at: Points = PLACES, color: str = "",
) -> str | None:  # fmt: skip
    """Fill areas in a pass, or empty them (`away`): a page or a part begins in shadow so, and light is cut out.

    Where borders of the pass divide them, only the sides that the places `at` lie on; return what is to be told.
    """
    one = known_pass(hand.book, hand.page, into)
    wanted = np.zeros(len(hand.areas), bool)
    wanted[[a for a in atoms if 0 < a < len(wanted) and (not inside or a in inside)]] = True
    scope = scope_atoms(hand.book, hand.sources, one.scope, len(wanted) - 1, hand.ground)
    if scope is not None:
        wanted &= scope
    found = np.flatnonzero(wanted & (hand.areas > 0))
    if not len(found):
        if inside and not set(inside) & set(atoms):
            raise NothingDone(OUTSIDE_PICK)
        raise NothingDone(_OUTSIDE_PASS, one.name)
    boxes = hand.divided.boxes[found]
    rect: Rect = (*boxes[:, :2].min(axis=0).tolist(), *boxes[:, 2:].max(axis=0).tolist())
    side = sides(hand, into, wanted, rect, at) if at else None
    mask = np.asarray(wanted[hand.labels[rect[0] : rect[2], rect[1] : rect[3]]]) if side is None else side
    title = say_many("Fill an area in {1}", "Fill {0} areas in {1}", len(found), len(found), one.name)
    if away:
        title = say_many("Empty an area in {1}", "Empty {0} areas in {1}", len(found), len(found), one.name)
    if one.kind == "paint" and not away:
        paint_color(hand, into, rect, np.where(mask, 255, 0).astype(np.uint8), color or one.color, title)
        return _uncolored(hand, rect, mask)
    full = 0 if away != one.covers_all else 255

    def filled(before: U8) -> U8:
        return np.where(mask, full, before).astype(np.uint8)

    told = paint(hand, into, rect, mask, filled, title, away=away)
    return told or (None if away else _uncolored(hand, rect, mask))


def lay_cover(hand: Hand, into: int, cover: U8, colors: U8 | None = None) -> None:
    """Cover a pass, over what it covers, by (M, N) uint8 of the page's size.

    `colors`, (M, N, 3) uint8, are those of a pass that is painted in many. Raises `BadInput` for another size.
    """
    one = known_pass(hand.book, hand.page, into)
    if cover.shape != hand.shape:
        raise BadInput("This coverage is of another size than the page.")
    rect: Rect = (0, 0, *hand.shape)
    if colors is not None:
        paint_color(hand, into, rect, cover, colors, say("Cover {0}", one.name))
        return
    paint(
        hand,
        into,
        rect,
        cover > 0,
        lambda under: laid(under, cover, away=False),
        say("Cover {0}", one.name),
        away=False,
    )


@order
def wipe_speck(hand: Hand, at: tuple[float, float], into: PassNumber = TONE) -> None:
    """Take away the piece of a pass that lies at a place, by itself."""
    one = known_pass(hand.book, hand.page, into)
    row, col = int(at[0]), int(at[1])
    whole = hand.book.plane(COVER.key(hand.page, into)).whole()
    inside = 0 <= row < whole.shape[0] and 0 <= col < whole.shape[1]
    if not inside or whole[row, col] < 128:
        raise NothingDone("There is no shade at that place any more; nothing was changed.")
    mask = np.zeros((whole.shape[0] + 2, whole.shape[1] + 2), np.uint8)
    solid = (whole >= 128).view(np.uint8)
    _, _, _, (left, top, wide, high) = cv2.floodFill(solid, mask, (col, row), 2, flags=8 | cv2.FLOODFILL_MASK_ONLY)
    rect: Rect = (top, left, top + high, left + wide)
    piece = mask[1 + top : 1 + top + high, 1 + left : 1 + left + wide] > 0

    def wiped(before: U8) -> U8:
        return np.where(piece, 0, before).astype(np.uint8)

    paint(hand, into, rect, piece, wiped, say("Wipe a speck in {0}", one.name), away=True)


def _lay(
    hand: Hand, rect: Rect, cover: U8, title: str, away: bool, only: int, reach: Reach, into: int, inside: set[int],
    color: str,
) -> str | None:  # fmt: skip
    one = known_pass(hand.book, hand.page, into)
    drawn = cover > 0
    cover = cover * _allowed(hand, rect, only, reach, one, inside).view(np.uint8)
    _refuse_outside(hand, one, rect, drawn, cover > 0, inside)

    if one.kind == "paint" and not away:
        paint_color(hand, into, rect, cover, color or one.color, say("Paint in {0}", one.name))
        return _uncolored(hand, rect, cover > 0)

    def laid_on(before: U8) -> U8:
        return laid(before, cover, away=away != one.covers_all)

    told = paint(hand, into, rect, cover > 0, laid_on, say(title, one.name), away=away)
    return told or (None if away else _uncolored(hand, rect, cover > 0))


def _within(hand: Hand, only: int, reach: Reach, inside: set[int]) -> Scope:
    """Return where a cut stays for good: what it began in, and what was picked."""
    atoms = leashed_from(hand, only, reach) if only else set()
    if only and not inside and reach != "region" and (pot := hand.pot_of(only)) is not None:
        return Scope(pots=(pot,)) if reach == "pot" else Scope(parts=(hand.book.pots()[pot].part,))
    both = atoms & inside if atoms and inside else atoms or inside
    return Scope(spots=hand.spots_of(a for a in both if 0 < a < len(hand.areas)))


def _refuse_outside(hand: Hand, one: Pass, rect: Rect, mask: Bool, touched: Bool, inside: set[int]) -> None:
    """Refuse a stroke that touches nothing, and blame what keeps it away: the pass's scope, or what is picked."""
    if touched.any():
        return
    if inside and (mask & _allowed(hand, rect, 0, "region", one, set())).any():
        raise NothingDone(OUTSIDE_PICK)
    if (mask & _allowed(hand, rect, 0, "region", one, inside)).any():
        raise NothingDone("The stroke stays in what it began in, and nothing of that lies here; nothing was changed.")
    raise NothingDone(_OUTSIDE_PASS, one.name)


def _uncolored(hand: Hand, rect: Rect, mask: Bool) -> str | None:
    """Tell of what was laid where no colour is yet."""
    colored = colored_atoms(hand.sources, len(hand.areas) - 1)
    labels = hand.labels[rect[0] : rect[2], rect[1] : rect[3]]
    seen = bool((mask & colored[labels]).any())
    return None if seen else "No colour is poured here yet. What you laid is kept and shows once there is."


def _allowed(hand: Hand, rect: Rect, only: int, reach: Reach, one: Pass, inside: set[int]) -> Bool:
    """Return where a stroke may touch a pass within a rectangle."""
    allowed = np.ones(len(hand.areas), bool)
    allowed[0] = False
    scope = scope_atoms(hand.book, hand.sources, one.scope, len(allowed) - 1, hand.ground)
    for atoms in (inside, leashed_from(hand, only, reach) if only else set()):
        if atoms:
            kept = np.zeros_like(allowed)
            kept[[a for a in atoms if a < len(kept)]] = True
            allowed &= kept
    if scope is not None:
        allowed &= scope
    return np.asarray(allowed[hand.labels[rect[0] : rect[2], rect[1] : rect[3]]])


def shade_mask(
    book: Book, page: int, rect: Rect, mask: Bool, allowed: Bool, *, light: bool, into: int = TONE
) -> None:  # fmt: skip
    """Cut a mask into a pass, or out of it; `mask` and `allowed` cover `rect`."""
    name = COVER.key(page, into)
    plane = book.plane(name)
    tiles = plane.replaced(name, rect, with_mask(plane.read(rect), mask, allowed, light=light))
    book.apply(Edit("cut-light" if light else "cut-shade", "Cut light" if light else "Cut shade", (), tiles))
