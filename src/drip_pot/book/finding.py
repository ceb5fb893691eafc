"""What a finding is. Knows core's rectangles only."""

from collections.abc import Callable, Sequence

import msgspec

from drip_pot.core.arrays import Rect, Report


class Finding(msgspec.Struct, frozen=True):
    """Something to look at.

    Attributes
    ----------
    key : str
        Stays the same while the cause does.
    title, sentence, verb : str
        What it is, where and how much, and the one thing to do about it ('' where there is only looking).
    rect : Rect or None
        Where on the page.
    color : str or None
        '#rrggbb' to show where there is no place.
    what : tuple
        For `mend`.
    """

    key: str
    title: str
    sentence: str
    verb: str
    rect: Rect | None = None
    color: str | None = None
    what: tuple[str, ...] = ()


def around_spot(row: float, col: float, half: float) -> Rect:
    """Return a square of twice `half` pixels a side about a place."""
    return int(row - half), int(col - half), int(row + half), int(col + half)


def grouped(number: int) -> str:
    """Write a whole number with thin spaces between thousands."""
    return f"{number:,}".replace(",", "\u202f")


def in_turn(kinds: Sequence[Callable[[], list[Finding]]], report: Report, doing: str) -> list[Finding]:
    """Look for one kind of finding after the other; `report` is called before each and may raise `Cancelled`."""
    found: list[Finding] = []
    for place, look in enumerate(kinds):
        report(place / len(kinds), doing)
        found += look()
    return found
