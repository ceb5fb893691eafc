# SPDX-License-Identifier: GPL-3.0-or-later
"""What a stage is: one record of all that is its own. Knows the view and the session; no single stage."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field

from drip_pot.desk.session.easel import Easel
from drip_pot.desk.session.page_view import PageView
from drip_pot.desk.shelf.cards import Cards
from drip_pot.desk.shelf.in_hand import Tells
from drip_pot.desk.stages.panel import Panel
from drip_pot.desk.view.overlay import Overlay
from drip_pot.desk.view.render import Look
from drip_pot.desk.view.seen import Chip, Seen


def nothing_read(easel: Easel, view: PageView, row: int, col: int) -> str:
    """Read nothing."""
    return ""


@dataclass(frozen=True)
class Stage:
    """A stage.

    Attributes
    ----------
    name : str
    panel : class
        Its column of the inspector.
    looks : callable
        Returns what is shown of the page and what peek and wipe compare it to.
    chips : callable
        Returns its switches.
    overlay : class
        What it draws over the page.
    reads : callable
        Returns what lies under the pointer, in words.
    flags : mapping
        Switches that are on at first.
    cards : callable, optional
        Makes the cards that the shelf shows instead of pots.
    tells : Tells, optional
        What the corner of the shelf tells then.
    """

    name: str
    panel: type[Panel]
    looks: Callable[[Easel, Seen], tuple[Look, Look]]
    chips: Callable[[Easel, Seen], list[Chip]]
    overlay: type[Overlay] = Overlay
    reads: Callable[[Easel, PageView, int, int], str] = nothing_read
    flags: Mapping[str, bool] = field(default_factory=dict)
    cards: Callable[[Easel, Seen], Cards] | None = None
    tells: Tells | None = None
