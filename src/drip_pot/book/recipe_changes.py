# SPDX-License-Identifier: GPL-3.0-or-later
"""Recipes changed: a value, a step out, a pause in, other names for what it speaks of. Knows recipes; no window."""

from collections.abc import Iterable, Iterator, Mapping
from typing import Any

from msgspec.structs import replace

from drip_pot.book import verbs
from drip_pot.book.book import Book
from drip_pot.book.orders import checked, orders, translated
from drip_pot.book.recipes import Recipe, RecipeStep, spoken_name, told_step
from drip_pot.core.errors import BadInput

Value = bool | int | float | str
Named = tuple[str, str]
"""A kind, 'part' or 'pot', and a name."""
_ASKED = ("part", "pot")


def values_of(step: RecipeStep) -> dict[str, Value]:
    """Return what can be changed in a step, by its way in what is given, as 'pass.strength'.

    What it speaks of by number is left out, and so is what is a list.
    """
    return {way: value for way, value in _leaves(step.given) if way not in _spoken_of(step)}


def _leaves(given: Mapping[str, Any], way: str = "") -> Iterator[tuple[str, Value]]:
    for key, value in given.items():
        if "." in key:
            continue  # a name, and no way
        if isinstance(value, Mapping):
            yield from _leaves(value, f"{way}{key}.")
        elif isinstance(value, bool | int | float | str):
            yield f"{way}{key}", value


def _spoken_of(step: RecipeStep) -> set[str]:
    """Return the ways to numbers that are numbers of something."""
    if step.order not in orders():
        return set()
    other = translated(step.order, step.given, lambda kind, number: -number - 1)
    before = dict(_leaves(step.given))
    return {way for way, value in _leaves(other) if way in before and before[way] != value}


def with_value(recipe: Recipe, place: int, way: str, value: Value) -> Recipe:
    """Change a value of a step, from 0; raises `BadInput` where there is none, or the order cannot use it."""
    step = recipe.steps[place]
    if way not in values_of(step):
        raise BadInput("Step {0} of {1} has no value {2}.", place + 1, recipe.name, way)
    given = _put(step.given, way.split("."), value)
    checked(step.order, given)
    return _with_step(recipe, place, replace(step, given=given, says=""))


def _put(given: Mapping[str, Any], way: list[str], value: Value) -> dict[str, Any]:
    key, rest = way[0], way[1:]
    return {**given, key: _put(given[key], rest, value) if rest else value}


def _with_step(recipe: Recipe, place: int, step: RecipeStep) -> Recipe:
    return replace(recipe, steps=(*recipe.steps[:place], step, *recipe.steps[place + 1 :]))


def without_step(recipe: Recipe, place: int) -> Recipe:
    """Take a step out, from 0.

    Raises
    ------
    BadInput
        If it is the last one, or a later step speaks of what it makes.
    """
    gone = recipe.steps[place]
    if len(recipe.steps) == 1:
        raise BadInput("{0} has this step alone. Remove the recipe instead.", recipe.name)
    made = {f"{kind} {number}" for kind, numbers in gone.made.items() for number in numbers}
    for later, step in enumerate(recipe.steps[place + 1 :], place + 2):
        if made & set(_references(step)):
            raise BadInput("Step {0}, {1}, speaks of what this step makes. Take it out first.", later, told_step(step))
    return replace(recipe, steps=(*recipe.steps[:place], *recipe.steps[place + 1 :]))


def with_pause(recipe: Recipe, place: int, says: str) -> Recipe:
    """Put a pause before a step, from 0, that tells the hand something."""
    pause = RecipeStep(says=" ".join(says.split()))
    return replace(recipe, steps=(*recipe.steps[:place], pause, *recipe.steps[place:]))


def _references(step: RecipeStep) -> list[str]:
    """Return what a step speaks of, as 'pass 4'."""
    found: list[str] = []

    def note(kind: str, number: int) -> int:
        found.append(f"{kind} {number}")
        return number

    if step.order in orders():
        translated(step.order, step.given, note)
    return found


def spoken_of(recipe: Recipe) -> tuple[Named, ...]:
    """Return the parts and pots that a recipe speaks of and does not make itself, in the order it speaks of them."""
    made, found = set[str](), dict[Named, None]()
    for step in recipe.steps:
        if not step.has_place:
            for reference in _references(step):
                kind, _, number = reference.rpartition(" ")
                name = spoken_name(recipe, step, kind, int(number))
                if kind in _ASKED and reference not in made and name:
                    found[kind, name] = None
        made |= {f"{kind} {number}" for kind, numbers in step.made.items() for number in numbers}
    return tuple(found)


def strangers(book: Book, recipe: Recipe) -> tuple[Named, ...]:
    """Return the parts and pots that a recipe speaks of and a book does not have."""
    known = {("part", part.name) for part in book.parts().values()} | {
        ("pot", pot.name) for pot in book.pots().values()
    }
    return tuple(one for one in spoken_of(recipe) if one not in known)


def with_names(recipe: Recipe, names: Mapping[Named, str]) -> Recipe:
    """Let a recipe speak of other parts and pots, by the names it has for them."""

    def told(kind: str, name: str) -> str:
        return names.get((kind, name), name)

    steps = tuple(
        replace(step, names={key: told(key.rpartition(" ")[0], name) for key, name in step.names.items()})
        for step in recipe.steps
    )
    parts = {number: told("part", name) for number, name in recipe.parts.items()}
    pots = {number: told("pot", name) for number, name in recipe.pots.items()}
    return replace(recipe, steps=steps, parts=parts, pots=pots)


def add_strangers(book: Book, recipe: Recipe, wanted: Iterable[Named]) -> None:
    """Add parts and pots that a recipe speaks of, in the colours they had where it was kept, as one gesture."""
    every = list(wanted)
    with book.as_one():
        for name in [name for kind, name in every if kind == "part"]:
            verbs.add_part(book, name)
        pots = [name for kind, name in every if kind == "pot"]
        part = next(reversed(book.parts()), 0) or (verbs.add_part(book, recipe.name) if pots else 0)
        for name in pots:
            verbs.add_pot(book, name, part, color_of(recipe, name) or "#808080")


def color_of(recipe: Recipe, pot: str) -> str:
    """Return the colour that a pot of a name had where the recipe was kept; empty where that is not known."""
    return next((recipe.colors.get(number, "") for number, name in recipe.pots.items() if name == pot), "")
