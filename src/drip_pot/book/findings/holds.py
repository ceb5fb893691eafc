# SPDX-License-Identifier: GPL-3.0-or-later
"""What needs an eye in Holds: coloured line that would not read, or not print. Knows the book, tables and pieces."""

import msgspec
import numpy as np

from drip_pot.book.asking import ask
from drip_pot.book.book import Book
from drip_pot.book.derive import PIECES, Derived, over_rows
from drip_pot.book.findings.finding import Finding
from drip_pot.book.lines import KINDS, ColoredLines, lines_of, matched, owners
from drip_pot.book.sources import PageSources
from drip_pot.book.tables import Tables, build_tables, prints_black
from drip_pot.book.values import HOLDS, Hold
from drip_pot.core.arrays import F64, U8, Bool
from drip_pot.core.color import srgb8_to_oklab
from drip_pot.core.holds import BORDER
from drip_pot.words import tr

_FEW, _MM = 6, 25.4
_READS_L, _THIN_MM = 0.1, 0.16
_CLEAR, _LEAST_MM, _LEAST_SHARE = 0.8, 6.0, 0.01
_BLACK = "#000000"


def find_holds(book: Book, sources: PageSources, derived: Derived, tables: Tables) -> list[Finding]:
    """List holds that are hardly seen, lighter than what they outline, too thin to print, or on nothing."""
    if not sources[HOLDS]:
        return []
    ground = derived.ground(sources)
    told = lines_of(book, sources, derived.painted.pieces(sources), ground.panels())
    count = len(tables.is_poured) - 1
    if len(tables.screen.line) <= over_rows(count) + PIECES + told.pieces.count:  # made before strokes were known
        tables = build_tables(book, sources, count, ground)
    flats = tables.screen.flat[:, :3].reshape(2, count + 1, 3)
    found: list[Finding] = []
    for number, hold in sources[HOLDS].items():
        if not hold.shown:
            continue
        mine = matched(book, sources, hold, told, owners(told, flats[0:1], hold), count, ground)
        mine &= told.pieces.boxes[:, 2] > told.pieces.boxes[:, 0]
        lettered, effects = bool(sources.over.lettering), bool(sources.over.colors)
        over = not hold.spots and ((lettered and bool({"letters", "balloon"} & set(hold.kinds)))
                                   or (effects and "effect" in hold.kinds))  # fmt: skip
        if not mine.any() and not over:
            if number in book.holds():  # one of the whole book has lines on other pages
                continue
            text, asks = tr("{0} touches no line of this page", hold.name), ask("remove-hold", number=number)
            found.append(Finding(f"hold-empty:{number}", "Hold on nothing", text, "Remove", None, None, asks))
        elif not hold.brushed and hold.how in ("darker", "fixed"):
            found += _weak(number, hold, told, mine, tables, flats, count)
            found += _thin(number, hold, told, mine, sources.page.dpi, tables, count)
    if any(hold.shown and hold.side == "front" and hold.how == "darker" for hold in sources[HOLDS].values()):
        found += _doubtful(book, told, sources.page.dpi)
    return found


def _doubtful(book: Book, told: ColoredLines, dpi: float) -> list[Finding]:
    """List parts, and pots of one part, of whose line between them it is not clear whose it is, the longest first."""
    pieces, pots, parts = told.pieces, book.pots(), book.parts()
    pot = told.pot[pieces.sides]
    border = (pieces.form == BORDER) & (told.kind != KINDS.index("frame"))
    at = np.flatnonzero(border & (pot > 0).all(axis=1) & (pot[:, 0] != pot[:, 1]))
    of = told.part[pieces.sides[at]]
    by_pot = (of[:, 0] == of[:, 1]) | ~np.isin(of, list(parts)).all(axis=1)
    of = np.where(by_pot[:, None], -pot[at], of)  # pots below 0
    turned = np.where(of[:, 0] > of[:, 1], -1.0, 1.0)
    groups, which = np.unique(np.sort(of, axis=1), axis=0, return_inverse=True)
    which = which.reshape(-1)
    length, front = pieces.length_px[at], told.front[at]
    unclear = np.bincount(which, length * (np.abs(front) < _CLEAR), len(groups))
    net = np.bincount(which, length * front * turned, len(groups))
    least = max(_LEAST_MM / _MM * dpi, _LEAST_SHARE * float(length.sum()))
    found = []
    for group in np.argsort(-unclear)[:_FEW].tolist():
        if unclear[group] < least:
            break
        mine = at[(which == group) & (np.abs(front) < _CLEAR)]
        low, high = groups[group].tolist()
        ahead, back = (low, high) if net[group] >= 0 else (high, low)
        of_parts = ahead > 0
        names = [parts[n].name if of_parts else pots[-n].name for n in (ahead, back)]
        both = [next(n for n, p in pots.items() if p.part == side) if of_parts else -side for side in (ahead, back)]
        text = tr("{0} seems to lie in front of {1}; {2:.0f} mm of the line between them could be of either",
                  *names, unclear[group] / dpi * _MM)  # fmt: skip
        asks, drops = (ask("put-in-front", front=a, behind=b, parts=of_parts) for a, b in (both, both[::-1]))
        key = f"whose:{low}:{high}"
        found.append(Finding(key, "Whose line", text, "In front", _widest(told, mine)[0], asks=asks, drops=drops,
                             opposite="Behind"))  # fmt: skip
    return found


