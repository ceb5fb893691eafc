"""Verbs on press settings. Knows no window, no file."""

import msgspec

from drip_pot.book.asking import order
from drip_pot.book.book import Book
from drip_pot.book.hand import Hand
from drip_pot.book.store import Edit, TileChange
from drip_pot.book.verbs.setting import put
from drip_pot.core.errors import BadInput, NothingDone
from drip_pot.core.press import Condition, PressSettings, Wear
from drip_pot.core.shade import laid, mist

_SOLIDS, _NAMES = 16, ("cyan", "magenta", "yellow", "black")


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
def rub_plates(
    hand: Hand, plates: tuple[int, ...], points: list[tuple[float, float, float]], width_px: float,
    softness: float = 0.5, flow: float = 1.0, *, away: bool = False,
) -> None:  # fmt: skip
    """Rub ink out of some of the four plates (0 is cyan, 3 black) under a stroke (row, col, pressure), or put it back.

    What is separated stays as it is; `away` takes back what was rubbed out.
    """
    if not plates or not all(0 <= plate < len(_NAMES) for plate in plates):
        raise BadInput("Ink is rubbed out of cyan (0), magenta (1), yellow (2) or black (3).")
    rect, cover = mist(points, width_px, softness, flow, hand.shape)
    if not cover.any():
        raise NothingDone("This stroke lies beside the page; nothing was changed.")
    tiles: list[TileChange] = []
    for plate in dict.fromkeys(plates):
        name = f"page/{hand.page}/plate/{plate}"
        plane = hand.book.plane(name)
        tiles += plane.replaced(name, rect, laid(plane.read(rect), cover, away=away))
    what = ", ".join(_NAMES[plate] for plate in dict.fromkeys(plates))
    hand.book.apply(Edit("rub-plates", f"{'Put back' if away else 'Rub out'} {what}", (), tuple(tiles)))


@order
def set_wear(book: Book, page: int, wear: Wear) -> None:
    """Change how old stock looks."""
    put(book, "set-wear", "Change the wear", (f"page/{page}/wear", wear))


@order
def widen_trap(book: Book, page: int) -> None:
    """Make traps a little wider than plates may stray."""
    press = book.sources(page).press
    set_press(book, page, msgspec.structs.replace(press, trap_mm=round(press.tolerance_mm + 0.02, 3)))
