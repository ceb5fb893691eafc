# SPDX-License-Identifier: GPL-3.0-or-later
"""Verbs on the passes of a page: added, copied, changed, moved, removed; scopes kept. Knows no window, no file."""

from collections.abc import Sequence

import msgspec

from drip_pot.book.asking import order
from drip_pot.book.book import Book
from drip_pot.book.naming import apart, followed, where_said
from drip_pot.book.numbers import PageNumber, PassNumber, ScopeNumber
from drip_pot.book.store import Edit, TileChange
from drip_pot.book.value_plan import PanelValues
from drip_pot.book.values import (
    BORDERS,
    COVER,
    LAMPS,
    PAINT,
    PASSES,
    PLAN,
    SCOPES,
    SHADE_CUTS,
    TONE,
    UNDER,
    Pass,
    PassKind,
    Plane,
    ShadeCut,
)
from drip_pot.book.verbs.setting import named, put
from drip_pot.book.where import KeptScope, Scope
from drip_pot.core.color import from_hex
from drip_pot.core.errors import BadInput
from drip_pot.core.render import MODES, Finish, Ramp, Stop, ToneRamp
from drip_pot.words import say, tr

EVERYWHERE = Scope()
_GREY, _GREY_L, _DARK_L = "#e6e6e6", 230, 90
_FEWEST, _MOST_VALUES = 3, 6
NO_CUTS: list[ShadeCut] = []
_PLANES = (COVER, UNDER, *PAINT)
PASS_NAMES = ("Pass", "Ramp", "Finish", "Tone ramp", "Paint", "Effect")
"""What passes that nobody named are called."""


@order
def keep_scope(book: Book, page: int, name: str, scope: Scope) -> int:
    """Keep a scope by name; return its number."""
    known = book.sources(page)[SCOPES]
    number = next((n for n, kept in known.items() if kept.name == name), max(known, default=0) + 1)
    kept = KeptScope(named(name, "scope"), scope)
    put(book, "keep-scope", say("Keep the scope {0}", kept.name), (SCOPES.key(page, number), kept))
    return number


@order
def remove_scope(book: Book, page: int, number: ScopeNumber) -> None:
    """Forget a scope that was kept; passes that use it keep what it covers."""
    known = book.sources(page)[SCOPES]
    if number not in known:
        raise BadInput("This page keeps no scope {0}.", number)
    put(book, "remove-scope", say("Remove the scope {0}", known[number].name), (SCOPES.key(page, number), None))


@order
def add_pass(
    book: Book, page: int, name: str, color: str = "#000000", mode: str = "multiply", strength: float = 0.6,
    scope: Scope = EVERYWHERE, ramp: Ramp | None = None, finish: Finish | None = None, values: ToneRamp | None = None,
    *, local: bool = False, paint: bool = False,
) -> int:  # fmt: skip
    """Lay a pass over all others; return its number.

    It is of one colour, of a ramp, of the pots' local colours, or of all the colours that are painted in it (`paint`);
    or it corrects what lies below, or colours it by value.
    """
    given: dict[PassKind, object] = {"ramp": ramp, "finish": finish, "values": values, "local": local or None,
                                        "paint": paint or None}  # fmt: skip
    kind: PassKind = next((name_ for name_, value in given.items() if value is not None), "tint")
    fresh = Pass(name, kind, color, mode, strength, scope=scope, ramp=ramp, finish=finish, values=values)
    return lay_pass(book, page, fresh)


def lay_pass(book: Book, page: int, fresh: Pass) -> int:
    """Lay a pass over all others; return its number."""
    known = book.sources(page)[PASSES]
    title = say("Add the pass {0}", named(fresh.name, "pass"))
    return _added(book, page, fresh, title, max(p.order for p in known.values()) + 1)


