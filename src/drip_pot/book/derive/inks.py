# SPDX-License-Identifier: GPL-3.0-or-later
"""The line of a page, worked out from its originals: sheets, contour, what lies over it. Knows core and the model.

gray        a sheet's original (without its coloured pencil), place
evened      original, paper light, pencil, place
raw         evened, white, black, weight, threshold
pieces      raw, evened
specks      pieces, speck settings, specks erased and kept by hand
sheet ink   raw, specks, hole size
contour     sheet inks, strokes that are detail, tones, repair sheet
over        detail, lettering and effect sheets, effect lines
"""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

import msgspec
import numpy as np
import scipy

from drip_pot.book.derive.graph import Graph, node
from drip_pot.book.picture import Picture, laid_square
from drip_pot.book.values import InkState, LineState, OverState, SheetLine
from drip_pot.core.arrays import U8, Bool, Gray
from drip_pot.core.inks import (
    CROWD,
    Pieces,
    Place,
    Speck,
    Texture,
    Tone,
    balloon_paper,
    coverage,
    draw_effect,
    erase_specks,
    estimate_paper,
    fill_holes,
    find_pieces,
    find_textures,
    find_tones,
    lay,
    lone_specks,
    mended,
    outlines_of,
    remove_paper,
    remove_pencil,
    split_strokes,
    turned_round,
    vanishing,
    wander,
    without_tone,
)
from drip_pot.core.regions import draw_barrier, line_width

MOST_SPECK_PX = 600
_NEAR_PX = 4.0
_SUSPECT_TIMES, _SUSPECT_PALE, _SUSPECT_WANDERS, _LONG = 5, 120, 0.06, 4
BALLOON_LINE = 127
_OPAQUE = 128


@dataclass(frozen=True)
class Over:
    """What lies over the contour: `ink` (M, N) uint8, and `owner` (M, N) uint8.

    An owner of 0 is contour or detail, 1 is lettering, 2 and up effect colours, `BALLOON_LINE` the outline of what
    lettering covers with white; 128 is added where it does.
    """

    ink: U8
    owner: U8


def _laid(line: LineState, sheet: SheetLine) -> tuple[Place, tuple[int, int]]:
    """Where a sheet lies on the page as it is now, and the page's rows and columns."""
    return sheet.place.then(line.frame), (line.rows, line.cols)


def _raw_needs(_: "Inks", line: LineState, sheet: SheetLine) -> Any:
    s = sheet.inks.settings
    seen = s.even_paper, s.pencil, s.turned, s.square
    return (*_file(sheet), _laid(line, sheet), *seen, s.white, s.black, s.weight_px, s.threshold)


def _sheet_needs(_: "Inks", line: LineState, sheet: SheetLine) -> Any:
    return _laid(line, sheet), sheet.inks, sheet.view


def _uncut(_: "Inks", line: LineState) -> LineState:
    return line.uncut


def _plain(_: "Inks", line: LineState) -> LineState:
    return line.plain


def _unmended(_: "Inks", line: LineState) -> LineState:
    return msgspec.structs.replace(line, repair=0, cuts=())


