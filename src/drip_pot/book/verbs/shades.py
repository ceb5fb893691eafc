"""Verbs on shade: passes, and loops cut into them or out. Knows a page at hand; no window, no file."""

import msgspec
import numpy as np

from drip_pot.book.asking import order
from drip_pot.book.book import Book
from drip_pot.book.hand import Hand, Points
from drip_pot.book.model import BALLOON, TONE, Pass, Scope
from drip_pot.book.store import Edit, TileChange
from drip_pot.book.tables import within
from drip_pot.book.verbs.setting import named, put
from drip_pot.core.arrays import Bool, Rect
from drip_pot.core.color import from_hex
from drip_pot.core.errors import BadInput, NothingDone
from drip_pot.core.render import MODES
from drip_pot.core.shade import cut, laid, loop_mask, mist

EVERYWHERE = Scope()


@order
def cut_shade(hand: Hand, points: Points, *, light: bool = False, only: int = 0, into: int = TONE) -> None:
    """Cut a loop into a pass, or out of it (`light`), where there is colour; `only` keeps it in an atom's region."""
    rect, mask = loop_mask(points, hand.shape)
    shade_mask(hand.book, hand.page, rect, mask, _allowed(hand, rect, only, into), light=light, into=into)


@order
def mist_pass(
    hand: Hand, points: list[tuple[float, float, float]], width_px: float, softness: float = 0.8, flow: float = 0.6,
    *, away: bool = False, only: int = 0, into: int = TONE,
) -> None:  # fmt: skip
    """Lay a soft stroke (row, col, pressure 0..1) into a pass, or take it `away`; `only` keeps it in a region."""
    one = _known(hand.book, hand.page, into)
    rect, cover = mist(points, width_px, softness, flow, hand.shape)
    cover = cover * _allowed(hand, rect, only, into).view(np.uint8)
    name = f"page/{hand.page}/pass/{into}"
    plane = hand.book.plane(name)
    tiles = plane.replaced(name, rect, laid(plane.read(rect), cover, away=away))
    if not tiles:
        raise NothingDone(f"The stroke lies outside what the pass {one.name} covers.")
    hand.book.apply(Edit("mist", f"{'Wipe mist off' if away else 'Mist'} {one.name}", (), tiles))


def _allowed(hand: Hand, rect: Rect, only: int, into: int) -> Bool:
    """Return where a stroke may touch a pass within a rectangle: on colour, in its scope, in the region of an atom."""
    one = _known(hand.book, hand.page, into)
    scope = within(hand.book, hand.sources, one.scope, len(hand.areas) - 1)
    allowed = np.zeros(len(hand.areas), bool)
    allowed[[a for a, pot in hand.sources.pours.items() if pot != BALLOON and a < len(allowed)]] = True
    if scope is not None:
        allowed &= scope
    if only:
        inside = np.zeros_like(allowed)
        inside[list(hand.region_of(only))] = True
        allowed &= inside
    return np.asarray(allowed[hand.labels[rect[0] : rect[2], rect[1] : rect[3]]])


def shade_mask(
    book: Book, page: int, rect: Rect, mask: Bool, allowed: Bool, *, light: bool, into: int = TONE
) -> None:  # fmt: skip
    """Cut a mask into a pass, or out of it; `mask` and `allowed` cover `rect`."""
    name = f"page/{page}/pass/{into}"
    plane = book.plane(name)
    tiles = plane.replaced(name, rect, cut(plane.read(rect), mask, allowed, light=light))
    book.apply(Edit("cut-light" if light else "cut-shade", "Cut light" if light else "Cut shade", (), tiles))


@order
def add_pass(
    book: Book, page: int, name: str, color: str = "#000000", mode: str = "multiply", strength: float = 0.6,
    scope: Scope = EVERYWHERE,
) -> int:  # fmt: skip
    """Lay a pass of one colour over all others; return its number."""
    known = book.sources(page).passes
    number = max(known) + 1
    fresh = Pass(
        named(name, "pass"), "tint", color, mode, strength, True, max(p.order for p in known.values()) + 1, scope
    )
    put(book, "add-pass", f"Add the pass {fresh.name}", (f"page/{page}/pass/{number}", _sound(fresh)))
    return number


@order
def set_pass(book: Book, page: int, number: int, changed: Pass) -> None:
    """Change a pass: name, colour, mode, strength, scope, whether it is shown."""
    old = _known(book, page, number)
    if old.kind != changed.kind:
        raise BadInput("A pass keeps its kind. Add another one instead.")
    put(book, "set-pass", f"Change the pass {old.name}", (f"page/{page}/pass/{number}", _sound(changed)))


@order
def move_pass(book: Book, page: int, number: int, step: int) -> None:
    """Move a pass in the stack: 1 is one place up."""
    _known(book, page, number)
    passes = book.sources(page).passes
    order_ = list(passes)
    place = order_.index(number)
    target = min(max(place + step, 0), len(order_) - 1)
    order_.insert(target, order_.pop(place))
    if target != place:
        pairs = [(f"page/{page}/pass/{n}", msgspec.structs.replace(passes[n], order=k)) for k, n in enumerate(order_)]
        put(book, "move-pass", f"Move the pass {passes[number].name}", *pairs)


@order
def remove_pass(book: Book, page: int, number: int) -> None:
    """Remove a pass and what is painted in it; the first one of a page stays."""
    name = _known(book, page, number).name
    if number == TONE:
        raise BadInput("The first pass of a page cannot be removed. Hide it instead.")
    plane_name = f"page/{page}/pass/{number}"
    plane = book.plane(plane_name)
    tiles = tuple(TileChange(plane_name, *at, plane.packed(*at), None) for at in plane)
    book.apply(Edit("remove-pass", f"Remove the pass {name}", (book.change(plane_name, None),), tiles))


def _known(book: Book, page: int, number: int) -> Pass:
    passes = book.sources(page).passes
    if number not in passes:
        raise BadInput(f"This page has no pass {number}. It has {', '.join(map(str, passes))}.")
    return passes[number]


def _sound(one: Pass) -> Pass:
    """Return a pass whose values can be used; raises `BadInput`."""
    from_hex(one.color)
    if one.mode not in MODES:
        raise BadInput(f"There is no blend mode '{one.mode}'. Choose from {', '.join(MODES)}.")
    if not 0 <= one.strength <= 1:
        raise BadInput(f"The strength of a pass goes from 0 to 100 %, not {one.strength * 100:g} %.")
    return msgspec.structs.replace(one, name=named(one.name, "pass"))
