"""A page ready to be drawn: an unchanging snapshot of planes and tables, and pixels for any tile of it.

Knows core and the book's tables; of Qt only the image class, so that it can work in any thread.
"""

from dataclasses import dataclass, field, replace
from typing import Literal

import cv2
import msgspec
import numpy as np
from PyQt6.QtGui import QImage

from drip_pot.book import Facts, InkState, LineState, Register, SheetLine, Tables
from drip_pot.core.arrays import I32, I64, U8, U16, Gray, Rect
from drip_pot.core.inks import Pieces, coverage, mended, vanishing
from drip_pot.core.press import Traps, appearance, separate
from drip_pot.core.regions import LOUD, Atoms, Divided, Partition
from drip_pot.core.render import Colors, level_for, mix_line, pack, paint, patched_pyramid, take_colors

TILE = 256
_ASIDE = 0.4
_STRIPE_PX = 10
_ALERT = (208, 64, 26, 255)
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
        Cyan, magenta, yellow, black shown.
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
    """

    kind: Kind = "flats"
    lines: bool = True
    tone: bool = True
    loud: bool = False
    values: bool = False
    held: bool = True
    plates: tuple[bool, bool, bool, bool] = (True, True, True, True)
    trap: bool = False
    lettering: bool = True
    losses: bool = False
    outline: bool = False
    leftovers: bool = False


@dataclass(frozen=True)
class Painted:
    """What is painted, as pyramids: atoms (0 is paper), line coverage, rows of the line colours."""

    labels: list[I32]
    ink: list[U8]
    line: list[I32]


@dataclass(frozen=True)
class PageView:
    """Everything a tile can need; what is not known yet is None.

    Pyramids are lists of planes, each half the size of the one before. `gray`, `evened`, `own` and `pieces` belong to
    the sheet in hand, `rest` to the other sheets, `painted` to the whole page and `flatting` to it without lettering.
    """

    line: LineState
    sheet: SheetLine
    gray: list[U8]
    evened: list[Gray]
    own: list[U8]
    rest: list[U8] | None
    repair: list[U8] | None
    ink: list[U8]
    pieces: Pieces
    is_colored: bool = False
    thumbs: dict[int, U8] = field(default_factory=dict)
    preview: InkState | None = None
    divided: Divided | None = None
    atoms: Atoms | None = None
    facts: Facts | None = None
    labels: list[I32] | None = None
    painted: Painted | None = None
    flatting: Painted | None = None
    partition: Partition | None = None
    loud: I64 | None = None
    tables: Tables | None = None
    shade: U8 | None = None
    traps: Traps | None = None
    trap_levels: list[U16] | None = None
    register: Register | None = None
    gap_px: float = 0.0

    @property
    def inks(self) -> InkState:
        """Ink of the sheet in hand."""
        return self.sheet.inks

    @property
    def shape(self) -> tuple[int, int]:
        """Rows and columns of the page."""
        return self.gray[0].shape[0], self.gray[0].shape[1]

    def level(self, zoom: float) -> int:
        """Pyramid level for a zoom."""
        return level_for(zoom, len(self.gray))


def repainted(painted: Painted, old: list[I32], new: list[I32], rect: Rect, count: int) -> Painted:
    """Put other atoms into what is painted, within a rectangle, in place where it has planes of its own.

    Balloons stay paper, and lettering and effects keep their colours; lines take the colour of the atom they lie on
    until their holds are known again. `old` and `new` are the pyramids of the atoms, `count` the atoms there were.
    """
    labels = new if painted.labels[0] is old[0] else painted.labels
    line = new if painted.line[0] is old[0] else labels if painted.line is painted.labels else painted.line
    top, left, bottom, right = rect
    for level, plane in enumerate(new):
        step = 1 << level
        cut = slice(top // step, -(-bottom // step)), slice(left // step, -(-right // step))
        if line is not new and line is not labels:
            above = line[level][cut]
            np.copyto(above, plane[cut], where=above <= count)
        if labels is not new:
            below = labels[level][cut]
            np.copyto(below, plane[cut], where=below > 0)
    return Painted(labels, painted.ink, line)


def detached(view: PageView) -> PageView:
    """Return a view whose painted planes are its own, so that changing them does not change the first."""

    def copied(painted: Painted | None) -> Painted | None:
        if painted is None or view.labels is None:
            return None
        labels = painted.labels if painted.labels[0] is view.labels[0] else [p.copy() for p in painted.labels]
        line = labels if painted.line is painted.labels else [p.copy() for p in painted.line]
        return Painted(labels, painted.ink, line)

    return replace(view, painted=copied(view.painted), flatting=copied(view.flatting))


def recut(view: PageView, line: LineState, after: Divided, facts: Facts, rect: Rect) -> PageView:
    """Return a view of the same page cut otherwise by hand within a rectangle; its regions are to be decided anew."""
    assert view.labels is not None
    assert view.atoms is not None
    labels, count = patched_pyramid(view.labels, after.atoms.labels, rect), view.atoms.count
    painted, flatting = (
        None if p is None else repainted(p, view.labels, labels, rect, count) for p in (view.painted, view.flatting)
    )
    return replace(
        view, line=line, divided=after, atoms=after.atoms, facts=facts, labels=labels, painted=painted,
        flatting=flatting, traps=None, trap_levels=None,
    )  # fmt: skip


def thumbnail(ink: U8) -> U8:
    """Return coverage reduced to 160 rows, as dark as its line, (160, N) uint8."""
    size = max(1, round(ink.shape[1] * 160 / ink.shape[0])), 160
    small = cv2.resize(ink, size, interpolation=cv2.INTER_AREA)
    return np.asarray(cv2.convertScaleAbs(small, alpha=1.6), np.uint8)


def render_tile(view: PageView, look: Look, level: int, row: int, col: int) -> QImage:
    """Draw tile (row, col) of 256 px at a level; at the page's edge it is smaller."""
    rgb = _pixels(view, look, level, row * TILE, col * TILE, TILE)
    height, width = rgb.shape[:2]
    image = QImage(rgb.tobytes(), width, height, width * 4, QImage.Format.Format_RGBX8888)
    return image.copy()


