"""Writing files so that nothing is lost: complete or not at all, never over what is read, nor over anything unasked.

Knows paths, and recipes.
"""

import re
import shutil
import unicodedata
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from pathlib import Path
from tempfile import mkdtemp
from typing import TYPE_CHECKING

import msgspec

from drip_pot.core.errors import CannotWrite

if TYPE_CHECKING:
    from drip_pot.book.recipes import Recipe

_LONGEST = 80


@contextmanager
def in_place(target: Path) -> Iterator[Path]:
    """Yield a name beside `target` to write to; what stands there becomes `target` when all went well.

    Raises
    ------
    CannotWrite
        If the folder or the disk refuses; a file that was there is then as it was.
    """
    work = target.with_name(f".{target.name}.part")
    try:
        target.parent.mkdir(parents=True, exist_ok=True)
        yield work
        work.replace(target)
    except OSError as error:
        raise CannotWrite(
            "{0} cannot be written: {1}. Choose another folder.", target, error.strerror or error
        ) from error
    finally:
        if target.parent.is_dir():
            work.unlink(missing_ok=True)


@contextmanager
def all_in_place(targets: Sequence[Path]) -> Iterator[Path]:
    """Yield a folder to write files of the names of `targets` to; they come to their places when all went well.

    Raises
    ------
    CannotWrite
        If their folder or the disk refuses; nothing is left behind then, and what was there is as it was.
    """
    folder, aside = targets[0].parent, None
    try:
        folder.mkdir(parents=True, exist_ok=True)
        aside = Path(mkdtemp(prefix=".part-", dir=folder))
        yield aside
        for target in targets:
            (aside / target.name).replace(target)
    except OSError as error:
        raise CannotWrite(
            "{0} cannot be written: {1}. Choose another folder.", folder, error.strerror or error
        ) from error
    finally:
        if aside is not None:
            shutil.rmtree(aside, ignore_errors=True)


def check_outputs(targets: Sequence[Path], inputs: Sequence[Path] = (), *, force: bool = False) -> None:
    """Refuse outputs that would destroy something.

    Raises
    ------
    CannotWrite
        If two of them are one file, one is an input, or, without `force`, one exists.
    """
    for place, target in enumerate(targets):
        if any(_same(target, other) for other in targets[:place]):
            raise CannotWrite("{0} is named for two outputs. Give each a name of its own.", target)
        if any(_same(target, other) for other in inputs):
            raise CannotWrite("{0} is what is read here; it would be written over. Choose another name.", target)
        if target.exists() and not force:
            raise CannotWrite("{0} exists already. Choose another name, or add --force to replace it.", target)


def _same(one: Path, two: Path) -> bool:
    try:
        return one.samefile(two)
    except OSError:
        return one.absolute() == two.absolute()


def file_stem(title: str, number: int, name: str) -> str:
    """Return a file name without suffix for a page: its number makes it the only one, its name tells what it is."""
    return "-".join(part for part in (slug(title), f"{number:02d}", slug(name)) if part)


def slug(text: str) -> str:
    """Return letters and digits of a text, in lower case, with single hyphens between."""
    letters = unicodedata.normalize("NFC", text.encode("utf-8", "ignore").decode()).lower()
    plain = re.sub(r"[\W_]+", "-", letters).strip("-")
    while len(plain.encode()) > _LONGEST:
        plain = plain[:-1].rstrip("-")
    return plain


def keep_recipe(path: Path, recipe: "Recipe") -> None:
    """Write a recipe as JSON; raises `CannotWrite`."""
    with in_place(path) as work:
        work.write_bytes(msgspec.json.format(msgspec.json.encode(recipe), indent=1))
