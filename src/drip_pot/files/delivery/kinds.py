"""The kinds of files that can be delivered: each in a module of its own, put on the list by `kind`. Knows no kind."""

from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

from drip_pot.book import PageSources
from drip_pot.book.ready import Ready
from drip_pot.core.arrays import U16


@dataclass(frozen=True)
class Delivered:
    """A page to be written: what it is painted from, its sources, and its traps where they are wanted."""

    ready: Ready
    sources: PageSources
    trap: U16 | None


Writer = Callable[[Path, Delivered], None]


@dataclass(frozen=True)
class Kind:
    """A kind of file.

    Attributes
    ----------
    title : str
        What people call it.
    suffix : str
        The end of its name.
    write : callable
        Writes a page to a path.
    traps : bool
        Whether it needs traps.
    """

    title: str
    suffix: str
    write: Writer
    traps: bool = False


KINDS: dict[str, Kind] = {}
"""What can be written, by name."""


def kind(name: str, title: str, suffix: str, *, traps: bool = False) -> Callable[[Writer], Writer]:
    """Put a writer on the list."""

    def offer(write: Writer) -> Writer:
        KINDS[name] = Kind(title, suffix, write, traps)
        return write

    return offer
