# SPDX-License-Identifier: GPL-3.0-or-later
"""Recipes: steps taken from the history of a book, done again on its pages or on other books. Knows orders; no window.

What a step speaks of by number is kept by name, so that a recipe works in a book that numbers things otherwise; what
an earlier step made is known as such. A number that has neither is never guessed. Steps that name places of a page are
kept as well and told; they are left out where nobody can say the place.
"""

import re
from collections.abc import Callable, Iterable, Mapping
from contextlib import suppress
from dataclasses import dataclass
from functools import partial
from typing import Any

import msgspec

from drip_pot.book.asking import Asked, read_asked
from drip_pot.book.book import Book
from drip_pot.book.hand import Hand
from drip_pot.book.orders import orders, translated
from drip_pot.book.orders import run as do
from drip_pot.book.store import Edit
from drip_pot.book.values import BOOK_KINDS, BookKind, places_of
from drip_pot.core.errors import BadInput
from drip_pot.words import read_out, tr

VERSION = 1
_PLACES = {"points", "at", "atoms", "spots", "rect", "path", "knots", "only", "inside", "start", "end", "row", "col",
           "region", "regions", "corners", "frame", "changes", "cuts"}  # fmt: skip
_MOST_STEPS, _DEEPEST = 2000, 30
_FIRST = re.compile(r"[,;(]|: ")  # what the title of an order says first is enough for a person


class RecipeStep(msgspec.Struct, frozen=True):
    """A step of a recipe: an order, what it was given, the names of what it speaks of, and the numbers it made.

    Names are by kind and number, as 'pass 4'; numbers by kind, in ascending order. Without an order it is a pause, and
    `says` what the hand is told there; else it is what the history said of the step, as `words.say` keeps it.
    """

    order: str = ""
    given: dict[str, Any] = {}
    names: dict[str, str] = {}
    made: dict[str, tuple[int, ...]] = {}
    says: str = ""

    @property
    def has_place(self) -> bool:
        """Whether it names places of a page."""
        return bool(_PLACES & _keys(self.given))

    @property
    def is_pause(self) -> bool:
        """Whether it stops for the hand to look, and does nothing itself."""
        return not self.order


class Recipe(msgspec.Struct, frozen=True):
    """Steps with a name, and the names of the parts and pots they speak of, by number; of pots the colours as well."""

    name: str
    steps: tuple[RecipeStep, ...]
    parts: dict[str, str] = {}
    pots: dict[str, str] = {}
    colors: dict[str, str] = {}
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
    kept = sorted(set(numbers))
    for number in kept:
        asked = read_asked(book.asked_at(number))
        if asked is not None and not book.history[number].joined and asked.order in known:
            edits = [book.edit_at(n) for n in _gesture(book, number)]
            names, made, said = _names_in(book, asked, edits), _made_by(edits), str(book.history[number].says)
            steps.append(RecipeStep(asked.order, asked.given, names, made, said))
    if not steps:
        raise BadInput("None of these steps can be done again. Choose others from the history.")
    parts = {str(n): part.name for n, part in book.parts().items()}
    pots = {str(n): pot.name for n, pot in book.pots().items()}
    colors = {str(n): pot.local for n, pot in book.pots().items()}
    return Recipe(" ".join(name.split()), tuple(steps), parts, pots, colors)


def _gesture(book: Book, number: int) -> list[int]:
    """Return a step of the history and those joined to it, by number."""
    last = number
    while last + 1 < len(book.history) and book.history[last + 1].joined:
        last += 1
    return list(range(number, last + 1))


def _names_in(book: Book, asked: Asked, edits: list[Edit]) -> dict[str, str]:
    """Return the names of what an order speaks of; what is gone by now is named in the step itself."""
    found: dict[str, str] = {}

    def note(kind: str, number: int) -> int:
        keys = [f"{place}{number}" for place in places_of(kind, asked.page)]
        texts = [c.before for edit in edits for c in edit.changes if c.key in keys]
        for text in (*texts, *map(book.get, keys)):
            name = _name_of(text)
            if name:
                found.setdefault(f"{kind} {number}", name)
        return number

    with suppress(BadInput):
        translated(asked.order, asked.given, note)
    return found


def _name_of(text: str | None) -> str:
    try:
        told = msgspec.json.decode(text or "null")
    except msgspec.MsgspecError:
        return ""
    return str(told.get("name", "")) if isinstance(told, dict) else ""


def _made_by(edits: list[Edit]) -> dict[str, tuple[int, ...]]:
    """Return the numbers of what edits made anew, by kind."""
    return _numbers(c.key for edit in edits for c in edit.changes if c.before is None and c.after is not None)


def _numbers(keys: Iterable[str]) -> dict[str, tuple[int, ...]]:
    found: dict[str, set[int]] = {}
    for key in keys:
        pieces = key.split("/")
        kind, number = pieces[-2:] if len(pieces) in (2, 4) else ("", "")
        if number.isdecimal():
            found.setdefault(kind, set()).add(int(number))
    return {kind: tuple(sorted(numbers)) for kind, numbers in found.items()}


def read_recipe(data: bytes, name: str) -> Recipe:
    """Read a recipe from JSON; raises `BadInput` where it is none, or of a newer program."""
    try:
        found = msgspec.json.decode(data, type=Recipe)
    except (ValueError, msgspec.MsgspecError, RecursionError) as error:  # words that are no UTF-8 among it
        raise BadInput("{0} is not a recipe: {1}. Keep one from the history of a book.", name, error) from error
    if any(_depth(step.given) > _DEEPEST for step in found.steps):
        raise BadInput("{0} is not a recipe: it holds lists within lists without end.", name)
    if found.version > VERSION:
        raise BadInput(
            "{0} was made by a newer Drip Pot (recipe version {1}). Update the program.", name, found.version
        )
    if len(found.steps) > _MOST_STEPS:
        raise BadInput("{0} has {1} steps; a recipe has at most {2}.", name, len(found.steps), _MOST_STEPS)
    return found


