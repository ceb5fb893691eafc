"""Numbers as people read them. Knows nothing else."""


def count_text(number: int) -> str:
    """Write a whole number with thin spaces between thousands."""
    return f"{number:,}".replace(",", "\u202f")


def counted(number: int, noun: str) -> str:
    """Write a number of things: '1 file', '12 files'."""
    return f"{count_text(number)} {noun}{'' if number == 1 else 's'}"


def mm_text(px: float, dpi: float) -> str:
    """Write a length in pixels and millimetres."""
    return f"{px:.0f} px · {px / dpi * 25.4:.2f} mm"
