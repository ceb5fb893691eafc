# SPDX-License-Identifier: GPL-3.0-or-later
"""What needs an eye in the drawing itself. Knows what is derived from a page; draws nothing."""

from collections.abc import Callable, Sequence
from functools import cache

import cv2
import numpy as np

from drip_pot.book.asking import Asked, ask
from drip_pot.book.derive import Derived
from drip_pot.book.findings.finding import Finding, around_spot, in_turn
from drip_pot.book.sources import PageSources
from drip_pot.book.values import BEFORE, POURS, SHEETS
from drip_pot.core.arrays import U8, Rect, Report
from drip_pot.core.inks import (
    Tone,
    find_breaks,
    find_changes,
    find_paper,
    find_skew,
    is_balloon,
    suggest_settings,
)
from drip_pot.core.regions import Panels, panels_near
from drip_pot.words import grouped, tr

_FEW, _SOLID, _RUN, _BESIDE, _PALE, _BLACK, _MOST_ASKEW = 12, 0.78 * 255, 50, 21, 24, 200, 5.0
_LEAST_DPI, _ASKEW, _VEIL, _HATCHES, _EDGE_MM, _MOST_OF = 250, 0.2, 0.06, 5, 0.6, 0.7


def find_inks(sources: PageSources, derived: Derived, report: Report) -> list[Finding]:
    """List what is wrong with the drawing itself, the whole page first."""
    line = sources.line
    if not line.sheets:
        return []
    contour = derived.inks.contour(line)
    turn, faint = cache(lambda: find_skew(contour)), cache(lambda: _faint_lines(sources, derived))
    kinds: list[Callable[[], list[Finding]]] = [
        lambda: _page_wide(sources, derived, turn()),
        lambda: _frames(sources, derived, contour, turn() or 0.0),
        lambda: _redrawn(sources, derived, contour),
        lambda: _tones(sources, derived),
        lambda: _balloons(sources, derived, contour),
        faint,
        lambda: [f for f in _dust(sources, derived) if f.asks not in [line.asks for line in faint()]],
        lambda: _textures(sources, derived),
    ]
    return in_turn(kinds, report, "Looking at the line")


def _page_wide(sources: PageSources, derived: Derived, turn: float | None) -> list[Finding]:
    found, page, sheet = [], sources.page, sources.line.sheets[0]
    if page.dpi < _LEAST_DPI:
        text = tr("{0:g} dpi; print wants {1} or more. Scan again, or set the size under Page", page.dpi, _LEAST_DPI)
        found.append(Finding(f"dpi:{page.dpi:g}", "Low resolution", text, ""))
    paper = None if sheet.inks.settings.square is not None else find_paper(derived.inks.gray(sources.line, sheet))
    if paper is not None:
        text = "The paper was photographed at a slant, with what lay round it"
        corners = tuple((round(r, 1), round(c, 1)) for r, c in paper.tolist())
        asked = ask("square-sheet", corners=corners, sheet=0)
        found.append(Finding(f"slant:{corners[0]}", "At a slant", text, "Square", None, None, asked))
        return found
    if turn is not None and _ASKEW <= abs(turn) <= _MOST_ASKEW:
        text = tr("Its frames lie {0:.2f}° off", abs(turn))
        found.append(
            Finding(
                f"skew:{turn:.2f}",
                "Askew",
                text,
                "Straighten",
                None,
                None,
                ask("straighten-page", turn_deg=round(turn, 3)),
            )
        )  # fmt: skip)
    raw = derived.inks.raw(sources.line, sheet)[::4, ::4]
    veil = (raw > 0) & (raw < 64)
    if veil.mean() > _VEIL:
        evened = derived.inks.evened(sources.line, sheet)[::4, ::4]
        white = suggest_settings(np.ascontiguousarray(evened), page.dpi).white
        if white < sheet.inks.settings.white:
            text = tr("A grey veil lies over {0:.0%} of the page", veil.mean())
            found.append(
                Finding("veil", "Paper left", text, "Take out", None, None, ask("take-paper-out", white=white))
            )
    return found


def _frames(sources: PageSources, derived: Derived, contour: U8, turn: float) -> list[Finding]:
    """List gaps of long straight lines where panels have their edges, or a panel has run out into the gutter.

    A roof or a wall is no frame.
    """
    found = []
    for b in find_breaks(contour, sources.page.dpi, turn):
        wide, panels = float(np.hypot(b.end_row - b.row, b.end_col - b.col)), derived.regions.panels(sources)
        row, col = (b.row + b.end_row) / 2, (b.col + b.end_col) / 2
        spots = (row, col), (b.row, b.col), (b.end_row, b.end_col)
        if not _in_frame(panels, spots, _EDGE_MM / 25.4 * sources.page.dpi):
            continue
        rect = around_spot(row, col, wide + 30)
        text = tr("A gap of {0:.1f} mm in a panel frame", wide / sources.page.dpi * 25.4)
        a, c, d, e, width = (round(float(v), 1) for v in (b.row, b.col, b.end_row, b.end_col, b.width_px))
        what = ask("draw-line", start=(a, c), end=(d, e), width_px=width, title="Mend a panel frame")
        found.append(Finding(f"frame:{b.row:.0f}:{b.col:.0f}", "Broken frame", text, "Mend", rect, None, what))
    return found


