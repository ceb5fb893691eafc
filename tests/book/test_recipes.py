# SPDX-License-Identifier: GPL-3.0-or-later
"""Recipes: steps kept from the history, done again elsewhere; by name, as one gesture, nothing half done."""

import re

import msgspec
import pytest
from hypothesis import given
from hypothesis import strategies as st

from drip_pot.book import Book, Hold, orders, verbs
from drip_pot.book.recipes import Recipe, RecipeStep, read_recipe, recipe_of, run_recipe
from drip_pot.book.values import FLATS, HOLDS, PASSES
from drip_pot.book.where import Scope
from drip_pot.core.errors import BadInput
from tests.conftest import make_book, two_rooms


def taught() -> tuple[Book, int, Recipe]:
    book, _, page = make_book(two_rooms())
    start = len(book.history)
    verbs.set_gap(book, page, 12.0)
    verbs.hold_part(book, page, 1, 0.4)
    verbs.pour(book, page, {1}, 1)
    verbs.add_pass(book, page, "Night", "#203060", scope=Scope(parts=(2,)))
    return book, page, recipe_of(book, "Night", range(start, len(book.history)))


def renumbered() -> tuple[Book, int]:
    """A book with the same parts in other places."""
    book, _, page = make_book(two_rooms())
    verbs.add_part(book, "Extra")
    parts = {part.name: n for n, part in book.parts().items()}
    verbs.rename_part(book, parts["Figure"], "Swap")
    verbs.rename_part(book, parts["Ground"], "Figure")
    verbs.rename_part(book, parts["Swap"] if "Swap" in parts else parts["Figure"], "Ground")
    return book, page


def test_a_recipe_does_the_same_by_name_in_a_book_that_numbers_otherwise() -> None:
    book, page, recipe = taught()
    assert [step.order for step in recipe.steps] == ["set-gap", "hold-part", "pour", "add-pass"]
    assert [step.has_place for step in recipe.steps] == [False, False, True, False]
    other, there = renumbered()
    names = {part.name: n for n, part in other.parts().items()}
    assert names["Figure"] != 1
    before = other.values()
    ran = run_recipe(other, there, recipe)
    assert ran.done == 3
    assert "needs a place" in ran.left_out[0]
    sources = other.sources(there)
    assert sources[FLATS].gap_px == 12.0
    assert [hold.scope.parts for hold in sources[HOLDS].values()] == [(names["Figure"],)]
    assert next(reversed(sources[PASSES].values())).scope.parts == (names["Ground"],)
    other.undo()
    assert other.values() == before, "all of it is one gesture"
    assert book.sources(page)[FLATS].gap_px == 12.0


def test_a_recipe_that_cannot_be_done_changes_nothing() -> None:
    _, _, recipe = taught()
    other, _, there = make_book(two_rooms())
    verbs.rename_part(other, 2, "Sea")
    before = other.values()
    with pytest.raises(BadInput, match="the part Ground, which this book does not have"):
        run_recipe(other, there, recipe)
    assert other.values() == before
    with pytest.raises(BadInput, match="unknown to this program"):
        run_recipe(other, there, Recipe("Odd", (RecipeStep("fly"),)))


def test_recipes_are_read_from_json_and_refused_in_words() -> None:
    _, _, recipe = taught()
    assert read_recipe(msgspec.json.encode(recipe), "night.json") == recipe
    for data, words in (
        (b"{", "is not a recipe"),
        (b"[" * 100_000, "is not a recipe"),
        (b'{"name": "\xff\xfe", "steps": []}', "is not a recipe"),
        (
            b'{"name": "Deep", "steps": [{"order": "pour", "given": {"a": ' + b"[" * 900 + b"]" * 900 + b"}}]}",
            "without end",
        ),
        (msgspec.json.encode(msgspec.structs.replace(recipe, version=99)), "newer Drip Pot"),
        (msgspec.json.encode(Recipe("Long", (RecipeStep("set-gap"),) * 2001)), "at most 2000"),
    ):
        with pytest.raises(BadInput, match=words):
            read_recipe(data, "night.json")
    book, _, _ = make_book(two_rooms())
    with pytest.raises(BadInput, match="None of these steps"):
        recipe_of(book, "Empty", [])


NAMES = {
    "pot": ("Ember", "Sky", "Moss"), "part": ("Figure", "Ground"), "pass": ("Night", "Fog"), "hold": ("Rims", "Hair"),
}  # fmt: skip
STEPS = [
    ("remove-pot", {"number": "pot Sky", "into": "pot Moss"}),
    ("move-pot", {"number": "pot Sky", "part": "part Figure", "place": 0}),
    ("series", {"pot": "pot Ember", "count": 3}),
    ("set-pot", {"number": "pot Moss", "pot": {"name": "Fern", "part": "part Figure", "local": "#305020"}}),
    ("rename-part", {"number": "part Ground", "name": "Far"}),
    ("remove-part", {"part": "part Figure", "into": "part Ground"}),
    ("hold-part", {"part": "part Figure", "amount": 0.5}), ("leave-calm", {"part": "part Ground", "calm": True}),
    ("set-pass", {"number": "pass Fog", "changed": {"name": "Fog", "strength": 0.3,
                                                    "scope": {"parts": ["part Figure"], "pots": ["pot Moss"]}}}),
    ("remove-pass", {"number": "pass Night"}), ("move-pass", {"number": "pass Fog", "step": -1}),
    ("set-hold", {"number": "hold Hair", "changed": {"name": "Hair", "how": "fixed", "color": "#102030",
                                                     "scope": {"pots": ["pot Sky"]}}}),
    ("remove-hold", {"number": "hold Rims"}), ("move-hold", {"number": "hold Hair", "step": 1}),
    ("free-pass", {"number": "pass Night"}), ("set-pot-inks", {"number": "pot Ember", "inks": [0, 60, 80, 0]}),
]  # fmt: skip


