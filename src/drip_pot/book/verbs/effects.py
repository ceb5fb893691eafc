# SPDX-License-Identifier: GPL-3.0-or-later
"""Verbs that lay effect lines beneath the line, as a pass behind figures, and back over it. Knows the book alone."""

import cv2
import msgspec
import numpy as np

from drip_pot.book.asking import order
from drip_pot.book.book import Book
from drip_pot.book.hand import Hand
from drip_pot.book.lines import lines_of
from drip_pot.book.naming import apart
from drip_pot.book.numbers import EffectNumber, PassNumber
from drip_pot.book.values import BALLOON, EFFECTS, PASSES, POURS, Pass
from drip_pot.book.verbs.passes import known_pass, lay_pass, remove_pass
from drip_pot.book.verbs.setting import put
from drip_pot.book.verbs.sheets import set_effect
from drip_pot.book.where import Scope
from drip_pot.core.errors import BadInput, NothingDone
from drip_pot.core.inks import Effect
from drip_pot.core.regions import Path
from drip_pot.words import say


@order
def lower_effect(hand: Hand, number: EffectNumber) -> int:
    """Lay effect lines of the page beneath the line, as `lay_effect` does; return the number of their pass."""
    effect = hand.sources[EFFECTS][number]
    with hand.book.as_one(say("Lay the effect lines beneath the line")):
        made = lay_effect(hand, effect)
        set_effect(hand.book, hand.page, number, None)
    return made


@order
def lay_effect(hand: Hand, effect: Effect) -> int:
    """Lay effect lines beneath the line, as a pass over what lies behind figures; return its number.

    That is what is picked, or else every ground that they cross; where no ground is known they lie everywhere.
    """
    scope = Scope(spots=hand.spots_of(hand.picked)) if hand.picked else grounds_behind(hand, effect.shape)
    name = apart("Effect", [one.name for one in hand.sources[PASSES].values()])
    return lay_pass(hand.book, hand.page, Pass(name, "effect", effect.color, scope=scope, effect=effect))


@order
def raise_effect(book: Book, page: int, number: PassNumber) -> int:
    """Lay the effect lines of a pass over the line again, everywhere in their shape; return their number.

    Raises
    ------
    BadInput
        If the pass is none of effect lines.
    """
    one = known_pass(book, page, number)
    if one.effect is None:
        raise BadInput("The pass {0} has no effect lines.", one.name)
    effect = msgspec.structs.replace(one.effect, color=one.color)
    with book.as_one(say("Lay the effect lines over the line")):
        remove_pass(book, page, number)
        return set_effect(book, page, None, effect)


@order
def lay_behind(hand: Hand, number: PassNumber) -> None:
    """Lay a pass, as a picture, behind figures: over what is picked, or else every ground that it crosses.

    Raises
    ------
    BadInput
        If there is no such pass.
    NothingDone
        If it crosses no ground that is known.
    """
    one, (rows, cols) = known_pass(hand.book, hand.page, number), hand.shape
    shape: Path = ((0, 0), (0, cols), (rows, cols), (rows, 0))
    if one.placed is not None and not one.placed.repeats:
        hull = cv2.convexHull(np.array(one.placed.grid, np.float32))[:, 0]
        shape = tuple((float(row), float(col)) for row, col in hull)
    elif one.effect is not None:
        shape = one.effect.shape
    scope = Scope(spots=hand.spots_of(hand.picked)) if hand.picked else grounds_behind(hand, shape)
    if scope.is_everywhere:
        raise NothingDone("It crosses no ground that is known here. Pick what it is to lie on, then lay it behind.")
    title = say("Lay {0} behind figures", one.name)
    put(hand.book, "lay-behind", title, (PASSES.key(hand.page, number), msgspec.structs.replace(one, scope=scope)))


def grounds_behind(hand: Hand, shape: Path) -> Scope:
    """Return the grounds that lie in a shape, corners (row, col): their pots, and a place in each that has none."""
    pieces = hand.pieces()
    if pieces is None:
        return Scope()
    told = lines_of(hand.book, hand.sources, pieces, hand.panels)
    inside = np.zeros(hand.shape, np.uint8)
    corners = np.array(shape, np.float64)[:, ::-1]
    cv2.fillPoly(inside, [np.rint(corners).astype(np.int32)], 1)
    crossed = set(np.unique(hand.labels[inside > 0]).tolist()) - {0}
    is_ground = told.grounds()[pieces.region]
    panel = hand.panels.panel  # 0 is the gutter
    behind = {a for a in crossed if a < min(len(is_ground), len(panel)) and is_ground[a] and panel[a] > 0}
    pours = hand.sources[POURS]
    pots = sorted({pours[atom] for atom in behind if atom in pours} - {BALLOON})
    return Scope(pots=tuple(pots), spots=hand.spots_of(atom for atom in behind if atom not in pours))