def _added(
    book: Book, page: int, one: Pass, title: str, order_: int, tiles: Sequence[tuple[Plane, TileChange]] = (),
    cuts: list[ShadeCut] = NO_CUTS,
) -> int:  # fmt: skip
    sources = book.sources(page)
    number, first = max(sources[PASSES]) + 1, max(sources[SHADE_CUTS], default=0) + 1
    one = _sound(msgspec.structs.replace(one, order=order_))
    own = [msgspec.structs.replace(tile, plane=kind.key(page, number)) for kind, tile in tiles]
    changes = [book.change(PASSES.key(page, number), one)]
    changes += [book.change(SHADE_CUTS.key(page, n), msgspec.structs.replace(cut, into=number))
                for n, cut in enumerate(cuts, first)]  # fmt: skip
    book.apply(Edit("add-pass", title, tuple(changes), tuple(own)))
    return number


@order
def add_glaze(
    book: Book, page: int, scope: Scope = EVERYWHERE, undertone: str = "#d8946a", steps: int = 4
) -> list[int]:
    """Lay a grey painting with colour glazed over it; return the numbers of its passes, the lowest first.

    A light grey covers the scope, darker greys and white wait to be painted in, without black, in so many `steps` of
    value altogether; an undertone warms them, and the pots' local colours lie over all.
    """
    if not _FEWEST <= steps <= _MOST_VALUES:
        raise BadInput("A grey painting has {0} to {1} steps of value, not {2}.", _FEWEST, _MOST_VALUES, steps)
    from_hex(undertone)
    rows, cols = book.pages()[page].rows, book.pages()[page].cols

    def whole(color: str) -> Ramp:
        return Ramp((0.0, cols / 2), (float(rows), cols / 2), (Stop(0, color), Stop(1, color)))

    with book.as_one():
        found = [add_pass(book, page, "Grey", mode="normal", strength=1.0, scope=scope, ramp=whole(_GREY))]
        for step in range(1, steps - 1):
            value = round(_GREY_L - (_GREY_L - _DARK_L) * step / (steps - 2))
            color = "#" + f"{value:02x}" * 3
            found.append(add_pass(book, page, tr("Dark {0}", step), color, "normal", 1.0, scope))
        found.append(add_pass(book, page, "Light", "#ffffff", "normal", 1.0, scope))
        found.append(add_pass(book, page, "Undertone", mode="color", strength=0.35, scope=scope, ramp=whole(undertone)))
        found.append(add_pass(book, page, "Glaze", mode="multiply", strength=1.0, scope=scope, local=True))
    return found


@order
def copy_pass(book: Book, page: int, number: PassNumber, to: PageNumber | None = None) -> int:
    """Copy a pass with what is painted in it, on its page or to another one of the same size; return its number."""
    one, target = known_pass(book, page, number), page if to is None else to
    if target not in book.pages():
        raise BadInput("This book has no page {0}.", target)
    here, there = book.pages()[page], book.pages()[target]
    plane = book.plane(COVER.key(page, number))
    if target != page and (plane.any() or one.scope.spots) and (here.rows, here.cols) != (there.rows, there.cols):
        raise BadInput("{0} has another size than {1}; what lies at a place does not fit on it.", there.name, here.name)
    tiles = [(kind, TileChange("", *at, None, held.packed(*at)))
             for kind in _PLANES for held in [book.plane(kind.key(page, number))] for at in held]  # fmt: skip
    cuts = [cut for cut in book.sources(page)[SHADE_CUTS].values() if cut.into == number]
    known = book.sources(target)[PASSES]
    fresh = msgspec.structs.replace(one, name=tr("{0} copy", one.name) if target == page else one.name)
    if fresh.kind == "tone":
        fresh = msgspec.structs.replace(fresh, kind="tint", color="#5a4a78", mode="multiply")
    return _added(book, target, fresh, say("Copy the pass {0}", one.name), max(p.order for p in known.values()) + 1,
                  tiles, cuts)  # fmt: skip


@order
def set_pass(book: Book, page: int, number: PassNumber, changed: Pass) -> None:
    """Change a pass: name, colour, mode, strength, scope, whether it is shown; it keeps its place in the stack."""
    old = known_pass(book, page, number)
    changed = msgspec.structs.replace(changed, order=old.order)
    if old.kind != changed.kind:
        raise BadInput("A pass keeps its kind. Add another one instead.")
    if changed.name == old.name:
        changed = msgspec.structs.replace(changed, name=_followed(book, page, old, changed.scope))
    put(book, "set-pass", say("Change the pass {0}", old.name), (PASSES.key(page, number), _sound(changed)))


