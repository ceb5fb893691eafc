# SPDX-License-Identifier: GPL-3.0-or-later
"""Trapping: which edges need it and where the lighter colour spreads. Knows colour numbers, inks and coverage only."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import cv2
import numpy as np

from drip_pot.core.arrays import F64, I32, I64, U8, U16, U32, Bool, check_plane
from drip_pot.core.press.limit import COVERS
from drip_pot.core.press.model import lightness_of
from drip_pot.core.press.plates import Plates, Printing
from drip_pot.core.press.separate import PART, Composed
from drip_pot.core.press.soft import Mixed
from drip_pot.core.render import LineWash, Piece
from drip_pot.core.strips import in_strips

_SHOWS_L, _ALIKE = 3.0, 0.2
_SHARE, _TWO_SIDED_PX, _LEAST_PART = 3.0, 2.0, 0.02


@dataclass(frozen=True)
class Traps:
    """Where colour is spread.

    Attributes
    ----------
    spread : (M, N) ndarray of uint32
        Number (from 1) of the colour spread into each pixel, 0 for none; and in the highest byte how much of the pixel
        it leaves out, 0..255, so that widths are true to parts of a pixel. `PART` is the place of that byte.
    edge_px : int
        Pixel sides at which two colours meet.
    needed_px : int
        Pixel sides at which they meet without black between them and would show something lighter if they parted.
    inks : (T + 1, P) ndarray of uint8
        The inks by number; those of `Plates` come first, with the same numbers.
    """

    spread: U32
    edge_px: int
    needed_px: int
    inks: U8

    def fits(self, plates: Plates) -> bool:
        """Whether they were made with these inks."""
        return len(self.inks) >= len(plates.inks) and np.array_equal(self.inks[: len(plates.inks)], plates.inks)


@dataclass(frozen=True)
class Overrule:
    """Edges between two areas that are trapped as a hand says.

    Attributes
    ----------
    one, two : (A + 1,) ndarrays of bool
        The atoms of either side.
    into, back : bool
        Whether the first spreads into the second, and the second into the first.
    width_px : float
        How far.
    """

    one: Bool
    two: Bool
    into: bool
    back: bool
    width_px: float


@dataclass(frozen=True)
class OnTop:
    """What is on top at every pixel of a page, as it is composed.

    Attributes
    ----------
    ids : (M, N) ndarray of int32
        Number of the inks there, from 1: of flats, of what passes made of them, of line that is not black.
    black : (M, N) ndarray of uint8
        Coverage of black that overprints.
    inks : (C + 1, P) ndarray of uint8
        The inks by number: those of `Plates`, then of mixed colours. Entry 0 is empty.
    condition, solids
        As of `Plates`.
    tone : (M, N) ndarray of uint8, or None
        1 where atoms have their plain shadow colours; None is nowhere, or where the line has no other colour there.
    """

    ids: I32
    black: U8
    inks: U8
    condition: str = "coated"
    solids: F64 | None = None
    tone: U8 | None = None


def on_top(pieces: Callable[[slice], Composed], rows: int, printing: Printing) -> OnTop:
    """Tell what is on top of a page.

    Parameters
    ----------
    pieces : callable
        Returns some rows of the page with its passes laid, as `composed` does.
    rows : int
        How many rows the page has.
    printing : Printing
        As for `separate`.

    Notes
    -----
    Mixed colours are numbered by what is seen, so that where a pass covers an edge wholly there is none any more.
    """
    plates = printing.plates
    parts = in_strips(lambda strip: _top_of(pieces(strip.rows), printing), rows, height=512)
    extra = [np.zeros((0, plates.inks.shape[1]), np.uint8)]
    known: dict[int, int] = {}
    for ids, _, _, mixed in parts:
        if mixed is None:
            continue
        codes = mixed.codes.tolist()
        fresh = [place for place, code in enumerate(codes) if code not in known]
        known |= {codes[place]: len(plates.inks) + len(known) + k for k, place in enumerate(fresh)}
        extra.append(mixed.inks[fresh])
        numbers = np.array([known[code] for code in codes], np.int32)
        ids.reshape(-1)[mixed.where] = numbers[mixed.which]
    inks = np.concatenate([plates.inks, *extra])
    ids, black = (np.concatenate([part[k] for part in parts]) for k in (0, 1))
    tone = None
    if plates.line_shadow is not None and any(part[2] is not None for part in parts):
        tone = np.concatenate([np.zeros(part[0].shape, np.uint8) if part[2] is None else part[2] for part in parts])
    return OnTop(ids, black, inks, plates.condition, plates.solids, tone)


def _top_of(made: Composed, printing: Printing) -> tuple[I32, U8, U8 | None, Mixed | None]:
    """Return numbers, black and shadow of some rows, and what passes mixed where nothing lies over it."""
    piece, mixed = made.piece, made.mixed
    ids, black = color_ids(piece, made.tone, printing.plates, printing.washes)
    if mixed is None:
        return ids, black, made.tone, None
    plain = _flat_ids(piece, made.tone, printing.plates).reshape(-1)[mixed.where] == ids.reshape(-1)[mixed.where]
    where, which = mixed.where[plain], mixed.which[plain]
    there = np.zeros(len(mixed.codes), bool)
    there[which] = True
    numbers = np.cumsum(there) - 1
    return ids, black, made.tone, Mixed(where, numbers[which], mixed.codes[there], mixed.inks[there])


def _flat_ids(piece: Piece, shade: U8 | None, plates: Plates) -> I32:
    labels = piece.labels
    index = labels if shade is None else labels + shade.astype(np.int32) * (len(plates.flat) // 2)
    return np.asarray(np.take(plates.flat, index, mode="clip"), np.int32)


def color_ids(piece: Piece, shade: U8 | None, plates: Plates, washes: tuple[LineWash, ...] = ()) -> tuple[I32, U8]:
    """Give every pixel the number of its inks, and find overprinting black.

    Parameters
    ----------
    piece : Piece
        Its planes.
    shade : (M, N) ndarray of uint8, or None
        1 where it has the plain shadow colours of its atoms.
    plates : Plates
        Ink tables.
    washes : tuple of LineWash
        What lies over the line; where it covers for the better part, the line has its colour, or is not there.

    Returns
    -------
    ids : (M, N) ndarray of int32
        Index into `plates.inks` of what is on top: flats, and line that is not black, where it covers for the better
        part; 0 is bare paper that a line was left out to.
    black : (M, N) ndarray of uint8
        Coverage of black that overprints.
    """
    ink, rows = piece.ink, piece.line
    ids = _flat_ids(piece, shade, plates)
    if plates.all_black:
        return ids, ink
    where = np.flatnonzero(ink)
    line = rows.reshape(-1)[where]
    is_black, gone = np.take(plates.is_black, line, mode="clip"), np.zeros(len(where), bool)
    ramped, paper = np.zeros((2, len(where)), bool)
    for wash, number, share in zip(washes, plates.washes, piece.shares, strict=False):
        over = np.take(wash.alpha, line, mode="clip") >= 128
        over &= share.reshape(-1)[where] >= 128 if share is not None else True
        if wash.form != "color":
            gone, paper = gone | over, (paper | over) if wash.form == "paper" else paper & ~over
        elif wash.ramp is None:
            gone, ramped, paper = gone & ~over, ramped & ~over, paper & ~over
            is_black = np.where(over, np.take(number.is_black, line, mode="clip"), is_black)
        else:
            ramped |= over
    black = np.zeros(ink.shape, np.uint8)
    black.reshape(-1)[where] = np.where(is_black & ~gone, ink.reshape(-1)[where], 0)
    covers = np.flatnonzero(~is_black & ~gone & ~ramped & (ink.reshape(-1)[where] >= 128))
    colored = where[covers]
    ids.reshape(-1)[colored] = _line_numbers(piece, colored, shade, plates, washes)
    ids.reshape(-1)[where[paper & (ink.reshape(-1)[where] >= 128)]] = 0
    return ids, black


def line_under_black(
    piece: Piece, shade: U8 | None, plates: Plates, black: U8, width_px: float, washes: tuple[LineWash, ...] = ()
) -> U16:  # fmt: skip
    """Spread coloured lines under black ones that they run into, so that nothing opens where they meet.

    Parameters
    ----------
    piece, shade, plates, washes
        As for `color_ids`.
    black : (M, N) ndarray of uint8
        Coverage of black that overprints.
    width_px : float
        How far they spread; 0 leaves everything as it is.

    Returns
    -------
    (M, N) ndarray of uint16
        Number of the line's inks under full black within that distance of it; 0 elsewhere.
    """
    out = np.zeros(black.shape, np.uint16)
    colored = (piece.ink >= COVERS) & (black < COVERS // 2)
    if width_px <= 0 or plates.all_black or not colored.any():
        return out
    reach = 2 * int(width_px + 1) + 1
    near = cv2.dilate(colored.view(np.uint8), np.ones((reach, reach), np.uint8))
    if not ((near > 0) & (black >= COVERS)).any():
        return out
    away, nearest = cv2.distanceTransformWithLabels(
        (~colored).view(np.uint8), cv2.DIST_L2, 5, labelType=cv2.DIST_LABEL_PIXEL
    )
    reached = np.flatnonzero((black >= COVERS) & (away <= width_px + 0.5))
    if not len(reached):
        return out
    where = np.flatnonzero(colored)
    table = np.zeros(int(nearest.max()) + 1, np.uint16)
    table[nearest.reshape(-1)[where]] = _line_numbers(piece, where, shade, plates, washes)
    out.reshape(-1)[reached] = table[nearest.reshape(-1)[reached]]
    return out


def _line_numbers(piece: Piece, where: I64, shade: U8 | None, plates: Plates, washes: tuple[LineWash, ...]) -> U16:
    """Return the number of the line's inks at some flat places, as its topmost opaque wash has it."""
    rows, dark = piece.line.reshape(-1)[where], None if shade is None else shade.reshape(-1)[where] > 0
    found = np.take(plates.line, rows, mode="clip")
    if dark is not None and plates.line_shadow is not None:
        found = np.where(dark, np.take(plates.line_shadow, rows, mode="clip"), found)
    for wash, number, share in zip(washes, plates.washes, piece.shares, strict=False):
        if wash.form == "color" and wash.ramp is None:
            over = np.take(wash.alpha, rows, mode="clip") >= 128
            over &= share.reshape(-1)[where] >= 128 if share is not None else True
            light, shadow = (np.take(table, rows, mode="clip") for table in (number.light, number.dark))
            found = np.where(over, light if dark is None else np.where(dark, shadow, light), found)
    return found


