# SPDX-License-Identifier: GPL-3.0-or-later
"""The bottom row: pots or a stage's cards, and the corner. Knows the easel."""

from collections.abc import Mapping

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QHBoxLayout, QScrollArea, QWidget

from drip_pot.desk.session.easel import Easel
from drip_pot.desk.shelf.cards import Cards
from drip_pot.desk.shelf.in_hand import InHand, Tells
from drip_pot.desk.shelf.pots import Pots


class Shelf(QWidget):
    """The bottom row.

    Parameters
    ----------
    cards : mapping
        Cards of the stages that show them instead of pots.
    tells : mapping
        What the corner tells in those stages.
    """

    def __init__(self, easel: Easel, cards: Mapping[str, Cards], tells: Mapping[str, Tells]) -> None:
        super().__init__()
        self.setObjectName("shelf")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setFixedHeight(112)
        self.easel = easel
        self.pots, self.in_hand = Pots(easel), InHand(easel, tells)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 1, 0, 0)
        row.setSpacing(0)
        self._scrolls: dict[str, QScrollArea] = {}
        for name, widget in (("", self.pots), *cards.items()):
            self._scrolls[name] = _scrolled(widget)
            row.addWidget(self._scrolls[name], 1)
        self.in_hand.setFixedWidth(296)
        row.addWidget(self.in_hand)
        easel.chosen.connect(self.refresh)
        self.refresh()

    def refresh(self) -> None:
        """Show what the stage needs."""
        shown = self.easel.stage if self.easel.stage in self._scrolls else ""
        for name, scroll in self._scrolls.items():
            scroll.setVisible(name == shown)
        if not shown and (at := self.pots.place_of(self.easel.pot)) is not None:
            self._scrolls[""].ensureVisible(int(at.x()), 0, 60, 0)


def _scrolled(widget: QWidget) -> QScrollArea:
    scroll = QScrollArea()
    scroll.setFocusPolicy(Qt.FocusPolicy.NoFocus)
    scroll.setWidget(widget)
    scroll.setWidgetResizable(True)
    scroll.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
    scroll.setStyleSheet("QScrollArea, QScrollArea > QWidget > QWidget { background: transparent; }")
    return scroll