def _followed(book: Book, page: int, old: Pass, scope: Scope) -> str:
    """Return the name of a pass that applies elsewhere now; one that was given by hand stays."""
    sources = book.sources(page)
    where = [where_said(book, sources, one) for one in (old.scope, scope)]
    name = followed(old.name, PASS_NAMES, "", *where)
    return old.name if name == old.name else apart(name, [one.name for one in sources[PASSES].values()])


@order
def keep_plan(book: Book, page: int, plan: tuple[PanelValues, ...]) -> None:
    """Keep the values of every panel as a plan to compare with; an empty one forgets it."""
    title = "Keep a plan of values" if plan else "Forget the plan of values"
    put(book, "keep-plan", title, (PLAN.key(page), plan or None))


@order
def free_pass(book: Book, page: int, number: PassNumber) -> None:
    """Let a pass apply everywhere."""
    old = known_pass(book, page, number)
    one = msgspec.structs.replace(old, scope=EVERYWHERE, name=_followed(book, page, old, EVERYWHERE))
    put(book, "free-pass", say("Let the pass {0} apply everywhere", one.name), (PASSES.key(page, number), one))


@order
def move_pass(book: Book, page: int, number: PassNumber, step: int) -> None:
    """Move a pass in the stack: 1 is one place up."""
    known_pass(book, page, number)
    passes = book.sources(page)[PASSES]
    order_ = list(passes)
    place = order_.index(number)
    target = min(max(place + step, 0), len(order_) - 1)
    order_.insert(target, order_.pop(place))
    if target != place:
        pairs = [(PASSES.key(page, n), msgspec.structs.replace(passes[n], order=k)) for k, n in enumerate(order_)]
        put(book, "move-pass", say("Move the pass {0}", passes[number].name), *pairs)


@order
def remove_pass(book: Book, page: int, number: PassNumber) -> None:
    """Remove a pass and what is painted in it; the first one of a page stays."""
    name = known_pass(book, page, number).name
    if number == TONE:
        raise BadInput("The first pass of a page cannot be removed. Hide it instead.")
    sources = book.sources(page)
    tiles = tuple(TileChange(plane_name, *at, plane.packed(*at), None)
                  for plane_name in (kind.key(page, number) for kind in _PLANES)
                  for plane in [book.plane(plane_name)] for at in plane)  # fmt: skip
    gone = [PASSES.key(page, number)]
    gone += [SHADE_CUTS.key(page, n) for n, cut in sources[SHADE_CUTS].items() if cut.into == number]
    gone += [BORDERS.key(page, n) for n, border in sources[BORDERS].items() if border.into == number]
    changes = [book.change(key, None) for key in gone]
    changes += [
        book.change(LAMPS.key(page, n), msgspec.structs.replace(lamp, into=0))
        for n, lamp in sources[LAMPS].items()
        if lamp.into == number
    ]
    book.apply(Edit("remove-pass", say("Remove the pass {0}", name), tuple(changes), tiles))


def known_pass(book: Book, page: int, number: int) -> Pass:
    """Return a pass; raises `BadInput` where there is none of that number."""
    passes = book.sources(page)[PASSES]
    if number not in passes:
        raise BadInput("This page has no pass {0}. It has {1}.", number, ", ".join(map(str, passes)))
    return passes[number]


def _sound(one: Pass) -> Pass:
    """Return a pass whose values can be used; raises `BadInput`."""
    from_hex(one.color)
    if one.mode not in MODES:
        raise BadInput("There is no blend mode '{0}'. Choose from {1}.", one.mode, ", ".join(MODES))
    if not 0 <= one.strength <= 1:
        raise BadInput("The strength of a pass goes from 0 to 100 %, not {0:g} %.", one.strength * 100)
    own = {"ramp": one.ramp, "finish": one.finish, "values": one.values, "picture": one.placed,
           "effect": one.effect}  # fmt: skip
    if any((one.kind == kind) != (value is not None) for kind, value in own.items()):
        raise BadInput("A pass of the kind {0} needs its own settings, and no others.", one.kind)
    return msgspec.structs.replace(one, name=named(one.name, "pass"))
