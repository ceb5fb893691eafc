# SPDX-License-Identifier: GPL-3.0-or-later
"""What is done with frames: stepped through, coloured like the one before, seen through, played. Knows the easel."""

from PyQt6.QtCore import QObject, QSettings
from PyQt6.QtGui import QImage
from PyQt6.QtWidgets import QWidget

from drip_pot.book import verbs
from drip_pot.book.values import Sequence
from drip_pot.desk.dialogs.player import Player
from drip_pot.desk.session.easel import Easel
from drip_pot.desk.session.small_pages import SmallPages
from drip_pot.desk.view.shown import OnScreen

_HOWS = ("off", "line", "colour")
_BEFORE, _AFTER = (122, 58, 120), (28, 116, 112)
_STRENGTH = {"line": 0.55, "colour": 0.3}


class FrameMenu(QObject):
    """Frames; what they are shown through on is set once the canvas is there.

    Attributes
    ----------
    canvas : Shown or None
        Where ghosts are shown.
    how : str
        'off', 'line' or 'colour'.
    """

    def __init__(self, window: QWidget, easel: Easel, small: SmallPages, settings: QSettings) -> None:
        super().__init__(window)
        self.window, self.easel, self.small, self._settings = window, easel, small, settings
        self.canvas: OnScreen | None = None
        self.how = "off"
        self._wanted = 0
        easel.refreshed.connect(self._carry_wanted)
        for signal in (easel.refreshed, easel.chosen, small.came):
            signal.connect(self.show_ghosts)

    def _known(self) -> Sequence | None:
        book = self.easel.book
        found = None if book is None else book.sequence_of(self.easel.page)
        if found is None:
            self.easel.said.emit("This page is no frame. Choose pages on the contact sheet and make a sequence.", False)
            return None
        return found[1]

    def step(self, by: int) -> None:
        """Show the next frame, or the one before; round at the ends."""
        known = self._known()
        if known is not None:
            self._wanted = 0
            self.easel.show_page(known.pages[(known.pages.index(self.easel.page) + by) % len(known.pages)])

    def carry(self) -> None:
        """Pour the page shown like the frame before."""
        if self._known() is not None:
            self.easel.hands.start(lambda hand: verbs.carry_colors(hand))

    def light(self) -> None:
        """Light the page shown like the frame before."""
        if self._known() is not None:
            self.easel.hands.start(lambda hand: verbs.carry_light(hand))

    def markings(self) -> None:
        """Take what was cut by hand on the frame before along to the page shown."""
        if self._known() is not None:
            self.easel.hands.start(lambda hand: verbs.carry_markings(hand))

    def between(self) -> None:
        """Pour the empty frames between poured ones, from both sides."""
        if self._known() is not None:
            self.easel.hands.start(lambda hand: verbs.carry_between(hand))

    def carry_on(self) -> None:
        """Go to the next frame and pour it like this one."""
        known = self._known()
        if known is None:
            return
        after = known.beside(self.easel.page, 1)
        if after is None:
            self.easel.said.emit("This is the last frame.", False)
            return
        self.easel.show_page(after)
        self._wanted = after
        self._carry_wanted()

    def _carry_wanted(self) -> None:
        """Carry colours once the regions of the frame gone to are known."""
        if self._wanted and self._wanted == self.easel.page and self.easel.hand() is not None:
            self._wanted = 0
            self.carry()

    def ghost(self) -> None:
        """Show the frames before and after as lines, in colour, or not."""
        if self._known() is not None:
            self.how = _HOWS[(_HOWS.index(self.how) + 1) % len(_HOWS)]
            self.easel.refreshed.emit()

    def show_ghosts(self) -> None:
        """Lay the frames before and after over the page."""
        if self.canvas is None:
            return
        book = self.easel.book
        found = None if book is None or self.how == "off" else book.sequence_of(self.easel.page)
        ghosts: list[tuple[QImage, float]] = []
        if found is not None:
            beside = [(found[1].beside(self.easel.page, -1), _BEFORE), (found[1].beside(self.easel.page, 1), _AFTER)]
            self.small.want([page for page, _ in beside if page is not None])
            for page, color in beside:
                small = None if page is None else self.small.get(page)
                if small is not None:
                    image = small.ghost(color) if self.how == "line" else small.picture
                    ghosts.append((image, _STRENGTH[self.how]))
        self.canvas.show_through(ghosts)

    def play(self) -> None:
        """Play the sequence of the page shown."""
        if self._known() is not None:
            Player(self.window, self.easel, self._settings).show()

    def rate(self, by: float) -> None:
        """Play faster or slower by so many frames a second."""
        book = self.easel.book
        found = None if book is None else book.sequence_of(self.easel.page)
        if found is not None:
            number, known = found
            fps = min(60.0, max(1.0, known.rate_fps + by))
            self.easel.do(lambda book, _: verbs.set_sequence(book, number, rate_fps=fps))

    def hold(self, by: int) -> None:
        """Show the frame longer or shorter by so many frames."""
        known = self._known()
        if known is not None:
            frames = min(240, max(1, known.held.get(self.easel.page, 1) + by))
            self.easel.do(lambda book, page: verbs.hold_frame(book, page, frames))
