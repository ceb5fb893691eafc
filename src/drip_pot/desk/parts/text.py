# SPDX-License-Identifier: GPL-3.0-or-later
"""Numbers of things as people read them. Knows nothing else."""

from collections.abc import Callable

from drip_pot.words import grouped, tr_many

_THINGS: dict[str, Callable[[int, str], str]] = {
    "step": lambda n, told: tr_many("{0} step", "{0} steps", n, told),
    "page": lambda n, told: tr_many("{0} page", "{0} pages", n, told),
    "file": lambda n, told: tr_many("{0} file", "{0} files", n, told),
    "cut": lambda n, told: tr_many("{0} cut", "{0} cuts", n, told),
}


def counted(number: int, thing: str) -> str:
    """Write a number of steps, pages, files or cuts: '1 file', '12 files'."""
    return _THINGS[thing](number, grouped(number))
