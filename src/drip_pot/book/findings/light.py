# SPDX-License-Identifier: GPL-3.0-or-later
"""What needs an eye in how light falls: borders, specks, parts without shade, shade toward the lamp, flat values.

Knows the book and what is divided; draws nothing.
"""

import cv2
import numpy as np

from drip_pot.book.asking import ask
from drip_pot.book.book import Book
from drip_pot.book.derive import Derived
from drip_pot.book.findings.finding import Finding, around_spot
from drip_pot.book.lamps import lamp_of
from drip_pot.book.scope import colored_atoms
from drip_pot.book.sources import PageSources
from drip_pot.book.values import BORDERS, CALM, COVER, LAMPS, PASSES, POURS, SHADE_CUTS, TONE
from drip_pot.book.verbs import open_ends
from drip_pot.core.arrays import Rect
from drip_pot.core.color import from_hex, srgb8_to_oklab
from drip_pot.core.shade import outline
from drip_pot.words import grouped, tr

_FEW = 12
_SPECK_LINES = 2.0
_SHADED, _PART_SHARE, _BARE = 0.04, 0.01, 0.002
_TOWARD = 0.2
_CLOSE_L, _LEAST_PANEL = 0.10, 0.01
_LIGHTER, _BRIGHT = ("screen", "lighten", "color-dodge", "plus-lighter"), 0.85
_ASTRAY, _MOSTLY = 0.4, 0.6


def find_light(book: Book, sources: PageSources, derived: Derived, page: int) -> list[Finding]:
    """List what is wrong with light on a page."""
    return [
        *_open_borders(sources, derived),
        *_specks(book, sources, derived, page),
        *_unshaded(book, sources, derived, page),
        *_toward_lamp(sources, derived),
        *_flat_panels(book, sources, derived),
        *_dark_highlights(book, sources, page),
    ]


def _open_borders(sources: PageSources, derived: Derived) -> list[Finding]:
    if not sources[BORDERS]:
        return []
    ink, labels = derived.inks.contour(sources.line), derived.regions.atoms(sources.line).labels
    found = []
    for number, row, col in open_ends(ink, labels, sources[BORDERS]):
        text = "This border ends open: a shadow filled here would run out. Draw on from it to a line"
        asks = ask("remove-border", number=number)
        rect = around_spot(row, col, 3 * derived.regions.atoms(sources.line).line_px)
        found.append(
            Finding(f"open-border:{number}:{row:.0f}:{col:.0f}", "Open border", text, "Remove", rect, None, asks)
        )
    return found


def _specks(book: Book, sources: PageSources, derived: Derived, page: int) -> list[Finding]:
    """List pieces of hard shade that are too small to be meant."""
    plane = book.plane(COVER.key(page, TONE))
    if not plane.any():
        return []
    atoms = derived.regions.atoms(sources.line)
    tone = ((plane.whole() >= 128) & colored_atoms(sources, atoms.count)[atoms.labels]).view(np.uint8)
    most = (_SPECK_LINES * atoms.line_px) ** 2
    count, pieces, stats, middles = cv2.connectedComponentsWithStats(tone, connectivity=8)
    small = [k for k in range(1, count) if stats[k, cv2.CC_STAT_AREA] < most]
    found = []
    for k in sorted(small, key=lambda k: -int(stats[k, cv2.CC_STAT_AREA]))[:_FEW]:
        left, top, wide, high, px = stats[k].tolist()
        rows, cols = np.nonzero(pieces[top : top + high, left : left + wide] == k)
        spot = [float(top + rows[0]), float(left + cols[0])]
        row, col = float(middles[k][1]), float(middles[k][0])
        text = tr("{0} px of shade alone", grouped(px))
        asks = ask("wipe-speck", at=spot)
        rect = around_spot(row, col, max(wide, high) + 4)
        found.append(Finding(f"speck:{row:.0f}:{col:.0f}", "Speck of shade", text, "Clear", rect, None, asks))
    return found


def _unshaded(book: Book, sources: PageSources, derived: Derived, page: int) -> list[Finding]:
    """List parts that have no shade where the page has some."""
    plane = book.plane(COVER.key(page, TONE))
    if not plane.any() or not sources[POURS]:
        return []
    atoms, known = derived.regions.atoms(sources.line), book.pots()
    dark = np.bincount(atoms.labels[plane.whole() >= 128], minlength=atoms.count + 1)
    shaded, area = dict[int, int](), dict[int, int]()
    for atom, pot in sources[POURS].items():
        if pot in known and atom <= atoms.count:
            part = known[pot].part
            area[part] = area.get(part, 0) + int(atoms.areas[atom])
            shaded[part] = shaded.get(part, 0) + int(dark[atom])
    if sum(shaded.values()) < _SHADED * sum(area.values()):
        return []
    bare = [p for p in area if area[p] > _PART_SHARE * atoms.labels.size and shaded[p] < _BARE * area[p]]
    return [
        Finding(
            f"unshaded:{part}",
            "Part without shade",
            tr("{0} has no shade on this page", book.parts()[part].name),
            "",
        )
        for part in bare
        if part in book.parts() and not sources[CALM].get(part, False)
    ]


