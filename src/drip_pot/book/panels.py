"""Panels drawn and taken away by hand, as a book keeps them. Knows values."""

from typing import Annotated

import msgspec

from drip_pot.core.regions import Path

MOST_CORNERS = 40


class PanelByHand(msgspec.Struct, frozen=True):
    """A panel drawn by hand, or one taken away.

    Attributes
    ----------
    corners : tuple of (row, col)
        Three or more, in turn, in page pixels.
    is_panel : bool
        False where no panel is to be.
    dam : int
        The dam that closes its frame, by number; 0 for none.
    """

    corners: Annotated[Path, msgspec.Meta(min_length=3, max_length=MOST_CORNERS)]
    is_panel: bool = True
    dam: int = 0
