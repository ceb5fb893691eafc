# SPDX-License-Identifier: GPL-3.0-or-later
"""Every kind of value has one record, and what follows from it is true for all of them."""

import threading
from contextlib import closing
from pathlib import Path
from typing import Any, get_args

import msgspec
import numpy as np
import pytest

from drip_pot.book import verbs
from drip_pot.book.derive.graph import Graph
from drip_pot.book.reading import split_key
from drip_pot.book.store import Edit
from drip_pot.book.values import (
    BOOK_KINDS,
    PAGE_KINDS,
    BookKind,
    Border,
    Doubt,
    EdgeTrap,
    Feed,
    FigureOffer,
    Hold,
    InkState,
    Lamp,
    PageKind,
    PageValue,
    PanelByHand,
    Pass,
    Seed,
    ShadeCut,
    fed_by,
)
from drip_pot.book.where import KeptScope, Scope
from drip_pot.core.inks import Effect
from drip_pot.core.regions import make_stencil
from drip_pot.core.render import Ramp, Stop
from drip_pot.files import open_book
from tests.conftest import make_book, two_rooms

ROOT = Path(__file__).parents[2]


def test_every_kind_is_named_once_told_in_the_papers_and_feeds_what_there_is() -> None:
    told = (ROOT / "docs/book-file.md").read_text()
    for name, kind in {**PAGE_KINDS, **BOOK_KINDS}.items():
        assert kind.name == name
        assert f"`{name}" in told or f"/{name}" in told, f"the book's form does not tell of {name}"
        assert all(kind.words)
    assert {feed for kind in PAGE_KINDS.values() for feed in kind.feeds} <= set(get_args(Feed))


def test_what_is_stale_follows_from_the_keys_alone() -> None:
    assert fed_by(["page/3/lamp/1", "page/4/pour/2"], 3) == {"marks"}
    assert fed_by(["page/4/pour/2"], 4) == {"colors"}
    assert fed_by(["pot/2", "page/3", "nothing/known"], 4) == {"pots", "pairs", "colors", "pages", "sequence"}


def test_the_demo_holds_no_value_of_an_unknown_kind(demo_book: Path) -> None:
    file, book = open_book(demo_book)
    with closing(file):
        for key in book.values():
            page, rest = split_key(key)
            assert (rest if page is not None else key).split("/")[0] in (PAGE_KINDS if page is not None else BOOK_KINDS)


def _near(one: object, two: object) -> bool:
    """Whether two values are one but for a hundredth of a pixel."""
    if isinstance(one, dict) and isinstance(two, dict):
        return one.keys() == two.keys() and all(_near(one[key], two[key]) for key in one)
    if isinstance(one, list) and isinstance(two, list):
        return len(one) == len(two) and all(map(_near, one, two))
    if isinstance(one, float | int) and isinstance(two, float | int):
        return abs(one - two) < 0.011
    return one == two


PATH = ((10.0, 12.0), (50.0, 60.0))
MASK = np.pad(np.ones((8, 9), bool), 2)
RAMP = Ramp((10.0, 10.0), (90.0, 80.0), (Stop(0.0, "#000000"), Stop(1.0, "#ffffff")), "along", ((40.0, 30.0),))
SAMPLES: dict[str, dict[Any, Any]] = {
    "inks": {0: InkState(erased=((5, 6),), kept=((7, 8),))},
    "effect": {1: Effect("burst", ((0.0, 0.0), *PATH), 50.0, 60.0)},
    "stroke": {(20, 30): True},
    "tone": {(21, 31): True},
    "dam": {1: PATH},
    "stencil": {2: make_stencil((20, 30, 32, 43), MASK)},
    "door": {1: PATH},
    "join": {1: PATH},
    "bridge": {(20.5, 30.0): False},
    "panel": {1: PanelByHand(((0.0, 0.0), (90.0, 0.0), (90.0, 90.0)))},
    "seed": {1: Seed(PATH, 1)},
    "hold": {1: Hold(spots=PATH)},
    "pass": {2: Pass(name="Ramp", kind="ramp", ramp=RAMP, scope=Scope(spots=PATH))},
    "scope": {1: KeptScope("Here", Scope(spots=PATH))},
    "shade-cut": {1: ShadeCut(1, ((10.0, 10.0, False), (50.0, 10.0, True), (50.0, 60.0, False)))},
    "border": {1: Border(1, PATH)},
    "lamp": {1: Lamp(-20.0, 30.0)},
    "trap": {1: EdgeTrap((10.0, 20.0), (30.0, 40.0))},
    "doubt": {(20, 30): Doubt(1, 0.5)},
    "figure": {1: FigureOffer("Wren", 1, ())},
}


