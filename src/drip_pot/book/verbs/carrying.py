# SPDX-License-Identifier: GPL-3.0-or-later
"""Colours carried from a page to another drawing of the same thing. Knows pages at hand; no window, no file."""

from collections.abc import Iterable

import msgspec
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
    Doubt,
    LineState,
    PageKind,
    Pass,
    ShadeCut,
)
from drip_pot.book.verbs.layers import change_cuts
from drip_pot.book.verbs.setting import put
from drip_pot.core.arrays import I32, I64
from drip_pot.core.carry import Scene, carry_kinds, follow, see, small_shape
from drip_pot.core.errors import BadInput, NothingDone
from drip_pot.words import say, tr, tr_many

NO_POT = -1
_ASPECT = 0.02


@order
def carry_colors(hand: Hand, source: int | None = None, *, over: bool = False) -> str:
    """Pour into a page what another drawing of the same thing has: the frame before, or a page by its place from 1.

    Regions of which it is not sure are poured too, and marked. What is poured already stays, unless told to go `over`
    it.

    Raises
    ------
    BadInput
        If there is no such page, it is the page itself, or it has another shape.
    NothingDone
        If nothing of it is poured, or nothing here is empty.
    """
    number = _source(hand.book, hand.page, source)
    other = hand.others(hand.book, number)
    name = hand.book.pages()[number].name
    _check_shapes(hand, other, name)
    before, kinds = seen_of(other, None)
    if not (kinds != NO_POT).any():
        raise NothingDone("Nothing is poured on {0} yet, so there is nothing to carry.", name)
    now, mine = seen_of(hand, before.labels.shape)
    region = places_of(hand)
    carried = carry_kinds(before, now, kinds)
    changes: list[Change] = []
    filled = doubtful = 0
    sources = hand.sources
    for place in np.flatnonzero(carried.kind != NO_POT).tolist():
        if place == 0 or (mine[place] != NO_POT and not over):
            continue
        atoms = np.flatnonzero((region == place) & (hand.areas > 0)).tolist()
        pot = int(carried.kind[place])
        changes += [
            hand.book.change(POURS.key(hand.page, atom), pot) for atom in atoms if sources[POURS].get(atom) != pot
        ]
        filled += 1
        row, col = hand.spots_of([max(atoms, key=lambda a: int(hand.areas[a]))])[0]
        doubt = Doubt(pot, round(float(carried.sure[place]), 3))
        doubtful += doubt.is_open
        changes.append(hand.book.change(DOUBTS.key(hand.page, (int(row), int(col))), doubt))
    if not changes:
        raise NothingDone("Nothing here is empty, so that nothing was poured.")
    hand.book.apply(Edit("carry-colors", say("Carry colours from {0}", name), tuple(changes)))
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
    number = _source(hand.book, hand.page, source)
    theirs, name = hand.book.sources(number), hand.book.pages()[number].name
    kinds = [kind for kind in PAGE_KINDS.values() if isinstance(kind, PageKind) and kind.goes_with_light]
    changes = [
        hand.book.change(kind.key(hand.page, n), value)
        for kind in kinds
        for n, value in theirs[kind].items()
        if value != hand.sources[kind].get(n)
        and not (kind is PASSES and _is_painted(hand.sources[PASSES].get(n), value))
    ]
    cuts = list(theirs[SHADE_CUTS].values())
    with hand.book.as_one():
        hand.book.apply(Edit("carry-light", say("Light as on {0}", name), tuple(changes)))
        if cuts:
            _carry_cuts(hand, hand.others(hand.book, number), cuts, name)
    if not cuts:
        return tr("Light as on {0}.", name)
    return tr_many("Light as on {1}, with a cut that follows the drawing.",
                   "Light as on {1}, with {0} cuts that follow the drawing.", len(cuts), len(cuts), name)  # fmt: skip


def _is_painted(mine: Pass | None, theirs: Pass) -> bool:
    """Whether one of two passes is painted in many colours and the other is not."""
    return mine is not None and mine.kind != theirs.kind and "paint" in (mine.kind, theirs.kind)


