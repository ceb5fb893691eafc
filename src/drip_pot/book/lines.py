# SPDX-License-Identifier: GPL-3.0-or-later
"""The line of a page in colour: holds resolved to tables by stroke piece. Knows the book and pieces; no pixels.

A piece belongs to the side in front, or to the lighter or darker one where a hold says so; what a hold names are the
parts, pots and places that line belongs to.
"""

from collections.abc import Mapping
from dataclasses import dataclass, field

import numpy as np

from drip_pot.book.derive import BALLOON_LINE, LETTERS, PIECES, over_rows
from drip_pot.book.reading import Reading
from drip_pot.book.scope import Ground, scope_atoms
from drip_pot.book.sources import PageSources
from drip_pot.book.values import HOLDS, LINE_KINDS, LINES, POURS, Hold, LineKind
from drip_pot.core.arrays import F64, I64, U8, Bool
from drip_pot.core.color import darkened, from_hex, srgb8_to_oklab
from drip_pot.core.holds import BORDER, DETAIL, SOLID, STROKE, LinePieces, Outlines, depth_order, in_front
from drip_pot.core.regions import Panels
from drip_pot.core.render import LineOwners, LineWash

KINDS: tuple[LineKind, ...] = tuple(LINE_KINDS)
_MM, _NEAR_LINES, _GROUND, _WIDEST = 25.4, 1.5, 0.3, 0.95


@dataclass(frozen=True)
class ColoredLines:
    """What is known of the line of a page.

    Attributes
    ----------
    kind : (P + 1,) ndarray of uint8
        Place in `KINDS` of every stroke piece.
    owner : (P + 1,) ndarray of int64
        The region it outlines, or lies in.
    front : (P + 1,) ndarray of float64
        How clearly, -1..1; above 0 it is the first side.
    pot, part : (A + 1,) ndarrays of int64
        Of every region, 0 for none.
    """

    pieces: LinePieces
    kind: U8
    owner: I64
    front: F64
    pot: I64
    part: I64

    def owners(self, rows: int) -> LineOwners:
        """Return whose every row of the line's colours is, of which there are `rows`."""
        p = self.pieces
        row = np.zeros(rows, np.int64)
        mine = np.where((p.form == BORDER) & (p.sides[:, 0] != p.sides[:, 1]), self.owner, 0)
        first = rows - len(mine)
        row[first:] = mine
        border = p.form == BORDER
        widest = float(np.quantile(p.width_px[border], _WIDEST)) if border.any() else 0.0
        return LineOwners(row, p.region, widest / 2 + 2)

    def grounds(self) -> Bool:
        """Return which regions are a ground, (A + 1,): a good share of what bounds them is the frame of a panel."""
        return _grounds(self.pieces, (self.pieces.form == BORDER) & (self.kind == KINDS.index("frame")))

    def depth(self) -> F64:
        """Return how far in front every atom lies, (A + 1,) 0..1, by one order of depth; 1 is foremost."""
        p = self.pieces
        told = (p.form == BORDER) & (self.kind != KINDS.index("frame"))
        order = depth_order(p.sides[told], self.front[told], p.length_px[told], len(p.region))
        return np.asarray(order[p.region])


@dataclass(frozen=True)
class LineColors:
    """Tables of line colours by row, (R, 3) uint8 in light and in shadow, which rows follow soft shade, and washes.

    `held` are the rows that every hold which is shown has, by its number; `told` is what is known of the line, where
    it was asked for.
    """

    light: U8
    dark: U8
    follows: Bool
    washes: tuple[LineWash, ...]
    held: Mapping[int, I64] = field(default_factory=dict)
    told: ColoredLines | None = None


