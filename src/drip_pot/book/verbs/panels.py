# SPDX-License-Identifier: GPL-3.0-or-later
"""Verbs of panels drawn by hand: their frames are closed where they are open. Knows a page at hand."""

import numpy as np

from drip_pot.book.asking import order
from drip_pot.book.hand import Hand
from drip_pot.book.numbers import DrawnPanelNumber
from drip_pot.book.values import DAMS, MOST_CORNERS, PANELS, PanelByHand
from drip_pot.book.verbs.cutting import border_reach
from drip_pot.book.verbs.setting import put
from drip_pot.core.errors import BadInput, NothingDone
from drip_pot.core.regions import Cut, Path, close_frame, snapped

_LEAST_SHARE = 0.0005


@order
def draw_panel(hand: Hand, corners: Path, number: DrawnPanelNumber | None = None) -> None:
    """Draw a panel by its corners (row, col), or move those of one drawn before.

    It takes the place of panels that lie at least half in it; where its frame has no line, a dam closes it. Raises
    `BadInput` for less than three corners or more than forty, `NothingDone` for a panel of next to no area.
    """
    if not 3 <= len(corners) <= MOST_CORNERS or not np.isfinite(np.array(corners, np.float64)).all():
        raise BadInput("A panel has 3 to {0} corners on the page, not {1}.", MOST_CORNERS, len(corners))
    kept = _on_page(corners, hand.shape)
    if _area(kept) < _LEAST_SHARE * hand.shape[0] * hand.shape[1]:
        raise NothingDone("That is too small for a panel. Drag from one corner of it to the other.")
    old = hand.sources[PANELS].get(number or 0)
    reach = border_reach(hand)
    dams, dam = _without_dam(hand, old), close_frame(hand.ink, kept, reach)
    place = hand.next if dam else 0
    if dam:
        dams[place] = snapped(dam, hand.ink, hand.labels, reach)
    number = number if old is not None and number is not None else max(hand.sources[PANELS], default=0) + 1
    title = "Draw a panel" if old is None else "Move a panel's corner"
    hand.lay(dams, "draw-panel", title, more=[(PANELS.key(hand.page, number), PanelByHand(kept, dam=place))])


@order
def remove_panel(hand: Hand, row: float, col: float) -> None:
    """Take the panel at a place away: one drawn by hand with what closes it, one found so that it is none any more.

    Raises `NothingDone` in the gutter and beside the page.
    """
    panels = hand.panels
    number = panels.at(row, col) if panels.framed else 0
    if not number:
        raise NothingDone("There is no panel here.")
    corners = panels.corners[number - 1]
    drawn = [n for n, p in hand.sources[PANELS].items() if p.is_panel and p.corners == corners]
    if drawn:
        dams = _without_dam(hand, hand.sources[PANELS][drawn[-1]])
        hand.lay(dams, "remove-panel", "Remove a panel", more=[(PANELS.key(hand.page, drawn[-1]), None)])
    else:
        place = max(hand.sources[PANELS], default=0) + 1
        put(
            hand.book,
            "remove-panel",
            "Remove a panel",
            (PANELS.key(hand.page, place), PanelByHand(corners, is_panel=False)),
        )


def _without_dam(hand: Hand, panel: PanelByHand | None) -> dict[int, Cut | None]:
    return {} if panel is None or panel.dam not in hand.sources[DAMS] else {panel.dam: None}


def _on_page(corners: Path, shape: tuple[int, int]) -> Path:
    spots = np.clip(np.array(corners, np.float64), 0, np.array(shape) - 1).round(1)
    return tuple((float(r), float(c)) for r, c in spots)


def _area(corners: Path) -> float:
    row, col = np.array(corners).T
    return abs(float(row @ np.roll(col, 1) - col @ np.roll(row, 1))) / 2