def _in_frame(panels: Panels, spots: Sequence[tuple[float, float]], reach_px: float) -> bool:
    """Whether a gap, given its middle and ends, lies at the edge of a panel, or in the gutter and is no way across."""
    middle, *ends = (panels_near(panels, *spot, reach_px) for spot in spots)
    return panels.framed and (len(middle) > 1 or middle == ends[0] == ends[1] == {0})


def _redrawn(sources: PageSources, derived: Derived, contour: U8) -> list[Finding]:
    before = sources[BEFORE]
    if before is None or (before.rows, before.cols, before.frame) != (
        sources.line.rows, sources.line.cols, sources.line.frame,
    ):  # fmt: skip
        return []
    slack = max(3, round(derived.inks.line_px(sources.line)))
    changes = find_changes(derived.inks.old_contour(before), contour, slack, 12 * slack)
    return [
        Finding(f"redrawn:{c.rect[0]}:{c.rect[1]}", "Redrawn",
                tr("{0} px of line came, {1} went", grouped(c.came_px), grouped(c.went_px)), "", c.rect)
        for c in changes
    ]  # fmt: skip


def _tones(sources: PageSources, derived: Derived) -> list[Finding]:
    found = []
    for tone in derived.inks.tones(sources.line):
        solid = tone.kind == "grey" and tone.tint > _SOLID  # hair and black fields: their edges are line
        if tone.spread > _RUN and not solid:
            text = tr("Greys run over {0} px here; flattened they would be one. On a detail sheet they stay",
                      grouped(tone.area_px))  # fmt: skip
            found.append(Finding(f"run:{tone.row}:{tone.col}", "Grey run", text, "", tone.rect))
        elif not solid and not any(_within(tone, spot) for spot in sources.line.tones):
            name = "Dotted tone" if tone.kind == "dots" else "Grey tone"
            text = tr(
                "{0:.0f} % over {1} px; makes a flat tint that bounds nothing", tone.tint / 2.55, grouped(tone.area_px)
            )
            what = ask(
                "mark-spots", kind="tone", spots=[(tone.row, tone.col)], title="Turn tone into a flat tint", on=True
            )
            found.append(Finding(f"tone:{tone.row}:{tone.col}", name, text, "Flatten", tone.rect, None, what))
    return found


def _within(tone: Tone, spot: tuple[int, int]) -> bool:
    row, col = spot[0] - tone.rect[0], spot[1] - tone.rect[1]
    return bool(0 <= row < tone.mask.shape[0] and 0 <= col < tone.mask.shape[1] and tone.mask[row, col])


def _balloons(sources: PageSources, derived: Derived, contour: U8) -> list[Finding]:
    """List regions that look like balloons and are not kept as paper yet; only where no lettering sheet covers them."""
    if sources.over.lettering:
        return []
    facts, part = derived.regions.facts(sources.line), derived.regions.partition(sources)
    labels, found = derived.regions.atoms(sources.line).labels, []
    least, most = 0.0008 * contour.size, 0.08 * contour.size
    region_px = np.bincount(part.region, weights=facts.areas.astype(float), minlength=len(part.region))
    sized = np.flatnonzero((region_px >= least) & (region_px <= most))
    covered: set[int] = set()
    for root in sized[np.argsort(-region_px[sized], kind="stable")].tolist():
        own = np.flatnonzero(part.region == root)
        if any(a in sources[POURS] or a in covered for a in own.tolist()):
            continue
        top, left = facts.boxes[own, :2].min(axis=0).tolist()
        bottom, right = facts.boxes[own, 2:].max(axis=0).tolist()
        cut = slice(top, bottom), slice(left, right)
        mask = np.isin(labels[cut], own).astype(np.uint8)
        if region_px[root] < 0.5 * mask.size or top == 0 or left == 0:
            continue
        outline, _ = cv2.findContours(mask, cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_NONE)
        filled = np.zeros_like(mask)
        cv2.drawContours(filled, outline, -1, 1, -1)
        if is_balloon(contour[cut], filled):
            atoms = np.unique(labels[cut][filled > 0]).tolist()
            covered.update(atoms)
            text = "Lettering on paper: it stays white and is not a leftover"
            what = ask("keep-balloon", atoms=atoms)
            found.append(
                Finding(f"balloon:{root}", "Balloon", text, "Keep white", (top, left, bottom, right), None, what)
            )
    return found