def _weak(
    number: int, hold: Hold, told: ColoredLines, mine: Bool, tables: Tables, flats: U8, count: int
) -> list[Finding]:  # fmt: skip
    """List the widest strokes whose line does not stand off one of its sides, in light or in shadow, or is lighter."""
    first = over_rows(count) + PIECES
    at = np.flatnonzero(mine)
    sides, own = np.minimum(told.pieces.sides[at], count), np.minimum(told.owner[at], count)
    weak, lighter = np.zeros(len(at), bool), np.zeros(len(at), bool)
    for half, lines in zip(flats, (tables.screen.line, tables.screen.lines[len(tables.screen.line) :]), strict=True):
        value = _lightness(half)
        line = _lightness(lines[first + at, :3])
        weak |= np.abs(value[own] - line) < _READS_L
        lighter |= (value[sides] - line[:, None] < -_READS_L).all(axis=1)
    weak &= ~lighter
    firmer = min(1.0, hold.amount + 0.2)
    more = {"amount": firmer} if hold.how == "darker" else {"how": "darker", "amount": 0.6}
    darker = ask("set-hold", number=number, changed=msgspec.structs.replace(hold, **more))
    found = []
    for mask, title, says in (
        (weak, "Hold too weak", "hardly stands off what it borders"),
        (lighter, "Hold lighter than its fill", "is lighter than both its sides"),
    ):
        boxes = _widest(told, at[mask])
        if len(boxes):
            strokes = tr("A stroke") if mask.sum() == 1 else tr("{0} strokes", int(mask.sum()))
            text = tr("{0} of {1} {2}", strokes, hold.name, tr(says))
            found.append(Finding(f"hold-{title.split()[1]}:{number}", title, text, "Darken", boxes[0], None, darker))
    return found


def _thin(
    number: int, hold: Hold, told: ColoredLines, mine: Bool, dpi: float, tables: Tables, count: int
) -> list[Finding]:  # fmt: skip
    """List coloured line that is thinner than two plates can be laid over each other."""
    first = over_rows(count) + PIECES
    at = np.flatnonzero(mine)
    thin = at[(told.pieces.width_px[at] / dpi * _MM < _THIN_MM) & ~prints_black(tables.screen.line[first + at, :3])]
    boxes = _widest(told, thin)
    if not len(thin) or not boxes or len(thin) < 0.2 * len(at):
        return []
    black = ask("set-hold", number=number, changed=msgspec.structs.replace(hold, how="fixed", color=_BLACK))
    width = float(np.median(told.pieces.width_px[thin])) / dpi * _MM
    text = tr("Line of {0} is {1:.2f} mm wide; in several inks it will not hold its place", hold.name, width)
    return [Finding(f"hold-thin:{number}", "Hold too thin", text, "Make black", boxes[0], None, black)]


def _widest(
    told: ColoredLines, pieces: np.ndarray[tuple[int, ...], np.dtype[np.int64]]
) -> list[tuple[int, int, int, int]]:
    boxes = told.pieces.boxes[pieces]
    size = (boxes[:, 2] - boxes[:, 0]) * (boxes[:, 3] - boxes[:, 1])
    order = np.argsort(-size)[:_FEW]
    return [(int(a), int(b), int(c), int(d)) for a, b, c, d in boxes[order].tolist()]


def _lightness(rgb: U8) -> F64:
    return np.asarray(srgb8_to_oklab(rgb)[:, 0])
