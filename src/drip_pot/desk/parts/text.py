"""Numbers as people read them. Knows nothing else."""

from drip_pot.words import tr_many


def count_text(number: int) -> str:
    """Write a whole number with thin spaces between thousands."""
    return f"{number:,}".replace(",", "\u202f")


def counted(number: int, noun: str) -> str:
    """Write a number of things: '1 file', '12 files'."""
    return tr_many(f"{{0}} {noun}", f"{{0}} {noun}s", number, count_text(number))
