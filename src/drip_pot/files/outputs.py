# SPDX-License-Identifier: GPL-3.0-or-later
"""Writing files so that nothing is lost: complete or not at all, never over what is read, nor over anything unasked.

Knows paths, and recipes.
"""

import errno
import fcntl
import json
import os
import re
import shutil
import unicodedata
from collections.abc import Iterator, Sequence
from contextlib import contextmanager, suppress
from pathlib import Path
from tempfile import mkdtemp
from typing import TYPE_CHECKING

import msgspec

from drip_pot.core.errors import CannotWrite

if TYPE_CHECKING:
    from drip_pot.book.recipes import Recipe

_LONGEST = 80
_ASIDE, _COMPLETE, _BEFORE = ".drip-pot-", ".complete", ".before"
_BOOK = b"SQLite format 3\0"


@contextmanager
def in_place(target: Path) -> Iterator[Path]:
    """Yield a name beside `target` to write to; what stands there becomes `target` when all went well.

    Raises
    ------
    CannotWrite
        If the folder or the disk refuses; a file that was there is then as it was.
    """
    with all_in_place([target]) as aside:
        yield aside / target.name


@contextmanager
def all_in_place(targets: Sequence[Path]) -> Iterator[Path]:
    """Yield a folder to write files of the names of `targets`, all of one folder, to.

    They come to their places when all went well: all of them, or none. What a killed program left half done in that
    folder is finished, or taken away, first.

    Raises
    ------
    CannotWrite
        If their folder or the disk refuses; nothing is left behind then, and what was there is as it was.
    """
    folder = targets[0].parent
    try:
        folder.mkdir(parents=True, exist_ok=True)
        clear_up(folder)
        aside = Path(mkdtemp(prefix=_ASIDE, dir=folder))
    except OSError as error:
        raise _refused(folder, error) from error
    mine = os.open(aside, os.O_RDONLY | os.O_DIRECTORY | os.O_CLOEXEC)
    try:
        with suppress(OSError):  # a disk that knows no locks: then nobody clears up after a killed program
            fcntl.flock(mine, fcntl.LOCK_EX | fcntl.LOCK_NB)
        yield aside
        for target in targets:
            if target.is_dir():
                raise IsADirectoryError(errno.EISDIR, "a folder of that name stands in the way", str(target))
            if _begins(target, _BOOK, empty=False) and not _begins(aside / target.name, _BOOK):
                raise CannotWrite("{0} is a book, or a database, and is not replaced. Choose another name.", target)
        _bring(aside, targets)
    except OSError as error:
        raise _refused(folder if len(targets) > 1 else targets[0], error) from error
    finally:
        shutil.rmtree(aside, ignore_errors=True)
        os.close(mine)


def clear_up(folder: Path) -> None:
    """Finish what a killed program was putting in place in a folder, and take away what it had not completed."""
    for aside in folder.glob(f"{_ASIDE}*"):
        try:
            handle = os.open(aside, os.O_RDONLY | os.O_DIRECTORY | os.O_NOFOLLOW | os.O_CLOEXEC)
        except OSError:
            continue
        try:
            fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
            complete = aside / _COMPLETE
            for name in json.loads(complete.read_text()) if complete.exists() else []:
                if (aside / name).exists() and not (folder / name).is_dir():
                    (aside / name).replace(folder / name)
            shutil.rmtree(aside, ignore_errors=True)
        except (OSError, ValueError, TypeError):
            continue  # somebody is at it, or it is none of ours
        finally:
            os.close(handle)


def _bring(aside: Path, targets: Sequence[Path]) -> None:
    """Put complete files in their places; where one is refused, those that stood there before come back."""
    before, there = aside / _BEFORE, list[Path]()
    before.mkdir()
    for target in targets:
        if target.exists():
            os.link(target, before / target.name) if _links(target, before) else shutil.copy2(target, before)
    if len(targets) > 1:
        (aside / _COMPLETE).write_text(json.dumps([target.name for target in targets]))
    try:
        for target in targets:
            (aside / target.name).replace(target)
            there.append(target)
    except OSError:
        (aside / _COMPLETE).unlink(missing_ok=True)
        for target in there:
            kept = before / target.name
            kept.replace(target) if kept.exists() else target.unlink()
        raise


def _links(target: Path, before: Path) -> bool:
    """Whether files of a folder can have a second name beside them."""
    probe = before / ".link"
    try:
        os.link(target, probe)
        probe.unlink()
    except OSError:
        return False
    return True


def _refused(place: Path, error: OSError) -> CannotWrite:
    if error.errno == errno.ENOSPC:
        return CannotWrite("The disk of {0} is full; nothing was written. Free some space there.", place)
    return CannotWrite("{0} cannot be written: {1}. Choose another folder.", place, error.strerror or error)


def check_outputs(
    targets: Sequence[Path], inputs: Sequence[Path] = (), *, force: bool = False, replaces: bytes | None = None
) -> None:
    """Refuse outputs that would destroy something: the one door for what every command writes.

    Parameters
    ----------
    targets, inputs : sequence of Path
        What is to be written, and what is read.
    force : bool
        Let files be replaced.
    replaces : bytes, optional
        How a file begins that may be replaced without being asked; so may an empty one.

    Raises
    ------
    CannotWrite
        If two targets are one file, one is an input, is a folder or a book, or, without `force`, exists.
    """
    for place, target in enumerate(targets):
        if any(_same(target, other) for other in targets[:place]):
            raise CannotWrite("{0} is named for two outputs. Give each a name of its own.", target)
        if any(_same(target, other) for other in inputs):
            raise CannotWrite("{0} is what is read here; it would be written over. Choose another name.", target)
        if target.is_dir():
            raise CannotWrite("{0} is a folder. Choose another name.", target)
        if not target.exists() or (replaces is not None and _begins(target, replaces)):
            continue
        if _begins(target, _BOOK, empty=False):
            raise CannotWrite("{0} is a book, or a database, and is not replaced. Choose another name.", target)
        if not force:
            raise CannotWrite("{0} exists already. Choose another name, or add --force to replace it.", target)


def _begins(path: Path, start: bytes, *, empty: bool = True) -> bool:
    """Whether a file begins so, or is empty where that counts; what cannot be read does not."""
    try:
        with path.open("rb") as file:
            found = file.read(len(start))
    except OSError:
        return False
    return found == start or (empty and not found)


def _same(one: Path, two: Path) -> bool:
    try:
        return one.samefile(two)
    except OSError:
        return one.resolve() == two.resolve()


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
