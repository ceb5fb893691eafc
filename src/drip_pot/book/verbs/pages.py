"""Verbs on a page as a whole: added, named, sized, turned. Knows no window, no file."""

from collections.abc import Sequence

import msgspec
import numpy as np

from drip_pot.book.asking import order
from drip_pot.book.book import Book
from drip_pot.book.line_state import Beneath, InkState, LineState
from drip_pot.book.model import BALLOON, Page, Pass, Sheet
from drip_pot.book.numbers import PageNumber
from drip_pot.book.store import TILE, Change, Edit, TileChange, pack_tile
from drip_pot.book.verbs.layers import beneath
from drip_pot.book.verbs.setting import inks_key, named, next_number, put
from drip_pot.book.where import Scope
from drip_pot.core.arrays import U8, Rect
from drip_pot.core.errors import BadInput
from drip_pot.core.inks import Place, lay, turned_about
from drip_pot.core.regions import Stencil, make_stencil
from drip_pot.core.render import Placed

PAGE_MOST, PAGE_MOST_PX = 30_000, 160_000_000


@order
def add_page(book: Book, page: Page, inks: InkState, sheets: Sequence[tuple[Sheet, InkState]] = ()) -> int:
    """Add a page whose originals are in the store already; return its number.

    `inks` belong to its first sheet; `sheets` are further ones, or, if the first of them has the page's own original
    and picture, all of them. What every page of the book has alike of press settings and line colours it has as well.
    """
    number = next_number(book, "page")
    page = msgspec.structs.replace(page, order=len(book.pages()))
    pairs: list[tuple[str, object]] = [(f"page/{number}", page), (f"page/{number}/inks", inks)]
    first = bool(sheets) and (sheets[0][0].original, sheets[0][0].picture) == (page.original, page.picture)
    for place, (sheet, state) in enumerate(sheets, 0 if first else 1):
        pairs.append((f"page/{number}/sheet/{place}", msgspec.structs.replace(sheet, order=place)))
        pairs.append((inks_key(number, place), state))
    for kind in ("press", "lines"):
        every = [getattr(book.sources(n), kind) for n in book.pages()]
        if len(every) > 1 and all(one == every[0] for one in every) and every[0] != type(every[0])():
            pairs.append((f"page/{number}/{kind}", every[0]))
    put(book, "add-page", f"Add page {page.name}", *dict(pairs).items())
    recut(book, number, {})
    return number


@order
def name_page(book: Book, number: PageNumber, name: str) -> None:
    """Give a page another name."""
    page = msgspec.structs.replace(book.read(f"page/{number}", Page), name=named(name, "page"))
    put(book, "name-page", f"Name the page {page.name}", (f"page/{number}", page))


@order
def set_print(
    book: Book, page: int, *, dpi: float, trim_mm: tuple[float, float] | None, bleed_mm: float
) -> None:  # fmt: skip
    """Change a page's resolution, trim size and bleed; no pixel changes."""
    old = book.read(f"page/{page}", Page)
    if not 30 <= dpi <= 4800:
        raise BadInput("A page has 30 to 4800 dpi, not {0:g}.", dpi)
    if not 0 <= bleed_mm <= 50:
        raise BadInput("Bleed goes from 0 to 50 mm, not {0:g} mm.", bleed_mm)
    size = old.cols / dpi * 25.4, old.rows / dpi * 25.4
    if trim_mm is not None and not (0 < trim_mm[0] <= size[0] + 0.01 and 0 < trim_mm[1] <= size[1] + 0.01):
        raise BadInput(
            "The trim of {0:g} × {1:g} mm does not fit on the page of {2:.1f} × {3:.1f} mm. Grow the page first.",
            trim_mm[0],
            trim_mm[1],
            size[0],
            size[1],
        )
    page_now = msgspec.structs.replace(old, dpi=dpi, trim_mm=trim_mm, bleed_mm=bleed_mm)
    put(book, "set-print", "Change size and trim", (f"page/{page}", page_now))


@order
def crop_page(book: Book, page: int, rect: Rect, title: str = "") -> None:
    """Make the page end at a rectangle in its own pixels, which may lie beyond its edges (the page then grows)."""
    top, left, bottom, right = rect
    if not 0 < bottom - top <= PAGE_MOST or not 0 < right - left <= PAGE_MOST:
        raise BadInput("A page has 1 to {0} px a side, not {1} × {2} px.", PAGE_MOST, right - left, bottom - top)
    if (bottom - top) * (right - left) > PAGE_MOST_PX:
        raise BadInput("A page has up to {0:.0f} megapixels, not {1:.0f}.", PAGE_MOST_PX / 1e6,
                       (bottom - top) * (right - left) / 1e6)  # fmt: skip
    old = book.read(f"page/{page}", Page)
    grows = top < 0 or left < 0 or bottom > old.rows or right > old.cols
    _reframe(book, page, Place(0.0, 1.0, -top, -left), (bottom - top, right - left),
             title or ("Grow the page" if grows else "Crop the page"))  # fmt: skip


