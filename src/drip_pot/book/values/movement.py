# SPDX-License-Identifier: GPL-3.0-or-later
"""Values of movements and of what is carried between drawings: sequences, doubts, markings, figures, references."""

from typing import Annotated

import msgspec

from drip_pot.book.numbers import PageNumber, PouredNumber
from drip_pot.book.values.kind import BookKind, PageKind, moved_spot, spot_of, written_spot

Rate = Annotated[float, msgspec.Meta(ge=1, le=60)]
MOST_HELD = 240
DOUBTFUL = 0.75
"""A carried colour that is less likely right than this is shown to be looked at."""


class Sequence(msgspec.Struct, frozen=True):
    """Frames of one movement.

    Attributes
    ----------
    name : str
        What it is called.
    pages : tuple of int
        Pages in order.
    rate_fps : float
        Frames a second, 1..60.
    held : dict
        How many frames long a page is shown, 2..240, by page; others are shown for one.
    """

    name: str
    pages: tuple[PageNumber, ...]
    rate_fps: Rate = 12.0
    held: dict[PageNumber, Annotated[int, msgspec.Meta(ge=1, le=MOST_HELD)]] = {}

    def shown(self) -> list[int]:
        """Return the page of every frame that is played."""
        return [page for page in self.pages for _ in range(self.held.get(page, 1))]

    def beside(self, page: int, step: int) -> int | None:
        """Return the frame `step` places after a page of it; None beyond its ends."""
        place = self.pages.index(page) + step
        return self.pages[place] if 0 <= place < len(self.pages) else None


Share = Annotated[float, msgspec.Meta(ge=0, le=1)]


class Doubt(msgspec.Struct, frozen=True):
    """A colour that was carried into a region.

    Attributes
    ----------
    pot : int
        What was poured; as long as the region has it, the doubt stands.
    sure : float
        How likely it is right, 0..1.
    """

    pot: PouredNumber
    sure: Share

    @property
    def is_open(self) -> bool:
        """Whether it is so little sure that it is to be looked at."""
        return self.sure < DOUBTFUL


class FollowingMark(msgspec.Struct, frozen=True):
    """A marking that was taken along from another drawing of the same thing.

    Attributes
    ----------
    source : int
        The page it was taken from last, by number.
    number : int
        Its number here, among those of its kind.
    laid : int
        Checksum (CRC-32 of its JSON) of how it was laid; where it differs, a hand changed it since.
    slid_px : float, optional
        How far the line about it lies from that of the other drawing after the move; none where that cannot be told.
    sure : bool
        Whether that is little enough, or somebody has kept it.
    pot : int, optional
        What a cut-out was laid in; none is paper.
    """

    source: PageNumber
    number: int
    laid: int
    slid_px: float | None = None
    sure: bool = True
    pot: PouredNumber | None = None

    @property
    def is_open(self) -> bool:
        """Whether it is to be looked at."""
        return not self.sure


class Found(msgspec.Struct, frozen=True):
    """A region of a figure: a pixel of it, the pot that the figure has there, and how well it lies there, 0..1."""

    row: int
    col: int
    pot: PouredNumber
    sure: Share


class FigureOffer(msgspec.Struct, frozen=True):
    """A figure of another page that stands on this one again; not poured yet.

    Attributes
    ----------
    name : str
        The part that most of it belongs to.
    source : int
        The page it was found on, by number.
    regions : tuple of Found
        What would be poured where.
    mirrored : bool
        Whether left and right are exchanged here.
    """

    name: str
    source: PageNumber
    regions: tuple[Found, ...]
    mirrored: bool = False


class Reference(msgspec.Struct, frozen=True):
    """A picture pinned beside the pages; never printed.

    Attributes
    ----------
    name : str
        What it is called.
    original : int
        Its file in the book.
    """

    name: str
    original: int


SEQUENCES: BookKind[int, Sequence] = BookKind(
    "sequence", int, Sequence, ("sequence", "sequences"), frozenset({"sequence"})
)
REFERENCES: BookKind[int, Reference] = BookKind(
    "reference", int, Reference, ("reference", "references"), frozenset({"reference"})
)
DOUBTS: PageKind[tuple[int, int], Doubt] = PageKind(
    "doubt", spot_of, Doubt, ("colour carried in doubt", "colours carried in doubt"),
    moved_key=moved_spot,
    written=written_spot,
)  # fmt: skip
FOLLOWING: PageKind[str, FollowingMark] = PageKind(
    "following", str, FollowingMark, ("marking taken along", "markings taken along")
)
FIGURES: PageKind[int, FigureOffer] = PageKind(
    "figure", int, FigureOffer, ("figure offered", "figures offered"),
    moved=lambda *_: None,
    filled=lambda found, _: dict(sorted(found.items())),
)  # fmt: skip
