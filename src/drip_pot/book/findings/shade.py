# SPDX-License-Identifier: GPL-3.0-or-later
"""What needs an eye in Shade. Knows the book and what is divided; draws nothing."""

import numpy as np

from drip_pot.book.asking import ask
from drip_pot.book.book import Book
from drip_pot.book.derive import Derived
from drip_pot.book.findings.finding import Finding, in_turn, slid_markings, used_pots
from drip_pot.book.findings.light import find_light
from drip_pot.book.scope import colored_atoms, scope_atoms
from drip_pot.book.sources import PageSources
from drip_pot.book.values import COVER, PASSES, SHADE_CUTS
from drip_pot.core.arrays import Report, no_report
from drip_pot.core.color import delta_e, from_hex, srgb8_to_oklab
from drip_pot.core.shade import shape_bounds
from drip_pot.words import grouped, tr

_TOO_CLOSE_L, _DARK, _SAME_DE = 5, 0.25, 2.5
_FEW = 12
_ASTRAY_PX = 400


def find_shade(book: Book, sources: PageSources, derived: Derived, report: Report = no_report) -> list[Finding]:
    """List pairs too close, shadows that look like other pots, passes that apply nowhere, shade without colour."""
    kinds = (
        lambda: _missing(book, sources),
        lambda: _suggested(sources),
        lambda: slid_markings(sources, SHADE_CUTS),
        lambda: _close_pairs(book, sources),
        lambda: _mistaken(book, sources),
        lambda: _nowhere(book, sources, derived),
        lambda: _astray(book, sources, derived),
        lambda: find_light(book, sources, derived, sources.number),
    )
    return in_turn(kinds, report, "Looking at shade")


def _missing(book: Book, sources: PageSources) -> list[Finding]:
    """List placed pictures whose file cannot be read."""
    return [
        Finding(f"missing:{number}", "Picture missing",
                tr("The file of {0} in this book is damaged or missing; it is not drawn. Lay it on the page again, "
                   "or remove the pass.", one.name), "Remove",
                asks=ask("remove-pass", number=number))
        for number, one in sources[PASSES].items()
        if one.placed is not None and book.pictures(one.placed) is None
    ]  # fmt: skip


def _suggested(sources: PageSources) -> list[Finding]:
    """List cuts that were suggested and wait to be kept or dropped."""
    found = []
    shape = sources.page.rows, sources.page.cols
    for number, cut in sources[SHADE_CUTS].items():
        if cut.offered:
            rect = shape_bounds(cut.knots, cut.softness_px, shape)
            light, shade = tr("The lamp suggests this light. Pull it, keep it, or drop it (Delete)"), (
                tr("The lamp suggests this shade. Pull it, keep it, or drop it (Delete)")
            )  # fmt: skip
            text = light if cut.light else shade
            asks = ask("keep-cuts", numbers=[number])
            drops = ask("keep-cuts", numbers=[number], drop=True)
            found.append(
                Finding(
                    f"suggested:{number}", "Suggested cut", text, "Keep", rect, None, asks, drops=drops, opposite="Drop"
                )
            )
    return found


def _close_pairs(book: Book, sources: PageSources) -> list[Finding]:
    found = []
    for number in sorted(used_pots(book, sources)):
        pot = book.pots()[number]
        local, shadow = (srgb8_to_oklab(from_hex(c)) for c in book.tone_pair(pot))
        step = float(local[0] - shadow[0]) * 100
        if step < _TOO_CLOSE_L and local[0] > _DARK:
            verb, text = (
                "Work out" if pot.shadow else "",
                tr("The shadow of {0} is only {1:.0f} L darker", pot.name, step),
            )
            asks = ask("work-out-shadow", number=number)
            found.append(Finding(f"pair:{number}", "Tones too close", text, verb, None, pot.local, asks))
    return found


def _mistaken(book: Book, sources: PageSources) -> list[Finding]:
    """List shadows that look like the local colour of another pot on the page."""
    used = sorted(used_pots(book, sources))
    pots = {number: book.pots()[number] for number in used}
    if len(used) < 2:
        return []
    pairs = {number: book.tone_pair(pot) for number, pot in pots.items()}
    local, shadow = (np.array([srgb8_to_oklab(from_hex(pairs[n][k])) for n in used]) for k in (0, 1))
    away = delta_e(shadow[:, None], local[None, :])
    np.fill_diagonal(away, np.inf)
    found = []
    for one, other in np.argwhere(away < _SAME_DE).tolist()[:_FEW]:
        a, b = used[one], used[other]
        text = tr(
            "The shadow of {0} looks like {1} in the light ({2:.1f} ΔE)", pots[a].name, pots[b].name, away[one, other]
        )
        found.append(Finding(f"mistaken:{a}:{b}", "Shadow like another pot", text, "", None, pairs[a][1], pot=a))
    return found


def _nowhere(book: Book, sources: PageSources, derived: Derived) -> list[Finding]:
    """List passes whose scope covers no colour: its pots were removed, or are not on this page."""
    count = derived.regions.atoms(sources.line).count
    colored, ground = colored_atoms(sources, count), derived.ground(sources)
    found = []
    for number, one in sources[PASSES].items():
        inside = scope_atoms(book, sources, one.scope, count, ground)
        if inside is not None and colored.any() and not (inside & colored).any():
            text = tr("What the pass {0} applies to is not on this page", one.name)
            asks = ask("free-pass", number=number)
            found.append(
                Finding(f"nowhere:{number}", "Pass applies nowhere", text, "Everywhere", None, one.color, asks)
            )
    return found


def _astray(book: Book, sources: PageSources, derived: Derived) -> list[Finding]:
    """List passes with shade where nothing is poured."""
    atoms = derived.regions.atoms(sources.line)
    bare = ~colored_atoms(sources, atoms.count)
    if not bare[1:].any() or bare[1:].all():
        return []
    page = sources.number
    found = []
    for number, one in sources[PASSES].items():
        plane = book.plane(COVER.key(page, number))
        if one.covers_all or not plane.any():
            continue
        lost = (plane.whole() >= 128) & bare[atoms.labels]
        if (px := int(np.count_nonzero(lost))) >= _ASTRAY_PX:
            rows, cols = np.flatnonzero(lost.any(axis=1)), np.flatnonzero(lost.any(axis=0))
            rect = int(rows[0]), int(cols[0]), int(rows[-1]) + 1, int(cols[-1]) + 1
            text = tr("{0} px of {1} lie where nothing is poured; they show once colour comes", grouped(px), one.name)
            found.append(Finding(f"astray:{number}", "Shade without colour", text, "", rect))
    return found
