# SPDX-License-Identifier: GPL-3.0-or-later
"""What a hand cut into one drawing, taken along to another of the same thing. Knows pages at hand; no window, no file.

What was taken along is remembered by where it comes from first: done again, it is laid anew and not twice, and what a
hand changed or took away meanwhile stays so.
"""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field, replace
from typing import Any

import msgspec
import numpy as np

from drip_pot.book.asking import order
from drip_pot.book.book import Book
from drip_pot.book.derive.regions import partition_of
from drip_pot.book.following import CUTS, Marking, is_as_laid, is_known, kind_of, sum_of
from drip_pot.book.hand import Hand
from drip_pot.book.values import (
    BRIDGES,
    DAMS,
    DOORS,
    FOLLOWING,
    POURS,
    SEED_CUTS,
    SHADE_CUTS,
    STENCILS,
    FollowingMark,
    PageKind,
    ShadeCut,
)
from drip_pot.book.verbs.comparing import drawn_alike, source_of
from drip_pot.book.verbs.cutting import border_reach
from drip_pot.book.verbs.layers import change_cuts
from drip_pot.book.verbs.marks_laid import bridges_there, in_page, is_drawn, laid_there, moved_path_of, points_of
from drip_pot.book.verbs.setting import put
from drip_pot.core.carry import LIES_WELL, follow, follow_marks
from drip_pot.core.errors import BadInput, NothingDone
from drip_pot.core.regions import Cut, Path, Stencil
from drip_pot.words import say, tr, tr_many


@dataclass(frozen=True)
class _Mark:
    """A marking to be taken along: where it comes from first, its kind and number there, and its number here."""

    origin: str
    kind: PageKind[int, Any]
    number: int
    value: Any
    here: int | None


@order
def carry_markings(hand: Hand, source: int | None = None, *, over: bool = False) -> str:
    """Take dams, doors, bridges and cut-outs of another drawing of the same thing along, each with what it lies on.

    It is the frame before, or a page by its place from 1. What was taken along before is laid anew; what a hand changed
    or took away here stays so, unless told to go `over` it.

    Raises
    ------
    BadInput
        If there is no such page, it is the page itself, or it has another shape.
    NothingDone
        If nothing there is cut by hand, or all of it is here as it is there.
    """
    number = source_of(hand.book, hand.page, source)
    name = hand.book.pages()[number].name
    with hand.book.as_one():
        after, laid = follow_markings(hand, hand.others(hand.book, number), over=over)
    if after is hand:
        raise NothingDone("Nothing that was cut by hand on {0} is missing here.", name)
    return told_markings(laid, name)


def told_markings(laid: Sequence[FollowingMark], name: str) -> str:
    """Say how many markings were taken along from a page, and how many of them are to be looked at."""
    doubtful = sum(mark.is_open for mark in laid)
    if not laid:
        return tr("Markings are as on {0} now.", name)
    if doubtful:
        return tr_many("One marking as on {1}, to be looked at (N).",
                       "{0} markings as on {1}; {2} of them to look at (N).",
                       len(laid), len(laid), name, doubtful)  # fmt: skip
    return tr_many("One marking as on {1}.", "{0} markings as on {1}.", len(laid), len(laid), name)


def follow_markings(hand: Hand, other: Hand, *, over: bool) -> tuple[Hand, list[FollowingMark]]:
    """Lay what was cut by hand on another page; return the hand on the page as it is then, and what was laid."""
    marks, gone = _to_carry(hand, other, CUTS, over=over)
    decided, mine = other.sources[BRIDGES], hand.sources[BRIDGES]
    if not marks and not gone and not decided.keys() - mine.keys():
        return hand, []
    there, here = drawn_alike(hand, other)
    moved = follow_marks(there.scene, here.scene, [points_of(mark.value) / there.scale for mark in marks])
    edit, laid = _Edit(hand, dict(bridges_there(there, here))), list[FollowingMark]()
    for mark, at in zip(marks, moved, strict=True):
        value = laid_there(mark.value, in_page(at, there, here), there, here, at.slid, to_line=mark.kind is DAMS)
        if value is not None and (mark.here is not None or not _is_drawn(hand, mark, value)):
            pot = pot_of_cut(other, mark.number) if mark.kind is STENCILS else None
            number = edit.put(mark, value, pot)
            before = hand.sources[FOLLOWING].get(mark.origin)
            told = _following(other.page, number, value, at.slid * float(here.scale.mean()), at.slid, pot, before)
            edit.more[FOLLOWING.key(hand.page, mark.origin)] = told
            if told != before:
                laid.append(told)
    for origin, kind, number in gone:
        edit.take(origin, kind, number)
    return edit.lay(say("Markings as on {0}", other.sources.page.name)), laid


