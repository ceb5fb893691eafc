"""Verbs on the colour of lines. Knows no window, no file."""

from drip_pot.book.asking import order
from drip_pot.book.book import Book
from drip_pot.book.model import Hold, Lines, Part
from drip_pot.book.verbs.setting import put
from drip_pot.core.color import from_hex
from drip_pot.core.errors import BadInput


@order
def set_lines(book: Book, page: int, color: str) -> None:
    """Colour all lines that no hold changes."""
    from_hex(color)
    put(book, "set-lines", f"Colour the lines {color}", (f"page/{page}/lines", Lines(color)))


@order
def set_hold(book: Book, page: int, part: int, amount: float | None) -> None:
    """Make the lines of a part darker versions (0..1) of what they border, or plain lines again (None)."""
    if amount is not None and not 0 <= amount <= 1:
        raise BadInput(f"A hold is 0 to 100 % darker than its colour, not {amount * 100:g} %.")
    name = book.read(f"part/{part}", Part).name
    title = f"Hold the lines of {name}" if amount is not None else f"Release the lines of {name}"
    put(book, "set-hold", title, (f"page/{page}/hold/{part}", None if amount is None else Hold(amount)))