def test_all_that_lies_on_a_page_goes_along_when_it_grows_and_comes_back() -> None:
    kinds = [kind for kind in PAGE_KINDS.values() if isinstance(kind, PageKind)]
    kinds = [kind for kind in kinds if kind.moved is not None or kind.moved_key is not None]
    assert {kind.name for kind in kinds} == SAMPLES.keys(), "a new kind that moves needs a sample here"
    book, _, page = make_book(two_rooms())
    for kind in kinds:
        changes = tuple(book.change(kind.key(page, by), value) for by, value in SAMPLES[kind.name].items())
        book.apply(Edit("sample", "Sample", changes))
    before = {kind.name: book.sources(page)[kind] for kind in kinds}
    verbs.crop_page(book, page, (-40, -30, 200, 300))
    grown = {kind.name: book.sources(page)[kind] for kind in kinds}
    assert {name for name, values in before.items() if values == grown[name]} == set()
    assert not grown["figure"], "what was offered is looked for anew"
    verbs.crop_page(book, page, (40, 30, 240, 330))
    for kind in (kind for kind in kinds if kind.name != "figure"):
        now = book.sources(page)[kind]
        assert sorted(now) == sorted(before[kind.name]), kind.name
        assert all(_near(*map(msgspec.to_builtins, (now[by], value))) for by, value in before[kind.name].items())
    book.undo()
    book.undo()
    assert {kind.name: book.sources(page)[kind] for kind in kinds} == before


@pytest.mark.parametrize("kind", [k for k in PAGE_KINDS.values() if k.colored is not None], ids=lambda kind: kind.name)
def test_a_scheme_holds_the_colours_of_every_kind_that_has_some(kind: PageKind | PageValue) -> None:
    from drip_pot.book.values import Scheme

    assert kind.colored is not None
    assert kind.colored.field in Scheme.__struct_fields__


def test_numbers_of_orders_are_of_kinds_that_the_book_knows() -> None:
    from drip_pot.book.asking import VERBS
    from drip_pot.book.numbers import Numbered, hints_of

    elsewhere = {"atom", "original", "drawn panel"}
    kinds = {one.kind for verb in VERBS.values() for hint in hints_of(verb).values()
             for one in getattr(hint, "__metadata__", ()) if isinstance(one, Numbered)}  # fmt: skip
    assert len(kinds) > 15
    assert kinds - elsewhere <= {*PAGE_KINDS, *(n for n, k in BOOK_KINDS.items() if isinstance(k, BookKind))}


def test_who_asks_for_something_else_does_not_wait() -> None:
    graph, begun, go = Graph(), threading.Event(), threading.Event()

    def slow() -> int:
        begun.set()
        assert go.wait(60)
        return 1

    found: list[int] = []
    works = [threading.Thread(target=lambda: found.append(graph.once("slow", 1, slow))) for _ in range(2)]
    for work in works:
        work.start()
    assert begun.wait(60)
    assert graph.once("quick", 1, lambda: 2) == 2, "while the other is at work"
    begun.clear()
    go.set()
    for work in works:
        work.join()
    assert found == [1, 1]
    assert not begun.is_set(), "who asked for the same meanwhile was given it"
