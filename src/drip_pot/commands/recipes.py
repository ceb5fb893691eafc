# SPDX-License-Identifier: GPL-3.0-or-later
"""Recipes kept and done from the command line, over pages and many books. Knows files and the book; no window."""

import hashlib
import sys
from contextlib import suppress
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from drip_pot.commands.batch import each_book, open_report, parse_pages
from drip_pot.commands.spread import KeyFolder, Outcome, ReportFile, SchedulerAddress
from drip_pot.core.errors import BadInput, CannotWrite, DripPotError
from drip_pot.words import tr

if TYPE_CHECKING:
    from drip_pot.book.recipe_changes import Named
    from drip_pot.book.recipes import Recipe

app = typer.Typer(no_args_is_help=True, help="Steps kept from a book's history, done again on pages and other books.")


@app.command()
def keep(
    book: Annotated[Path, typer.Argument(metavar="BOOK", help="A .drip file.", show_default=False)],
    out: Annotated[Path, typer.Option(help="A .json file.", show_default=False)],
    last: Annotated[int, typer.Option(min=1, help="How many of the last steps.")] = 10,
    name: Annotated[str, typer.Option(help="What it is called.")] = "Recipe",
    force: Annotated[bool, typer.Option("--force", help="Replace a file that exists.")] = False,
) -> None:
    """Keep the last steps of a book as a recipe.

    Example: drip-pot recipe keep kites.drip --last 5 --name "Night" --out night.json
    """
    from drip_pot.book.recipes import recipe_of
    from drip_pot.files import check_outputs, keep_recipe, looking_into

    check_outputs([out], [book], force=force)
    with looking_into(book) as (_, document):
        line = document.past.line(document.past.now)
        made = recipe_of(document, name, [n - 1 for n in sorted(line)[-last:]])
    keep_recipe(out, made)
    places = sum(step.has_place for step in made.steps)
    print(tr("{0}: {1} steps, {2} of them with a place", made.name, len(made.steps), places))


@app.command()
def run(
    recipe: Annotated[Path, typer.Argument(metavar="RECIPE", help="A .json file.", show_default=False)],
    books: Annotated[list[Path], typer.Argument(metavar="BOOK...", help=".drip files.", show_default=False)],
    pages: Annotated[str | None, typer.Option(help="Which pages, as 2, 1-4 or 1-2,5; all if not given.")] = None,
    jobs: Annotated[int, typer.Option(min=1, max=64, help="How many books at once.")] = 1,
    scheduler: SchedulerAddress = None,
    tls: KeyFolder = None,
    report: ReportFile = None,
    called: Annotated[
        list[str] | None, typer.Option(help="What a part or pot is called in these books, as Coat=Jacket; repeat it.")
    ] = None,
    add: Annotated[bool, typer.Option("--add", help="Add parts and pots that a book does not have.")] = False,
) -> None:
    """Do a recipe on pages of books; each page is one gesture that can be undone. Ends with code 1 if any failed.

    In a terminal it asks what parts and pots that it does not find are called in these books.

    Example: drip-pot recipe run night.json kites.drip storm.drip --jobs 2 --called Coat=Jacket
    """
    from drip_pot.book.recipes import read_recipe

    try:
        data = recipe.read_bytes()
    except OSError as error:
        raise BadInput("{0} cannot be read: {1}.", recipe, error.strerror or error) from error
    kept = read_recipe(data, recipe.name)  # before any book is touched
    names = _names_given(kept, called or [])
    if not add and sys.stdin.isatty():
        names, add = _names_asked(kept, names, books)
    noted = open_report(report, [recipe, *books])
    mark = f"{noted.run}-{hashlib.sha256(data).hexdigest()[:8]}"
    todo = [(book.resolve(), data, recipe.name, pages, mark, names, add) for book in books]
    each_book(_tried, todo, tr("recipe {0}", recipe.name), jobs, scheduler, tls, noted)


def _names_given(recipe: "Recipe", called: list[str]) -> "dict[Named, str]":
    """Read 'Coat=Jacket' for parts and pots that a recipe speaks of; raises `BadInput`."""
    from drip_pot.book.recipe_changes import spoken_of

    known, names = spoken_of(recipe), {}
    for text in called:
        there, given, here = (word.strip() for word in text.partition("="))
        meant = [one for one in known if one[1] == there]
        if not (given and here and meant):
            raise BadInput("'{0}' says nothing of this recipe. It speaks of {1}. Write for example Coat=Jacket.", text,
                           ", ".join(name for _, name in known) or tr("no parts and pots"))  # fmt: skip
        names.update(dict.fromkeys(meant, here))
    return names


def _names_asked(recipe: "Recipe", names: "dict[Named, str]", books: list[Path]) -> "tuple[dict[Named, str], bool]":
    """Ask once what parts and pots are called that some of these books do not have; return whether others are added."""
    from drip_pot.book.recipe_changes import spoken_of, strangers, with_names
    from drip_pot.files import looking_into

    if not spoken_of(recipe):
        return names, False
    unknown, names, add = dict[tuple[str, str], str](), dict(names), False
    for book in books:
        with suppress(DripPotError), looking_into(book) as (_, document):  # told when its turn comes
            unknown |= dict.fromkeys(strangers(document, with_names(recipe, names)), book.name)
    for one, book_name in unknown.items():
        asked = tr("{0} has no {1} {2}. What is it called there? Enter alone adds it", book_name, tr(one[0]), one[1])
        here = typer.prompt(asked, default="", show_default=False).strip()
        if here:
            names[one] = here
        add = add or not here
    return names, add


def _tried(
    book: Path, data: bytes, name: str, pages: str | None, mark: str, names: "dict[Named, str]", add: bool
) -> Outcome:  # fmt: skip
    """Do a recipe on a book; return whether it went well, and what is to be said."""
    try:
        return True, _done(book, data, name, pages, mark, names, add=add)
    except DripPotError as error:
        return False, [str(error)]
    except OSError as error:
        return False, [str(CannotWrite("{0} cannot be written: {1}.", book, error.strerror or error))]


def _done(
    book: Path, data: bytes, name: str, pages: str | None, mark: str, names: "dict[Named, str]", *, add: bool
) -> list[str]:  # fmt: skip
    """Do a recipe on the pages of a book on which this run has not done it yet; say what was done."""
    from drip_pot.book.recipe_changes import add_strangers, strangers, with_names
    from drip_pot.book.recipes import read_recipe, run_recipe
    from drip_pot.files import hand_on, working_in

    recipe = with_names(read_recipe(data, name), names)
    lines = []
    with working_in(book) as (file, document):
        numbers = list(document.pages())
        if pages is not None:
            numbers = [numbers[place] for place in parse_pages(pages, len(numbers), book.name)]
        if add:
            add_strangers(document, recipe, strangers(document, recipe))
        before = document.done_in(mark)
        for number in numbers:
            if number in before:
                lines.append(tr("{0}: done before", document.pages()[number].name))
                continue
            ran = run_recipe(document, number, recipe, lambda n: hand_on(file, document, n), run=mark)
            lines.append(tr("{0}: {1} steps", document.pages()[number].name, ran.done))
            lines += [f"{document.pages()[number].name}: {words}" for words in ran.left_out]
    return lines