def _carry_cuts(hand: Hand, other: Hand, cuts: list[ShadeCut], name: str) -> None:
    """Cut shapes of another drawing into the same passes here, where they are now."""
    _check_shapes(hand, other, name)
    before, _ = seen_of(other, None)
    now, _ = seen_of(hand, before.labels.shape)
    high, wide = before.labels.shape
    here, there = (np.array([shape[1] / wide, shape[0] / high]) for shape in (hand.shape, other.shape))
    places = [np.array([(c, r) for r, c, _ in cut.knots] + [(c, r) for r, c in cut.within.spots]) for cut in cuts]
    moved = follow(before, now, np.concatenate(places) / there) * here
    first = max(hand.sources[SHADE_CUTS], default=0) + 1
    fresh: dict[int, dict[int, ShadeCut | None]] = {}
    start = 0
    for number, (cut, own) in enumerate(zip(cuts, places, strict=True), first):
        spots = [(round(float(r), 2), round(float(c), 2)) for c, r in moved[start : start + len(own)]]
        start += len(own)
        knots = tuple((*at, smooth) for at, (_, _, smooth) in zip(spots, cut.knots, strict=False))
        within = msgspec.structs.replace(cut.within, spots=tuple(spots[len(cut.knots) :]))
        fresh.setdefault(cut.into, {})[number] = msgspec.structs.replace(cut, knots=knots, within=within)
    for into, changes in fresh.items():
        change_cuts(hand, into, changes, "carry-light", say("Cuts as on {0}", name))


def _check_shapes(hand: Hand, other: Hand, name: str) -> None:
    (rows, cols), (high, wide) = hand.shape, other.shape
    if abs(np.log((rows / cols) / (high / wide))) > _ASPECT:
        raise BadInput(
            "{0} is {1} × {2} px and this page {3} × {4} px. Colours are carried between frames of one shape; grow or "
            "crop one of them first (Size and edges of the page).",
            name,
            wide,
            high,
            cols,
            rows,
        )


def _source(book: Book, page: int, place: int | None) -> int:
    """Return the page that a frame takes after; raises `BadInput`."""
    pages = list(book.pages())
    if place is None:
        known = book.sequence_of(page)
        found = known[1].beside(page, -1) if known is not None else None
        if found is None:
            raise BadInput("No frame comes before this page. Say which page it takes after (`source`, from 1).")
        return found
    if not 1 <= place <= len(pages):
        raise BadInput("There is no page {0}; this book has {1} pages.", place, len(pages))
    if pages[place - 1] == page:
        raise BadInput("That is this page itself. Name another one to take after.")
    return pages[place - 1]


def places_of(hand: Hand) -> I32:
    """Return for every atom the place of its region, from 1, (A + 1,)."""
    region = hand.partition.region
    live = hand.areas > 0
    live[0] = False
    found = np.zeros(len(region), np.int32)
    found[live] = np.unique(region[live], return_inverse=True)[1].reshape(-1) + 1
    return found


def seen_of(hand: Hand, shape: tuple[int, ...] | None) -> tuple[Scene, I64]:
    """Return a page as it is compared, and the pot of every region by its place; -1 is none."""
    sources = hand.sources
    if sources[POURS] and not _up_to_date(sources.cut, sources.line):
        name = hand.book.pages()[hand.page].name
        raise BadInput("The regions of {0} are out of date. Open that page once, then try again.", name)
    region = places_of(hand)
    line_px = hand.divided.atoms.line_px
    high, wide = small_shape(hand.shape, line_px) if shape is None else shape
    scene = see(region[hand.labels], hand.ink, line_px, (high, wide))
    kinds = np.full(scene.count + 1, NO_POT, np.int64)
    most = np.zeros(scene.count + 1, np.int64)
    for atom, pot in sources[POURS].items():
        if atom < len(region) and hand.areas[atom] > most[region[atom]]:
            most[region[atom]], kinds[region[atom]] = hand.areas[atom], pot
    kinds[0] = NO_POT
    return scene, kinds


def _up_to_date(cut: LineState, line: LineState) -> bool:
    return msgspec.structs.replace(cut, engine=line.engine) == line