@order
def straighten_page(book: Book, page: int, turn_deg: float) -> None:
    """Turn the page by some degrees, clockwise, about its middle; shade and repair turn with it."""
    if not -45 <= turn_deg <= 45:
        raise BadInput("A page is straightened by up to 45 degrees, not {0:g}.", turn_deg)
    old = book.read(f"page/{page}", Page)
    turn = turned_about((old.rows - 1) / 2, (old.cols - 1) / 2, turn_deg)
    _reframe(book, page, turn, (old.rows, old.cols), f"Turn the page by {turn_deg:g} degrees")


def _moved_inks(book: Book, page: int, every: dict[int, InkState], move: Place) -> list[Change]:
    changes = []
    for number, inks in every.items():
        spots = [tuple((round(r), round(c)) for r, c in (move.at(*at) for at in group))
                 for group in (inks.erased, inks.kept)]  # fmt: skip
        moved = InkState(inks.settings, spots[0], spots[1])
        if moved != inks:
            changes.append(book.change(inks_key(page, number), moved))
    return changes


def _reframe(book: Book, page: int, move: Place, shape: tuple[int, int], title: str) -> None:
    """Move everything on a page: planes, and all that is remembered by its position; pours follow by `recut`."""
    top = f"page/{page}"
    old = book.read(top, Page)
    frame = old.frame.then(move)
    changes = [book.change(top, msgspec.structs.replace(old, rows=shape[0], cols=shape[1], frame=frame))]
    sources = book.sources(page)
    changes += _moved_inks(book, page, sources.inks, move)
    changes += _moved_spots(book, top, move)
    for number, effect in sources.effects.items():
        row, col = move.at(effect.row, effect.col)
        shape_now = tuple(move.at(*at) for at in effect.shape)
        changes.append(book.change(f"{top}/effect/{number}", msgspec.structs.replace(
            effect, shape=shape_now, row=row, col=col, turn_deg=effect.turn_deg + move.turn_deg)))  # fmt: skip
    for kind, paths in (("dam", sources.dams), ("door", sources.doors), ("join", sources.joins)):
        for number, path in paths.items():
            changes.append(book.change(f"{top}/{kind}/{number}", tuple(move.at(*at) for at in path)))
    for number, drawn in sources.panels.items():
        corners = tuple(move.at(*at) for at in drawn.corners)
        changes.append(book.change(f"{top}/panel/{number}", msgspec.structs.replace(drawn, corners=corners)))
    for number, seed in sources.seeds.items():
        path = tuple(move.at(*at) for at in seed.path)
        changes.append(book.change(f"{top}/seed/{number}", msgspec.structs.replace(seed, path=path)))
    for number, stencil in sources.stencils.items():
        changes.append(book.change(f"{top}/stencil/{number}", _moved_stencil(stencil, move, shape)))
    for number, hold in sources.holds.items():
        if hold.spots:
            spots_now = tuple(move.at(*at) for at in hold.spots)
            changes.append(book.change(f"{top}/hold/{number}", msgspec.structs.replace(hold, spots=spots_now)))
    for number, one in sources.passes.items():
        moved_pass = _moved_pass(one, move)
        if moved_pass != one:
            changes.append(book.change(f"{top}/pass/{number}", moved_pass))
    for number, kept in sources.scopes.items():
        if kept.scope.spots:
            moved_scope = msgspec.structs.replace(kept, scope=_moved_scope(kept.scope, move))
            changes.append(book.change(f"{top}/scope/{number}", moved_scope))
    for number, cut in sources.shade_cuts.items():
        knots = tuple((*(round(v, 2) for v in move.at(r, c)), smooth) for r, c, smooth in cut.knots)
        moved_cut = msgspec.structs.replace(cut, knots=knots, within=_moved_scope(cut.within, move))
        changes.append(book.change(f"{top}/shade-cut/{number}", moved_cut))
    for number, lamp in sources.lamps.items():
        row, col = move.at(lamp.row, lamp.col)
        changes.append(book.change(f"{top}/lamp/{number}", msgspec.structs.replace(lamp, row=row, col=col)))
    changes += [book.change(f"{top}/figure/{number}", None) for number in sources.figures]
    for number, trap in sources.traps.items():
        changed = msgspec.structs.replace(trap, one=move.at(*trap.one), two=move.at(*trap.two))
        changes.append(book.change(f"{top}/trap/{number}", changed))
    if sources.wear.textures:
        textures = tuple(_moved_picture(one, move) for one in sources.wear.textures)
        changes.append(book.change(f"{top}/wear", msgspec.structs.replace(sources.wear, textures=textures)))
    for number, border in sources.borders.items():
        path = tuple(move.at(*at) for at in border.path)
        changes.append(book.change(f"{top}/border/{number}", msgspec.structs.replace(border, path=path)))
    if sources.cut.cuts:
        changes.append(book.change(f"{top}/cut-by", sources.cut.cuts))
    tiles: list[TileChange] = []
    for name in book.planes(page):
        if book.plane(name).any():
            plane = book.plane(name).whole()
            tiles += _replaced(name, plane, lay(beneath(book, page, name, plane), move, shape, 0, hard=True))
    book.apply(Edit("reframe", title, _settled(changes), tuple(tiles)))


