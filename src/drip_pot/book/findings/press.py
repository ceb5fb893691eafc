# SPDX-License-Identifier: GPL-3.0-or-later
"""What needs an eye in Press before a page is delivered. Knows the book and its tables; draws nothing."""

from drip_pot.book.asking import ask
from drip_pot.book.book import Book
from drip_pot.book.derive import Derived
from drip_pot.book.findings.finding import Finding, used_pots
from drip_pot.book.scope import scope_atoms
from drip_pot.book.sources import PageSources
from drip_pot.book.tables import inks_of, prints_black
from drip_pot.book.values import COVER, LINES, PASSES, POURS, PRESS, SHADE_CUTS, Pot
from drip_pot.core.color import from_hex
from drip_pot.core.press import beat_mm, lattice_of
from drip_pot.words import grouped, listed, tr

_LEAST_DPI, _LEAST_BLEED_MM, _MISS = 290, 2.0, 4
_MM = 25.4
_PLATES = ("cyan", "magenta", "yellow", "black")


def find_press(book: Book, sources: PageSources, derived: Derived) -> list[Finding]:
    """List what the press cannot do as it is set, or not at all, and what a printer would ask about."""
    return [
        *_traps(sources), *_black(book, sources), *_sheet(sources), *_offered(sources), *_gamut(book, sources),
        *_blacks_in_four(book, sources), *_under_passes(book, sources, derived), *_beats(sources, derived),
    ]  # fmt: skip


def _traps(sources: PageSources) -> list[Finding]:
    press = sources[PRESS]
    if press.trap_mm >= press.tolerance_mm:
        return []
    text = tr("{0:g} mm does not cover plates that stray {1:g} mm", press.trap_mm, press.tolerance_mm)
    return [Finding(f"trap:{press.trap_mm}", "Trap too narrow", text, "Widen", None, None, ask("widen-trap"))]


def _black(book: Book, sources: PageSources) -> list[Finding]:
    """Tell of a line that is nearly black: it is printed in black ink alone, as it would be blurred in four."""
    color = sources[LINES].color
    if color == "#000000" or not prints_black(from_hex(color)[None])[0]:
        return []
    text = tr(
        "{0} looks black and is printed in black ink alone. Make it black, or lighter to print it in colour", color
    )
    asks = ask("set-lines", color="#000000")
    return [Finding(f"black:{color}", "Line nearly black", text, "Make black", None, color, asks)]


def _sheet(sources: PageSources) -> list[Finding]:
    """Tell of a page that is too coarse for print, or trimmed without bleed."""
    page, found = sources.page, []
    if page.dpi < _LEAST_DPI:
        text = tr("{0:g} dpi is coarse for print: line wants 600, colour 300", page.dpi)
        found.append(Finding(f"dpi:{page.dpi:g}", "Coarse for print", text, ""))
    if page.trim_mm is not None:
        size = page.cols / page.dpi * _MM, page.rows / page.dpi * _MM
        room = min((a - b) / 2 for a, b in zip(size, page.trim_mm, strict=True))
        if page.bleed_mm < _LEAST_BLEED_MM or room + 0.05 < page.bleed_mm:
            text = tr(
                "The art goes {0:.1f} mm beyond the trim, the bleed is {1:g} mm; printers want 3 mm",
                max(room, 0),
                page.bleed_mm,
            )
            found.append(Finding("bleed", "Little bleed", text, ""))
    return found


def _offered(sources: PageSources) -> list[Finding]:
    """Tell of suggested cuts that nobody has kept or dropped."""
    waiting = sum(cut.offered for cut in sources[SHADE_CUTS].values())
    if not waiting:
        return []
    text = tr("{0} suggested cuts are printed as they are, and nobody has kept them yet", grouped(waiting))
    return [Finding(f"offered:{waiting}", "Suggestions not decided", text, "")]