def _textures(sources: PageSources, derived: Derived) -> list[Finding]:
    return [
        Finding(f"detail:{t.spots[0][0]}:{t.spots[0][1]}", "Detail",
                tr("{0} strokes that bound nothing; on the detail sheet they part no colour", len(t.spots)), "Move",
                t.rect, None,
                ask("mark-spots", kind="stroke", spots=list(t.spots), title="Move strokes to detail", on=True))
        for t in derived.inks.textures(sources.line)
        if len(t.spots) >= _HATCHES
    ]  # fmt: skip


def _faint_lines(sources: PageSources, derived: Derived) -> list[Finding]:
    """List lines so faint that a little less weight, or a two-level result, would lose them; grey tone is none.

    One that touches no other line can be taken out, as a hair on the glass.
    """
    sheet = sources.line.sheets[0]
    lost = derived.inks.vanishing(sources.line, sheet).copy()
    toned = np.zeros_like(lost)
    for tone in derived.inks.tones(sources.line):
        top, left, bottom, right = tone.rect
        toned[top:bottom, left:right] |= tone.mask
    lost[cv2.dilate(toned, np.ones((_BESIDE, _BESIDE), np.uint8)) > 0] = 0
    lost = _thin_alone(lost, derived.inks.contour(sources.line), derived.inks.line_px(sources.line))
    count, _, stats, _ = cv2.connectedComponentsWithStats(cv2.dilate(lost, np.ones((9, 9), np.uint8)), connectivity=8)
    found = []
    for k in (np.argsort(-stats[1:, cv2.CC_STAT_AREA])[:_FEW] + 1).tolist() if count > 1 else []:
        left, top, width, height = stats[k][:4].tolist()
        long = max(width, height) / sources.page.dpi * 25.4
        if long >= 1.0:
            what = "would vanish" if sheet.inks.settings.threshold is not None else "is about to vanish"
            text = tr("{0:.1f} mm of line, or a hair, {1}", long, what)
            rect = (top, left, top + height, left + width)
            away = _taking_out(sources, derived, rect)
            found.append(Finding(f"faint:{top}:{left}", "Faint line", text, "Remove" if away else "", rect, None, away))
    return found


def _thin_alone(lost: U8, ink: U8, line_px: float) -> U8:
    """Keep what is faint where it is no wider than a line and has paper on both sides, as no grey and no edge has."""
    wide = 2 * (round(max(line_px, 2.0)) // 2) + 1
    disc = cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (wide, wide))
    away = np.ones((wide + 2, wide + 2), np.uint8)
    grey = cv2.dilate(cv2.morphologyEx((ink > _PALE).view(np.uint8), cv2.MORPH_OPEN, disc), away)
    black = cv2.dilate((ink > _BLACK).view(np.uint8), np.ones((3, 3), np.uint8))
    return np.where((grey > 0) & (black == 0), 0, lost).astype(np.uint8)


def _taking_out(sources: PageSources, derived: Derived, rect: Rect) -> Asked | None:
    """Return the order that takes out the line in a rectangle; None where what lies there is not most of a piece."""
    pieces = derived.inks.pieces(sources.line, sources.line.sheets[0])
    top, left, bottom, right = pieces.boxes.T
    inside = np.flatnonzero((top >= rect[0]) & (left >= rect[1]) & (bottom <= rect[2]) & (right <= rect[3]))
    long = np.maximum(bottom - top, right - left)[inside]
    if not len(inside) or long.max() < _MOST_OF * max(rect[2] - rect[0], rect[3] - rect[1]):
        return None
    number = next(n for n, sheet in sources[SHEETS].items() if sheet.role == "contour")
    row, col = pieces.centers[inside[long.argmax()]]
    return ask("erase-speck", sheet=number, row=round(row), col=round(col))


def _dust(sources: PageSources, derived: Derived) -> list[Finding]:
    found = []
    for number, sheet in sources[SHEETS].items():
        if sheet.role != "contour":
            continue
        made_from = sources.line.sheets[[n for n, s in sources[SHEETS].items() if s.role == "contour"].index(number)]
        for s in derived.inks.suspects(sources.line, made_from)[::-1]:
            long = max(s.bottom - s.top, s.right - s.left) / sources.page.dpi * 25.4
            row, col = round(s.row), round(s.col)
            found.append(
                Finding(f"speck:{number}:{row}:{col}", "May be dust",
                        tr("Alone, {0} px, {1:.2f} mm long", s.area_px, long), "Remove",
                        around_spot(s.row, s.col, 40 + (s.bottom - s.top)), None,
                        ask("erase-speck", sheet=number, row=row, col=col))
            )  # fmt: skip
    return found
