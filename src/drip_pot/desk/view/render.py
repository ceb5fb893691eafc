# SPDX-License-Identifier: GPL-3.0-or-later
"""Pixels for any tile of a page, as a look shows it. Knows the snapshot; of Qt only the image class.

It can work in any thread, as nothing it reads ever changes.
"""

from dataclasses import dataclass, replace
from typing import Literal

import cv2
import msgspec
import numpy as np
from PyQt6.QtGui import QImage

from drip_pot.book.proof import proof
from drip_pot.book.ready import Ready
from drip_pot.core.arrays import F64, I32, I64, U8, Bool
from drip_pot.core.color import lightness
from drip_pot.core.inks import coverage, mended, vanishing
from drip_pot.core.press import STAND_IN, Wear, steps_of
from drip_pot.core.regions import LOUD
from drip_pot.core.render import take_colors, with_line
from drip_pot.desk.session.page_view import Flatted, PageView, ready_of

TILE = 256
PLATES = ("Cyan", "Magenta", "Yellow", "Black")
_ASIDE, _MM = 0.4, 25.4
_SQUINT, _DIM = 3, 0.78
_STRIPE_PX, _HEAVY, _MOST_LPI, _DOT_PX = 10, 0.95, 200.0, 5
_WAYS, _GREYS, _HATCH, _WEAVE = 4, np.array([1.0, 0.78, 0.58]), 0.62, 0.86
_ALERT = (208, 64, 26, 255)
_INKED = 96
_DEEP, _NEAR = 70, 248
Kind = Literal["scan", "line", "flats", "press"]


@dataclass(frozen=True)
class Look:
    """What is shown of a page.

    Attributes
    ----------
    kind : str
        'scan' (the original), 'line' (ink on paper), 'flats' (colour) or 'press' (plates).
    lines, tone, loud, values, held : bool
        With the line; in two tones; in working colours; in greys; with coloured lines.
    plates : tuple of bool
        Cyan, magenta, yellow, black, then inks beside them shown; those it does not speak of are shown.
    trap : bool
        With traps marked.
    lettering : bool
        With lettering sheets.
    losses : bool
        With line marked that a two-level result loses.
    outline : bool
        As the outlines of the regions alone.
    leftovers : bool
        With what nobody poured striped in the alert colour.
    steps : int
        Greys in so many steps; 0 is smoothly.
    line_share : float
        How strongly the line is seen, 0..1.
    hatched : bool
        Loud colours in hatching and lightness too.
    squint : bool
        Without detail.
    marked : int
        The hold whose strokes are striped; 0 is none.
    depth : bool
        In greys by depth, what lies in front lighter.
    alone : tuple of int
        Atoms that are seen while all else is dimmed; none is everything.
    paper : bool
        On the colour of the sheet, in a proof.
    opens : bool
        With the places marked that open when plates stray.
    load, stand_in, screens : bool
        How much ink lies where; as the press stand-in prints it; in the halftone dots of the press.
    old, dpi : bool, float
        As old stock; of a page of that resolution.
    moved : tuple of (float, float)
        How far each of the four plates is moved, in mm down and to the right; empty is in register.
    """

    kind: Kind = "flats"
    lines: bool = True
    line_share: float = 1.0
    tone: bool = True
    loud: bool = False
    hatched: bool = False
    values: bool = False
    held: bool = True
    plates: tuple[bool, ...] = (True, True, True, True)
    trap: bool = False
    lettering: bool = True
    losses: bool = False
    outline: bool = False
    leftovers: bool = False
    steps: int = 0
    squint: bool = False
    marked: int = 0
    depth: bool = False
    alone: tuple[int, ...] = ()
    paper: bool = False
    opens: bool = False
    load: bool = False
    stand_in: bool = False
    screens: bool = False
    old: bool = False
    dpi: float = 300.0
    moved: tuple[tuple[float, float], ...] = ()


def render_tile(view: PageView, look: Look, level: int, row: int, col: int) -> QImage:
    """Draw tile (row, col) of 256 px at a level; at the page's edge it is smaller."""
    rgb = _pixels(view, look, level, row * TILE, col * TILE, TILE)
    height, width = rgb.shape[:2]
    image = QImage(rgb.tobytes(), width, height, width * 4, QImage.Format.Format_RGBX8888)
    return image.copy()


