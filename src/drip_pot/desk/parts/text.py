"""Numbers of things as people read them. Knows nothing else."""

from drip_pot.words import grouped, tr_many


def counted(number: int, noun: str) -> str:
    """Write a number of things: '1 file', '12 files'."""
    return tr_many(f"{{0}} {noun}", f"{{0}} {noun}s", number, grouped(number))
