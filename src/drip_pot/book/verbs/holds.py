# SPDX-License-Identifier: GPL-3.0-or-later
"""Verbs on the colour of lines: holds added, changed, ordered; strokes picked, brushed, faded. Knows no window."""

from collections.abc import Callable

import msgspec
import numpy as np

from drip_pot.book.asking import order
from drip_pot.book.book import Book
from drip_pot.book.hand import Hand, Points
from drip_pot.book.naming import apart, followed, where_said
from drip_pot.book.numbers import HoldNumber, PartNumber
from drip_pot.book.presets import FOLLOWING, HOLD_NAMES
from drip_pot.book.store import Change, Edit, TileChange
from drip_pot.book.values import HOLD_COLORS, HOLDS, LINE_KINDS, LINES, MARKS, PARTS, SHARED_HOLDS, Hold, Part
from drip_pot.book.verbs.setting import named, put
from drip_pot.book.where import Scope
from drip_pot.core.arrays import U8, Rect
from drip_pot.core.color import from_hex
from drip_pot.core.errors import BadInput, NothingDone
from drip_pot.core.holds import LinePieces, along
from drip_pot.core.shade import laid, mist
from drip_pot.words import say

_MOST_FEATHER_MM, _MOST_SPOTS = 20.0, 5000


@order
def set_lines(book: Book, page: int, color: str) -> None:
    """Colour all lines that no hold changes."""
    from_hex(color)
    lines = msgspec.structs.replace(book.sources(page)[LINES], color=color)
    put(book, "set-lines", say("Colour the lines {0}", color), (LINES.key(page), lines))


@order
def set_balloons(book: Book, page: int, color: str) -> None:
    """Colour the inside of balloons."""
    from_hex(color)
    lines = msgspec.structs.replace(book.sources(page)[LINES], balloon=color)
    put(book, "set-balloons", say("Colour the balloons {0}", color), (LINES.key(page), lines))


@order
def add_hold(book: Book, page: int, hold: Hold, *, whole_book: bool = False) -> int:
    """Lay a hold over all others, on a page or in the whole book; return its number."""
    number = _next(book)
    top = max((known.order for known in book.sources(page)[HOLDS].values()), default=0) + 1
    hold = _sound(msgspec.structs.replace(hold, order=top))
    put(book, "add-hold", say("Add the hold {0}", hold.name), (_key(page, number, whole_book), hold))
    return number


@order
def set_hold(book: Book, page: int, number: HoldNumber, changed: Hold) -> None:
    """Change a hold on a page; one of the whole book is changed in all of it, unless the page has it otherwise.

    It keeps its place in the list.
    """
    old = known_hold(book, page, number)
    changed = msgspec.structs.replace(changed, order=old.order)
    if changed.name == old.name:
        changed = msgspec.structs.replace(changed, name=_followed(book, page, old, changed))
    whole = number in book.holds() and book.get(HOLDS.key(page, number)) is None
    put(book, "set-hold", say("Change the hold {0}", old.name), (_key(page, number, whole), _sound(changed)))


def _followed(book: Book, page: int, old: Hold, changed: Hold) -> str:
    """Return the name of a hold that changed: what nobody named is called by what it became, and where."""
    sources, stem = book.sources(page), HOLD_NAMES[changed.how] if changed.how != old.how else ""
    where = [where_said(book, sources, one.scope) for one in (old, changed)]
    name = followed(old.name, FOLLOWING, stem, *where)
    return old.name if name == old.name else apart(name, [one.name for one in sources[HOLDS].values()])


@order
def set_hold_here(book: Book, page: int, number: HoldNumber, changed: Hold | None) -> None:
    """Have a hold of the whole book otherwise on a page, or as the book has it (None)."""
    old = known_hold(book, page, number)
    if number not in book.holds():
        raise BadInput("The hold {0} is of this page alone. Give it to the whole book first.", old.name)
    value = None if changed is None else _sound(changed)
    put(book, "set-hold-here", say("Have the hold {0} otherwise here", old.name), (HOLDS.key(page, number), value))


@order
def share_hold(book: Book, page: int, number: HoldNumber) -> None:
    """Give a hold of a page to the whole book; what was picked by hand stays with the page."""
    hold = known_hold(book, page, number)
    if number in book.holds():
        raise NothingDone("The hold {0} is of the whole book already.", hold.name)
    if hold.spots or hold.scope.spots or hold.scope.panels:
        raise BadInput("The hold {0} names places of this page. Choose parts or pots for it first.", hold.name)
    put(book, "share-hold", say("Give the hold {0} to the whole book", hold.name), (HOLDS.key(page, number), None),
        (SHARED_HOLDS.key(number), hold))  # fmt: skip