def _is_drawn(hand: Hand, mark: _Mark, value: Marking) -> bool:
    return is_drawn(value, hand.sources[mark.kind].values(), border_reach(hand))


@dataclass
class _Edit:
    """What is to be laid on a page at once: cuts by number with the pots of cut-outs, and all other values by key."""

    hand: Hand
    more: dict[str, object]
    cuts: dict[int, Cut | None] = field(default_factory=dict)
    pots: dict[int, int | None] = field(default_factory=dict)

    def put(self, mark: _Mark, value: Path | Stencil, pot: int | None) -> int:
        """Lay a marking under its number here, or the next one; return that."""
        sources, page = self.hand.sources, self.hand.page
        if mark.kind is DOORS:
            added = sum(key.startswith(DOORS.below(page)) for key in self.more)
            number = max(sources[DOORS], default=0) + 1 + added if mark.here is None else mark.here
            self.more[DOORS.key(page, number)] = value
            return number
        number = max(self.hand.next, *(n + 1 for n in self.cuts), 0) if mark.here is None else mark.here
        if value != sources.by_hand.get(number):
            self.cuts[number] = value
            if isinstance(value, Stencil) and not value.back:
                self.pots[number] = _pot_here(self.hand, mark, pot)
        return number

    def take(self, origin: str, kind: PageKind[int, Any], number: int) -> None:
        """Take a marking away."""
        self.more[FOLLOWING.key(self.hand.page, origin)] = None
        if kind is DOORS:
            self.more[DOORS.key(self.hand.page, number)] = None
        else:
            self.cuts[number] = None

    def lay(self, title: str) -> Hand:
        """Do it; return the hand on the page as it is then."""
        hand = self.hand
        changed = {key: hand.book.change(key, value) for key, value in self.more.items()}
        pairs = [(key, self.more[key]) for key, change in changed.items() if change.before != change.after]
        after = hand.divided
        if self.cuts:
            after = hand.lay(self.cuts, "carry-markings", title, pots=self.pots, more=pairs)
        elif pairs:
            put(hand.book, "carry-markings", title, *pairs)
        else:
            return hand
        part = partition_of(after.atoms, hand.sources)
        return replace(hand, divided=after, partition=part, known_panels=None, picked=frozenset())


def carry_shade_cuts(hand: Hand, other: Hand, *, over: bool = False) -> list[FollowingMark]:
    """Cut the shapes of another drawing into the same passes here, where they are now; return what was laid."""
    marks, gone = _to_carry(hand, other, (SHADE_CUTS,), over=over)
    fresh: dict[int, dict[int, ShadeCut | None]] = {}
    following: dict[str, FollowingMark | None] = {origin: None for origin, _, _ in gone}
    for _, _, number in gone:
        fresh.setdefault(hand.sources[SHADE_CUTS][number].into, {})[number] = None
    if marks:
        there, here = drawn_alike(hand, other)
        moved = follow_marks(there.scene, here.scene, [points_of(mark.value) / there.scale for mark in marks])
        spots = [spot for mark in marks for spot in mark.value.within.spots]
        at = follow(there.scene, here.scene, np.array([(c, r) for r, c in spots]).reshape(-1, 2) / there.scale)
        places = iter([(round(float(y), 2), round(float(x), 2)) for x, y in at * here.scale])
        first = max(hand.sources[SHADE_CUTS], default=0) + 1
        for mark, move in zip(marks, moved, strict=True):
            cut: ShadeCut = mark.value
            path = moved_path_of(tuple((r, c) for r, c, _ in cut.knots), in_page(move, there, here), 2)
            value = msgspec.structs.replace(
                cut, knots=tuple((*at, smooth) for at, (_, _, smooth) in zip(path, cut.knots, strict=True)),
                within=msgspec.structs.replace(cut.within, spots=tuple(next(places) for _ in cut.within.spots)),
            )  # fmt: skip
            if mark.here is None and _is_drawn(hand, mark, value):
                continue
            number, now = first if mark.here is None else mark.here, hand.sources[SHADE_CUTS].get(mark.here or 0)
            if now is not None and now.into != cut.into:  # it was cut into another pass then
                fresh.setdefault(now.into, {})[number] = None
                number = first
            first = max(first, number + 1)
            if value != now:
                fresh.setdefault(cut.into, {})[number] = value
            following[mark.origin] = _following(
                other.page, number, value, move.slid * float(here.scale.mean()), move.slid, None,
                hand.sources[FOLLOWING].get(mark.origin),
            )  # fmt: skip
    title = say("Cuts as on {0}", other.sources.page.name)
    for into, changes in fresh.items():
        change_cuts(hand, into, changes, "carry-light", title)
    before = hand.sources[FOLLOWING]
    pairs = [(FOLLOWING.key(hand.page, origin), mark) for origin, mark in following.items()]
    if pairs:
        put(hand.book, "carry-light", title, *pairs)
    return [mark for origin, mark in following.items() if mark is not None and mark != before.get(origin)]