def lines_of(
    book: Reading, sources: PageSources, pieces: LinePieces, panels: Panels | None, *, at_once: bool = False
) -> ColoredLines:  # fmt: skip
    """Tell what every stroke piece of a page is, and whose, by the pots that are poured now.

    `at_once`, what lies in front is as it was told last, if it was.
    """
    region, sides = pieces.region, pieces.sides
    pot, part = np.zeros(len(region), np.int64), np.zeros(len(region), np.int64)
    known = book.pots()
    for atom, number in sources[POURS].items():
        if atom < len(region) and number in known:
            pot[region[atom]], part[region[atom]] = number, known[number].part
    in_gutter = np.zeros(len(sides), bool)
    if panels is not None and panels.framed:
        of = panels.panel[: len(region)]
        in_gutter = (of[np.minimum(sides, len(of) - 1)] == 0).any(axis=1)
    border = pieces.form == BORDER
    frame = border & in_gutter
    ground = pieces.edge.copy()
    ground[sides[frame].reshape(-1)] = True
    front = _as_said(book, in_front(Outlines(pieces, pot, part, ground), at_once=at_once), pot[sides], part[sides])
    a, b = part[sides[:, 0]], part[sides[:, 1]]
    wide = _grounds(pieces, frame)
    alike = (pot[sides[:, 0]] == pot[sides[:, 1]]) & (pot[sides[:, 0]] > 0)
    across = (alike & wide[sides].all(axis=1)) | _threads(pieces, alike, pot[sides[:, 0]])
    told: dict[LineKind, Bool] = {
        "inner": border & (a == b) & (a > 0),
        "stroke": pieces.form == STROKE,
        "string": across & np.isin(pieces.form, (BORDER, STROKE)),
        "frame": frame,
        "solid": pieces.form == SOLID,
        "detail": pieces.form == DETAIL,
    }
    kind = np.zeros(len(sides), np.uint8)
    for name, mask in told.items():
        kind[mask] = KINDS.index(name)
    return ColoredLines(pieces, kind, np.where(front >= 0, sides[:, 0], sides[:, 1]), front, pot, part)


def _as_said(book: Reading, front: F64, pots: I64, parts: I64) -> F64:
    """Return which side lies in front, (P + 1,), as was said of parts, and before that of pots, else as it was judged.

    `pots` and `parts` (P + 1, 2) are those of both sides.
    """
    found = front.copy()
    for depth in sorted(book.depths().values(), key=lambda depth: not depth.parts):
        of = parts if depth.parts else pots
        for side, sure in ((0, 1.0), (1, -1.0)):
            found[(of[:, side] == depth.front) & (of[:, 1 - side] == depth.behind)] = sure
    return found


def _threads(pieces: LinePieces, alike: Bool, pot: I64) -> Bool:
    """Tell which pieces belong to a line that goes straight on from one ground over another, as a string does.

    `alike` are pieces with the same pot on both sides, which `pot` is.
    """
    ends = pieces.junctions.crossing
    ends = ends[alike[ends].all(axis=1)]
    found = np.zeros(len(alike), bool)
    found[ends[pot[ends[:, 0]] != pot[ends[:, 1]]].reshape(-1)] = True
    while True:  # and all that goes on straight from there
        more = ends[found[ends].any(axis=1)].reshape(-1)
        if found[more].all():
            return found
        found[more] = True


def _grounds(pieces: LinePieces, frame: Bool) -> Bool:
    """Tell which regions are a ground, (A + 1,): a good share of what bounds them is the frame of their panel."""
    border = pieces.form == BORDER
    count = len(pieces.region)

    def bounds(chosen: Bool) -> F64:
        sides, length = pieces.sides[chosen], pieces.length_px[chosen]
        return np.asarray(sum(np.bincount(sides[:, k], length, count) for k in (0, 1)))

    return np.asarray(bounds(frame) > _GROUND * np.maximum(bounds(border), 1))


def color_lines(
    book: Reading, sources: PageSources, count: int, flats: U8, overs: list[str], ground: Ground | None
) -> LineColors:
    """Resolve the line of a page: colours by row, then what lies over them.

    Parameters
    ----------
    book, sources
        The book, and the page as it is.
    count : int
        Atoms of the page.
    flats : (2, count + 1, 3) ndarray of uint8
        Local and shadow colours of atoms.
    overs : list of str
        '#rrggbb' of letters, then of effects.
    ground : Ground, optional
        What holds are laid on; without it lines have the plain colour.
    """
    pieces = ground.pieces() if ground is not None and sources[HOLDS] else None
    first = over_rows(count)
    rows = first + PIECES + (1 if pieces is None else pieces.count + 1)  # one stands for pieces nobody asked for
    light = np.empty((rows, 3), np.uint8)
    light[:] = from_hex(sources[LINES].color)
    light[first + LETTERS : first + LETTERS + len(overs)] = [from_hex(color) for color in overs]
    light[first + BALLOON_LINE] = from_hex(overs[0])
    dark, follows = light.copy(), np.zeros(rows, bool)
    if not sources[HOLDS]:
        return LineColors(light, dark, follows, ())
    told = None
    if pieces is not None and ground is not None:
        told = lines_of(book, sources, pieces, ground.panels(), at_once=ground.at_once)
    washes: list[LineWash] = []
    held: dict[int, I64] = {}
    for number, hold in sources[HOLDS].items():
        if not hold.shown or hold.strength <= 0:
            continue
        wash = _wash(book, sources, number, hold, told, count, flats, rows, len(overs), ground)
        held[number] = np.flatnonzero(wash.alpha)
        plain = wash.form == "color" and wash.ramp is None and not hold.brushed and not hold.feather_mm
        if plain and not washes and number not in sources.marked:
            touched = wash.alpha > 0
            for table, over in ((light, wash.light), (dark, wash.dark)):
                share = wash.alpha[touched, None].astype(np.uint16)
                table[touched] = (table[touched] * (255 - share) + over[touched, :3] * share + 127) // 255
            follows[touched] = wash.follows
        else:
            washes.append(wash)
    return LineColors(light, dark, follows, tuple(washes), held, told)


