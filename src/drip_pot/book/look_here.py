"""Look here: what needs an eye, per stage, worst first, each with one verb that mends it.

Knows the book and what is derived from it; draws nothing.
"""

from collections import Counter
from itertools import combinations

import msgspec
import numpy as np

from drip_pot.book import verbs
from drip_pot.book.book import Book
from drip_pot.book.derived import Derived
from drip_pot.book.model import InkState, PageSources
from drip_pot.book.palette import Tables, inks_for
from drip_pot.core.arrays import Rect
from drip_pot.core.color import delta_e, from_hex, srgb8_to_oklab

STAGES = ("Inks", "Flats", "Shade", "Holds", "Press")
_MOST = 40
_ALIKE = 3.0
_FEW, _FEW_SHARE = 12, 0.15


class Finding(msgspec.Struct, frozen=True):
    """Something to look at.

    Attributes
    ----------
    key : str
        Stays the same while the cause does.
    title, sentence, verb : str
        What it is, where and how much, and the one thing to do about it ('' where there is only looking).
    rect : Rect or None
        Where on the page.
    color : str or None
        '#rrggbb' to show where there is no place.
    what : tuple
        For `mend`.
    """

    key: str
    title: str
    sentence: str
    verb: str
    rect: Rect | None = None
    color: str | None = None
    what: tuple[str, ...] = ()


def find(book: Book, sources: PageSources, derived: Derived, tables: Tables) -> dict[str, list[Finding]]:
    """List what is left to look at in every stage of a page."""
    every = {
        "Inks": _dust(sources, derived),
        "Flats": [*_leaks(sources, derived), *_unpoured(sources, derived, tables), *_alike(book, sources)],
        "Shade": _flat_pairs(book, sources),
        "Holds": _weak_holds(book, sources),
        "Press": _press(book, sources, tables),
    }
    return {stage: [f for f in found if f.key not in sources.left][:_MOST] for stage, found in every.items()}


def mend(book: Book, page: int, finding: Finding) -> None:
    """Do a finding's verb."""
    kind, *rest = finding.what or ("",)
    if kind == "erase":
        inks = book.sources(page).inks
        spot = (int(rest[0]), int(rest[1]))
        verbs.set_inks(book, page, InkState(inks.settings, (*inks.erased, spot)), "Remove a speck")
    elif kind == "bridge":
        verbs.choose_bridge(book, page, float(rest[0]), float(rest[1]), rest[2] == "keep")
    elif kind == "shadow":
        pots = book.pots()
        number = int(rest[0])
        verbs.set_pot(book, number, msgspec.structs.replace(pots[number], shadow=None))
    elif kind == "hold":
        verbs.set_hold(book, page, int(rest[0]), 0.6)
    elif kind == "trap":
        press = book.sources(page).press
        verbs.set_press(book, page, msgspec.structs.replace(press, trap_mm=round(press.tolerance_mm + 0.02, 3)))


def _around(row: float, col: float, half: float) -> Rect:
    return int(row - half), int(col - half), int(row + half), int(col + half)


def _dust(sources: PageSources, derived: Derived) -> list[Finding]:
    suspects = derived.suspects(sources.inks)
    return [
        Finding(
            f"speck:{round(s.row)}:{round(s.col)}",
            "May be dust",
            f"Alone, {s.area_px} px, {max(s.bottom - s.top, s.right - s.left) / sources.page.dpi * 25.4:.2f} mm long",
            "Remove",
            _around(s.row, s.col, 40 + (s.bottom - s.top)),
            None,
            ("erase", str(round(s.row)), str(round(s.col))),
        )
        for s in suspects[::-1]
    ]


def _leaks(sources: PageSources, derived: Derived) -> list[Finding]:
    """List likely bridges a little too wide to be shut, between large pieces that are not both poured yet."""
    atoms, part = derived.atoms(sources.inks), derived.partition(sources)
    areas, gap = derived.facts(sources.inks).areas, derived.gap_px(sources)
    bridges = atoms.bridges
    chosen = {(r, c) for r, c, _ in sources.choices}
    least = np.full(len(bridges), 0.0)
    for a, b, index in atoms.edges.tolist():
        if a not in sources.pours or b not in sources.pours:
            least[index] = max(least[index], min(areas[a], areas[b]))
    score = bridges.confidence * np.minimum(np.sqrt(least), 100)
    likely = part.separates & ~part.closed & (bridges.confidence > 0.45) & (least > 40 * max(atoms.line_px, 1) ** 2)
    likely &= bridges.width_px <= 2 * gap + 8
    found = []
    for index in np.flatnonzero(likely)[np.argsort(-score[likely], kind="stable")][:_MOST]:
        r0, c0, r1, c1 = bridges.feet[index].tolist()
        row, col, width = (r0 + r1) / 2, (c0 + c1) / 2, float(bridges.width_px[index])
        if (row, col) in chosen:
            continue
        found.append(
            Finding(
                f"leak:{row:g}:{col:g}",
                "May leak",
                f"{width:.0f} px gap, {width / sources.page.dpi * 25.4:.2f} mm, left open",
                "Bridge",
                _around(row, col, max(60.0, width * 2)),
                None,
                ("bridge", f"{row:g}", f"{col:g}", "keep"),
            )
        )
    return found


def _unpoured(sources: PageSources, derived: Derived, tables: Tables) -> list[Finding]:
    """List the largest regions without a pot, once few are left; gutters touch the page's edge."""
    if not sources.pours:
        return []
    facts, region = derived.facts(sources.inks), derived.partition(sources).region
    if len(tables.is_poured) != len(region):
        return []
    empty = np.flatnonzero(~tables.is_poured[1:]) + 1
    size: Counter[int] = Counter()
    for atom in empty.tolist():
        size[int(region[atom])] += int(facts.areas[atom])
    solids = set(region[derived.atoms(sources.inks).solids].tolist())
    if len(size) > max(_FEW, _FEW_SHARE * len(np.unique(region[1:]))):
        return []
    found = []
    for root, area in size.most_common():
        rect = tuple(int(v) for v in facts.boxes[root])
        outside = rect[0] == 0 or rect[1] == 0 or rect[2] == sources.page.rows or rect[3] == sources.page.cols
        if root in solids or outside:
            continue
        found.append(
            Finding(f"bare:{root}", "Not poured", f"A region of {area:,} px is still paper".replace(",", "\u202f"),
                    "", (rect[0], rect[1], rect[2], rect[3]))
        )  # fmt: skip
    return found


def _used(book: Book, sources: PageSources) -> set[int]:
    return set(sources.pours.values()) & book.pots().keys()


def _alike(book: Book, sources: PageSources) -> list[Finding]:
    pots, used = book.pots(), sorted(_used(book, sources))
    lab = {n: srgb8_to_oklab(from_hex(pots[n].local)) for n in used}
    found = []
    for a, b in combinations(used, 2):
        distance = float(delta_e(lab[a], lab[b]))
        if distance < _ALIKE:
            text = f"{pots[a].name} and {pots[b].name} differ by {distance:.1f} ΔE"
            found.append(Finding(f"alike:{a}:{b}", "Too alike", text, "", None, pots[b].local, ("pot", str(b))))
    return found


def _flat_pairs(book: Book, sources: PageSources) -> list[Finding]:
    found = []
    for number in sorted(_used(book, sources)):
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
    for number in sorted(_used(book, sources)):
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
