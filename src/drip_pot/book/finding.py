"""What a finding is. Knows core's rectangles only."""

import msgspec

from drip_pot.core.arrays import Rect


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
