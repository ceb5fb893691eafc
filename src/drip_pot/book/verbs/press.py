"""Verbs on press settings. Knows no window, no file."""

import msgspec

from drip_pot.book.asking import order
from drip_pot.book.book import Book
from drip_pot.book.verbs.setting import put
from drip_pot.core.press import PressSettings, Wear


@order
def set_press(book: Book, page: int, press: PressSettings) -> None:
    """Change press settings."""
    put(book, "set-press", "Change the press settings", (f"page/{page}/press", press))


@order
def set_wear(book: Book, page: int, wear: Wear) -> None:
    """Change how old stock looks."""
    put(book, "set-wear", "Change the wear", (f"page/{page}/wear", wear))


@order
def widen_trap(book: Book, page: int) -> None:
    """Make traps a little wider than plates may stray."""
    press = book.sources(page).press
    set_press(book, page, msgspec.structs.replace(press, trap_mm=round(press.tolerance_mm + 0.02, 3)))