def _gamut(book: Book, sources: PageSources) -> list[Finding]:
    pots = book.pots()
    every = [
        (number, tone, color)
        for number in sorted(used_pots(book, sources))
        for tone, color in zip(("local", "shadow"), book.tone_pair(pots[number]), strict=True)
        if not _is_set(pots[number], tone)
    ]
    found = []
    rgb = [tuple(from_hex(color).tolist()) for _, _, color in every]
    inks = inks_of(rgb, sources[PRESS])
    for (number, tone, color), (_, miss) in zip(every, inks, strict=True):
        if miss > _MISS:
            text = tr("{0}, {1}: the press misses it by {2:.0f} ΔE", pots[number].name, tone, miss)
            asks = ask("print-nearest", number=number, tone=tone)
            found.append(Finding(f"gamut:{number}:{tone}", "Out of gamut", text, "Nearest", None, color, asks, number))
    return found


def _is_set(pot: Pot, tone: str) -> bool:
    """Whether the inks of a pot in light, or in shadow, were set by hand."""
    return bool(pot.spot) or (pot.inks if tone == "local" else pot.shadow_inks) is not None


def _blacks_in_four(book: Book, sources: PageSources) -> list[Finding]:
    """List pots that look black and are printed in several inks, which blurs where plates stray."""
    pots, found = book.pots(), []
    for number in sorted(used_pots(book, sources)):
        pot = pots[number]
        rgb = from_hex(pot.local)
        count = sum(ink > 0 for ink in inks_of([tuple(rgb.tolist())], sources[PRESS])[0][0])
        if prints_black(rgb[None])[0] and count > 1 and not _is_set(pot, "local"):
            text = tr("{0} looks black and is printed in {1} inks, which blur where plates stray", pot.name, count)
            asks = ask("set-pot-inks", number=number, inks=(0, 0, 0, 100))
            key = f"blackpot:{number}:{pot.local}"
            found.append(Finding(key, "Black in several inks", text, "Black alone", None, pot.local, asks, number))
    return found


def _under_passes(book: Book, sources: PageSources, derived: Derived) -> list[Finding]:
    """List pots printed with an ink of their own that a pass lies over: there the ink gives way to the four."""
    pots, found = book.pots(), []
    count = derived.regions.atoms(sources.line).count
    inked = {n for n in used_pots(book, sources) if pots[n].spot}
    for number, one in sources[PASSES].items():
        if one.kind == "tone" or not one.shown or not one.printed or not inked:
            continue
        inside = scope_atoms(book, sources, one.scope, count, derived.ground(sources))
        under = {pot for atom, pot in sources[POURS].items()
                 if pot in inked and 0 < atom <= count and (inside is None or inside[atom])}  # fmt: skip
        if under and (one.covers_all or book.plane(COVER.key(sources.number, number)).any()):
            names = listed(sorted({pots[n].spot for n in under}))
            text = tr("{0} lies over {1}: where it covers, the ink gives way to the four", one.name, names)
            found.append(Finding(f"spotunder:{number}", "Pass over an ink of its own", text, ""))
    return found


def _beats(sources: PageSources, derived: Derived) -> list[Finding]:
    """List drawn dots that make a pattern with the screen of a plate."""
    press, found = sources[PRESS], list[Finding]()
    for tone in derived.inks.tones(sources.line):
        top, left, bottom, right = tone.rect
        wave = lattice_of(derived.inks.bare(sources.line)[top:bottom, left:right]) if tone.kind == "dots" else None
        if wave is None:
            continue
        for name, screen in zip(_PLATES, press.screens, strict=True):
            length = beat_mm(wave, screen, screen.lpi or press.press.ruling_lpi, sources.page.dpi)
            if length is not None:
                text = tr(
                    "Drawn dots and the {0} screen make a pattern {1:.1f} mm wide. "
                    "Turn that screen, or flatten the tone in Inks",
                    name,
                    length,
                )
                key = f"beat:{tone.row}:{tone.col}:{name}"
                found.append(Finding(key, "Tone beats with the screen", text, "", tone.rect))
                break
    return found
