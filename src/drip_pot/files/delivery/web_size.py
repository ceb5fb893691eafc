# SPDX-License-Identifier: GPL-3.0-or-later
"""How large copies for screens are, and their colour edges. Knows numbers only."""

import msgspec

from drip_pot.core.errors import BadInput

SIDES = ("height", "width", "megapixels")
"""What a size can be said of."""


class WebSize(msgspec.Struct, frozen=True):
    """How large a copy for screens is; a page is never made larger than it is.

    Attributes
    ----------
    by : str
        What is said of it: height, width or megapixels.
    size : float
        Pixels of that side (16 to 30 000), or megapixels (0.01 to 500).
    smooth : bool
        The edges of colours are smooth, rather than hard as they are printed.
    """

    by: str = "height"
    size: float = 1600.0
    smooth: bool = False

    def __post_init__(self) -> None:
        if self.by not in SIDES:
            raise BadInput("A web copy is sized by none of '{0}'. Choose from {1}.", self.by, ", ".join(SIDES))
        least, most = (0.01, 500) if self.by == "megapixels" else (16, 30_000)
        if not least <= self.size <= most:
            raise BadInput(
                "The {0} of a web copy goes from {1:g} to {2:g}, not {3:g}.", self.by, least, most, self.size
            )

    def of(self, rows: int, cols: int) -> tuple[int, int]:
        """Return rows and columns of the copy of a picture of so many."""
        share = {
            "height": self.size / rows,
            "width": self.size / cols,
            "megapixels": (self.size * 1e6 / (rows * cols)) ** 0.5,
        }[self.by]
        share = min(share, 1.0)
        return max(1, round(rows * share)), max(1, round(cols * share))


def web_size(text: str) -> WebSize:
    """Read a size as it is typed, 'height=1600', 'width=1200' or 'megapixels=2,smooth'; raises `BadInput`."""
    said, comma, edges = text.partition(",")
    by, _, size = said.partition("=")
    try:
        if comma and edges.strip() != "smooth":
            raise ValueError(edges)
        return WebSize(by.strip(), float(size), smooth=bool(comma))
    except ValueError:
        raise BadInput(
            "A web copy is sized by height=1600, width=1200 or megapixels=2, with smooth after a comma, not '{0}'.",
            text,
        ) from None
