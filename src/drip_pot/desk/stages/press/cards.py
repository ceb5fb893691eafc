# SPDX-License-Identifier: GPL-3.0-or-later
"""The plates as cards. Knows the easel and what is seen."""

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QImage

from drip_pot.desk.session.easel import Easel
from drip_pot.desk.shelf.cards import Card, Cards, card_image
from drip_pot.desk.view.render import PLATES
from drip_pot.desk.view.seen import Seen
from drip_pot.words import tr


class PlateCards(Cards):
    """The plates: a click shows one alone, or all again; its eye, Alt or the right button shows or hides it."""

    def __init__(self, easel: Easel, seen: Seen) -> None:
        super().__init__(easel, "Plates")
        self.seen = seen
        self._drawn: tuple[object, list[QImage]] = (None, [])

    def made(self) -> list[Card]:
        plates, shown = None if self.easel.view is None else self.easel.view.plates, self.seen.plates
        if plates is None:
            return []
        if self._drawn[0] is not plates:
            self._drawn = (plates, [card_image(proof) for proof in plates.proofs])
        pictures = self._drawn[1]
        found = [Card(tr("All"), tr("plates"), pictures[0], 0, all(shown))]
        for place, name in enumerate((*map(tr, PLATES), *plates.beside)):
            is_shown = shown[place] if place < len(shown) else True
            says = tr("shown") if is_shown else tr("hidden")
            found.append(Card(name, says, pictures[place + 1], place + 1, is_shown, eye=True))
        return found

    def press(self, card: Card, mods: Qt.KeyboardModifier) -> None:
        if mods & Qt.KeyboardModifier.AltModifier:
            self.eyed(card)
        else:
            self.alone(card.number)

    def eyed(self, card: Card) -> None:
        self.toggle(card.number)

    def _shown(self) -> list[bool]:
        """Return whether each plate is shown."""
        view = self.easel.view
        count = 4 if view is None or view.plates is None else 4 + len(view.plates.beside)
        return [*self.seen.plates, *[True] * count][:count]

    def alone(self, place: int) -> None:
        """Show a plate alone, from 1; once more, or by 0, all of them."""
        before = self._shown()
        one = [k == place - 1 for k in range(len(before))]
        self._show([True] * len(before) if place == 0 or before == one else one)

    def toggle(self, place: int) -> None:
        """Show or hide a plate, from 1; 0 shows all."""
        self._show([on != (k == place - 1) if place else True for k, on in enumerate(self._shown())])

    def _show(self, plates: list[bool]) -> None:
        self.seen.show_plates(tuple(plates))
        self.refresh()