def _wash(
    book: Reading, sources: PageSources, number: int, hold: Hold, told: ColoredLines | None, count: int, flats: U8,
    rows: int, overs: int, ground: Ground | None,
) -> LineWash:  # fmt: skip
    first = over_rows(count)
    alpha = np.zeros(rows, np.uint8)
    light = np.zeros((rows, 4), np.uint8)
    light[:, :3] = from_hex(hold.color)
    light[:, 3] = 255
    dark = light.copy()
    share = round(255 * hold.strength)
    if told is not None:
        owner = owners(told, flats, hold)
        has = np.flatnonzero(matched(book, sources, hold, told, owner, count, ground))
        mine = first + PIECES + has
        alpha[mine] = share
        if hold.how == "darker":
            at = np.minimum(owner[has], count)
            light[mine, :3], dark[mine, :3] = (_darkened(half[at], hold) for half in flats)
    if hold.brushed and hold.scope.is_everywhere:
        alpha[:] = share
    if hold.scope.is_everywhere and not hold.spots:
        wanted: list[tuple[LineKind, slice]] = [
            ("letters", slice(first + LETTERS, first + LETTERS + 1)),
            ("balloon", slice(first + BALLOON_LINE, first + BALLOON_LINE + 1)),
            ("effect", slice(first + LETTERS + 1, first + LETTERS + overs)),
        ]
        for kind, cut in wanted:
            if kind in hold.kinds:
                alpha[cut] = share
                if hold.how == "darker":
                    light[cut, :3] = dark[cut, :3] = darkened(np.full((1, 3), 255, np.uint8), hold.amount, hold.chroma)
    form = hold.how if hold.how in ("beneath", "paper") else "color"
    return LineWash(
        number, alpha, light, dark, form, hold.ramp if hold.how == "ramp" else None, hold.brushed,
        hold.how == "darker", hold.feather_mm / _MM * sources.page.dpi,
    )  # fmt: skip


def _darkened(rgb: U8, hold: Hold) -> U8:
    """Return what a hold makes of colours, (N, 3) uint8; each is worked out once."""
    codes, where = np.unique(rgb.astype(np.int32) @ (65536, 256, 1), return_inverse=True)
    every = np.column_stack([codes >> 16, codes >> 8 & 255, codes & 255]).astype(np.uint8)
    return np.asarray(darkened(every, hold.amount, hold.chroma)[where.reshape(-1)], np.uint8)


def owners(told: ColoredLines, flats: U8, hold: Hold) -> I64:
    """Return the region that every stroke piece belongs to by a hold, (P + 1,)."""
    if hold.side == "front":
        return told.owner
    sides = told.pieces.sides
    value = srgb8_to_oklab(flats[0])[:, 0]
    at = np.minimum(sides, len(value) - 1)
    lighter = value[at[:, 0]] >= value[at[:, 1]]
    return np.where(lighter == (hold.side == "lighter"), sides[:, 0], sides[:, 1])


def matched(
    book: Reading, sources: PageSources, hold: Hold, told: ColoredLines, owner: I64, count: int, ground: Ground | None
) -> Bool:  # fmt: skip
    """Tell which stroke pieces a hold has, (P + 1,); one that was only brushed has all in its scope."""
    found = np.zeros(len(told.kind), bool)
    if hold.spots:
        reach = _NEAR_LINES * max(2.0, float(np.median(told.pieces.width_px)))
        found[[told.pieces.at(row, col, reach) for row, col in hold.spots]] = True
    else:
        found[:] = hold.brushed or np.isin(told.kind, [KINDS.index(kind) for kind in hold.kinds])
        inside = scope_atoms(book, sources, hold.scope, count, ground)
        if inside is not None:
            whole = np.zeros(max(len(told.pieces.region), count + 1), bool)
            atoms = np.flatnonzero(inside[: len(told.pieces.region)])
            whole[told.pieces.region[atoms]] = True
            found &= whole[owner]
    found[0] = False
    return found