def _pixels(view: PageView, look: Look, level: int, top: int, left: int, size: int) -> U8:
    """Pixels (≤ size, ≤ size, 4) at a level; colour is drawn at twice the size and averaged down."""
    full = view.drawing.gray[level].shape
    rows, cols = min(size, full[0] - top), min(size, full[1] - left)
    if look.squint:
        return _squinted(view, look, level, top, left, (rows, cols))
    if look.kind in ("scan", "line") or view.flat is None:
        return _grey(view, look, level, top, left, rows, cols)
    fine = max(0, level - 1)
    scale = 2 if fine < level else 1
    cut = slice(top * scale, (top + rows) * scale), slice(left * scale, (left + cols) * scale)
    out = (
        _press(view, view.flat, look, fine, cut) if look.kind == "press" else _colors(view, view.flat, look, fine, cut)
    )
    if scale == 2:
        out = cv2.resize(out, (cols, rows), interpolation=cv2.INTER_AREA)
    if look.values:
        out = _rgbx(_stepped(lightness(out), look.steps))
    return np.ascontiguousarray(out)


def _stepped(grey: U8, steps: int) -> U8:
    """Return greys in so many steps, as far apart as they can be; 0 leaves them smooth."""
    if not steps:
        return grey
    table = np.minimum(np.arange(256) * steps // 256, steps - 1) * 255 // (steps - 1)
    return np.asarray(cv2.LUT(grey, table.astype(np.uint8)), np.uint8)


def _squinted(view: PageView, look: Look, level: int, top: int, left: int, size: tuple[int, int]) -> U8:
    """Draw a tile from a much coarser level, blurred; pixels beyond its edge are drawn along, so that tiles meet."""
    step = min(_SQUINT, view.levels - 1 - level)
    coarse, factor, wider = level + step, 1 << step, 1 << (_SQUINT - step)
    margin = 4 * wider
    full = view.drawing.gray[coarse].shape
    r0, c0 = max(0, top // factor - margin), max(0, left // factor - margin)
    rows = min(full[0], -(-(top + size[0]) // factor) + margin) - r0
    cols = min(full[1], -(-(left + size[1]) // factor) + margin) - c0
    plain = replace(look, squint=False)
    small = cv2.GaussianBlur(_pixels(view, plain, coarse, r0, c0, max(rows, cols))[:rows, :cols], (0, 0), 1.1 * wider)
    wide = cv2.resize(small, (small.shape[1] * factor, small.shape[0] * factor), interpolation=cv2.INTER_LINEAR)
    cut = wide[top - r0 * factor :, left - c0 * factor :][: size[0], : size[1]]
    return np.asarray(cv2.copyMakeBorder(
        cut, 0, size[0] - cut.shape[0], 0, size[1] - cut.shape[1], cv2.BORDER_REPLICATE), np.uint8)  # fmt: skip


def _grey(view: PageView, look: Look, level: int, top: int, left: int, rows: int, cols: int) -> U8:
    cut = slice(top, top + rows), slice(left, left + cols)
    if look.kind == "scan":
        return _rgbx(view.drawing.gray[level][cut])
    inks = view.preview or view.inks
    margin = 5
    r0, c0 = max(0, top - margin), max(0, left - margin)
    inside = slice(top - r0, top - r0 + rows), slice(left - c0, left - c0 + cols)
    settings = msgspec.structs.replace(inks.settings, weight_px=inks.settings.weight_px / (1 << level))
    piece = view.drawing.evened[level][r0 : top + rows + margin, c0 : left + cols + margin]
    if view.preview is not None:
        ink = coverage(np.ascontiguousarray(piece), settings)[inside]
        ink = ink if view.drawing.repair is None else mended(ink, view.drawing.repair[level][cut])
    else:
        ink = view.drawing.own[level][cut]
    if view.drawing.rest is not None:
        ink = np.maximum(ink, (view.drawing.rest[level][cut] * np.float32(_ASIDE)).astype(np.uint8))
    out = _rgbx(cv2.bitwise_not(np.ascontiguousarray(ink)))
    if look.losses and settings.threshold is not None:
        out[vanishing(np.ascontiguousarray(piece), settings)[inside] > 0] = _ALERT
    return out


def _rgbx(gray: U8) -> U8:
    gray = np.ascontiguousarray(gray)
    return np.asarray(cv2.merge([gray, gray, gray, np.full_like(gray, 255)]), np.uint8)


def _colors(view: PageView, flat: Flatted, look: Look, level: int, cut: tuple[slice, slice]) -> U8:
    if look.outline:
        return _outlines(flat, level, cut)
    if look.lines and look.line_share < 1:
        whole, bare = (_colors(view, flat, one, level, cut) for one in (
            replace(look, line_share=1.0), replace(look, lines=False)))  # fmt: skip
        return np.asarray(cv2.addWeighted(whole, look.line_share, bare, 1 - look.line_share, 0), np.uint8)
    ready = ready_of(view, flat, level, lettering=look.lettering)
    if look.depth and flat.tables.depth is not None:
        piece = ready.piece(*cut, passes=False)
        out = _deep(piece.labels, flat.tables.depth)
        return with_line(out, piece, list(flat.tables.stack), flat.tables.screen, flat.tables.washes)
    if not (look.leftovers or (look.loud and flat.loud is not None)):
        out = ready.screen(*cut, lines=look.lines, tone=look.tone, held=look.held)
        out = _held(ready, out, look.marked, cut) if look.marked else out
        return out if not look.alone else _dimmed(out, flat.labels[level][cut], look.alone)
    piece, colors = ready.piece(*cut, passes=False), flat.tables.screen
    if look.loud and flat.loud is not None:
        out = _woven(piece.labels, flat.loud, colors.flat[0], cut, strong=look.hatched)
    else:
        out = _striped(view, flat, piece.labels, ready.screen(*cut, lines=False, tone=look.tone), cut)
    return out if not look.lines else with_line(out, piece, list(flat.tables.stack), colors, flat.tables.washes)


def _held(ready: Ready, out: U8, number: int, cut: tuple[slice, slice]) -> U8:
    """Stripe the strokes that a hold has."""
    rows = ready.tables.held.get(number)
    if rows is None or not len(rows):
        return out
    piece, mine = ready.piece(*cut, passes=False), np.zeros(len(ready.tables.screen.line), bool)
    mine[rows] = True
    held = np.take(mine, piece.line, mode="clip") & (piece.ink > _INKED)
    place = next((k for k, wash in enumerate(ready.tables.washes) if wash.number == number), None)
    share = None if place is None else piece.shares[place]
    held &= True if share is None else share > _INKED
    stripe, out = _stripes(held.shape, cut), out.copy()
    out[held & stripe] = _ALERT
    out[held & ~stripe] = 255
    return out


def _deep(labels: I32, depth: F64) -> U8:
    """Draw what lies in front lighter than what lies behind."""
    grey = np.full((len(depth), 4), 255, np.uint8)
    grey[:, :3] = np.rint(_DEEP + (_NEAR - _DEEP) * depth)[:, None]
    return take_colors(labels, None, grey)


def _dimmed(out: U8, labels: I32, alone: tuple[int, ...]) -> U8:
    """Dim all but some atoms."""
    seen = np.zeros(max(int(labels.max()), *alone) + 1, bool)
    seen[list(alone)] = True
    faint = cv2.addWeighted(out, 1 - _DIM, np.full_like(out, 205), _DIM, 0)
    return np.where(seen[labels][..., None], out, faint).astype(np.uint8)


def _striped(view: PageView, flat: Flatted, labels: I32, colored: U8, cut: tuple[slice, slice]) -> U8:
    """Stripe what nobody poured."""
    out = colored.copy()
    out[np.take(flat.leftovers, labels, mode="clip") & (labels > 0) & _stripes(labels.shape, cut)] = _ALERT
    return out


def _stripes(shape: tuple[int, ...], cut: tuple[slice, slice]) -> Bool:
    """Tell where the dark of stripes on the slant lies in a piece."""
    down, right = np.ogrid[: shape[0], : shape[1]]
    return np.asarray(((down + cut[0].start + right + cut[1].start) // _STRIPE_PX) % 2 == 0)


def _woven(labels: I32, loud: I64, paper: U8, cut: tuple[slice, slice], *, strong: bool) -> U8:
    """Draw regions in loud colours, woven in four ways by their numbers, so that none is taken for one of the page.

    Where it is to be `strong` they are told by hatching and by lightness too, each way in three greys.
    """
    light = np.column_stack([LOUD[loud], np.full(len(loud), 255, np.uint8)])
    if strong:
        light[:, :3] = light[:, :3] * _GREYS[loud // _WAYS, None]
    dark = light.copy()
    dark[:, :3] = light[:, :3] * (_HATCH if strong else _WEAVE)
    light[0] = dark[0] = paper
    down, right = np.ogrid[cut[0].start : cut[0].start + labels.shape[0], cut[1].start : cut[1].start + labels.shape[1]]
    way = np.take((loud % _WAYS).astype(np.uint8), labels, mode="clip")
    threads = np.zeros(labels.shape, np.uint8)
    for number, lines in ((1, down + right), (2, down - right), (3, down)):
        threads |= ((way == number) & (lines // _STRIPE_PX % 2 == 0)).view(np.uint8)
    return take_colors(labels, threads, np.concatenate([light, dark]))


def _outlines(flat: Flatted, level: int, cut: tuple[slice, slice]) -> U8:
    """Draw where regions meet, without line or colour."""
    rows, cols = cut
    region = flat.partition.region[flat.labels[level][rows.start : rows.stop + 1, cols.start : cols.stop + 1]]
    edge = np.zeros(region.shape, np.uint8)
    edge[:, :-1] |= (region[:, 1:] != region[:, :-1]).view(np.uint8)
    edge[:-1] |= (region[1:] != region[:-1]).view(np.uint8)
    shape = flat.labels[level][cut].shape
    return _rgbx(np.where(edge[: shape[0], : shape[1]] > 0, 0, 255).astype(np.uint8))


def _press(view: PageView, flat: Flatted, look: Look, level: int, cut: tuple[slice, slice]) -> U8:
    traps = None if view.proved is None else view.proved.levels[level]
    if look.stand_in or look.screens or (look.old and not flat.tables.wear.is_new):
        # a dot needs some pixels: on a coarse page they are drawn larger than they print
        ruling = max(20.0, min(flat.tables.press.press.ruling_lpi, _MOST_LPI, look.dpi / _DOT_PX))
        wear = STAND_IN if look.stand_in else Wear(steps_of(screen=ruling)) if look.screens else None
        height, width = flat.labels[level].shape
        rows, cols = (slice(c.start, min(c.stop, n)) for c, n in zip(cut, (height, width), strict=True))
        seen = ready_of(view, flat, level).old_stock(rows, cols, traps, view.shape, look.dpi, wear)
        return np.dstack([seen, np.full(seen.shape[:2], 255, np.uint8)])
    trap = None if traps is None else traps[cut]
    cmyk = ready_of(view, flat, level).plates(*cut, trap)
    if look.moved:
        cmyk = _moved(view, flat, look, level, cut)
    out = np.full((*cmyk.shape[:2], 4), 255, np.uint8)
    out[..., :3] = proof(cmyk, look.plates, flat.tables.press.condition, paper=look.paper, spots=flat.tables.spots)
    if look.load:
        out[..., :3] = _load(cmyk, flat.tables.press.ink_limit)
    if look.trap and trap is not None:
        marked = trap > 0
        out[..., :3][~marked] = 255 - (255 - out[..., :3][~marked]) // 3
        out[marked] = (20, 20, 20, 255)
    if look.opens and view.proved is not None:
        cells, cell = view.proved.register.map, view.proved.register.cell_px
        rows = np.minimum((np.arange(cut[0].start, cut[0].start + len(out)) << level) // cell, len(cells) - 1)
        cols = np.minimum((np.arange(cut[1].start, cut[1].start + len(out[0])) << level) // cell, len(cells[0]) - 1)
        out[cells[rows][:, cols] > 0] = _ALERT
    return out


def _moved(view: PageView, flat: Flatted, look: Look, level: int, cut: tuple[slice, slice]) -> U8:
    """Return the plates of a piece, each moved its own way, to parts of a pixel; beyond the page there is no ink."""
    traps = None if view.proved is None else view.proved.levels[level]
    size, ready = flat.labels[level].shape, ready_of(view, flat, level)
    (top, bottom, _), (left, right, _) = (c.indices(n) for c, n in zip(cut, size, strict=True))
    moves = np.array(look.moved) / _MM * look.dpi / (1 << level)
    around = int(np.ceil(np.abs(moves).max())) + 1
    where = (
        slice(max(0, top - around), min(size[0], bottom + around)),
        slice(max(0, left - around), min(size[1], right + around)),
    )
    inks = ready.plates(*where, None if traps is None else traps[where])
    out = np.empty((bottom - top, right - left, inks.shape[2]), np.uint8)
    for plate in range(inks.shape[2]):
        down, across = moves[plate] if plate < len(moves) else (0.0, 0.0)
        way = np.array([[1, 0, across - left + where[1].start], [0, 1, down - top + where[0].start]], np.float32)
        ink = np.ascontiguousarray(inks[..., plate])
        out[..., plate] = cv2.warpAffine(ink, way, (right - left, bottom - top), flags=cv2.INTER_LINEAR)
    return out


def _load(inks: U8, limit: int) -> U8:
    """Show how much ink lies where, (M, N, 3): the darker the more, in the alert colour from 95 % of the limit on."""
    total = inks.sum(axis=2, dtype=np.uint32) / 2.55
    grey = np.clip(255 - total * (215 / limit), 30, 255).astype(np.uint8)
    out = np.repeat(grey[..., None], 3, axis=2)
    out[total >= _HEAVY * limit] = _ALERT[:3]
    return out


def plates_at(view: PageView, row: int, col: int) -> dict[str, int] | None:
    """Ink in per cent on every plate at a pixel, with trap and line; None before the page is known."""
    if view.flat is None:
        return None
    cut = slice(row, row + 1), slice(col, col + 1)
    trap = None if view.proved is None else view.proved.levels[0][cut]
    inks = ready_of(view, view.flat).plates(*cut, trap)[0, 0].tolist()
    names = (*PLATES, *(spot.name for spot in view.flat.tables.spots))
    return {name: round(value / 2.55) for name, value in zip(names, inks, strict=True)}