def run_recipe(
    book: Book, page: int, recipe: Recipe, hand: Callable[[int], Hand] | None = None, *, first: int = 0,
    wait: bool = False, run: str = "",
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
    run : str
        A mark that the steps carry, by which `Book.done_in` knows later what was done; empty for none.

    Raises
    ------
    BadInput
        For an unknown order, something that this book does not have or that has no name, or a step that cannot be done.
    """
    known, done, left_out, made = orders(), 0, list[str](), dict[tuple[str, int], int]()
    with book.as_one(), book.marked(run):
        for place, step in list(enumerate(recipe.steps, 1))[first:]:
            if step.is_pause:
                if wait:
                    return Ran(done, tuple(left_out), place - 1)
                left_out.append(tr("Step {0} is a pause: {1}", place, step.says))
                continue
            if step.order not in known:
                raise BadInput("Step {0} of {1} is unknown to this program: {2}.", place, recipe.name, step.order)
            if step.has_place and wait:
                return Ran(done, tuple(left_out), place - 1)
            if step.has_place:
                left_out.append(
                    tr("Step {0}, {1}, needs a place; do it by hand.", place, known[step.order].title.lower())
                )
                continue
            told = partial(_number_here, book, page, recipe, step, made)
            before = _keys_of(book, page)
            do(book, step.order, translated(step.order, step.given, told), page, hand)
            now = _numbers(_keys_of(book, page) - before)
            for kind, numbers in step.made.items():
                made |= {(kind, old): new for old, new in zip(numbers, now.get(kind, ()), strict=False)}
            done += 1
    return Ran(done, tuple(left_out))


def order_at(book: Book, number: int) -> str:
    """Return the name of the order that a step of the history was asked for with; empty where none was kept."""
    while number > 0 and book.history[number].joined:
        number -= 1
    asked = read_asked(book.asked_at(number))
    return "" if asked is None else asked.order


def asks_for(recipe: Recipe, place: int, tool: str = "") -> str:
    """Say what a step, from 0, wants done by hand, and with which tool."""
    step = recipe.steps[place]
    told, where = told_step(step), (place + 1, len(recipe.steps))
    if step.is_pause:
        return tr("Step {0} of {1}: {2}", *where, told)
    if tool:
        return tr("Step {0} of {1}, with {3}: {2}. Do it by hand here; the recipe then goes on.", *where, told, tool)
    return tr("Step {0} of {1}: {2}. Do it by hand here; the recipe then goes on.", *where, told)


def told_step(step: RecipeStep) -> str:
    """Say what a step does, in words."""
    if step.is_pause:
        return step.says or tr("Look, then go on")
    known = orders().get(step.order)
    return read_out(step.says) or (step.order if known is None else tr(_FIRST.split(known.title)[0].strip()))


def spoken_name(recipe: Recipe, step: RecipeStep, kind: str, number: int) -> str:
    """Return the name of what a step speaks of by kind ('pot') and number; empty where it has none."""
    older: Mapping[str, str] = {"part": recipe.parts, "pot": recipe.pots}.get(kind, {})
    return step.names.get(f"{kind} {number}") or older.get(str(number), "")


def _depth(value: object) -> int:
    """Return how many lists and objects lie within each other; counted without going deeper than that."""
    depth, level = 0, [value]
    while level:
        depth += 1
        level = [
            inner
            for one in level
            for inner in (one.values() if isinstance(one, Mapping) else one if isinstance(one, list | tuple) else ())
            if isinstance(inner, Mapping | list | tuple)
        ]
    return depth


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


def _keys_of(book: Book, page: int) -> set[str]:
    """Return the keys of a page and of what lies below no page."""
    kinds = [kind for kind in BOOK_KINDS.values() if isinstance(kind, BookKind)]
    shared = {kind.key(rest) for kind in kinds for rest, _ in book.below(kind.below)}
    return shared | {f"page/{page}/{key}" for key, _ in book.below(f"page/{page}/")}


def _number_here(
    book: Book, page: int, recipe: Recipe, step: RecipeStep, made: Mapping[tuple[str, int], int], kind: str, number: int
) -> int:
    """Return the number that what a step speaks of has here; raises `BadInput` where that cannot be told."""
    if (kind, number) in made:
        return made[kind, number]
    name = spoken_name(recipe, step, kind, number)
    title = orders()[step.order].title
    if not name:
        raise BadInput(
            "{0} cannot be done here: '{1}' speaks of the {2} number {3} of another book or page, which has no name. "
            "Take that step out of the recipe, or do it by hand.",
            recipe.name, title, kind, number,
        )  # fmt: skip
    places = places_of(kind, page)
    found = {
        int(rest) for place in places for rest, text in book.below(place) if rest.isdecimal() and _name_of(text) == name
    }
    if not found:
        raise BadInput(
            "{0} speaks of the {1} {2}, which this book does not have. Add it first.", recipe.name, kind, name
        )
    if number in found:
        return number
    if len(found) > 1:
        raise BadInput(
            "{0} speaks of the {1} {2}, and there are {3} of that name here. Give them names of their own first.",
            recipe.name, kind, name, len(found),
        )  # fmt: skip
    return found.pop()
