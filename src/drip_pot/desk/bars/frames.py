# SPDX-License-Identifier: GPL-3.0-or-later
"""The frames of a sequence above the shelf: small pages in order, and what is done with them. Knows the easel."""

from collections.abc import Callable, Mapping

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QScrollArea, QVBoxLayout, QWidget

from drip_pot.book.values import Sequence
from drip_pot.desk.parts.widgets import button, label
from drip_pot.desk.session.easel import Easel
from drip_pot.desk.session.small_pages import SmallPages
from drip_pot.desk.shelf.cards import Card, Cards
from drip_pot.words import tr


class FrameCards(Cards):
    """The frames in order; a click shows one."""

    wide, high, around = 78, 66, 4

    def __init__(self, easel: Easel, small: SmallPages) -> None:
        super().__init__(easel, "Frames")
        self._small = small
        small.came.connect(self.refresh)

    def made(self) -> list[Card]:
        book = self.easel.book
        found = None if book is None else book.sequence_of(self.easel.page)
        if book is None or found is None:
            return []
        _, sequence = found
        cards = []
        for place, page in enumerate(sequence.pages, 1):
            thumb, held = self._small.thumb(page), sequence.held.get(page, 1)
            says = "\n".join([f"×{held}"] * (held > 1) + ["?"] * (thumb is not None and thumb.doubtful))
            cards.append(Card(str(place), says, None if thumb is None else thumb.picture, page, True))
        around = sequence.pages.index(self.easel.page)
        order = sorted(range(len(sequence.pages)), key=lambda place: abs(place - around))
        self._small.want([sequence.pages[place] for place in order], thumbs=True)
        return cards

    def is_strong(self, card: Card) -> bool:
        return card.number == self.easel.page

    def press(self, card: Card, mods: Qt.KeyboardModifier) -> None:
        if card.number != self.easel.page:
            self.easel.show_page(card.number)


class FrameStrip(QWidget):
    """The strip; it is there while the page shown is a frame.

    Signals
    -------
    shown()
        It came or went.
    """

    shown = pyqtSignal()

    def __init__(
        self, easel: Easel, small: SmallPages, done: Mapping[str, Callable[[], object]], how: Callable[[], str]
    ) -> None:
        super().__init__()
        self.setObjectName("shelf")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setFixedHeight(92)
        self.easel, self._how = easel, how
        row = QHBoxLayout(self)
        row.setContentsMargins(12, 2, 12, 2)
        row.setSpacing(8)
        told = QVBoxLayout()
        told.setSpacing(0)
        self._name, self._place = label("", "title"), label("", "smallmuted")
        told.addStretch(1)
        told.addWidget(self._name)
        told.addWidget(self._place)
        told.addStretch(1)
        row.addLayout(told)
        self.cards = FrameCards(easel, small)
        scroll = QScrollArea()
        scroll.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        scroll.setWidget(self.cards)
        scroll.setWidgetResizable(True)
        scroll.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        scroll.setStyleSheet("QScrollArea, QScrollArea > QWidget > QWidget { background: transparent; }")
        self._scroll = scroll
        row.addWidget(scroll, 1)
        self.carry = button("Carry on", done["carry_on"], "Go to the next frame and pour it like this one (Alt+.)")
        self.light = button("Light", done["light"], "Light this frame like the one before; cuts follow it (Ctrl+.)")
        self.between = button("Between", done["between"], "Pour the empty frames between poured ones, from both sides")
        self.ghost = button("Ghost", done["ghost"], "Frames before and after shown through: line, colour, off (,)")
        self.play = button("Play", done["play"], "Play the sequence, and write it as a file (Alt+,)")
        for one in (self.carry, self.light, self.between, self.ghost, self.play):
            row.addWidget(one)
        easel.chosen.connect(self.refresh)
        easel.refreshed.connect(self.refresh)
        easel.edited.connect(self.refresh)
        self.hide()  # until a page is a frame of a sequence

    def sequence(self) -> Sequence | None:
        """Return the sequence that the page shown is a frame of."""
        book = self.easel.book
        found = None if book is None else book.sequence_of(self.easel.page)
        return None if found is None else found[1]

    def refresh(self) -> None:
        """Show the sequence as it is now, or nothing."""
        known = self.sequence()
        if (known is not None) != (not self.isHidden()):
            self.setVisible(known is not None)
            self.shown.emit()
        if known is None:
            return
        place = known.pages.index(self.easel.page)
        self._name.setText(known.name)
        self._place.setText(tr("frame {0} of {1}, {2:g} a second", place + 1, len(known.pages), known.rate_fps))
        self.carry.setEnabled(place + 1 < len(known.pages))
        self.light.setEnabled(place > 0)
        self.ghost.setText(tr("Ghost: {0}", self._how()) if self._how() != "off" else tr("Ghost"))
        self.cards.refresh()
        self.cards.go(place)
        self._scroll.ensureVisible(18 + (self.cards.wide + 10) * place + self.cards.wide // 2, 0, self.cards.wide, 0)
