"""What needs an eye in Holds. Knows the book; draws nothing."""

from drip_pot.book.asking import ask
from drip_pot.book.book import Book
from drip_pot.book.findings.finding import Finding
from drip_pot.book.model import PageSources

_FEW = 12
_ENOUGH = 0.6


def find_holds(book: Book, sources: PageSources) -> list[Finding]:
    """List holds that are hardly seen."""
    parts = book.parts()
    return [
        Finding(f"hold:{part}", "Hold too weak", f"Lines of {parts[part].name} are only {hold.amount:.0%} darker",
                "Darken", None, None, ask("set-hold", part=part, amount=_ENOUGH))
        for part, hold in sources.holds.items()
        if hold.amount < 0.25 and part in parts
    ]  # fmt: skip
