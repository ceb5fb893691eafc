"""What a person can do to a book: each verb makes one titled edit and applies it. Knows no window, no file."""

from collections.abc import Iterable

import msgspec
import numpy as np

from drip_pot.book.book import Book
from drip_pot.book.edit import Change, Edit, tile_changes
from drip_pot.book.model import BookInfo, Flats, Hold, InkState, Lines, Page, Part, Pot
from drip_pot.core.arrays import Bool, Rect
from drip_pot.core.color import ToneRule, from_hex
from drip_pot.core.errors import BadInput
from drip_pot.core.press import PressSettings
from drip_pot.core.shade import cut

GAP_MOST = 60.0


def _set(book: Book, name: str, title: str, *pairs: tuple[str, object]) -> None:
    book.apply(Edit(name, title, tuple(book.change(key, value) for key, value in pairs)))


def _next(book: Book, kind: str) -> int:
    numbers = [int(k) for k, _ in book.below(f"{kind}/") if "/" not in k]
    return max(numbers, default=0) + 1


def _named(name: str, what: str) -> str:
    name = " ".join(name.split())
    if not name:
        raise BadInput(f"A {what} needs a name.")
    return name


def name_book(book: Book, title: str) -> None:
    """Give the book a title."""
    _set(book, "name-book", f"Name the book {title}", ("book", BookInfo(_named(title, "book"))))


def add_page(book: Book, page: Page, inks: InkState) -> int:
    """Add a page whose original is in the store already; return its number."""
    number = _next(book, "page")
    page = Page(page.name, page.rows, page.cols, page.dpi, page.original, len(book.pages()))
    _set(
        book, "add-page", f"Add page {page.name}",
        (f"page/{number}", page), (f"page/{number}/inks", inks), (f"page/{number}/cut", inks),
    )  # fmt: skip
    return number


def add_part(book: Book, name: str) -> int:
    """Add a part at the end of the shelf; return its number."""
    number = _next(book, "part")
    order = max((p.order for p in book.parts().values()), default=-1) + 1
    _set(book, "add-part", f"Add part {name}", (f"part/{number}", Part(_named(name, "part"), order)))
    return number


def add_pot(book: Book, name: str, part: int, local: str) -> int:
    """Add a pot at the end of its part; return its number."""
    from_hex(local)
    number = _next(book, "pot")
    order = max((p.order for p in book.pots().values() if p.part == part), default=-1) + 1
    pot = Pot(_named(name, "pot"), part, local, None, order)
    _set(book, "add-pot", f"Add pot {pot.name}", (f"pot/{number}", pot))
    return number


def set_pot(book: Book, number: int, pot: Pot) -> None:
    """Change a pot's name, part or colours."""
    old = book.read(f"pot/{number}", Pot)
    for color in (pot.local, pot.shadow):
        if color is not None:
            from_hex(color)
    changed = "Recolour" if (old.local, old.shadow) != (pot.local, pot.shadow) else "Rename"
    _set(book, "set-pot", f"{changed} {_named(pot.name, 'pot')}", (f"pot/{number}", pot))


def remove_pot(book: Book, number: int) -> None:
    """Remove a pot; what it had filled becomes paper, on every page."""
    pot = book.read(f"pot/{number}", Pot)
    pours = [(f"page/{k}", None) for k, v in book.below("page/") if "/pour/" in k and v == str(number)]
    _set(book, "remove-pot", f"Remove pot {pot.name}", (f"pot/{number}", None), *pours)


def rename_part(book: Book, number: int, name: str) -> None:
    """Rename a part."""
    part = book.read(f"part/{number}", Part)
    _set(
        book, "rename-part", f"Rename {part.name} to {name}", (f"part/{number}", Part(_named(name, "part"), part.order))
    )


def name_page(book: Book, number: int, name: str) -> None:
    """Give a page another name."""
    page = msgspec.structs.replace(book.read(f"page/{number}", Page), name=_named(name, "page"))
    _set(book, "name-page", f"Name the page {page.name}", (f"page/{number}", page))


def set_tone(book: Book, tone: ToneRule) -> None:
    """Change how shadows are worked out, for every pot without a shadow of its own."""
    _set(book, "set-tone", "Change the tone rule", ("tone", tone))


