"""Look here: what needs an eye, per stage, worst first, each with one verb that mends it.

Knows the book and what is derived from it; draws nothing.
"""

from collections.abc import Callable

import cv2
import msgspec
import numpy as np

from drip_pot.book import pots, verbs
from drip_pot.book.book import Book
from drip_pot.book.derived import Derived
from drip_pot.book.finding import Finding, around_spot, grouped, in_turn
from drip_pot.book.look_flats import find_flats, used_pots
from drip_pot.book.model import PageSources
from drip_pot.book.palette import Tables, inks_for
from drip_pot.core.arrays import U8, Report, no_report
from drip_pot.core.color import from_hex, srgb8_to_oklab
from drip_pot.core.inks import (
    Tone,
    find_breaks,
    find_changes,
    find_skew,
    is_balloon,
    lay_ink,
    stroke_ink,
    suggest_settings,
)

STAGES = ("Inks", "Flats", "Shade", "Holds", "Press")
_MOST = 40
_FEW = 12
_LEAST_DPI, _ASKEW, _VEIL, _HATCHES = 250, 0.15, 0.06, 5


def find(
    book: Book, sources: PageSources, derived: Derived, tables: Tables, report: Report = no_report
) -> dict[str, list[Finding]]:
    """List what is left to look at in every stage of a page; `report` may raise `Cancelled` between two kinds."""
    every = {
        "Inks": _inks(sources, derived, report),
        "Flats": find_flats(book, sources, derived, tables, report),
        "Shade": _flat_pairs(book, sources),
        "Holds": _weak_holds(book, sources),
        "Press": _press(book, sources, tables),
    }
    return {stage: [f for f in found if f.key not in sources.left][:_MOST] for stage, found in every.items()}


def mend(book: Book, page: int, finding: Finding) -> None:
    """Do a finding's verb."""
    kind, *rest = finding.what or ("",)
    sources = book.sources(page)
    if kind == "erase":
        sheet, row, col = (int(v) for v in rest)
        inks = sources.inks[sheet]
        more = msgspec.structs.replace(inks, erased=(*inks.erased, (row, col)))
        verbs.set_inks(book, page, more, "Remove a speck", sheet)
    elif kind == "white":
        inks = sources.inks[0]
        settings = msgspec.structs.replace(
            inks.settings, white=int(rest[0]), black=min(inks.settings.black, int(rest[0]) - 1)
        )
        verbs.set_inks(book, page, msgspec.structs.replace(inks, settings=settings), "Take the paper out")
    elif kind == "turn":
        verbs.straighten_page(book, page, float(rest[0]))
    elif kind in ("stroke", "tone"):
        spots = [(int(r), int(c)) for r, c in (spot.split(":") for spot in rest)]
        title = "Move strokes to detail" if kind == "stroke" else "Turn tone into a flat tint"
        verbs.mark_spots(book, page, kind, spots, title, on=True)
    elif kind == "frame":
        a, b, c, d, wide = (float(v) for v in rest)
        draw_line(book, page, (a, b), (c, d), wide, "Mend a panel frame")
    elif kind == "balloon":
        verbs.keep_balloon(book, page, (int(atom) for atom in rest))
    elif kind == "bridge":
        verbs.choose_bridge(book, page, float(rest[0]), float(rest[1]), rest[2] == "keep")
    elif kind == "absorb":
        r0, c0, r1, c1 = (float(v) for v in rest[1:5])
        pot = int(rest[0]) if rest[0] else None
        verbs.absorb(book, page, (int(a) for a in rest[5:]), pot, ((r0, c0), (r1, c1)))
    elif kind == "pour":
        verbs.pour(book, page, (int(a) for a in rest[1:]), int(rest[0]))
    elif kind == "merge":
        pots.remove_pot(book, int(rest[1]), int(rest[0]))
    elif kind == "shadow":
        number = int(rest[0])
        verbs.set_pot(book, number, msgspec.structs.replace(book.pots()[number], shadow=None))
    elif kind == "hold":
        verbs.set_hold(book, page, int(rest[0]), 0.6)
    elif kind == "trap":
        press = book.sources(page).press
        verbs.set_press(book, page, msgspec.structs.replace(press, trap_mm=round(press.tolerance_mm + 0.02, 3)))


def draw_line(
    book: Book, page: int, start: tuple[float, float], end: tuple[float, float], width_px: float, title: str
) -> None:
    """Draw a straight line of full ink on the repair sheet, from (row, col) to (row, col)."""
    known = book.sources(page).page
    rect, ink = stroke_ink([(*start, 1.0), (*end, 1.0)], width_px, (known.rows, known.cols))
    piece = book.plane(f"page/{page}/repair")[rect[0] : rect[2], rect[1] : rect[3]]
    solid = cv2.threshold(ink, 127, 255, cv2.THRESH_BINARY)[1]
    verbs.mend_line(book, page, rect, lay_ink(piece, np.zeros_like(piece), solid), title)