def _pixels(view: PageView, look: Look, level: int, top: int, left: int, size: int) -> U8:
    """Pixels (≤ size, ≤ size, 4) at a level; colour is drawn at twice the size and averaged down."""
    full = view.gray[level].shape
    rows, cols = min(size, full[0] - top), min(size, full[1] - left)
    if look.kind in ("scan", "line") or view.painted is None or view.tables is None:
        return _grey(view, look, level, top, left, rows, cols)
    fine = max(0, level - 1)
    scale = 2 if fine < level else 1
    cut = slice(top * scale, (top + rows) * scale), slice(left * scale, (left + cols) * scale)
    out = _press(view, look, fine, cut) if look.kind == "press" else _colors(view, look, fine, cut)
    if scale == 2:
        out = cv2.resize(out, (cols, rows), interpolation=cv2.INTER_AREA)
    if look.values:
        grey = cv2.cvtColor(out, cv2.COLOR_RGBA2GRAY)
        out = cv2.merge([grey, grey, grey, np.full_like(grey, 255)])
    return np.ascontiguousarray(out)


def _grey(view: PageView, look: Look, level: int, top: int, left: int, rows: int, cols: int) -> U8:
    cut = slice(top, top + rows), slice(left, left + cols)
    if look.kind == "scan":
        return _rgbx(view.gray[level][cut])
    inks = view.preview or view.inks
    margin = 5
    r0, c0 = max(0, top - margin), max(0, left - margin)
    inside = slice(top - r0, top - r0 + rows), slice(left - c0, left - c0 + cols)
    settings = msgspec.structs.replace(inks.settings, weight_px=inks.settings.weight_px / (1 << level))
    piece = view.evened[level][r0 : top + rows + margin, c0 : left + cols + margin]
    if view.preview is not None:
        ink = coverage(np.ascontiguousarray(piece), settings)[inside]
        ink = ink if view.repair is None else mended(ink, view.repair[level][cut])
    else:
        ink = view.own[level][cut]
    if view.rest is not None:
        ink = np.maximum(ink, (view.rest[level][cut] * np.float32(_ASIDE)).astype(np.uint8))
    out = _rgbx(cv2.bitwise_not(np.ascontiguousarray(ink)))
    if look.losses and settings.threshold is not None:
        out[vanishing(np.ascontiguousarray(piece), settings)[inside] > 0] = _ALERT
    return out


def _rgbx(gray: U8) -> U8:
    gray = np.ascontiguousarray(gray)
    return np.asarray(cv2.merge([gray, gray, gray, np.full_like(gray, 255)]), np.uint8)


def _shade(view: PageView, look: Look, level: int, cut: tuple[slice, slice]) -> U8 | None:
    if view.shade is None or not look.tone:
        return None
    step = 1 << level
    rows, cols = cut
    piece = view.shade[rows.start * step : rows.stop * step : step, cols.start * step : cols.stop * step : step]
    return np.ascontiguousarray(piece)


def _planes(view: PageView, look: Look, level: int, cut: tuple[slice, slice]) -> tuple[I32, I32, U8, U8 | None]:
    painted = view.flatting if not look.lettering and view.flatting is not None else view.painted
    assert painted is not None
    labels = painted.labels[level][cut]
    line = painted.line[level][cut]
    shade = _shade(view, look, level, cut)
    if shade is not None and shade.shape != labels.shape:
        fitted = np.zeros(labels.shape, np.uint8)
        fitted[: shade.shape[0], : shade.shape[1]] = shade[: labels.shape[0], : labels.shape[1]]
        shade = fitted
    ink = painted.ink[level][cut][: labels.shape[0], : labels.shape[1]]
    return labels, line[: labels.shape[0], : labels.shape[1]], ink, shade


