"""What needs an eye in Press. Knows the book and its tables; draws nothing."""

from drip_pot.book.asking import ask
from drip_pot.book.book import Book
from drip_pot.book.findings.finding import Finding, used_pots
from drip_pot.book.model import PageSources
from drip_pot.book.tables import Tables, inks_for
from drip_pot.core.color import from_hex

_FEW = 12
_LEAST_DPI, _ASKEW, _VEIL, _HATCHES = 250, 0.15, 0.06, 5


def find_press(book: Book, sources: PageSources, tables: Tables) -> list[Finding]:
    """List what the press cannot do as it is set, or not at all."""
    press, found = sources.press, []
    if press.trap_mm < press.tolerance_mm:
        text = f"{press.trap_mm:g} mm does not cover a plate that strays {press.tolerance_mm:g} mm"
        found.append(Finding(f"trap:{press.trap_mm}", "Trap too narrow", text, "Widen", None, None, ask("widen-trap")))
    for number in sorted(used_pots(book, sources)):
        pot = book.pots()[number]
        for tone, color in zip(("local", "shadow"), book.tone_pair(pot), strict=True):
            r, g, b = from_hex(color).tolist()
            _, miss = inks_for((r, g, b), press)
            if miss > 4:
                text = f"{pot.name}, {tone}: the press misses it by {miss:.0f} ΔE"
                found.append(Finding(f"gamut:{number}:{tone}", "Out of gamut", text, "", None, color, None, number))
    return found
