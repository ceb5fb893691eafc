# SPDX-License-Identifier: GPL-3.0-or-later
"""The one door through which the coverage of a pass changes: paint below, the shapes cut into it above.

The plane 'pass/<k>' holds what is seen. Where shapes lie, in whole tiles, 'under/<k>' holds what is painted beneath
them, so that a shape can be pulled or taken away. Knows a page at hand; not which tool asked.
"""

from collections.abc import Callable, Iterable, Mapping

import numpy as np

from drip_pot.book.book import Book
from drip_pot.book.hand import Hand
from drip_pot.book.scope import scope_atoms
from drip_pot.book.store import TILE, Edit, TileChange
from drip_pot.book.values import COVER, PAINT, PASSES, SHADE_CUTS, UNDER, ShadeCut
from drip_pot.core.arrays import U8, Bool, Rect
from drip_pot.core.color import from_hex
from drip_pot.core.errors import NothingDone
from drip_pot.core.render import painted_over
from drip_pot.core.shade import laid, shape_bounds, shape_cover
from drip_pot.words import tr

Cuts = Mapping[int, ShadeCut]


def cuts_in(hand: Hand, into: int) -> dict[int, ShadeCut]:
    """Return the shapes cut into a pass, by number."""
    return {number: cut for number, cut in hand.sources[SHADE_CUTS].items() if cut.into == into}


def change_cuts(
    hand: Hand, into: int, changes: Mapping[int, ShadeCut | None], name: str, title: str
) -> None:  # fmt: skip
    """Add, change or take away (None) shapes of one pass; raises `NothingDone` where nothing changes."""
    before = cuts_in(hand, into)
    after = dict(sorted(({**before, **{n: c for n, c in changes.items() if c is not None}}).items()))
    for number in (n for n, cut in changes.items() if cut is None):
        after.pop(number, None)
    moved = [cut for kept in (before, after) for n, cut in kept.items() if before.get(n) != after.get(n)]
    if not moved:
        raise NothingDone("It is so already; nothing was changed.")
    _write(hand, into, before, after, [_bounds(cut, hand) for cut in moved], None, name, title)


def paint(
    hand: Hand, into: int, rect: Rect, touched: Bool, laid_on: Callable[[U8], U8], title: str, *, away: bool
) -> str | None:  # fmt: skip
    """Paint in a pass, or take paint `away`, where `touched` says so in `rect`; `laid_on` gives it over what is there.

    What is painted always shows: shapes that would hide it become paint, and that is told.
    """
    before = cuts_in(hand, into)
    hiding = [n for n, cut in before.items() if cut.light != away and _lies_on(hand, cut, rect, touched)]
    settled = _with_those_below(hand, before, hiding)
    after = {n: cut for n, cut in before.items() if n not in settled}
    rects = [rect, *(_bounds(before[n], hand) for n in settled)]
    _write(hand, into, before, after, rects, (rect, laid_on), "lay-pass", title)
    if not settled:
        return None
    return "A cut under the stroke is paint now." if len(settled) == 1 else tr("{0} cuts are paint now.", len(settled))


def paint_color(hand: Hand, into: int, rect: Rect, cover: U8, color: str | U8, title: str) -> None:
    """Lay coverage, (M, N) uint8, in a rectangle of a pass that is painted in many colours.

    It is of one, '#rrggbb', or of (M, N, 3) uint8 colours. Raises `BadInput` for what is no colour, `NothingDone` where
    nothing changes.
    """
    book, seen = hand.book, COVER.key(hand.page, into)
    over = from_hex(color) if isinstance(color, str) else color
    before = book.plane(seen).read(rect)
    names = [kind.key(hand.page, into) for kind in PAINT]
    under = np.dstack([book.plane(name).read(rect) for name in names])
    after = painted_over(under, before, cover, over)
    tiles = book.plane(seen).replaced(seen, rect, laid(before, cover, away=False))
    for place, name in enumerate(names):
        tiles += book.plane(name).replaced(name, rect, after[..., place])
    if not tiles:
        raise NothingDone("It is so already; nothing was changed.")
    book.apply(Edit("lay-pass", title, (), tiles))


def beneath(book: Book, page: int, name: str, plane: U8) -> U8:
    """Return a plane of a page as it is to be moved: of 'under/<k>' all that is painted, where no shape lies too."""
    number = next((n for n in book.sources(page)[PASSES] if name == UNDER.key(page, n)), None)
    if number is None:
        return plane
    cuts = [cut for cut in book.sources(page)[SHADE_CUTS].values() if cut.into == number]
    seen, rect = book.plane(COVER.key(page, number)).whole(), (0, 0, *plane.shape)
    return _base([shape_bounds(cut.knots, cut.softness_px, plane.shape) for cut in cuts], rect, seen, plane)


def _base(bounds: Iterable[Rect], rect: Rect, seen: U8, under: U8) -> U8:
    """Return what is painted beneath shapes with some bounds, in a rectangle; `seen` and `under` are of it."""
    return np.where(_under_tiles(bounds, rect), under, seen).astype(np.uint8)