# Which are taken along


def _to_carry(
    hand: Hand, other: Hand, kinds: Iterable[PageKind[int, Any]], *, over: bool
) -> tuple[list[_Mark], list[tuple[str, PageKind[int, Any], int]]]:
    """Return what is to be laid here, and what is to go since it is gone there: origin, kind and number."""
    mine, theirs, page = hand.sources, other.sources, other.page
    origins = {(kind_of(o).name, mark.number): o for o, mark in theirs[FOLLOWING].items() if is_known(o)}
    by_seeds = theirs[SEED_CUTS]
    marks, known = list[_Mark](), set[str]()
    for kind in kinds:
        for number, value in theirs[kind].items():
            origin = origins.get((kind.name, number), f"{page}:{kind.name}:{number}")
            known.add(origin)
            before = mine[FOLLOWING].get(origin)
            is_own = origin.startswith(f"{hand.page}:") or (kind is STENCILS and number in by_seeds)
            if not is_own and (before is None or over or is_as_laid(mine, origin)):
                marks.append(_Mark(origin, kind, number, value, None if before is None else before.number))
    gone = [
        (origin, kind, mark.number)
        for origin, mark in mine[FOLLOWING].items()
        if mark.source == page and origin not in known
        and is_known(origin) and (kind := kind_of(origin)) in kinds and is_as_laid(mine, origin)
    ]  # fmt: skip
    return sorted(marks, key=lambda mark: (mark.kind is DOORS, mark.number)), gone


def _following(
    source: int, number: int, value: Marking, slid_px: float, slid: float, pot: int | None, before: FollowingMark | None
) -> FollowingMark:  # fmt: skip
    """Return what is remembered of a marking that is laid; what was kept where it lies now need not be kept again."""
    laid = sum_of(value)
    sure = slid < LIES_WELL or (before is not None and before.laid == laid and before.sure)
    return FollowingMark(source, number, laid, round(slid_px, 2) if np.isfinite(slid_px) else None, sure, pot)


def pot_of_cut(hand: Hand, number: int) -> int | None:
    """Return the pot of what a cut-out made; None for paper."""
    place = list(hand.sources.by_hand).index(number)
    step = hand.divided.steps[place]
    return hand.sources[POURS].get(step.count + 1) if step.rect[2] > step.rect[0] else None


def _pot_here(hand: Hand, mark: _Mark, pot: int | None) -> int | None:
    """Return the pot that a cut-out is laid in: what a hand poured into it since it was laid stays."""
    before = hand.sources[FOLLOWING].get(mark.origin)
    if before is None or before.number not in hand.sources[STENCILS]:
        return pot
    now = pot_of_cut(hand, before.number)
    return pot if now == before.pot else now


# What is done about them


@order
def keep_markings(book: Book, page: int, origins: Iterable[str]) -> None:
    """Take for right where markings were laid that were taken along, by where they come from.

    Raises
    ------
    BadInput
        If there is no such marking.
    """
    following = book.sources(page)[FOLLOWING]
    pairs = []
    for origin in origins:
        if origin not in following:
            raise BadInput("There is no marking {0}.", origin)
        pairs.append((FOLLOWING.key(page, origin), msgspec.structs.replace(following[origin], sure=True)))
    put(book, "keep-markings", "Keep a marking where it lies", *pairs)


@order
def drop_markings(hand: Hand, origins: Iterable[str]) -> None:
    """Take markings away that were taken along, by where they come from; they do not come again unasked.

    Raises
    ------
    BadInput
        If there is no such marking, or a hand changed it since.
    """
    sources, cuts = hand.sources, dict[int, Cut | None]()
    with hand.book.as_one():
        for origin in origins:
            if origin not in sources[FOLLOWING] or not is_as_laid(sources, origin):
                raise BadInput("There is no marking {0}.", origin)
            kind, number = kind_of(origin), sources[FOLLOWING][origin].number
            if kind is SHADE_CUTS:
                change_cuts(
                    hand, sources[SHADE_CUTS][number].into, {number: None}, "drop-markings", "Take a marking away"
                )
            elif kind is DOORS:
                put(hand.book, "drop-markings", "Take a marking away", (DOORS.key(hand.page, number), None))
            else:
                cuts[number] = None
        if cuts:
            hand.lay(cuts, "drop-markings", "Take a marking away")
