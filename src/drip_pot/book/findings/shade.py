"""What needs an eye in Shade. Knows the book; draws nothing."""

from drip_pot.book.asking import ask
from drip_pot.book.book import Book
from drip_pot.book.findings.finding import Finding, used_pots
from drip_pot.book.model import PageSources
from drip_pot.core.color import from_hex, srgb8_to_oklab

_FEW = 12
_LEAST_DPI, _ASKEW, _VEIL, _HATCHES = 250, 0.15, 0.06, 5


def find_shade(book: Book, sources: PageSources) -> list[Finding]:
    """List pots whose shadow is hardly darker than their light."""
    found = []
    for number in sorted(used_pots(book, sources)):
        pot = book.pots()[number]
        local, shadow = (srgb8_to_oklab(from_hex(c)) for c in book.tone_pair(pot))
        step = float(local[0] - shadow[0]) * 100
        if step < 5 and local[0] > 0.25:
            verb = "Work out" if pot.shadow else ""
            text = f"The shadow of {pot.name} is only {step:.0f} L darker"
            found.append(
                Finding(
                    f"pair:{number}",
                    "Tones too close",
                    text,
                    verb,
                    None,
                    pot.local,
                    ask("work-out-shadow", number=number),
                )
            )
    return found