def _inks(sources: PageSources, derived: Derived, report: Report) -> list[Finding]:
    """List what is wrong with the drawing itself, the whole page first."""
    line = sources.line
    if not line.sheets:
        return []
    contour = derived.contour(line)
    kinds: list[Callable[[], list[Finding]]] = [
        lambda: _page_wide(sources, derived, contour),
        lambda: _frames(sources, contour),
        lambda: _redrawn(sources, derived, contour),
        lambda: _tones(sources, derived),
        lambda: _balloons(sources, derived, contour),
        lambda: _faint_lines(sources, derived),
        lambda: _dust(sources, derived),
        lambda: _textures(sources, derived),
    ]
    return in_turn(kinds, report, "Looking at the line")


def _page_wide(sources: PageSources, derived: Derived, contour: U8) -> list[Finding]:
    found, page, sheet = [], sources.page, sources.line.sheets[0]
    if page.dpi < _LEAST_DPI:
        text = f"{page.dpi:g} dpi; print wants {_LEAST_DPI} or more. Scan again, or set the size under Page"
        found.append(Finding(f"dpi:{page.dpi:g}", "Low resolution", text, ""))
    turn = find_skew(contour)
    if turn is not None and abs(turn) >= _ASKEW:
        text = f"Its frames lie {abs(turn):.2f}° off"
        found.append(Finding(f"skew:{turn:.2f}", "Askew", text, "Straighten", None, None, ("turn", f"{turn:.3f}")))
    raw = derived.raw(sources.line, sheet)[::4, ::4]
    veil = (raw > 0) & (raw < 64)
    if veil.mean() > _VEIL:
        evened = derived.evened(sources.line, sheet)[::4, ::4]
        white = suggest_settings(np.ascontiguousarray(evened), page.dpi).white
        if white < sheet.inks.settings.white:
            text = f"A grey veil lies over {veil.mean():.0%} of the page"
            found.append(Finding("veil", "Paper left", text, "Take out", None, None, ("white", str(white))))
    return found


def _frames(sources: PageSources, contour: U8) -> list[Finding]:
    turn = find_skew(contour) or 0.0
    found = []
    for b in find_breaks(contour, sources.page.dpi, turn):
        wide = float(np.hypot(b.end_row - b.row, b.end_col - b.col))
        rect = around_spot((b.row + b.end_row) / 2, (b.col + b.end_col) / 2, wide + 30)
        text = f"A gap of {wide / sources.page.dpi * 25.4:.1f} mm in a panel frame"
        what = "frame", *(f"{v:.1f}" for v in (b.row, b.col, b.end_row, b.end_col, b.width_px))
        found.append(Finding(f"frame:{b.row:.0f}:{b.col:.0f}", "Broken frame", text, "Mend", rect, None, what))
    return found


def _redrawn(sources: PageSources, derived: Derived, contour: U8) -> list[Finding]:
    before = sources.before
    if before is None or (before.rows, before.cols, before.frame) != (
        sources.line.rows, sources.line.cols, sources.line.frame,
    ):  # fmt: skip
        return []
    slack = max(3, round(derived.line_px(sources.line)))
    changes = find_changes(derived.old_contour(before), contour, slack, 12 * slack)
    return [
        Finding(f"redrawn:{c.rect[0]}:{c.rect[1]}", "Redrawn",
                f"{grouped(c.came_px)} px of line came, {grouped(c.went_px)} went", "", c.rect)
        for c in changes
    ]  # fmt: skip


def _tones(sources: PageSources, derived: Derived) -> list[Finding]:
    found = []
    for tone in derived.tones(sources.line):
        if not any(_within(tone, spot) for spot in sources.line.tones):
            name = "Dotted tone" if tone.kind == "dots" else "Grey tone"
            text = f"{tone.tint / 2.55:.0f} % over {grouped(tone.area_px)} px; makes a flat tint that bounds nothing"
            what = "tone", f"{tone.row}:{tone.col}"
            found.append(Finding(f"tone:{tone.row}:{tone.col}", name, text, "Flatten", tone.rect, None, what))
    return found


def _within(tone: Tone, spot: tuple[int, int]) -> bool:
    row, col = spot[0] - tone.rect[0], spot[1] - tone.rect[1]
    return bool(0 <= row < tone.mask.shape[0] and 0 <= col < tone.mask.shape[1] and tone.mask[row, col])


