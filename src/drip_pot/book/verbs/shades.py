"""Verbs on shade: passes, and loops cut into them or out. Knows a page at hand; no window, no file."""

import msgspec
import numpy as np

from drip_pot.book.asking import order
from drip_pot.book.book import Book
from drip_pot.book.hand import Hand, Points
from drip_pot.book.model import TONE, KeptScope, Pass, PassKind, Scope
from drip_pot.book.scope import colored_atoms, scope_atoms
from drip_pot.book.store import Edit, TileChange
from drip_pot.book.verbs.cutting import Reach, leashed_from
from drip_pot.book.verbs.setting import named, put
from drip_pot.core.arrays import U8, Bool, Rect
from drip_pot.core.color import from_hex
from drip_pot.core.errors import BadInput, NothingDone
from drip_pot.core.render import MODES, Finish, Ramp
from drip_pot.core.shade import cut, laid, loop_mask, mist, streak

EVERYWHERE = Scope()
NOWHERE: set[int] = set()


@order
def cut_shade(
    hand: Hand, points: Points, *, light: bool = False, only: int = 0, reach: Reach = "region", into: int = TONE,
    inside: set[int] = NOWHERE,
) -> str | None:  # fmt: skip
    """Cut a loop into a pass, or out of it (`light`); return what is to be told.

    It stays in the pass's scope, in the atoms `inside` if there are any, and, from an atom `only` on, in its region,
    pot or part (`reach`).
    """
    one = _known(hand.book, hand.page, into)
    rect, mask = loop_mask(points, hand.shape)
    allowed = _allowed(hand, rect, only, reach, one, inside)
    _refuse_outside(one, (mask & allowed).any())
    shade_mask(hand.book, hand.page, rect, mask, allowed, light=light != one.covers_all, into=into)
    return None if light else _uncolored(hand, rect, mask & allowed)


@order
def mist_pass(
    hand: Hand, points: list[tuple[float, float, float]], width_px: float, softness: float = 0.8, flow: float = 0.6,
    *, away: bool = False, only: int = 0, reach: Reach = "region", into: int = TONE, inside: set[int] = NOWHERE,
) -> str | None:  # fmt: skip
    """Lay a soft stroke (row, col, pressure 0..1) into a pass, or take it `away`; the rest as `cut_shade`."""
    rect, cover = mist(points, width_px, softness, flow, hand.shape)
    return _lay(hand, rect, cover, "Wipe mist off" if away else "Mist", away, only, reach, into, inside)


@order
def streak_pass(
    hand: Hand, points: list[tuple[float, float, float]], width_px: float, flow: float = 0.8, seed: int = 1,
    *, away: bool = False, only: int = 0, reach: Reach = "region", into: int = TONE, inside: set[int] = NOWHERE,
) -> str | None:  # fmt: skip
    """Lay a stroke of bristles (row, col, pressure 0..1) into a pass, or take it `away`; the rest as `cut_shade`."""
    rect, cover = streak(points, width_px, flow, seed, hand.shape)
    return _lay(hand, rect, cover, "Streak away" if away else "Streak", away, only, reach, into, inside)


@order
def fill_pass(
    hand: Hand, atoms: set[int], *, away: bool = False, into: int = TONE, inside: set[int] = NOWHERE
) -> str | None:
    """Fill areas in a pass, or empty them (`away`): a page or a part begins in shadow so, and light is cut out."""
    one = _known(hand.book, hand.page, into)
    wanted = np.zeros(len(hand.areas), bool)
    wanted[[a for a in atoms if 0 < a < len(wanted) and (not inside or a in inside)]] = True
    scope = scope_atoms(hand.book, hand.sources, one.scope, len(wanted) - 1, hand.ground)
    if scope is not None:
        wanted &= scope
    found = np.flatnonzero(wanted & (hand.areas > 0))
    _refuse_outside(one, len(found) > 0)
    boxes = hand.divided.boxes[found]
    rect: Rect = (*boxes[:, :2].min(axis=0).tolist(), *boxes[:, 2:].max(axis=0).tolist())
    mask = np.asarray(wanted[hand.labels[rect[0] : rect[2], rect[1] : rect[3]]])
    before = hand.book.plane(_plane(hand, into)).read(rect)
    title = f"{'Empty' if away else 'Fill'} {count_of(len(found))} in {one.name}"
    _write(hand, rect, np.where(mask, 0 if away != one.covers_all else 255, before).astype(np.uint8), title, into)
    return None if away else _uncolored(hand, rect, mask)


def count_of(number: int) -> str:
    """Return 'an area' or '12 areas'."""
    return "an area" if number == 1 else f"{number} areas"


def _plane(hand: Hand, into: int) -> str:
    return f"page/{hand.page}/pass/{into}"


def _lay(
    hand: Hand, rect: Rect, cover: U8, title: str, away: bool, only: int, reach: Reach, into: int, inside: set[int]
) -> str | None:  # fmt: skip
    one = _known(hand.book, hand.page, into)
    cover = cover * _allowed(hand, rect, only, reach, one, inside).view(np.uint8)
    _refuse_outside(one, cover.any())
    before = hand.book.plane(_plane(hand, into)).read(rect)
    _write(hand, rect, laid(before, cover, away=away != one.covers_all), f"{title} {one.name}", into)
    return None if away else _uncolored(hand, rect, cover > 0)


