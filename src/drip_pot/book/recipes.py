"""Recipes: steps taken from the history of a book, done again on its pages or on other books. Knows orders; no window.

Parts and pots are kept by name, so that a recipe works in a book that numbers them otherwise. Steps that name places of
a page are kept as well and told; they are left out where nobody can say the place.
"""

from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass
from typing import Any

import msgspec

from drip_pot.book.asking import Asked
from drip_pot.book.book import Book
from drip_pot.book.hand import Hand
from drip_pot.book.orders import orders, run
from drip_pot.core.errors import BadInput

VERSION = 1
_PLACES = {"points", "at", "atoms", "spots", "rect", "path", "knots", "only", "inside", "start", "end", "row", "col",
           "region", "regions", "corners", "frame", "changes", "cuts"}  # fmt: skip
_MOST_STEPS = 2000
_NAMED = {"part": "parts", "parts": "parts", "pot": "pots", "pots": "pots", "into_pot": "pots"}


class Step(msgspec.Struct, frozen=True):
    """A step of a recipe: an order, and what it was given."""

    order: str
    given: dict[str, Any] = {}

    @property
    def has_place(self) -> bool:
        """Whether it names places of a page."""
        return bool(_PLACES & _keys(self.given))


class Recipe(msgspec.Struct, frozen=True):
    """Steps with a name, and the names of the parts and pots they speak of, by number."""

    name: str
    steps: tuple[Step, ...]
    parts: dict[str, str] = {}
    pots: dict[str, str] = {}
    version: int = VERSION


@dataclass(frozen=True)
class Ran:
    """What became of a recipe on a page.

    Attributes
    ----------
    done : int
        Steps done.
    left_out : tuple of str
        What was left out, in sentences.
    waits : int or None
        The step, from 0, that waits for a hand; None where it ran to its end.
    """

    done: int
    left_out: tuple[str, ...]
    waits: int | None = None


def recipe_of(book: Book, name: str, numbers: Iterable[int]) -> Recipe:
    """Make a recipe of steps of the history, by number; raises `BadInput` where none can be done again."""
    if not " ".join(name.split()):
        raise BadInput("A recipe needs a name.")
    known, steps = orders(), []
    for number in sorted(set(numbers)):
        text = book.asked_at(number)
        if text is None or book.history[number].joined:
            continue
        asked = msgspec.json.decode(text, type=Asked)
        if asked.order in known:
            steps.append(Step(asked.order, asked.given))
    if not steps:
        raise BadInput("None of these steps can be done again. Choose others from the history.")
    parts = {str(n): part.name for n, part in book.parts().items()}
    pots = {str(n): pot.name for n, pot in book.pots().items()}
    return Recipe(" ".join(name.split()), tuple(steps), parts, pots)


def read_recipe(data: bytes, name: str) -> Recipe:
    """Read a recipe from JSON; raises `BadInput` where it is none, or of a newer program."""
    try:
        found = msgspec.json.decode(data, type=Recipe)
    except (msgspec.MsgspecError, RecursionError) as error:
        raise BadInput("{0} is not a recipe: {1}. Keep one from the history of a book.", name, error) from error
    if found.version > VERSION:
        raise BadInput(
            "{0} was made by a newer Drip Pot (recipe version {1}). Update the program.", name, found.version
        )
    if len(found.steps) > _MOST_STEPS:
        raise BadInput("{0} has {1} steps; a recipe has at most {2}.", name, len(found.steps), _MOST_STEPS)
    return found


def run_recipe(
    book: Book, page: int, recipe: Recipe, hand: Callable[[int], Hand] | None = None, *, first: int = 0,
    wait: bool = False,
) -> Ran:  # fmt: skip
    """Do a recipe on a page, as one gesture; nothing is changed where a step cannot be done.

    Parameters
    ----------
    book, page
        Where.
    recipe : Recipe
        What.
    hand : callable, optional
        Returns a hand at work on the page of a number, for steps that need its regions.
    first : int
        The step to begin with, from 0.
    wait : bool
        Stop at a step that needs a place, rather than leave it out.

    Raises
    ------
    BadInput
        For an unknown order, a part or pot that this book does not have, or a step that cannot be done.
    """
    known, done, left_out = orders(), 0, list[str]()
    with book.as_one():
        for place, step in list(enumerate(recipe.steps, 1))[first:]:
            if step.order not in known:
                raise BadInput("Step {0} of {1} is unknown to this program: {2}.", place, recipe.name, step.order)
            if step.has_place and wait:
                return Ran(done, tuple(left_out), place - 1)
            if step.has_place:
                left_out.append(f"Step {place}, {known[step.order].title.lower()}, needs a place; do it by hand.")
                continue
            run(book, step.order, _renamed(step.given, book, recipe), page, hand)
            done += 1
    return Ran(done, tuple(left_out))


def asks_for(recipe: Recipe, place: int) -> str:
    """Say what a step, from 0, wants done by hand."""
    known = orders().get(recipe.steps[place].order)
    what = recipe.steps[place].order if known is None else known.title[0].lower() + known.title[1:]
    return f"Step {place + 1} of {len(recipe.steps)}: {what}. Do it by hand here; the recipe then goes on."


def _keys(value: object) -> set[str]:
    """Return the names of all that is given and is not empty, however deep."""
    found: set[str] = set()
    if isinstance(value, Mapping):
        for key, inner in value.items():
            if inner not in (None, [], {}, (), 0, ""):
                found |= {str(key)} | _keys(inner)
    elif isinstance(value, list | tuple):
        for inner in value:
            found |= _keys(inner)
    return found


def _renamed(value: Any, book: Book, recipe: Recipe, kind: str = "") -> Any:
    """Put this book's numbers of parts and pots in the place of the recipe's."""
    if isinstance(value, Mapping):
        return {key: _renamed(inner, book, recipe, _NAMED.get(str(key), "")) for key, inner in value.items()}
    if isinstance(value, list | tuple):
        return [_renamed(inner, book, recipe, kind) for inner in value]
    if not kind or isinstance(value, bool) or not isinstance(value, int):
        return value
    names: Mapping[str, str] = getattr(recipe, kind)
    name = names.get(str(value))
    if name is None:
        return value
    known = book.parts() if kind == "parts" else book.pots()
    for number, one in known.items():
        if one.name == name:
            return number
    raise BadInput(
        "{0} speaks of the {1} {2}, which this book does not have. Add it first.", recipe.name, kind[:-1], name
    )
