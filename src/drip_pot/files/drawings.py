# SPDX-License-Identifier: GPL-3.0-or-later
"""Which drawings a folder holds, as people count them. Knows names of files; reads none."""

from collections.abc import Iterable
from pathlib import Path

from drip_pot.core.errors import BadInput
from drip_pot.files.images import IMAGE_SUFFIXES


def in_order(paths: Iterable[Path]) -> list[Path]:
    """Return files in natural order: page 2 before page 10."""
    from natsort import natsorted, ns

    return natsorted(paths, key=str, alg=ns.PATH | ns.IGNORECASE)


def drawings_in(path: Path) -> list[Path]:
    """Return the drawings of a folder in natural order, hidden ones and folders below left out; a file is itself.

    Raises
    ------
    BadInput
        If there is none.
    """
    if not path.is_dir():
        return [path]
    found = [
        one for one in path.iterdir()
        if one.suffix.lower() in IMAGE_SUFFIXES and not one.name.startswith(".") and one.is_file()
    ]  # fmt: skip
    if not found:
        raise BadInput(
            "There is no drawing in {0}. Drawings are files such as .png, .tif, .jpg, .ora or .pdf.", path.name
        )
    return in_order(found)
