# SPDX-License-Identifier: GPL-3.0-or-later
"""Colours carried from a page to another drawing of the same thing. Knows pages at hand; no window, no file."""

from collections.abc import Iterable

import numpy as np

from drip_pot.book.asking import order
from drip_pot.book.book import Book
from drip_pot.book.hand import Hand
from drip_pot.book.store import Change, Edit
from drip_pot.book.values import (
    DOUBTS,
    PAGE_KINDS,
    PASSES,
    POURS,
    SHADE_CUTS,
    STENCILS,
    Doubt,
    PageKind,
    Pass,
)
from drip_pot.book.verbs.comparing import NO_POT, check_shapes, places_of, seen_of, source_of
from drip_pot.book.verbs.markings import carry_shade_cuts, follow_markings, told_markings
from drip_pot.book.verbs.setting import put
from drip_pot.core.arrays import I64
from drip_pot.core.carry import Carried, carry_kinds
from drip_pot.core.errors import NothingDone
from drip_pot.words import say, tr, tr_many


@order
def carry_colors(hand: Hand, source: int | None = None, *, over: bool = False) -> str:
    """Pour into a page what another drawing of the same thing has: the frame before, or a page by its place from 1.

    What a hand cut there comes along first, each cut with what it lies on. Regions of which it is not sure are poured
    too, and marked. What is poured or cut here already stays, unless told to go `over` it.

    Raises
    ------
    BadInput
        If there is no such page, it is the page itself, or it has another shape.
    NothingDone
        If nothing of it is poured, or nothing here is empty.
    """
    number = source_of(hand.book, hand.page, source)
    other = hand.others(hand.book, number)
    name = hand.book.pages()[number].name
    check_shapes(hand, other)
    before, kinds = seen_of(other, None)
    if not (kinds != NO_POT).any():
        raise NothingDone("Nothing is poured on {0} yet, so there is nothing to carry.", name)
    with hand.book.as_one(say("Carry colours from {0}", name)):
        cut, laid = follow_markings(hand, other, over=over)
        now, mine = seen_of(cut, before.labels.shape)
        filled = lay_colors(cut, carry_kinds(before, now, kinds), mine, name, over=over)
        if not filled and cut is hand:
            raise NothingDone("Nothing here is empty, so that nothing was poured.")
    told = [told_colors(filled, name)] * bool(filled) + [told_markings(laid, name)] * (bool(laid) or not filled)
    return " ".join(told)


def lay_colors(hand: Hand, carried: Carried, mine: I64, name: str, *, over: bool) -> list[Doubt]:
    """Pour what was carried into the regions of a page, by their place, and return it; cut-outs keep their own.

    `mine` are the pots that they have, (R + 1,) int64, -1 for none.
    """
    region, sources = places_of(hand), hand.sources
    steps = zip(sources.by_hand, hand.divided.steps, strict=True)
    cut = {step.count + 1 for number, step in steps if number in sources[STENCILS]}
    changes: list[Change] = []
    laid: list[Doubt] = []
    for place in np.flatnonzero(carried.kind != NO_POT).tolist():
        if place == 0 or (mine[place] != NO_POT and not over):
            continue
        atoms = np.flatnonzero((region == place) & (hand.areas > 0)).tolist()
        if cut.issuperset(atoms):
            continue
        pot = int(carried.kind[place])
        changes += [
            hand.book.change(POURS.key(hand.page, atom), pot) for atom in atoms if sources[POURS].get(atom) != pot
        ]
        row, col = hand.spots_of([max(atoms, key=lambda a: int(hand.areas[a]))])[0]
        laid.append(Doubt(pot, round(float(carried.sure[place]), 3)))
        changes.append(hand.book.change(DOUBTS.key(hand.page, (int(row), int(col))), laid[-1]))
    if laid:
        hand.book.apply(Edit("carry-colors", say("Carry colours from {0}", name), tuple(changes)))
    return laid


def told_colors(laid: list[Doubt], name: str) -> str:
    """Say how many regions were poured as on a page, and how many of them are to be looked at."""
    filled, doubtful = len(laid), sum(doubt.is_open for doubt in laid)
    if doubtful:
        return tr_many("Poured one region as on {1}; {2} to look at (N).",
                       "Poured {0} regions as on {1}; {2} of them to look at (N).",
                       filled, filled, name, doubtful)  # fmt: skip
    return tr_many("Poured one region as on {1}.", "Poured {0} regions as on {1}.", filled, filled, name)


@order
def keep_carried(book: Book, page: int, spots: Iterable[tuple[int, int]]) -> None:
    """Take for right what was carried in doubt into the regions at some pixels (row, col)."""
    put(book, "keep-carried", "Keep what was carried", *((DOUBTS.key(page, (r, c)), None) for r, c in spots))


@order
def carry_light(hand: Hand, source: int | None = None) -> str:
    """Lay lamps, passes, cuts and holds of another drawing of the same thing on a page; the cuts follow the drawing.

    It is the frame before, or a page by its place from 1. The page's own passes of the same number take the settings of
    the others, but for those that either page has painted in many colours; what was painted is not carried, what was
    cut or painted here stays.

    Raises
    ------
    BadInput
        If there is no such page, it is the page itself, or it has another shape.
    """
    number = source_of(hand.book, hand.page, source)
    theirs, name = hand.book.sources(number), hand.book.pages()[number].name
    kinds = [kind for kind in PAGE_KINDS.values() if isinstance(kind, PageKind) and kind.goes_with_light]
    changes = [
        hand.book.change(kind.key(hand.page, n), value)
        for kind in kinds
        for n, value in theirs[kind].items()
        if value != hand.sources[kind].get(n)
        and not (kind is PASSES and _is_painted(hand.sources[PASSES].get(n), value))
    ]
    with hand.book.as_one(say("Light as on {0}", name)):
        hand.book.apply(Edit("carry-light", say("Light as on {0}", name), tuple(changes)))
        cuts = carry_shade_cuts(hand, hand.others(hand.book, number)) if theirs[SHADE_CUTS] else []
    if not cuts:
        return tr("Light as on {0}.", name)
    doubtful = sum(cut.is_open for cut in cuts)
    if doubtful:
        return tr_many("Light as on {1}, with a cut that follows the drawing, to be looked at (N).",
                       "Light as on {1}, with {0} cuts that follow the drawing; {2} of them to look at (N).",
                       len(cuts), len(cuts), name, doubtful)  # fmt: skip
    return tr_many("Light as on {1}, with a cut that follows the drawing.",
                   "Light as on {1}, with {0} cuts that follow the drawing.", len(cuts), len(cuts), name)  # fmt: skip


def _is_painted(mine: Pass | None, theirs: Pass) -> bool:
    """Whether one of two passes is painted in many colours and the other is not."""
    return mine is not None and mine.kind != theirs.kind and "paint" in (mine.kind, theirs.kind)