class Inks:
    """The line of one page.

    Parameters
    ----------
    graph : Graph
        Where it is kept.
    load : callable
        Returns a sheet's original, or what is drawn from it, as a `Picture`.
    repair : callable, optional
        Returns the repair sheet, (rows, cols) uint8, that has a checksum.
    """

    def __init__(
        self, graph: Graph, load: Callable[[SheetLine], Picture], repair: Callable[[int], U8] | None = None
    ) -> None:
        self.graph = graph
        self._load, self._repair = load, repair

    def _original(self, sheet: SheetLine) -> Picture:
        """Return a sheet's original, laid square where it was photographed at a slant."""
        return laid_square(self._load(sheet), None if sheet.view is not None else sheet.inks.settings.square)

    @node("picture {0.original} {0.picture}", lambda _, sheet: (
        sheet.inks.settings.pencil, sheet.inks.settings.turned, sheet.inks.settings.square, sheet.view))  # fmt: skip
    def _picture(self, sheet: SheetLine) -> Gray:
        """Return a sheet's original as grey, without its coloured pencil, dark line on light."""
        picture, pencil = self._original(sheet), sheet.inks.settings.pencil
        self.graph.put(f"colored/{sheet.original} {sheet.picture}", (), picture.rgb is not None)
        gray = picture.gray if pencil is None or picture.rgb is None else remove_pencil(picture.rgb, pencil)
        return turned_round(gray, sheet.inks.settings)

    @node("colored/{0.original} {0.picture}", lambda *_: ())
    def is_colored(self, sheet: SheetLine) -> bool:
        """Whether a sheet's original has colours, so that there may be pencil to take out."""
        return self._load(sheet).rgb is not None

    @node("gray {1.original} {1.picture}", lambda _, line, sheet: (
        sheet.view, sheet.inks.settings.square, _laid(line, sheet)))  # fmt: skip
    def gray(self, line: LineState, sheet: SheetLine) -> U8:
        """Return a sheet's original as grey on the page, (rows, cols) uint8, its pencil still there."""
        plain = sheet.inks.settings.pencil is None and not sheet.inks.settings.turned
        gray = self._picture(sheet) if plain else self._original(sheet).gray
        flat = gray if gray.dtype == np.uint8 else np.asarray(gray >> 8, np.uint8)
        return np.asarray(lay(flat, *_laid(line, sheet), 255, hard=False), np.uint8)

    @node("evened {1.original} {1.picture}", lambda _, line, sheet: (
        sheet.inks.settings.even_paper, sheet.inks.settings.pencil, sheet.inks.settings.turned,
        sheet.inks.settings.square, sheet.view,
        _laid(line, sheet)))  # fmt: skip
    def evened(self, line: LineState, sheet: SheetLine) -> Gray:
        """Return a sheet on the page with its paper light divided out, (rows, cols) uint8 or uint16."""
        gray = self._picture(sheet)
        even = remove_paper(gray, estimate_paper(gray) if sheet.inks.settings.even_paper else None)
        return lay(even, *_laid(line, sheet), int(np.iinfo(gray.dtype).max), hard=False)

    @node("raw {1.original} {1.picture}", _raw_needs)
    def raw(self, line: LineState, sheet: SheetLine) -> U8:
        """Return a sheet's coverage before specks are removed, (rows, cols) uint8."""
        return coverage(self.evened(line, sheet), sheet.inks.settings)

    @node("pieces {1.original} {1.picture}", _raw_needs)
    def pieces(self, line: LineState, sheet: SheetLine) -> Pieces:
        """Return all pieces of ink of a sheet small enough to matter for specks of any size that can be set."""
        return find_pieces(self.raw(line, sheet), CROWD * MOST_SPECK_PX, self.evened(line, sheet))

    def suspects(self, line: LineState, sheet: SheetLine) -> list[Speck]:
        """List lone specks that stay but may be dust: up to five times the size removed, smallest first.

        They are paler than the line, and wander where they are long: what is as dark and as large was rather drawn, an
        eye, a freckle, and what is long and straight is a stroke that the pen hardly left.
        """
        settings, pieces = sheet.inks.settings, self.pieces(line, sheet)
        wide = msgspec.structs.replace(settings, speck_px=min(_SUSPECT_TIMES * settings.speck_px, MOST_SPECK_PX))
        gone = {(s.row, s.col) for s in chosen_specks(pieces, sheet.inks)}
        pale = {tuple(at) for at in pieces.centers[pieces.pale >= _SUSPECT_PALE].tolist()}
        maybe = [s for s in lone_specks(pieces, wide) if (s.row, s.col) in pale - gone]
        raw = self.raw(line, sheet)
        return [s for s in maybe if not _is_kept(s, sheet.inks) and not _is_stroke(raw, s)]

    @node("ink {1.original} {1.picture}", _sheet_needs)
    def sheet_ink(self, line: LineState, sheet: SheetLine) -> U8:
        """Return a sheet's final coverage, (rows, cols) uint8."""
        settings, raw = sheet.inks.settings, self.raw(line, sheet)
        by_rule = settings.speck_px > 0 or sheet.inks.erased
        gone = chosen_specks(self.pieces(line, sheet), sheet.inks) if by_rule else []
        ink = erase_specks(raw, gone) if gone else raw
        return fill_holes(ink, settings.hole_px) if settings.hole_px else ink

    @node("vanishing", lambda self, line, sheet: (_raw_needs(self, line, sheet), sheet.inks))
    def vanishing(self, line: LineState, sheet: SheetLine) -> U8:
        """Mark line of a sheet that a two-level result loses; with a soft edge, line that is fainter than a third."""
        settings = sheet.inks.settings
        hard = settings if settings.threshold is not None else msgspec.structs.replace(settings, threshold=100)
        lost = vanishing(self.evened(line, sheet), hard)
        lost[self.sheet_ink(line, sheet) < 40] = 0
        return lost

    @node("old contour", _uncut)
    def old_contour(self, line: LineState) -> U8:
        """Return the contour of an earlier line of this page, kept apart from the present one."""
        return Inks(Graph(), self._load, self._repair).contour(line)

    @node("bare", _plain)
    def bare(self, line: LineState) -> U8:
        """Return the contour sheets together, before detail, tone and mending are told apart."""
        out: U8 | None = None
        for sheet in line.sheets:
            ink = self.sheet_ink(line, sheet)
            opacity = self._original(sheet).opacity if sheet.covers and out is not None else None
            if opacity is not None and out is not None:
                over = lay(opacity, *_laid(line, sheet), 0, hard=True) >= _OPAQUE
                out = np.where(over, ink, out)
            out = ink if out is None else np.maximum(out, ink)
        return np.zeros((line.rows, line.cols), np.uint8) if out is None else out

    @node("hidden", _plain)
    def hidden(self, line: LineState) -> Bool | None:
        """Mark what contour sheets hide of those below them, (rows, cols); None where none does."""
        out: Bool | None = None
        for sheet in (one for one in line.sheets if one.covers):
            opacity = self._original(sheet).opacity
            if opacity is not None:
                over = lay(opacity, *_laid(line, sheet), 0, hard=True) >= _OPAQUE
                out = over if out is None else out | over
        return out

    def tones(self, line: LineState) -> list[Tone]:
        """List the areas of tone on the first contour sheet; empty where there is none."""
        return self._tones(line, line.sheets[0]) if line.sheets else []

    @node("tones", _raw_needs)
    def _tones(self, line: LineState, sheet: SheetLine) -> list[Tone]:
        return find_tones(self.raw(line, sheet), self.evened(line, sheet), self.line_px(line))

    @node("textures", _uncut)
    def textures(self, line: LineState) -> list[Texture]:
        """List the groups of strokes that look like detail and are contour still."""
        return find_textures(self.contour(line), self.line_px(line))

    @node("line width", _plain)
    def line_px(self, line: LineState) -> float:
        """Return the usual line width of the contour sheets."""
        return line_width(draw_barrier(self.bare(line)))

    @node("parted", _unmended)
    def _parted(self, line: LineState) -> tuple[U8, U8]:
        """Return contour, and the detail and tint that were taken out of it."""
        ink, detail = self.bare(line), np.zeros(0, np.uint8)
        if line.tones:
            chosen = [t for t in self.tones(line) if any(_holds(t, spot) for spot in line.tones)]
            ink, detail = without_tone(ink, chosen, self.line_px(line))
        if line.strokes:
            ink, strokes = split_strokes(ink, line.strokes)
            detail = np.maximum(detail, strokes) if detail.size else strokes
        return ink, detail

    @node("contour", _uncut)
    def contour(self, line: LineState) -> U8:
        """Return what bounds colour, (rows, cols) uint8."""
        ink = self._parted(line)[0]
        plane = self._repair(line.repair) if line.repair and self._repair is not None else None
        return mended(ink, plane) if plane is not None and plane.shape == ink.shape else ink

    def over(self, line: LineState, state: OverState, *, lettering: bool = True) -> Over | None:
        """Return what lies over the contour; None where nothing does."""
        state = state if lettering else msgspec.structs.replace(state, lettering=())
        if state == OverState() and not (line.strokes or line.tones):
            return None
        return self._over(line, state, lettering)

    @node("over {2}", lambda self, line, state, _: (_unmended(self, line), state))
    def _over(self, line: LineState, state: OverState, lettering: bool) -> Over:
        ink, owner = np.zeros((line.rows, line.cols), np.uint8), np.zeros((line.rows, line.cols), np.uint8)
        colors = state.colors
        layers = [(self.sheet_ink(line, s), colors.index(c) + 2) for s, c in state.effects]
        layers += [(draw_effect(e, ink.shape), colors.index(e.color) + 2) for e in state.drawn]
        layers += [(self._parted(line)[1], 0), *((self.sheet_ink(line, s), 0) for s in state.details)]
        for layer, number in layers:
            if layer.size:
                top = layer > ink
                ink[top], owner[top] = layer[top], number
        for sheet in state.lettering:
            letters = self.sheet_ink(line, sheet)
            opacity = self._original(sheet).opacity
            laid = None if opacity is None else lay(opacity, *_laid(line, sheet), 0, hard=True)
            paper = balloon_paper(letters, laid) > 0
            ink[paper], owner[paper] = letters[paper], 129
            beside = ~paper & (letters > 0)
            ink[beside] = np.maximum(ink[beside], letters[beside])
            owner[beside] = 1
            edge = outlines_of(letters, paper)
            owner[edge] = np.where(paper[edge], 128 + BALLOON_LINE, BALLOON_LINE)
        return Over(ink, owner)