def _balloons(sources: PageSources, derived: Derived, contour: U8) -> list[Finding]:
    """List regions that look like balloons and are not kept as paper yet; only where no lettering sheet covers them."""
    if sources.over.lettering:
        return []
    facts, part = derived.facts(sources.line), derived.partition(sources)
    labels, found = derived.atoms(sources.line).labels, []
    least, most = 0.0008 * contour.size, 0.08 * contour.size
    region_px = np.bincount(part.region, weights=facts.areas.astype(float), minlength=len(part.region))
    sized = np.flatnonzero((region_px >= least) & (region_px <= most))
    covered: set[int] = set()
    for root in sized[np.argsort(-region_px[sized], kind="stable")].tolist():
        own = np.flatnonzero(part.region == root)
        if any(a in sources.pours or a in covered for a in own.tolist()):
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
            what = "balloon", *(str(a) for a in atoms)
            found.append(
                Finding(f"balloon:{root}", "Balloon", text, "Keep white", (top, left, bottom, right), None, what)
            )
    return found


def _textures(sources: PageSources, derived: Derived) -> list[Finding]:
    return [
        Finding(f"detail:{t.spots[0][0]}:{t.spots[0][1]}", "Detail",
                f"{len(t.spots)} strokes that bound nothing; on the detail sheet they part no colour", "Move", t.rect,
                None, ("stroke", *(f"{r}:{c}" for r, c in t.spots)))
        for t in derived.textures(sources.line)
        if len(t.spots) >= _HATCHES
    ]  # fmt: skip


def _faint_lines(sources: PageSources, derived: Derived) -> list[Finding]:
    """List lines so faint that a little less weight, or a two-level result, would lose them."""
    sheet = sources.line.sheets[0]
    lost = derived.vanishing(sources.line, sheet)
    count, _, stats, _ = cv2.connectedComponentsWithStats(cv2.dilate(lost, np.ones((9, 9), np.uint8)), connectivity=8)
    found = []
    for k in (np.argsort(-stats[1:, cv2.CC_STAT_AREA])[:_FEW] + 1).tolist() if count > 1 else []:
        left, top, width, height = stats[k][:4].tolist()
        long = max(width, height) / sources.page.dpi * 25.4
        if long >= 1.0:
            what = "would vanish" if sheet.inks.settings.threshold is not None else "is about to vanish"
            found.append(Finding(f"faint:{top}:{left}", "Faint line", f"{long:.1f} mm of line {what}", "",
                                 (top, left, top + height, left + width)))  # fmt: skip
    return found


def _dust(sources: PageSources, derived: Derived) -> list[Finding]:
    found = []
    for number, sheet in sources.sheets.items():
        if sheet.role != "contour":
            continue
        made_from = sources.line.sheets[[n for n, s in sources.sheets.items() if s.role == "contour"].index(number)]
        for s in derived.suspects(sources.line, made_from)[::-1]:
            long = max(s.bottom - s.top, s.right - s.left) / sources.page.dpi * 25.4
            spot = str(round(s.row)), str(round(s.col))
            found.append(
                Finding(f"speck:{number}:{spot[0]}:{spot[1]}", "May be dust",
                        f"Alone, {s.area_px} px, {long:.2f} mm long", "Remove",
                        around_spot(s.row, s.col, 40 + (s.bottom - s.top)), None, ("erase", str(number), *spot))
            )  # fmt: skip
    return found


def _flat_pairs(book: Book, sources: PageSources) -> list[Finding]:
    found = []
    for number in sorted(used_pots(book, sources)):
        pot = book.pots()[number]
        local, shadow = (srgb8_to_oklab(from_hex(c)) for c in book.tone_pair(pot))
        step = float(local[0] - shadow[0]) * 100
        if step < 5 and local[0] > 0.25:
            verb = "Work out" if pot.shadow else ""
            text = f"The shadow of {pot.name} is only {step:.0f} L darker"
            found.append(
                Finding(f"pair:{number}", "Tones too close", text, verb, None, pot.local, ("shadow", str(number)))
            )
    return found


def _weak_holds(book: Book, sources: PageSources) -> list[Finding]:
    parts = book.parts()
    return [
        Finding(f"hold:{part}", "Hold too weak", f"Lines of {parts[part].name} are only {hold.amount:.0%} darker",
                "Darken", None, None, ("hold", str(part)))
        for part, hold in sources.holds.items()
        if hold.amount < 0.25 and part in parts
    ]  # fmt: skip


def _press(book: Book, sources: PageSources, tables: Tables) -> list[Finding]:
    press, found = sources.press, []
    if press.trap_mm < press.tolerance_mm:
        text = f"{press.trap_mm:g} mm does not cover a plate that strays {press.tolerance_mm:g} mm"
        found.append(Finding(f"trap:{press.trap_mm}", "Trap too narrow", text, "Widen", None, None, ("trap",)))
    for number in sorted(used_pots(book, sources)):
        pot = book.pots()[number]
        for tone, color in zip(("local", "shadow"), book.tone_pair(pot), strict=True):
            r, g, b = from_hex(color).tolist()
            _, miss = inks_for((r, g, b), press)
            if miss > 4:
                text = f"{pot.name}, {tone}: the press misses it by {miss:.0f} ΔE"
                found.append(
                    Finding(f"gamut:{number}:{tone}", "Out of gamut", text, "", None, color, ("pot", str(number)))
                )
    return found
