"""Recipes: steps kept from the history, done again elsewhere; by name, as one gesture, nothing half done."""

import msgspec
import pytest

from drip_pot.book import Book, verbs
from drip_pot.book.recipes import Recipe, Step, read_recipe, recipe_of, run_recipe
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
    assert sources.flats.gap_px == 12.0
    assert [hold.scope.parts for hold in sources.holds.values()] == [(names["Figure"],)]
    assert next(reversed(sources.passes.values())).scope.parts == (names["Ground"],)
    other.undo()
    assert other.values() == before, "all of it is one gesture"
    assert book.sources(page).flats.gap_px == 12.0


def test_a_recipe_that_cannot_be_done_changes_nothing() -> None:
    _, _, recipe = taught()
    other, _, there = make_book(two_rooms())
    verbs.rename_part(other, 2, "Sea")
    before = other.values()
    with pytest.raises(BadInput, match="the part Ground, which this book does not have"):
        run_recipe(other, there, recipe)
    assert other.values() == before
    with pytest.raises(BadInput, match="unknown to this program"):
        run_recipe(other, there, Recipe("Odd", (Step("fly"),)))


def test_recipes_are_read_from_json_and_refused_in_words() -> None:
    _, _, recipe = taught()
    assert read_recipe(msgspec.json.encode(recipe), "night.json") == recipe
    for data, words in (
        (b"{", "is not a recipe"),
        (b"[" * 100_000, "is not a recipe"),
        (msgspec.json.encode(msgspec.structs.replace(recipe, version=99)), "newer Drip Pot"),
        (msgspec.json.encode(Recipe("Long", (Step("set-gap"),) * 2001)), "at most 2000"),
    ):
        with pytest.raises(BadInput, match=words):
            read_recipe(data, "night.json")
    book, _, _ = make_book(two_rooms())
    with pytest.raises(BadInput, match="None of these steps"):
        recipe_of(book, "Empty", [])