def _colors(view: PageView, look: Look, level: int, cut: tuple[slice, slice]) -> U8:
    assert view.tables is not None
    if look.outline and view.partition is not None:
        return _outlines(view, level, cut)
    labels, line, ink, shade = _planes(view, look, level, cut)
    colors = view.tables.screen
    if not look.held:
        colors = Colors(colors.flat, np.full_like(colors.line, pack(np.array([0, 0, 0, 255], np.uint8))))
    if look.loud and view.loud is not None:
        table = pack(np.column_stack([LOUD[view.loud], np.full(len(view.loud), 255, np.uint8)]))
        table[0] = colors.flat[0]
        flat = take_colors(labels, None, np.concatenate([table, table]))
        return flat if not look.lines else mix_line(flat, ink, take_colors(line, None, colors.line))
    if not look.leftovers:
        return paint(labels, shade, ink if look.lines else None, line, colors)
    out = _striped(view, labels, take_colors(labels, shade, colors.flat), cut)
    return out if not look.lines else mix_line(out, ink, take_colors(line, None, colors.line))


def _striped(view: PageView, labels: I32, flat: U8, cut: tuple[slice, slice]) -> U8:
    """Stripe what nobody poured; what reaches the page's edge is gutter and is left."""
    assert view.tables is not None
    left = view.tables.is_left.copy()
    if view.divided is not None and len(view.divided.boxes) == len(left):
        boxes, (rows, cols) = view.divided.boxes, view.shape
        left &= (boxes[:, :2] > 0).all(axis=1) & (boxes[:, 2] < rows) & (boxes[:, 3] < cols)
    down, right = np.ogrid[: labels.shape[0], : labels.shape[1]]
    stripe = ((down + cut[0].start + right + cut[1].start) // _STRIPE_PX) % 2 == 0
    out = flat.copy()
    out[np.take(left, labels, mode="clip") & (labels > 0) & stripe] = _ALERT
    return out


def _outlines(view: PageView, level: int, cut: tuple[slice, slice]) -> U8:
    """Draw where regions meet, without line or colour."""
    assert view.labels is not None
    assert view.partition is not None
    rows, cols = cut
    piece = view.labels[level][rows.start : rows.stop + 1, cols.start : cols.stop + 1]
    region = view.partition.region[piece]
    edge = np.zeros(region.shape, np.uint8)
    edge[:, :-1] |= (region[:, 1:] != region[:, :-1]).view(np.uint8)
    edge[:-1] |= (region[1:] != region[:-1]).view(np.uint8)
    shape = view.labels[level][cut].shape
    return _rgbx(np.where(edge[: shape[0], : shape[1]] > 0, 0, 255).astype(np.uint8))


def _press(view: PageView, look: Look, level: int, cut: tuple[slice, slice]) -> U8:
    assert view.tables is not None
    labels, line, ink, shade = _planes(view, look, level, cut)
    trap = None
    if view.trap_levels is not None:
        trap = view.trap_levels[level][cut][: labels.shape[0], : labels.shape[1]]
    cmyk = separate(labels, shade, ink, line, view.tables.plates, trap)
    out = np.full(cmyk.shape, 255, np.uint8)
    out[..., :3] = proof(cmyk, look.plates)
    if look.trap and trap is not None:
        marked = trap > 0
        out[..., :3][~marked] = 255 - (255 - out[..., :3][~marked]) // 3
        out[marked] = (20, 20, 20, 255)
    return out


def proof(cmyk: U8, plates: tuple[bool, bool, bool, bool]) -> U8:
    """Show some of four plates, (M, N, 4) uint8, as ink on paper, (M, N, 3) sRGB."""
    shown = cmyk.copy()
    for plate, wanted in enumerate(plates):
        if not wanted:
            shown[..., plate] = 0
    return appearance(shown)


def plates_at(view: PageView, row: int, col: int) -> tuple[int, int, int, int] | None:
    """Ink in per cent on the four plates at a pixel, with trap and line; None before the page is known."""
    if view.painted is None or view.tables is None:
        return None
    cut = slice(row, row + 1), slice(col, col + 1)
    labels, line, ink, shade = _planes(view, Look(), 0, cut)
    trap = None if view.trap_levels is None else view.trap_levels[0][cut]
    c, m, y, k = (round(v / 2.55) for v in separate(labels, shade, ink, line, view.tables.plates, trap)[0, 0].tolist())
    return c, m, y, k


def small_plates(view: PageView) -> U8 | None:
    """Return the whole page's plates at the smallest level, averaged from the one before it, (M, N, 4) uint8."""
    if view.painted is None or view.tables is None:
        return None
    level = max(0, len(view.painted.labels) - 2)
    rows, cols = view.painted.labels[level].shape
    labels, line, ink, shade = _planes(view, Look(), level, (slice(0, rows), slice(0, cols)))
    cmyk = separate(labels, shade, ink, line, view.tables.plates)
    return np.asarray(cv2.resize(cmyk, (cols // 4, rows // 4), interpolation=cv2.INTER_AREA), np.uint8)
