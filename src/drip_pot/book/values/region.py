# SPDX-License-Identifier: GPL-3.0-or-later
"""Values that part and fill regions: cuts and ways by hand, panels, pours, seeds. Knows core's settings."""

from typing import Annotated

import msgspec
import numpy as np

from drip_pot.book.numbers import PotNumber, PouredNumber
from drip_pot.book.values.kind import Move, PageKind, PageValue, moved_path, written_spot
from drip_pot.core.inks import Place, lay
from drip_pot.core.regions import Path, Stencil, make_stencil

_Stroke = Annotated[Path, msgspec.Meta(min_length=1)]
MOST_CORNERS = 40
BALLOON = 0
"""The pot number of regions kept as paper for lettering: white in print, and never a leftover."""


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


class Seed(msgspec.Struct, frozen=True):
    """A scribble that spreads a pot, or paper (None), until it meets a line or another seed."""

    path: Annotated[Path, msgspec.Meta(min_length=1)]
    pot: PotNumber | None = None


def _middle(key: str) -> tuple[float, float]:
    row, _, col = key.partition(":")
    return float(row), float(col)


def _moved_panel(panel: PanelByHand, move: Move) -> PanelByHand:
    return msgspec.structs.replace(panel, corners=moved_path(panel.corners, move))


def _moved_seed(seed: Seed, move: Move) -> Seed:
    return msgspec.structs.replace(seed, path=moved_path(seed.path, move))


def _moved_stencil(stencil: Stencil, move: Move) -> Stencil | None:
    """Lay a cut-out where it lies after the page was moved; None if nothing of it is left."""
    place, shape = move
    top, left, bottom, right = stencil.rect
    corners = np.array([place.at(r, c) for r in (top, bottom) for c in (left, right)])
    low, high = np.floor(corners.min(axis=0)).astype(int) - 2, np.ceil(corners.max(axis=0)).astype(int) + 2
    low, high = np.maximum(low, 0), np.minimum(high, shape)
    if (high <= low).any():
        return None
    to_box = Place(0.0, 1.0, top, left).then(place).then(Place(0.0, 1.0, -int(low[0]), -int(low[1])))
    mask = lay(stencil.mask().view(np.uint8), to_box, (int(high[0] - low[0]), int(high[1] - low[1])), 0, hard=True)
    return make_stencil((int(low[0]), int(low[1]), 0, 0), mask > 0, back=stencil.back)


DAMS: PageKind[int, Path] = PageKind("dam", int, _Stroke, ("dam", "dams"), frozenset({"cuts"}), moved=moved_path)
STENCILS: PageKind[int, Stencil] = PageKind(
    "stencil", int, Stencil, ("cut-out", "cut-outs"), frozenset({"cuts"}), moved=_moved_stencil
)
DOORS: PageKind[int, Path] = PageKind("door", int, _Stroke, ("door", "doors"), frozenset({"ways"}), moved=moved_path)
JOINS: PageKind[int, Path] = PageKind("join", int, _Stroke, ("join", "joins"), frozenset({"ways"}), moved=moved_path)
BRIDGES: PageKind[tuple[float, float], bool] = PageKind(
    "bridge", _middle, bool, ("bridge decided by hand", "bridges decided by hand"), frozenset({"ways"}),
    moved_key=lambda middle, place: place.at(*middle),
    written=written_spot,
)  # fmt: skip
PANELS: PageKind[int, PanelByHand] = PageKind(
    "panel", int, PanelByHand, ("panel drawn by hand", "panels drawn by hand"), frozenset({"ways"}),
    moved=_moved_panel,
    filled=lambda found, _: dict(sorted(found.items())),
)  # fmt: skip
POURS: PageKind[int, int] = PageKind("pour", int, PouredNumber, ("pour", "pours"), frozenset({"colors"}))
SEEDS: PageKind[int, Seed] = PageKind("seed", int, Seed, ("seed", "seeds"), moved=_moved_seed)
SOWN: PageKind[int, int] = PageKind("sown", int, int, ("area that is sown", "areas that are sown"))
SEED_CUTS: PageValue[tuple[int, ...]] = PageValue("seed-cuts", tuple[int, ...], (), "cut-outs made by seeds")
