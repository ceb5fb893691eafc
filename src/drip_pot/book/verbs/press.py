"""Verbs on press settings. Knows no window, no file."""

import msgspec

from drip_pot.book.asking import order
from drip_pot.book.book import Book
from drip_pot.book.verbs.setting import put
from drip_pot.core.errors import BadInput
from drip_pot.core.press import Condition, PressSettings, Wear

_SOLIDS = 16


@order
def set_press(book: Book, page: int, press: PressSettings) -> None:
    """Change press settings."""
    put(book, "set-press", "Change the press settings", (f"page/{page}/press", press))


@order
def use_profile(book: Book, page: int, name: str, condition: Condition) -> None:
    """Print on a press that was read from a profile; it is kept in the book under a name that tells it from others."""
    if not condition.icc or not name.startswith("profile-"):
        raise BadInput("A press condition of others needs its profile. Open an .icc file of a press.")
    if len(condition.solids) != _SOLIDS:
        raise BadInput(f"A press condition has {_SOLIDS} solids, not {len(condition.solids)}.")
    with book.as_one():
        put(book, "use-profile", f"Use the profile {condition.title}", (f"condition/{name}", condition))
        press = msgspec.structs.replace(book.sources(page).press, condition=name)
        put(book, "use-profile", f"Use the profile {condition.title}", (f"page/{page}/press", press))


@order
def set_wear(book: Book, page: int, wear: Wear) -> None:
    """Change how old stock looks."""
    put(book, "set-wear", "Change the wear", (f"page/{page}/wear", wear))


@order
def widen_trap(book: Book, page: int) -> None:
    """Make traps a little wider than plates may stray."""
    press = book.sources(page).press
    set_press(book, page, msgspec.structs.replace(press, trap_mm=round(press.tolerance_mm + 0.02, 3)))
