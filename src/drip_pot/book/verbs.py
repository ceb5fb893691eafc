"""What a person can do to a book: each verb makes one titled edit and applies it. Knows no window, no file."""

from collections.abc import Iterable, Sequence

import msgspec
import numpy as np

from drip_pot.book.book import Book
from drip_pot.book.by_hand import thinned
from drip_pot.book.edit import TILE, Change, Edit, TileChange, pack_tile, tile_changes
from drip_pot.book.model import BALLOON, BookInfo, Hold, InkState, Lines, LineState, Page, Part, Pot, Sheet
from drip_pot.core.arrays import U8, Bool, Rect
from drip_pot.core.color import ToneRule, from_hex
from drip_pot.core.errors import BadInput
from drip_pot.core.inks import Effect, Place, lay, turned_about
from drip_pot.core.press import PressSettings
from drip_pot.core.regions import Path, Stencil, make_stencil
from drip_pot.core.shade import cut

GAP_MOST = 60.0
PAGE_MOST = 30_000
LEAST_MOST = 100_000


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


def add_page(book: Book, page: Page, inks: InkState, sheets: Sequence[tuple[Sheet, InkState]] = ()) -> int:
    """Add a page whose originals are in the store already; return its number.

    `inks` belong to its first sheet; `sheets` are further ones, or, if the first of them has the page's own original
    and picture, all of them.
    """
    number = _next(book, "page")
    page = msgspec.structs.replace(page, order=len(book.pages()))
    pairs: list[tuple[str, object]] = [(f"page/{number}", page), (f"page/{number}/inks", inks)]
    first = bool(sheets) and (sheets[0][0].original, sheets[0][0].picture) == (page.original, page.picture)
    for place, (sheet, state) in enumerate(sheets, 0 if first else 1):
        pairs.append((f"page/{number}/sheet/{place}", msgspec.structs.replace(sheet, order=place)))
        pairs.append((_inks_key(number, place), state))
    _set(book, "add-page", f"Add page {page.name}", *dict(pairs).items())
    recut(book, number, {})
    return number


def _inks_key(page: int, sheet: int) -> str:
    return f"page/{page}/inks/{sheet}" if sheet else f"page/{page}/inks"


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


def set_inks(book: Book, page: int, inks: InkState, title: str = "Adjust the line", sheet: int = 0) -> None:
    """Change how a sheet's line is made; pours are carried over by `recut` once it is known."""
    _set(book, "set-inks", title, (_inks_key(page, sheet), inks))


def add_sheet(book: Book, page: int, sheet: Sheet, inks: InkState) -> int:
    """Lay another sheet on a page; return its number."""
    sheets = book.sources(page).sheets
    number = max(sheets) + 1
    sheet = msgspec.structs.replace(
        sheet, name=_named(sheet.name, "sheet"), order=max(s.order for s in sheets.values()) + 1
    )
    _set(book, "add-sheet", f"Add sheet {sheet.name}", (f"page/{page}/sheet/{number}", sheet),
         (_inks_key(page, number), inks))  # fmt: skip
    return number


def set_sheet(book: Book, page: int, number: int, title: str = "", **values: object) -> None:
    """Change a sheet's name, role, place, color or whether it is shown."""
    old = book.sources(page).sheets[number]
    sheet = msgspec.structs.replace(old, **values)
    _named(sheet.name, "sheet")
    from_hex(sheet.color)
    said = title or f"Change sheet {old.name}"
    if sheet.role != old.role:
        said = f"Make {sheet.name} {sheet.role}"
    elif sheet.shown != old.shown:
        said = f"{'Show' if sheet.shown else 'Hide'} sheet {sheet.name}"
    elif sheet.name != old.name:
        said = f"Name a sheet {sheet.name}"
    _set(book, "set-sheet", said, (f"page/{page}/sheet/{number}", sheet))