def _write(
    hand: Hand, into: int, before: Cuts, after: Cuts, rects: list[Rect], stroke: tuple[Rect, Callable[[U8], U8]] | None,
    name: str, title: str,
) -> None:  # fmt: skip
    book = hand.book
    names = COVER.key(hand.page, into), UNDER.key(hand.page, into)
    rect = _whole_tiles(rects, hand.shape)
    seen, under = (book.plane(one).read(rect) for one in names)
    base = _base([_bounds(cut, hand) for cut in before.values()], rect, seen, under)
    gone = [cut for number, cut in before.items() if number not in after]
    if stroke is not None:
        base = _with_cuts(hand, into, base, rect, gone)
        part, laid_on = stroke
        cut = slice(part[0] - rect[0], part[2] - rect[0]), slice(part[1] - rect[1], part[3] - rect[1])
        base[cut] = laid_on(base[cut])
    fresh = [cut for number, cut in after.items() if number not in before]
    on_top = stroke is None and list(after.items())[: len(before)] == list(before.items())
    shown = _with_cuts(hand, into, seen if on_top else base, rect, fresh if on_top else after.values())
    kept = _under_tiles([_bounds(cut, hand) for cut in after.values()], rect)
    tiles = book.plane(names[0]).replaced(names[0], rect, shown)
    tiles += book.plane(names[1]).replaced(names[1], rect, np.where(kept, base, under).astype(np.uint8))
    tiles += _colored(hand, into, rect, (seen == 0) & (shown > 0))
    changes = tuple(
        book.change(SHADE_CUTS.key(hand.page, number), after.get(number))
        for number in {**before, **after}
        if before.get(number) != after.get(number)
    )
    if not tiles and not changes:
        raise NothingDone("It is so already; nothing was changed.")
    book.apply(Edit(name, title, changes, tiles))


def _colored(hand: Hand, into: int, rect: Rect, fresh: Bool) -> tuple[TileChange, ...]:
    """Return the tiles that give what a pass covers newly, in a rectangle, its own colour, if it is painted in many."""
    one, book, tiles = hand.sources[PASSES][into], hand.book, tuple[TileChange, ...]()
    for kind, value in zip(PAINT, from_hex(one.color).tolist(), strict=True) if one.kind == "paint" else ():
        name = kind.key(hand.page, into)
        plane = book.plane(name)
        tiles += plane.replaced(name, rect, np.where(fresh, value, plane.read(rect)).astype(np.uint8))
    return tiles


def _with_cuts(hand: Hand, into: int, base: U8, rect: Rect, cuts: Iterable[ShadeCut]) -> U8:
    """Lay shapes over what is painted in a rectangle."""
    out, takes_out = base.copy(), hand.sources[PASSES][into].covers_all
    for cut in cuts:
        bounds = _bounds(cut, hand)
        both = _common(bounds, rect)
        if both is None:
            continue
        _, cover = shape_cover(cut.knots, cut.softness_px, hand.shape)
        inner = cover[both[0] - bounds[0] : both[2] - bounds[0], both[1] - bounds[1] : both[3] - bounds[1]]
        inner = inner * _allowed(hand, cut, both).view(np.uint8)
        place = slice(both[0] - rect[0], both[2] - rect[0]), slice(both[1] - rect[1], both[3] - rect[1])
        out[place] = laid(out[place], inner, away=cut.light != takes_out)
    return out


def _allowed(hand: Hand, cut: ShadeCut, rect: Rect) -> Bool:
    count = len(hand.areas) - 1
    atoms = scope_atoms(hand.book, hand.sources, cut.within, count, hand.ground)
    allowed = np.ones(count + 1, bool) if atoms is None else atoms
    allowed[0] = False
    return np.asarray(allowed[hand.labels[rect[0] : rect[2], rect[1] : rect[3]]])


def _lies_on(hand: Hand, cut: ShadeCut, rect: Rect, touched: Bool) -> bool:
    bounds = _bounds(cut, hand)
    both = _common(bounds, rect)
    if both is None:
        return False
    _, cover = shape_cover(cut.knots, cut.softness_px, hand.shape)
    inner = cover[both[0] - bounds[0] : both[2] - bounds[0], both[1] - bounds[1] : both[3] - bounds[1]] > 0
    inner &= _allowed(hand, cut, both)
    return bool((inner & touched[both[0] - rect[0] : both[2] - rect[0], both[1] - rect[1] : both[3] - rect[1]]).any())


def _with_those_below(hand: Hand, cuts: Cuts, chosen: list[int]) -> list[int]:
    """Return some shapes and those below them that they may overlap."""
    if not chosen:
        return []
    rects = [_bounds(cuts[n], hand) for n in chosen]
    return [
        n for n, cut in cuts.items()
        if n in chosen or (n < max(chosen) and any(_common(_bounds(cut, hand), rect) for rect in rects))
    ]  # fmt: skip


def _bounds(cut: ShadeCut, hand: Hand) -> Rect:
    return shape_bounds(cut.knots, cut.softness_px, hand.shape)


def _common(one: Rect, two: Rect) -> Rect | None:
    top, left, bottom, right = max(one[0], two[0]), max(one[1], two[1]), min(one[2], two[2]), min(one[3], two[3])
    return (top, left, bottom, right) if bottom > top and right > left else None


def _whole_tiles(rects: list[Rect], shape: tuple[int, int]) -> Rect:
    low = [min(rect[k] for rect in rects) // TILE * TILE for k in (0, 1)]
    high = [min(-(-max(rect[k + 2] for rect in rects) // TILE) * TILE, shape[k]) for k in (0, 1)]
    return low[0], low[1], max(low[0], high[0]), max(low[1], high[1])


def _under_tiles(bounds: Iterable[Rect], rect: Rect) -> Bool:
    """Tell where a rectangle of whole tiles has tiles that shapes with some bounds touch, a pixel each."""
    size = rect[2] - rect[0], rect[3] - rect[1]
    grid = np.zeros((-(-size[0] // TILE), -(-size[1] // TILE)), bool)
    for one in bounds:
        both = _common(one, rect)
        if both is not None:
            rows = slice((both[0] - rect[0]) // TILE, -(-(both[2] - rect[0]) // TILE))
            cols = slice((both[1] - rect[1]) // TILE, -(-(both[3] - rect[1]) // TILE))
            grid[rows, cols] = True
    return np.asarray(grid.repeat(TILE, axis=0).repeat(TILE, axis=1)[: size[0], : size[1]])