@order
def hold_part(book: Book, page: int, part: PartNumber, amount: float | None) -> None:
    """Make the lines of a part darker versions (0..1) of its colours, or let them go (None)."""
    name = book.read(PARTS.key(part), Part).name
    scope = Scope(parts=(part,))
    known = next((n for n, h in book.sources(page)[HOLDS].items() if h.scope == scope and not h.spots), None)
    if amount is None:
        if known is not None:
            remove_hold(book, page, known)
        return
    if known is None:
        add_hold(book, page, Hold(name, scope, amount=amount))
    else:
        old = book.sources(page)[HOLDS][known]
        set_hold(book, page, known, msgspec.structs.replace(old, amount=amount, how="darker"))


@order
def move_hold(book: Book, page: int, number: HoldNumber, step: int) -> None:
    """Move a hold in the list: 1 is one place up."""
    known_hold(book, page, number)
    holds = book.sources(page)[HOLDS]
    line = list(holds)
    place = line.index(number)
    target = min(max(place + step, 0), len(line) - 1)
    line.insert(target, line.pop(place))
    if target != place:
        pairs = [(_where(book, page, n), msgspec.structs.replace(holds[n], order=k)) for k, n in enumerate(line, 1)]
        put(book, "move-hold", say("Move the hold {0}", holds[number].name), *pairs)


@order
def remove_hold(book: Book, page: int, number: HoldNumber) -> None:
    """Remove a hold and what was marked in it; one of the whole book from every page."""
    hold = known_hold(book, page, number)
    whole = number in book.holds()
    pages = list(book.pages()) if whole else [page]
    tiles = tuple(TileChange(name, *at, plane.packed(*at), None)
                  for name in (MARKS.key(n, number) for n in pages)
                  for plane in [book.plane(name)] for at in plane)  # fmt: skip
    keys = [HOLDS.key(n, number) for n in pages] + ([SHARED_HOLDS.key(number)] if whole else [])
    changes: tuple[Change, ...] = tuple(book.change(key, None) for key in keys if book.get(key) is not None)
    book.apply(Edit("remove-hold", say("Remove the hold {0}", hold.name), changes, tiles))


@order
def pick_line(book: Book, page: int, number: HoldNumber, spots: Points) -> None:
    """Add strokes, each by a page pixel of it, to those of a hold that were picked by hand."""
    hold = known_hold(book, page, number)
    fresh = [(round(float(r), 1), round(float(c), 1)) for r, c in spots]
    kept = (*hold.spots, *(s for s in fresh if s not in hold.spots))
    if len(kept) > _MOST_SPOTS:
        raise BadInput(
            "A hold has at most {0} strokes picked by hand. Name parts or kinds of line instead.", _MOST_SPOTS
        )
    put(book, "pick-line", say("Pick strokes for {0}", hold.name),
        (_where(book, page, number), msgspec.structs.replace(hold, spots=kept)))  # fmt: skip


@order
def let_go(hand: Hand, number: HoldNumber, spots: Points) -> None:
    """Take strokes, each by a page pixel of it, out of a hold."""
    hold, pieces = known_hold(hand.book, hand.page, number), _pieces(hand)
    reach = hand.divided.atoms.line_px
    gone = sorted({pieces.at(row, col, reach) for row, col in spots} - {0})
    if not gone:
        raise NothingDone("There is no stroke at this place; nothing was changed.")
    if hold.spots and not hold.brushed:
        kept = tuple(s for s in hold.spots if pieces.at(*s, reach) not in gone)
        put(hand.book, "let-go", say("Let strokes go from {0}", hold.name),
            (_where(hand.book, hand.page, number), msgspec.structs.replace(hold, spots=kept)))  # fmt: skip
        return
    boxes = pieces.boxes[gone]
    rect: Rect = (*boxes[:, :2].min(axis=0).tolist(), *boxes[:, 2:].max(axis=0).tolist())
    mine = np.isin(pieces.plane[rect[0] : rect[2], rect[1] : rect[3]], gone)
    empty = 0 if hold.brushed else 255
    _mark(hand, number, rect, lambda before: np.where(mine, empty, before).astype(np.uint8), "Let strokes go from {0}")