def move_sheet(book: Book, page: int, number: int, step: int) -> None:
    """Move a sheet along the shelf: -1 is one place to the left."""
    sheets = book.sources(page).sheets
    order = list(sheets)
    place = order.index(number)
    target = min(max(place + step, 0), len(order) - 1)
    order.insert(target, order.pop(place))
    pairs = [(f"page/{page}/sheet/{n}", msgspec.structs.replace(sheets[n], order=k)) for k, n in enumerate(order)]
    if target != place:
        _set(book, "move-sheet", f"Move sheet {sheets[number].name}", *pairs)


def remove_sheet(book: Book, page: int, number: int) -> None:
    """Take a sheet off a page; its file stays in the book, so undo brings it back.

    Raises
    ------
    BadInput
        For the page's first sheet, which can be hidden, replaced or given another role instead.
    """
    name = book.sources(page).sheets[number].name
    if number == 0:
        raise BadInput(f"{name} is the page's first sheet and cannot be taken off. Hide it or replace it.")
    _set(book, "remove-sheet", f"Take off sheet {name}", (f"page/{page}/sheet/{number}", None),
         (_inks_key(page, number), None))  # fmt: skip


def reink(book: Book, page: int, number: int, sheet: Sheet, inks: InkState) -> None:
    """Put a corrected drawing in the place of a sheet; what was drawn before is remembered for Look here."""
    before = book.sources(page).line
    _set(book, "reink", f"Re-ink {sheet.name}", (f"page/{page}/sheet/{number}", sheet),
         (_inks_key(page, number), inks), (f"page/{page}/before", before.uncut))  # fmt: skip


def mark_spots(book: Book, page: int, kind: str, spots: Iterable[tuple[int, int]], title: str, *, on: bool) -> None:
    """Mark strokes ('stroke') as detail, or areas ('tone') as flat tint, each by one pixel; or take marks off."""
    pairs = [(f"page/{page}/{kind}/{row}:{col}", True if on else None) for row, col in spots]
    _set(book, f"mark-{kind}", title, *pairs)


def mend_line(book: Book, page: int, rect: Rect, repair: U8, title: str) -> None:
    """Change the repair sheet within a rectangle."""
    name = f"page/{page}/repair"
    tiles = tile_changes(name, np.asarray(book.plane(name)), rect, repair)
    if tiles:
        book.apply(Edit("mend", title, (), tiles))


def set_effect(book: Book, page: int, number: int | None, effect: Effect | None) -> int:
    """Add effect lines (number None), change them, or take them away (effect None); return their number."""
    known = book.sources(page).effects
    number = max(known, default=0) + 1 if number is None else number
    from_hex(effect.color if effect is not None else "#000000")
    kind = effect.kind if effect is not None else known[number].kind
    verb = "Remove" if effect is None else "Change" if number in known else "Add"
    what = {"burst": "a burst", "speed": "speed lines", "focus": "focus lines"}[kind]
    _set(book, "set-effect", f"{verb} {what}", (f"page/{page}/effect/{number}", effect))
    return number


def keep_balloon(book: Book, page: int, atoms: Iterable[int]) -> None:
    """Keep regions as paper for lettering."""
    _set(book, "balloon", "Keep a balloon as paper", *((f"page/{page}/pour/{a}", BALLOON) for a in sorted(atoms)))


def set_print(
    book: Book, page: int, *, dpi: float, trim_mm: tuple[float, float] | None, bleed_mm: float
) -> None:  # fmt: skip
    """Change a page's resolution, trim size and bleed; no pixel changes."""
    old = book.read(f"page/{page}", Page)
    if not 30 <= dpi <= 4800:
        raise BadInput(f"A page has 30 to 4800 dpi, not {dpi:g}.")
    if not 0 <= bleed_mm <= 50:
        raise BadInput(f"Bleed goes from 0 to 50 mm, not {bleed_mm:g} mm.")
    size = old.cols / dpi * 25.4, old.rows / dpi * 25.4
    if trim_mm is not None and not (0 < trim_mm[0] <= size[0] + 0.01 and 0 < trim_mm[1] <= size[1] + 0.01):
        raise BadInput(
            f"The trim of {trim_mm[0]:g} × {trim_mm[1]:g} mm does not fit on the page of "
            f"{size[0]:.1f} × {size[1]:.1f} mm. Grow the page first."
        )
    page_now = msgspec.structs.replace(old, dpi=dpi, trim_mm=trim_mm, bleed_mm=bleed_mm)
    _set(book, "set-print", "Change size and trim", (f"page/{page}", page_now))