def _toward_lamp(sources: PageSources, derived: Derived) -> list[Finding]:
    """List cuts of shade that lie on the side of their region that faces the lamp."""
    if not sources[LAMPS]:
        return []
    divided, panels = derived.regions.divided(sources.line), derived.regions.panels(sources)
    labels, found = divided.atoms.labels, []
    for number, cut in sources[SHADE_CUTS].items():
        if cut.light or cut.offered or len(cut.within.spots) != 1:
            continue
        r, c = (int(v) for v in cut.within.spots[0])
        if not (0 <= r < labels.shape[0] and 0 <= c < labels.shape[1]):
            continue
        atom = int(labels[r, c])
        lamp = lamp_of(sources[LAMPS], int(panels.panel[atom]) if panels.framed else 1)
        box = divided.boxes[atom].astype(float)
        middle, size = (box[:2] + box[2:]) / 2, box[2:] - box[:2]
        shape = outline(cut.knots)
        if lamp is None:
            continue
        toward = np.array([lamp.row, lamp.col]) - middle
        along = float((np.clip(shape, box[:2], box[2:]).mean(axis=0) - middle) @ toward / max(np.hypot(*toward), 1.0))
        if along > _TOWARD * float(np.hypot(*size)) and not lamp.back:
            rect: Rect = (
                *np.floor(shape.min(axis=0)).astype(int).tolist(),
                *np.ceil(shape.max(axis=0)).astype(int).tolist(),
            )
            text = "This shade lies on the side that faces the lamp"
            asks = ask("set-cut", number=number, changed=None)
            found.append(Finding(f"toward:{number}", "Shade toward the lamp", text, "Remove", rect, None, asks))
    return found[:_FEW]


def _dark_highlights(book: Book, sources: PageSources, page: int) -> list[Finding]:
    """List highlights that lie in shadow, in passes whose light lies mostly in the light: so rims are left alone."""
    tone = book.plane(COVER.key(page, TONE))
    if not tone.any():
        return []
    dark, found = tone.whole() >= 128, list[Finding]()
    for number, one in sources[PASSES].items():
        plane = book.plane(COVER.key(page, number))
        bright = one.mode in _LIGHTER or (one.mode == "normal" and srgb8_to_oklab(from_hex(one.color))[0] > _BRIGHT)
        if one.kind != "tint" or not one.shown or not bright or not plane.any():
            continue
        lit = plane.whole() >= 128
        if np.count_nonzero(lit & dark) > _ASTRAY * np.count_nonzero(lit):
            continue
        _, pieces, stats, middles = cv2.connectedComponentsWithStats(lit.view(np.uint8), connectivity=8)
        shaded = np.bincount(pieces[dark], minlength=len(stats))
        for k in np.flatnonzero(shaded[1:] > _MOSTLY * stats[1:, cv2.CC_STAT_AREA])[:_FEW] + 1:
            left, top, wide, high, px = stats[k].tolist()
            row, col = float(middles[k][1]), float(middles[k][0])
            text = tr("{0} px of {1} lie in shadow, where its light does not reach", grouped(px), one.name)
            rect: Rect = (top, left, top + high, left + wide)
            found.append(Finding(f"dark-light:{number}:{row:.0f}:{col:.0f}", "Highlight in shadow", text, "", rect))
    return found


def _flat_panels(book: Book, sources: PageSources, derived: Derived) -> list[Finding]:
    """List panels whose colours are all about as light, so that nothing stands out."""
    atoms, panels, known = derived.regions.atoms(sources.line), derived.regions.panels(sources), book.pots()
    if not panels.framed:
        return []
    light = {n: float(srgb8_to_oklab(from_hex(pot.local))[0]) for n, pot in known.items()}
    found = []
    for number, rect in enumerate(panels.rects, 1):
        mine = [(light[p], int(atoms.areas[a])) for a, p in sources[POURS].items()
                if p in light and a <= atoms.count and panels.panel[a] == number]  # fmt: skip
        if len(mine) < 4 or sum(n for _, n in mine) < _LEAST_PANEL * atoms.labels.size:
            continue
        mine.sort()
        values, weight = np.array([v for v, _ in mine]), np.cumsum([n for _, n in mine])
        low, high = (values[int(np.searchsorted(weight, q * weight[-1]))] for q in (0.05, 0.95))
        if high - low < _CLOSE_L:
            text = tr("Everything in panel {0} is about as light: within {1:.0f} L", number, (high - low) * 100)
            found.append(Finding(f"flat-values:{number}", "Values close together", text, "", rect))
    return found
