# SPDX-License-Identifier: GPL-3.0-or-later
"""The page shown on a widget: looks, tiles, the wipe, what is compared with. Knows the easel, nothing of pointers."""

from collections.abc import Mapping

from PyQt6.QtGui import QImage
from PyQt6.QtWidgets import QWidget

from drip_pot.desk.session.easel import Easel
from drip_pot.desk.session.page_view import PageView
from drip_pot.desk.view.last_look import LastLook
from drip_pot.desk.view.overlay import Overlay
from drip_pot.desk.view.placed import PlacedMark
from drip_pot.desk.view.render import Look
from drip_pot.desk.view.screen_profile import screen_space
from drip_pot.desk.view.tiles import Tiles
from drip_pot.desk.view.tool import Tool


class OnScreen(PlacedMark):
    """What is shown.

    Attributes
    ----------
    look, before : Look
        What is shown now, and what peek and wipe compare it to.
    earlier : PageView or None
        An earlier moment of the page to compare with instead.
    wipe : float or None
        Where the divider stands, 0..1 of the width.
    last : LastLook
        The page as it was seen last, until it is read.
    ghosts : list
        Pictures of other pages that are seen through, and how strongly, 0..1.
    """

    def __init__(
        self, easel: Easel, tools: Mapping[str, Tool], overlays: Mapping[str, Overlay], parent: QWidget | None = None
    ) -> None:  # fmt: skip
        super().__init__(parent)
        self.easel = easel
        self._tools, self._overlays = tools, overlays
        self.tiles, self.past = Tiles(self), Tiles(self)
        self.tiles.space = self.past.space = screen_space()
        self.look, self.before = Look(), Look(kind="line")
        self.peeking = False
        self.wipe: float | None = None
        self.earlier: PageView | None = None
        self.ghosts: list[tuple[QImage, float]] = []
        self.last = LastLook(easel, lambda: self.look, self)
        for tiles in self.every_tiles():
            tiles.ready.connect(self.update)

    @property
    def tool(self) -> Tool:
        """The tool in use."""
        return self._tools[self.easel.tool]

    @property
    def overlay(self) -> Overlay:
        """What the stage draws over the page."""
        return self._overlays[self.easel.stage]

    def set_looks(self, look: Look, before: Look) -> None:
        """Say what is shown now, and what peek and wipe compare it to."""
        if (look, before) != (self.look, self.before):
            self.look, self.before = look, before
            self.update()

    def every_tiles(self) -> tuple[Tiles, Tiles]:
        """Return the tiles of now and of what it is compared with."""
        return self.tiles, self.past

    def close_tiles(self) -> None:
        """Draw nothing any more."""
        self.last.close()
        for tiles in self.every_tiles():
            tiles.close()

    def unring(self) -> None:
        """Take the ring off what was gone to last."""
        self.focus_rect = None
        self.update()

    def set_wipe(self, on: bool) -> None:
        """Show or hide the before/after divider."""
        self.wipe = 0.5 if on else None
        self.update()

    def compare_with(self, view: PageView | None) -> None:
        """Wipe and peek against an earlier view of the page; None is the stage's own comparison again."""
        self.past.clear()
        self.earlier = view
        self.set_wipe(view is not None)

    def show_through(self, ghosts: list[tuple[QImage, float]]) -> None:
        """Lay pictures of other pages over this one."""
        if ghosts or self.ghosts:
            self.ghosts = ghosts
            self.update()

    def page_size(self) -> tuple[int, int] | None:
        return self.last.size if self.easel.view is None else self.easel.view.shape

    def wipe_x(self) -> float:
        """Return where the divider stands."""
        return (self.wipe or 0.0) * self.width()