def _moved_spots(book: Book, top: str, move: Place) -> list[Change]:
    """Return what is remembered by a place of the page in its key, where that is now."""
    changes: list[Change] = []
    for kind in ("bridge", "stroke", "tone", "doubt"):
        marks = dict(book.below(f"{top}/{kind}/"))
        changes += [book.change(f"{top}/{kind}/{at}", None) for at in marks]
        for at, text in marks.items():
            row, col = (float(v) for v in at.split(":"))
            r, c = move.at(row, col)
            spot = f"{r:g}:{c:g}" if kind == "bridge" else f"{round(r)}:{round(c)}"
            changes.append(book.change(f"{top}/{kind}/{spot}", msgspec.json.decode(text)))
    return changes


def _moved_scope(scope: Scope, move: Place) -> Scope:
    return msgspec.structs.replace(scope, spots=tuple(move.at(*at) for at in scope.spots))


def _moved_pass(one: Pass, move: Place) -> Pass:
    """Lay what a pass has at places of the page where it lies after the page was moved."""
    ramp, placed = one.ramp, one.placed
    if ramp is not None:
        path = tuple(move.at(*at) for at in ramp.path)
        ramp = msgspec.structs.replace(ramp, start=move.at(*ramp.start), end=move.at(*ramp.end), path=path)
    placed = None if placed is None else _moved_picture(placed, move)
    return msgspec.structs.replace(one, scope=_moved_scope(one.scope, move), ramp=ramp, placed=placed)


def _moved_picture(placed: Placed, move: Place) -> Placed:
    return msgspec.structs.replace(placed, grid=tuple(move.at(*at) for at in placed.grid))


def _moved_stencil(stencil: Stencil, move: Place, shape: tuple[int, int]) -> Stencil | None:
    """Lay a cut-out where it lies after the page was moved; None if nothing of it is left."""
    top, left, bottom, right = stencil.rect
    corners = np.array([move.at(r, c) for r in (top, bottom) for c in (left, right)])
    low, high = np.floor(corners.min(axis=0)).astype(int) - 2, np.ceil(corners.max(axis=0)).astype(int) + 2
    low, high = np.maximum(low, 0), np.minimum(high, shape)
    if (high <= low).any():
        return None
    to_box = Place(0.0, 1.0, top, left).then(move).then(Place(0.0, 1.0, -int(low[0]), -int(low[1])))
    mask = lay(stencil.mask().view(np.uint8), to_box, (int(high[0] - low[0]), int(high[1] - low[1])), 0, hard=True)
    return make_stencil((int(low[0]), int(low[1]), 0, 0), mask > 0, back=stencil.back)


def _settled(changes: list[Change]) -> tuple[Change, ...]:
    """Join changes of the same key: the first 'before' and the last 'after'."""
    found: dict[str, Change] = {}
    for change in changes:
        known = found.get(change.key)
        found[change.key] = Change(change.key, known.before if known else change.before, change.after)
    return tuple(found.values())


def _replaced(name: str, old: U8, new: U8) -> list[TileChange]:
    """List all tiles of a plane that becomes another, of any size."""
    tiles = []
    rows, cols = (-(-max(a, b) // TILE) for a, b in zip(old.shape, new.shape, strict=True))
    for row in range(rows):
        for col in range(cols):
            cut = slice(row * TILE, (row + 1) * TILE), slice(col * TILE, (col + 1) * TILE)
            before, after = (pack_tile(plane[cut]) if plane[cut].size else None for plane in (old, new))
            if before is not None or after is not None:
                tiles.append(TileChange(name, row, col, before, after))
    return tiles


def recut(
    book: Book, page: int, pours: dict[int, int], sown: dict[int, int] | None = None, beneath: Beneath | None = None
) -> None:
    """Renumber pours, and what is sown, for the present line; undone together with the change before it.

    `beneath` is what lies under sheets that hide others now.
    """
    changes = recut_changes(book, page, book.sources(page).line.uncut, pours, sown or {})
    changes += (book.change(f"page/{page}/beneath", beneath),)
    book.apply(Edit("recut", "Carry colours to the new line", changes, joined=True))


def recut_changes(
    book: Book, page: int, line: LineState, pours: dict[int, int], sown: dict[int, int]
) -> tuple[Change, ...]:
    """Return what makes pours, and what is sown, those of a line without cuts."""
    changes: list[Change] = [book.change(f"page/{page}/cut", line), book.change(f"page/{page}/cut-by", None)]
    known = {BALLOON, *book.pots()}
    pours = {atom: pot for atom, pot in pours.items() if pot in known}  # what was hidden may have been of one removed
    for kind, now in (("pour", pours), ("sown", sown)):
        top = f"page/{page}/{kind}/"
        old = {int(k): int(v) for k, v in book.below(top)}
        moved = (atom for atom in sorted(old.keys() | now.keys()) if old.get(atom) != now.get(atom))
        changes.extend(book.change(f"{top}{atom}", now.get(atom)) for atom in moved)
    return tuple(changes)