def trap_way(one: U8, two: U8, condition: str = "coated", solids: F64 | None = None) -> tuple[Bool, Bool]:
    """Tell, for pairs of inks, whether the first spreads into the second, and the second into the first.

    Parameters
    ----------
    one, two : (N, P) ndarrays of uint8
        Cyan, magenta, yellow, black first.
    condition, solids
        As of `Plates`.

    Returns
    -------
    into, back : (N,) ndarrays of bool
        Both where the colours are about as dense: the trap is then centred. Neither where what the two have in common
        is not lighter than the lighter of them by at least 3 L*: nothing would show if they parted.
    """
    light, other, common = (lightness_of(k, condition, solids) for k in (one, two, np.minimum(one, two)))
    needed = common - np.maximum(light, other) >= _SHOWS_L
    dense = [-np.log10(np.maximum(((k + 16) / 116) ** 3, 1e-4)) for k in (light, other)]
    alike = np.abs(dense[0] - dense[1]) <= _ALIKE * np.maximum(np.maximum(*dense), 1e-6)
    return needed & (alike | (dense[0] < dense[1])), needed & (alike | (dense[1] < dense[0]))


def find_traps(
    top: OnTop, width_px: float, labels: I32 | None = None, overrules: Sequence[Overrule] = (), base: int | None = None
) -> Traps:
    """Spread lighter colours into darker ones wherever nothing black hides their edge.

    Parameters
    ----------
    top : OnTop
        What is on top of the page.
    width_px : float
        How far to spread; 0 only counts edges. Where both colours are about as dense each spreads by half of it, and
        neither spreads by more than a third of what it or the other measures there.
    labels : (M, N) ndarray of int32, optional
        Atom of every pixel; needed where there are overrules.
    overrules : sequence of Overrule
        Edges that are trapped as a hand says, or not at all; later ones win.
    base : int, optional
        How many of the colours keep their numbers; of the others, those that spread are numbered anew. None is all.

    Raises
    ------
    BadInput
        If an array has another shape or type.

    Notes
    -----
    An edge is hidden where the black over it reaches at least `width_px` (at least 1 px) to both sides. Of
    several colours that could spread into a pixel the nearest wins.
    """
    ids, black, inks = top.ids, top.black, top.inks
    check_plane(ids, np.int32, "ids")
    widest = max([width_px, 1.0, *(rule.width_px for rule in overrules)])
    depth = cv2.distanceTransform((black >= COVERS).view(np.uint8), cv2.DIST_L2, 5).ravel()
    cols, flat = ids.shape[1], ids.ravel()
    edge_px, needed_px = 0, 0
    meeting: list[tuple[I64, I64]] = []
    for one, two, step in (
        ((slice(None), slice(None, -1)), (slice(None), slice(1, None)), 1),
        ((slice(None, -1), slice(None)), (slice(1, None), slice(None)), cols),
    ):
        r, c = np.nonzero(ids[one] != ids[two])
        edge_px += len(r)
        at = r * cols + c
        at = at[depth[at] <= widest]
        meeting.append((at, at + step))
    a, b = (np.concatenate([pair[k] for pair in meeting]) for k in (0, 1))
    pairs, which = np.unique(flat[a].astype(np.int64) * len(inks) + flat[b], return_inverse=True)
    into, back = trap_way(inks[pairs // len(inks)], inks[pairs % len(inks)], top.condition, top.solids)
    if width_px < _TWO_SIDED_PX:  # too little for a half on each side
        back &= ~into
    into, back = into[which], back[which]
    width = np.full(len(a), width_px)
    atoms = np.zeros(1, np.int32) if labels is None else labels.reshape(-1)
    for rule in overrules if labels is not None else ():
        first, second = atoms[a], atoms[b]
        ways = (rule.one, rule.two, rule.into, rule.back), (rule.two, rule.one, rule.back, rule.into)
        for this, that, ahead, behind in ways:
            mine = np.take(this, first, mode="clip") & np.take(that, second, mode="clip")
            into, back = np.where(mine, ahead, into), np.where(mine, behind, back)
            width = np.where(mine, rule.width_px, width)
    seen = depth[a] <= np.maximum(width, 1.0)
    into, back = into & seen, back & seen
    needed_px = int((into | back).sum())
    spread, part = np.zeros(ids.shape, np.int32), np.zeros(ids.shape, np.uint8)
    if width.max(initial=0.0) > 0 and needed_px:
        sources = np.concatenate([a[into], b[back]])
        targets = np.concatenate([b[into], a[back]])
        wide = np.where(into & back, width / 2, width)
        _spread(spread, part, ids, sources, flat[targets], np.concatenate([wide[into], wide[back]]))
    return _gathered(spread, part, edge_px, needed_px, inks, len(inks) if base is None else base)


def _gathered(spread: I32, part: U8, edge_px: int, needed_px: int, inks: U8, base: int) -> Traps:
    """Return traps whose numbers of mixed colours are few, with the inks of all of them."""
    if len(inks) <= base:
        return Traps(_with_part(spread, part), edge_px, needed_px, inks)
    mixed = np.flatnonzero(spread >= base)
    numbers, which = np.unique(spread.reshape(-1)[mixed], return_inverse=True)
    spread.reshape(-1)[mixed] = base + which.reshape(-1)
    return Traps(_with_part(spread, part), edge_px, needed_px, np.concatenate([inks[:base], inks[numbers]]))


def _with_part(spread: I32, part: U8) -> U32:
    out = spread.view(np.uint32)
    where = np.flatnonzero(spread)
    out.reshape(-1)[where] |= (255 - part.reshape(-1)[where]).astype(np.uint32) << np.uint32(PART)
    return out


def _spread(spread: I32, part: U8, ids: I32, sources: I64, into: U16, width_px: F64) -> None:
    """Spread the colours of some pixels, each into one other colour; the last pixel it reaches is covered in part."""
    thick = _thickness(ids)
    reach = int(np.ceil(width_px.max())) + 1
    offsets = [(r, c) for r in range(-reach, reach + 1) for c in range(-reach, reach + 1)]
    offsets = [o for o in offsets if 0 < np.hypot(*o) < width_px.max() + 1]
    rows, cols = sources // ids.shape[1], sources % ids.shape[1]
    own, most = ids.ravel()[sources], thick.ravel()[sources] / _SHARE
    for dr, dc in sorted(offsets, key=lambda o: -np.hypot(*o)):
        r, c, away = rows + dr, cols + dc, float(np.hypot(dr, dc))
        share = np.clip(width_px + 1 - away, 0, 1)
        inside = (r >= 0) & (c >= 0) & (r < ids.shape[0]) & (c < ids.shape[1]) & (away <= most) & (share > _LEAST_PART)
        r, c, mine, wanted, share = r[inside], c[inside], own[inside], into[inside], share[inside]
        fits = (ids[r, c] == wanted) & (away <= thick[r, c] / _SHARE)
        spread[r[fits], c[fits]] = mine[fits]
        part[r[fits], c[fits]] = np.rint(share[fits] * 255)


def _thickness(ids: I32) -> U16:
    """Return how many pixels of the same number lie in a row with each, across or down, whichever are fewer."""
    down = _runs(np.asarray(cv2.transpose(ids), np.int32))
    return np.minimum(_runs(ids), np.asarray(cv2.transpose(down), np.uint16))


def _runs(ids: I32) -> U16:
    flat = ids.ravel()
    change = np.ones(len(flat), bool)
    change[1:] = flat[1:] != flat[:-1]
    change[:: ids.shape[1]] = True
    starts = np.flatnonzero(change)
    lengths = np.diff(np.append(starts, len(flat)))
    return np.repeat(np.minimum(lengths, 65535).astype(np.uint16), lengths).reshape(ids.shape)