@order
def brush_hold(
    hand: Hand, number: HoldNumber, points: list[tuple[float, float, float]], width_px: float, softness: float = 0.3,
    flow: float = 1.0, *, away: bool = False,
) -> None:  # fmt: skip
    """Hold the line under a stroke (row, col, pressure 0..1), or let it go (`away`); it colours ink alone."""
    hold = known_hold(hand.book, hand.page, number)
    rect, cover = mist(points, width_px, softness, flow, hand.shape)
    pieces = hand.pieces()
    line = hand.ink if pieces is None else pieces.plane
    if not (line[rect[0] : rect[2], rect[1] : rect[3]][cover > 0] > 0).any():
        raise NothingDone("There is no line under this stroke; nothing was changed.")
    add = away != hold.brushed
    _mark(
        hand, number, rect, lambda before: laid(before, cover, away=not add), "Let go of {0}" if away else "Brush {0}"
    )


@order
def fade_hold(hand: Hand, number: HoldNumber, points: Points) -> None:
    """Fade a hold out along the strokes that a way touches: whole where it begins, gone where it ends, and beyond."""
    hold, pieces = known_hold(hand.book, hand.page, number), _pieces(hand)
    reach = 2.0 * hand.divided.atoms.line_px
    touched = sorted({pieces.at(row, col, reach) for row, col in points} - {0})
    if not touched:
        raise NothingDone("There is no stroke under this way; nothing was faded.")
    boxes = pieces.boxes[touched]
    rect: Rect = (*boxes[:, :2].min(axis=0).tolist(), *boxes[:, 2:].max(axis=0).tolist())
    rows, cols = np.nonzero(np.isin(pieces.plane[rect[0] : rect[2], rect[1] : rect[3]], touched))
    gone = np.rint(255 * along(points, rows + rect[0], cols + rect[1])).astype(np.uint8)

    def fade(before: U8) -> U8:
        out = before.copy()
        old = out[rows, cols]
        out[rows, cols] = np.minimum(old, 255 - gone) if hold.brushed else np.maximum(old, gone)
        return out

    _mark(hand, number, rect, fade, "Fade {0}")


def _pieces(hand: Hand) -> LinePieces:
    pieces = hand.pieces()
    if pieces is None:
        raise BadInput("The strokes of the line are still being found; nothing was changed. Try again in a moment.")
    return pieces


def _mark(hand: Hand, number: int, rect: Rect, work: Callable[[U8], U8], title: str) -> None:
    name = MARKS.key(hand.page, number)
    plane = hand.book.plane(name)
    tiles = plane.replaced(name, rect, work(plane.read(rect)))
    hand.book.apply(Edit("mark-hold", say(title, known_hold(hand.book, hand.page, number).name), (), tiles))


def known_hold(book: Book, page: int, number: int) -> Hold:
    """Return a hold; raises `BadInput` where there is none of that number."""
    holds = book.sources(page)[HOLDS]
    if number not in holds:
        if not holds:
            raise BadInput("This page has no hold {0}. It has none; add one first.", number)
        raise BadInput("This page has no hold {0}. It has {1}.", number, ", ".join(map(str, holds)))
    return holds[number]


def _next(book: Book) -> int:
    return max([book.floor, *(n for page in book.pages() for n in book.sources(page)[HOLDS])]) + 1


def _key(page: int, number: int, whole: bool) -> str:
    return SHARED_HOLDS.key(number) if whole else HOLDS.key(page, number)


def _where(book: Book, page: int, number: int) -> str:
    """Return the key that a hold of a page is read from."""
    here = HOLDS.key(page, number)
    return SHARED_HOLDS.key(number) if number in book.holds() and book.get(here) is None else here


def _sound(hold: Hold) -> Hold:
    """Return a hold whose values can be used; raises `BadInput`."""
    from_hex(hold.color)
    if hold.how not in HOLD_COLORS:
        raise BadInput("There is no hold of the kind '{0}'. Choose from {1}.", hold.how, ", ".join(HOLD_COLORS))
    unknown = [kind for kind in hold.kinds if kind not in LINE_KINDS]
    if unknown:
        raise BadInput("There is no line of the kind '{0}'. Choose from {1}.", unknown[0], ", ".join(LINE_KINDS))
    if not 0 <= hold.amount <= 1:
        raise BadInput("A hold is 0 to 100 % darker than its colour, not {0:g} %.", hold.amount * 100)
    if not (0 <= hold.strength <= 1 and 0 <= hold.chroma <= 2):
        raise BadInput("The strength of a hold goes from 0 to 100 %, its colourfulness from 0 to 200 %.")
    if not 0 <= hold.feather_mm <= _MOST_FEATHER_MM:
        raise BadInput("A hold fades in over 0 to {0:g} mm, not {1:g} mm.", _MOST_FEATHER_MM, hold.feather_mm)
    if (hold.how == "ramp") != (hold.ramp is not None):
        raise BadInput("A hold that is a ramp needs its stops, and no other one has any.")
    return msgspec.structs.replace(hold, name=named(hold.name, "hold"))
