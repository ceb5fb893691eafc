# SPDX-License-Identifier: GPL-3.0-or-later
"""The plates as cards: a click shows or hides one. Knows the easel and what is seen."""

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QImage

from drip_pot.desk.session.easel import Easel
from drip_pot.desk.shelf.cards import Card, Cards, card_image
from drip_pot.desk.view.render import PLATES
from drip_pot.desk.view.seen import Seen


class PlateCards(Cards):
    """The plates; Alt shows one alone."""

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
        found = [Card("All", "plates", pictures[0], 0, all(shown))]
        for place, name in enumerate((*PLATES, *plates.beside)):
            is_shown = shown[place] if place < len(shown) else True
            says = "shown" if is_shown else "hidden"
            found.append(Card(name, says, pictures[place + 1], place + 1, is_shown))
        return found

    def press(self, card: Card, mods: Qt.KeyboardModifier) -> None:
        self.toggle(card.number, only=bool(mods & Qt.KeyboardModifier.AltModifier))

    def toggle(self, place: int, *, only: bool = False) -> None:
        """Show all plates (place 0), or show and hide one (from 1), or show it alone."""
        view = self.easel.view
        count = 4 if view is None or view.plates is None else 4 + len(view.plates.beside)
        if place == 0:
            plates = [True] * count
        elif only:
            plates = [k == place - 1 for k in range(count)]
        else:
            before = [*self.seen.plates, *[True] * count][:count]
            plates = [on != (k == place - 1) for k, on in enumerate(before)]
        self.seen.show_plates(tuple(plates))
        self.refresh()