def _write(hand: Hand, rect: Rect, cover: U8, title: str, into: int) -> None:
    name = _plane(hand, into)
    tiles = hand.book.plane(name).replaced(name, rect, cover)
    if not tiles:
        raise NothingDone("It is so already; nothing was changed.")
    hand.book.apply(Edit("lay-pass", title, (), tiles))


def _refuse_outside(one: Pass, touches: object) -> None:
    if not touches:
        raise NothingDone(f"This lies outside what the pass {one.name} covers; nothing was changed.")


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
    name = f"page/{page}/pass/{into}"
    plane = book.plane(name)
    tiles = plane.replaced(name, rect, cut(plane.read(rect), mask, allowed, light=light))
    book.apply(Edit("cut-light" if light else "cut-shade", "Cut light" if light else "Cut shade", (), tiles))


@order
def keep_scope(book: Book, page: int, name: str, scope: Scope) -> int:
    """Keep a scope by name; return its number."""
    known = book.sources(page).scopes
    number = next((n for n, kept in known.items() if kept.name == name), max(known, default=0) + 1)
    kept = KeptScope(named(name, "scope"), scope)
    put(book, "keep-scope", f"Keep the scope {kept.name}", (f"page/{page}/scope/{number}", kept))
    return number


@order
def remove_scope(book: Book, page: int, number: int) -> None:
    """Forget a scope that was kept; passes that use it keep what it covers."""
    known = book.sources(page).scopes
    if number not in known:
        raise BadInput(f"This page keeps no scope {number}.")
    put(book, "remove-scope", f"Remove the scope {known[number].name}", (f"page/{page}/scope/{number}", None))


@order
def add_pass(
    book: Book, page: int, name: str, color: str = "#000000", mode: str = "multiply", strength: float = 0.6,
    scope: Scope = EVERYWHERE, ramp: Ramp | None = None, finish: Finish | None = None,
) -> int:  # fmt: skip
    """Lay a pass over all others: of one colour, of a ramp, or one that corrects what lies below; return its number."""
    known = book.sources(page).passes
    kind: PassKind = "ramp" if ramp is not None else "finish" if finish is not None else "tint"
    fresh = Pass(name, kind, color, mode, strength, scope=scope, ramp=ramp, finish=finish)
    return _added(book, page, fresh, f"Add the pass {named(name, 'pass')}", max(p.order for p in known.values()) + 1)


def _added(book: Book, page: int, one: Pass, title: str, order_: int, tiles: tuple[TileChange, ...] = ()) -> int:
    number = max(book.sources(page).passes) + 1
    one = _sound(msgspec.structs.replace(one, order=order_))
    own = tuple(msgspec.structs.replace(tile, plane=f"page/{page}/pass/{number}") for tile in tiles)
    book.apply(Edit("add-pass", title, (book.change(f"page/{page}/pass/{number}", one),), own))
    return number


@order
def copy_pass(book: Book, page: int, number: int, to: int | None = None) -> int:
    """Copy a pass with what is painted in it, on its page or to another one of the same size; return its number."""
    one, target = _known(book, page, number), page if to is None else to
    if target not in book.pages():
        raise BadInput(f"This book has no page {target}.")
    here, there = book.pages()[page], book.pages()[target]
    plane = book.plane(f"page/{page}/pass/{number}")
    if target != page and (plane.any() or one.scope.spots) and (here.rows, here.cols) != (there.rows, there.cols):
        raise BadInput(f"{there.name} has another size than {here.name}; what lies at a place does not fit on it.")
    tiles = tuple(TileChange("", *at, None, plane.packed(*at)) for at in plane)
    known = book.sources(target).passes
    fresh = msgspec.structs.replace(one, name=f"{one.name} copy" if target == page else one.name)
    if fresh.kind == "tone":
        fresh = msgspec.structs.replace(fresh, kind="tint", color="#5a4a78", mode="multiply")
    return _added(book, target, fresh, f"Copy the pass {one.name}", max(p.order for p in known.values()) + 1, tiles)


@order
def set_pass(book: Book, page: int, number: int, changed: Pass) -> None:
    """Change a pass: name, colour, mode, strength, scope, whether it is shown."""
    old = _known(book, page, number)
    if old.kind != changed.kind:
        raise BadInput("A pass keeps its kind. Add another one instead.")
    put(book, "set-pass", f"Change the pass {old.name}", (f"page/{page}/pass/{number}", _sound(changed)))


@order
def free_pass(book: Book, page: int, number: int) -> None:
    """Let a pass apply everywhere."""
    one = msgspec.structs.replace(_known(book, page, number), scope=EVERYWHERE)
    put(book, "free-pass", f"Let the pass {one.name} apply everywhere", (f"page/{page}/pass/{number}", one))


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
    if (one.kind == "ramp") != (one.ramp is not None) or (one.kind == "finish") != (one.finish is not None):
        raise BadInput(f"A pass of the kind {one.kind} needs its own settings, and no others.")
    return msgspec.structs.replace(one, name=named(one.name, "pass"))