def furnished(order: list[int]) -> tuple[Book, int]:
    """A book with the same things, numbered in another order, after some that are gone again."""
    book, _, page = make_book(two_rooms())
    for number in list(book.pots()):
        verbs.remove_pot(book, number, None)
    for number in list(book.parts()):
        verbs.remove_part(book, number, None)
    for k in order:
        if k < 2:
            verbs.add_part(book, NAMES["part"][k])
    parts = {part.name: n for n, part in book.parts().items()}
    for k in order:
        verbs.add_pot(book, NAMES["pot"][k], parts["Figure" if k == 0 else "Ground"], "#%02x5080" % (40 * k))
    for _ in range(order[0]):
        verbs.remove_pass(book, page, verbs.add_pass(book, page, "Gone", "#203060"))
        verbs.add_pass(book, page, "Other", "#203060")
        verbs.add_hold(book, page, Hold("Other", Scope(pots=(1,)), how="fixed"))
    for one, two in zip(NAMES["pass"], NAMES["hold"], strict=True):
        verbs.add_pass(book, page, one, "#203060")
        verbs.add_hold(book, page, Hold(two, Scope(parts=(parts["Figure"],))))
    return book, page


def by_name(book: Book, page: int) -> object:
    """All that orders change, with names in the place of numbers."""
    sources = book.sources(page)
    pots, parts = book.pots(), book.parts()

    def where(scope: Scope) -> object:
        return sorted(parts[n].name for n in scope.parts), sorted(pots[n].name for n in scope.pots)

    return (
        {p.name: (p.local, parts[p.part].name if p.part in parts else "", p.inks) for p in pots.values()},
        sorted(part.name for part in parts.values()),
        {p.name: (p.strength, where(p.scope)) for p in sources[PASSES].values() if p.name != "Other"},
        {h.name: (h.how, h.color, h.amount, where(h.scope)) for h in sources[HOLDS].values() if h.name != "Other"},
    )


def numbered(book: Book, page: int, given: object) -> object:
    if isinstance(given, dict):
        return {key: numbered(book, page, value) for key, value in given.items()}
    if isinstance(given, list):
        return [numbered(book, page, value) for value in given]
    kind, _, name = given.partition(" ") if isinstance(given, str) else ("", "", "")
    if kind not in NAMES or not name:
        return given
    sources = book.sources(page)
    known = {"pot": book.pots(), "part": book.parts(), "pass": sources[PASSES], "hold": sources[HOLDS]}[kind]
    return next(n for n, one in known.items() if one.name == name)


@given(st.lists(st.sampled_from(STEPS), min_size=1, max_size=3), st.permutations(range(3)), st.permutations(range(3)))
def test_any_order_does_the_same_by_name_in_another_book_or_says_why_not(steps, here, there) -> None:
    book, page = furnished(list(here))
    other, other_page = furnished(list(there))
    start = len(book.history)
    try:
        for name, given in steps:
            orders.run(book, name, numbered(book, page, given), page)
        recipe = recipe_of(book, "Kept", range(start, len(book.history)))
    except (BadInput, StopIteration):
        return  # one of them takes away what the next one speaks of, or nothing was changed
    before = other.values()
    try:
        run_recipe(other, other_page, read_recipe(msgspec.json.encode(recipe), "kept.json"))
    except BadInput:
        assert other.values() == before
    else:
        assert by_name(other, other_page) == by_name(book, page)


def test_what_a_recipe_made_is_known_to_its_later_steps_and_what_has_no_name_is_refused() -> None:
    book, page = furnished([0, 1, 2])
    start = len(book.history)
    made = verbs.add_pass(book, page, "Dusk", "#402010")
    verbs.set_pass(book, page, made, msgspec.structs.replace(book.sources(page)[PASSES][made], strength=0.2))
    recipe = recipe_of(book, "Dusk", range(start, len(book.history)))
    other, there = furnished([2, 1, 0])
    verbs.add_pass(other, there, "Dusk", "#ffffff")
    run_recipe(other, there, recipe)
    assert [p.strength for p in other.sources(there)[PASSES].values() if p.name == "Dusk"] == [0.6, 0.2]
    lamp = Recipe("Lamp", (RecipeStep("set-lamp", {"number": 3, "lamp": None}),))
    with pytest.raises(BadInput, match="lamp number 3 of another book or page, which has no name"):
        run_recipe(other, there, lamp)


def test_every_number_in_an_order_says_what_it_is_a_number_of() -> None:
    plain = {"steps", "count", "step", "place", "places", "size", "across", "down", "turn", "flats", "frames",
             "regions", "atoms", "plates", "rect", "white", "least_px", "size_px", "seed", "row", "col", "source",
             "spots", "corners", "within", "only", "inside", "inks", "shadow_inks", "ways", "one", "two",
             "panel", "key"}  # fmt: skip
    for order in orders.orders().values():
        loose = [a.name for a in order.arguments if re.search(r"\bint\b", a.kind) and a.name not in plain]
        assert not loose, f"{order.name}: {loose}"