def set_inks(book: Book, page: int, inks: InkState, title: str = "Adjust the line") -> None:
    """Change how the line is made from the scan; pours are carried over by `recut` once it is known."""
    book.apply(Edit("set-inks", title, (book.change(f"page/{page}/inks", inks),)))


def recut(book: Book, page: int, pours: dict[int, int]) -> None:
    """Renumber pours for the present ink; undone together with the change of ink before it."""
    inks = book.sources(page).inks
    top = f"page/{page}/pour/"
    old = {int(k): int(v) for k, v in book.below(top)}
    changes: list[Change] = [book.change(f"page/{page}/cut", inks)]
    moved = (atom for atom in sorted(old.keys() | pours.keys()) if old.get(atom) != pours.get(atom))
    changes.extend(book.change(f"{top}{atom}", pours.get(atom)) for atom in moved)
    book.apply(Edit("recut", "Carry colours to the new line", tuple(changes), joined=True))


def set_gap(book: Book, page: int, gap_px: float | None) -> None:
    """Close gaps up to a width in pixels (0..60), or up to one worked out from the page (None).

    Raises
    ------
    BadInput
        If the width is out of range.
    """
    if gap_px is not None and not 0 <= gap_px <= GAP_MOST:
        raise BadInput(f"Gaps are bridged from 0 up to {GAP_MOST:g} px wide, not {gap_px:g} px.")
    title = "Bridge gaps by the page" if gap_px is None else f"Bridge gaps up to {gap_px:g} px"
    _set(book, "set-gap", title, (f"page/{page}/flats", Flats(gap_px)))


def choose_bridge(book: Book, page: int, row: float, col: float, keep: bool | None) -> None:
    """Keep or refuse the bridge with its middle at (row, col); None leaves it to the gap width again."""
    verb = {True: "Keep a bridge", False: "Refuse a bridge", None: "Leave a bridge to the gap width"}[keep]
    _set(book, "choose-bridge", verb, (f"page/{page}/bridge/{row:g}:{col:g}", keep))


def pour(book: Book, page: int, atoms: Iterable[int], pot: int | None, regions: int = 1) -> None:
    """Give atoms a pot, or paper (None). `regions` is said in the title."""
    name = book.read(f"pot/{pot}", Pot).name if pot is not None else "paper"
    into = "a region" if regions == 1 else f"{regions} regions"
    pairs = [(f"page/{page}/pour/{atom}", pot) for atom in sorted(atoms)]
    _set(book, "pour", f"Pour {name} into {into}", *pairs)


def cut_shade(book: Book, page: int, rect: Rect, mask: Bool, allowed: Bool, *, light: bool) -> None:
    """Cut a loop into shadow, or into light; `mask` and `allowed` cover `rect`."""
    name = f"page/{page}/shade"
    plane = book.plane(name)
    piece = plane[rect[0] : rect[2], rect[1] : rect[3]]
    tiles = tile_changes(name, np.asarray(plane), rect, cut(piece, mask, allowed, light=light))
    book.apply(Edit("cut-light" if light else "cut-shade", "Cut light" if light else "Cut shade", (), tiles))


def set_lines(book: Book, page: int, color: str) -> None:
    """Colour all lines that no hold changes."""
    from_hex(color)
    _set(book, "set-lines", f"Colour the lines {color}", (f"page/{page}/lines", Lines(color)))


def set_hold(book: Book, page: int, part: int, amount: float | None) -> None:
    """Make the lines of a part darker versions (0..1) of what they border, or plain lines again (None)."""
    if amount is not None and not 0 <= amount <= 1:
        raise BadInput(f"A hold is 0 to 100 % darker than its colour, not {amount * 100:g} %.")
    name = book.read(f"part/{part}", Part).name
    title = f"Hold the lines of {name}" if amount is not None else f"Release the lines of {name}"
    _set(book, "set-hold", title, (f"page/{page}/hold/{part}", None if amount is None else Hold(amount)))


def set_press(book: Book, page: int, press: PressSettings) -> None:
    """Change press settings."""
    _set(book, "set-press", "Change the press settings", (f"page/{page}/press", press))


def leave(book: Book, page: int, finding: str) -> None:
    """Take a finding off the list without mending it."""
    _set(book, "leave", "Leave a finding", (f"page/{page}/left/{finding}", True))