def crop_page(book: Book, page: int, rect: Rect, title: str = "") -> None:
    """Make the page end at a rectangle in its own pixels, which may lie beyond its edges (the page then grows)."""
    top, left, bottom, right = rect
    if not 0 < bottom - top <= PAGE_MOST or not 0 < right - left <= PAGE_MOST:
        raise BadInput(f"A page has 1 to {PAGE_MOST} px a side, not {right - left} × {bottom - top} px.")
    old = book.read(f"page/{page}", Page)
    grows = top < 0 or left < 0 or bottom > old.rows or right > old.cols
    _reframe(book, page, Place(0.0, 1.0, -top, -left), (bottom - top, right - left),
             title or ("Grow the page" if grows else "Crop the page"))  # fmt: skip


def straighten_page(book: Book, page: int, turn_deg: float) -> None:
    """Turn the page by some degrees, clockwise, about its middle; shade and repair turn with it."""
    if not -45 <= turn_deg <= 45:
        raise BadInput(f"A page is straightened by up to 45 degrees, not {turn_deg:g}.")
    old = book.read(f"page/{page}", Page)
    turn = turned_about((old.rows - 1) / 2, (old.cols - 1) / 2, turn_deg)
    _reframe(book, page, turn, (old.rows, old.cols), f"Turn the page by {turn_deg:g} degrees")


def _reframe(book: Book, page: int, move: Place, shape: tuple[int, int], title: str) -> None:
    """Move everything on a page: planes, and all that is remembered by its position; pours follow by `recut`."""
    top = f"page/{page}"
    old = book.read(top, Page)
    frame = old.frame.then(move)
    changes = [book.change(top, msgspec.structs.replace(old, rows=shape[0], cols=shape[1], frame=frame))]
    sources = book.sources(page)
    for number, inks in sources.inks.items():
        spots = [tuple((round(r), round(c)) for r, c in (move.at(*at) for at in group))
                 for group in (inks.erased, inks.kept)]  # fmt: skip
        moved = InkState(inks.settings, spots[0], spots[1])
        if moved != inks:
            changes.append(book.change(_inks_key(page, number), moved))
    for kind in ("bridge", "stroke", "tone"):
        marks = dict(book.below(f"{top}/{kind}/"))
        changes += [book.change(f"{top}/{kind}/{at}", None) for at in marks]
        for at, text in marks.items():
            row, col = (float(v) for v in at.split(":"))
            r, c = move.at(row, col)
            spot = f"{r:g}:{c:g}" if kind == "bridge" else f"{round(r)}:{round(c)}"
            changes.append(book.change(f"{top}/{kind}/{spot}", msgspec.json.decode(text)))
    for number, effect in sources.effects.items():
        row, col = move.at(effect.row, effect.col)
        shape_now = tuple(move.at(*at) for at in effect.shape)
        changes.append(book.change(f"{top}/effect/{number}", msgspec.structs.replace(
            effect, shape=shape_now, row=row, col=col, turn_deg=effect.turn_deg + move.turn_deg)))  # fmt: skip
    for kind, paths in (("dam", sources.dams), ("door", sources.doors), ("join", sources.joins)):
        for number, path in paths.items():
            changes.append(book.change(f"{top}/{kind}/{number}", tuple(move.at(*at) for at in path)))
    for number, seed in sources.seeds.items():
        path = tuple(move.at(*at) for at in seed.path)
        changes.append(book.change(f"{top}/seed/{number}", msgspec.structs.replace(seed, path=path)))
    for number, stencil in sources.stencils.items():
        changes.append(book.change(f"{top}/stencil/{number}", _moved_stencil(stencil, move, shape)))
    if sources.cut.cuts:
        changes.append(book.change(f"{top}/cut-by", sources.cut.cuts))
    tiles: list[TileChange] = []
    for name in (f"{top}/shade", f"{top}/repair"):
        plane = np.asarray(book.plane(name))
        if plane.any():
            tiles += _replaced(name, plane, lay(plane, move, shape, 0, hard=True))
    book.apply(Edit("reframe", title, _settled(changes), tuple(tiles)))


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


