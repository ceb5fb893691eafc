"""Recipes from the command line, over pages and many books. Knows files and the book; no window.

Books are independent jobs on the cores of this machine; one that fails never stops the others.
"""

from concurrent.futures import ProcessPoolExecutor, as_completed
from pathlib import Path
from typing import Annotated

import typer

from drip_pot.core.errors import BadInput, CannotWrite, DripPotError

app = typer.Typer(no_args_is_help=True, help="Steps kept from a book's history, done again on pages and other books.")


def parse_pages(text: str, count: int, name: str) -> list[int]:
    """Return places, from 0, of '2', '1-4' or '1-2,5' among `count` pages; raises `BadInput`."""
    found: list[int] = []
    for piece in text.split(","):
        first, dash, last = piece.strip().partition("-")
        if not first.isdecimal() or (dash and not last.isdecimal()):
            raise BadInput(f"'{text}' names no pages. Write for example 2, 1-4 or 1-2,5.")
        low, high = int(first), int(last or first)
        if not 1 <= low <= high <= count:
            raise BadInput(f"{name} has {count} pages; there are no pages {piece.strip()}.")
        found += range(low - 1, high)
    return list(dict.fromkeys(found))


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
    from drip_pot.files import check_outputs, keep_recipe, open_book

    check_outputs([out], [book], force=force)
    file, document = open_book(book)
    try:
        line = document.past.line(document.past.now)
        made = recipe_of(document, name, [n - 1 for n in sorted(line)[-last:]])
    finally:
        file.close()
    keep_recipe(out, made)
    places = sum(step.has_place for step in made.steps)
    print(f"{made.name}: {len(made.steps)} steps, {places} of them with a place")


@app.command()
def run(
    recipe: Annotated[Path, typer.Argument(metavar="RECIPE", help="A .json file.", show_default=False)],
    books: Annotated[list[Path], typer.Argument(metavar="BOOK...", help=".drip files.", show_default=False)],
    pages: Annotated[str | None, typer.Option(help="Which pages, as 2, 1-4 or 1-2,5; all if not given.")] = None,
    jobs: Annotated[int, typer.Option(min=1, max=64, help="How many books at once.")] = 1,
) -> None:
    """Do a recipe on pages of books; each page is one gesture that can be undone. Ends with code 1 if any failed.

    Example: drip-pot recipe run night.json kites.drip storm.drip --jobs 2
    """
    from drip_pot.book.recipes import read_recipe

    try:
        data = recipe.read_bytes()
    except OSError as error:
        raise BadInput(f"{recipe} cannot be read: {error.strerror or error}.") from error
    read_recipe(data, recipe.name)  # before any book is touched
    failed = 0
    if jobs == 1 or len(books) == 1:
        told = [(book, _tried(book, data, recipe.name, pages)) for book in books]
    else:
        with ProcessPoolExecutor(min(jobs, len(books))) as pool:
            waiting = {pool.submit(_tried, book, data, recipe.name, pages): book for book in books}
            told = [(waiting[one], one.result()) for one in as_completed(waiting)]
    for book, (good, lines) in told:
        failed += not good
        for line in lines:
            print(f"{book.name}: {line}")
    print(f"{len(books) - failed} of {len(books)} books done")
    if failed:
        raise typer.Exit(1)


def _tried(book: Path, data: bytes, name: str, pages: str | None) -> tuple[bool, list[str]]:
    """Do a recipe on a book; return whether it went well, and what is to be said."""
    try:
        return True, _done(book, data, name, pages)
    except DripPotError as error:
        return False, [str(error)]
    except OSError as error:
        return False, [str(CannotWrite(f"{book} cannot be written: {error.strerror or error}."))]


def _done(book: Path, data: bytes, name: str, pages: str | None) -> list[str]:
    from drip_pot.book.hand import hand_at
    from drip_pot.book.recipes import read_recipe, run_recipe
    from drip_pot.files import derive, open_book

    recipe = read_recipe(data, name)
    file, document = open_book(book)
    lines = []
    try:
        numbers = list(document.pages())
        if pages is not None:
            numbers = [numbers[place] for place in parse_pages(pages, len(numbers), book.name)]
        for number in numbers:
            ran = run_recipe(document, number, recipe, lambda n: hand_at(document, n, derive(file, document, n)))
            lines.append(f"{document.pages()[number].name}: {ran.done} steps")
            lines += [f"{document.pages()[number].name}: {words}" for words in ran.left_out]
    finally:
        file.close()
    return lines