def chosen_specks(pieces: Pieces, inks: InkState) -> list[Speck]:
    """List the specks that ink settings and decisions by hand remove, smallest first."""
    found = [s for s in lone_specks(pieces, inks.settings) if not _is_kept(s, inks)]
    if not inks.erased or len(pieces.areas) == 0:
        return found
    away, nearest = scipy.spatial.cKDTree(pieces.centers).query(np.array(inks.erased, np.float64))
    seen = {(s.row, s.col) for s in found}
    by_hand = [pieces.speck(int(k)) for k in np.unique(nearest[away <= _NEAR_PX])]
    return found + [s for s in by_hand if (s.row, s.col) not in seen]


def _is_stroke(ink: U8, speck: Speck) -> bool:
    """Whether a speck is long and straight, as what a pen drew is, and no hair."""
    long = max(speck.bottom - speck.top, speck.right - speck.left)
    return long**2 > _LONG * speck.area_px and wander(ink, speck) < _SUSPECT_WANDERS


def _is_kept(speck: Speck, inks: InkState) -> bool:
    return any(abs(r - speck.row) + abs(c - speck.col) <= 2 * _NEAR_PX for r, c in inks.kept)


def _file(sheet: SheetLine) -> tuple[object, ...]:
    return sheet.original, sheet.picture, sheet.view


def _holds(tone: Tone, spot: tuple[int, int]) -> bool:
    """Whether an area of tone contains a pixel."""
    row, col = spot[0] - tone.rect[0], spot[1] - tone.rect[1]
    inside = 0 <= row < tone.mask.shape[0] and 0 <= col < tone.mask.shape[1]
    return bool(inside and tone.mask[row, col])