def recut(book: Book, page: int, pours: dict[int, int], sown: dict[int, int] | None = None) -> None:
    """Renumber pours, and what is sown, for the present line; undone together with the change before it."""
    line: LineState = book.sources(page).line
    changes: list[Change] = [book.change(f"page/{page}/cut", line.uncut), book.change(f"page/{page}/cut-by", None)]
    for kind, now in (("pour", pours), ("sown", sown or {})):
        top = f"page/{page}/{kind}/"
        old = {int(k): int(v) for k, v in book.below(top)}
        moved = (atom for atom in sorted(old.keys() | now.keys()) if old.get(atom) != now.get(atom))
        changes.extend(book.change(f"{top}{atom}", now.get(atom)) for atom in moved)
    book.apply(Edit("recut", "Carry colours to the new line", tuple(changes), joined=True))


def part_again(book: Book, page: int, ways: Iterable[tuple[str, int]]) -> None:
    """Take joins and doors away: pairs of 'join' or 'door' and their number."""
    _set(book, "part", "Part what was joined", *((f"page/{page}/{kind}/{number}", None) for kind, number in ways))


def absorb(book: Book, page: int, atoms: Iterable[int], pot: int | None, spots: Path) -> None:
    """Join a region to its neighbour (a pixel of each in `spots`) and give it the neighbour's pot."""
    number = max(book.sources(page).joins, default=0) + 1
    pours = [(f"page/{page}/pour/{atom}", pot) for atom in atoms]
    _set(book, "absorb", "Absorb a sliver", (f"page/{page}/join/{number}", spots), *pours)


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
    flats = msgspec.structs.replace(book.sources(page).flats, gap_px=gap_px)
    _set(book, "set-gap", title, (f"page/{page}/flats", flats))


def set_least(book: Book, page: int, least_px: int | None) -> None:
    """Join regions of fewer pixels to the neighbour they are least parted from (0..100 000); None is by the page."""
    if least_px is not None and not 0 <= least_px <= LEAST_MOST:
        raise BadInput(f"The smallest region is 0 to {LEAST_MOST} px, not {least_px}.")
    flats = msgspec.structs.replace(book.sources(page).flats, least_px=least_px)
    title = "Smallest region by the page" if least_px is None else f"Smallest region {least_px} px"
    _set(book, "set-least", title, (f"page/{page}/flats", flats))


def set_door(book: Book, page: int, path: Path | None, number: int | None = None) -> None:
    """Draw a door, move one of a number, or take it away (path None)."""
    verb = "Take away" if path is None else "Move" if number is not None else "Draw"
    number = max(book.sources(page).doors, default=0) + 1 if number is None else number
    path = None if path is None else thinned(path)
    _set(book, "set-door", f"{verb} a door", (f"page/{page}/door/{number}", path))


def join(book: Book, page: int, spots: Path, title: str) -> None:
    """Join the regions that pixels (row, col) lie in, for good."""
    number = max(book.sources(page).joins, default=0) + 1
    _set(book, "join", title, (f"page/{page}/join/{number}", spots))


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
