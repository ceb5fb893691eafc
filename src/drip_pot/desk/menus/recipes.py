# SPDX-License-Identifier: GPL-3.0-or-later
"""Recipes done on the page that is shown; steps that need a place wait for the hand. Knows the easel."""

from PyQt6.QtCore import QObject

from drip_pot.book.hand import Hand
from drip_pot.book.recipes import Ran, Recipe, asks_for, order_at, run_recipe
from drip_pot.desk.parts.text import counted
from drip_pot.desk.session.easel import Easel
from drip_pot.words import tr


class Cooking(QObject):
    """The recipe that is being done.

    Attributes
    ----------
    recipe : Recipe or None
        None where there is none.
    waits : int or None
        The step that waits for a hand.
    """

    def __init__(self, easel: Easel) -> None:
        super().__init__(easel)
        self.easel = easel
        self.recipe: Recipe | None = None
        self.waits: int | None = None
        self._done, self._position, self._page = 0, 0, 0
        easel.edited.connect(self._go_on_after_hand)
        easel.opened.connect(self._forget)

    def start(self, recipe: Recipe) -> None:
        """Do a recipe on the page that is shown."""
        self.recipe, self._done, self.waits = recipe, 0, None
        self._page = self.easel.page
        self._run(0)

    def leave_out(self) -> None:
        """Go on without the step that waits."""
        if self.recipe is None or self.waits is None:
            self.easel.said.emit("No recipe waits for anything.", False)
        else:
            self._run(self.waits + 1)

    def end(self) -> None:
        """Give up the rest of the recipe; what was done stays."""
        if self.recipe is not None:
            self.easel.said.emit(tr("{0} was ended; {1} done.", self.recipe.name, counted(self._done, "step")), False)
        self._forget()

    def _forget(self) -> None:
        if self.easel.page != self._page or self.waits is not None:
            self.recipe, self.waits = None, None

    def _run(self, first: int) -> None:
        recipe, ran = self.recipe, list[Ran]()
        assert recipe is not None
        self.waits = None

        def verb(hand: Hand) -> None:
            ran[:] = [run_recipe(hand.book, hand.page, recipe, lambda _: hand, first=first, wait=True)]

        self.easel.hands.start(verb, then=lambda: self._came(ran[0]) if ran else None)

    def _came(self, ran: Ran) -> None:
        recipe, book = self.recipe, self.easel.book
        if recipe is None or book is None:
            return
        self._done += ran.done
        self._position, self.waits = book.position, ran.waits
        if ran.waits is None:
            self.easel.said.emit(tr("{0}: {1} done.", recipe.name, counted(self._done, "step")), False)
            self.recipe = None
        else:
            self.easel.said.emit(asks_for(recipe, ran.waits), True)

    def _go_on_after_hand(self) -> None:
        """Go on once what the recipe waits for was done by hand; anything else is no step of it."""
        book, recipe, waits = self.easel.book, self.recipe, self.waits
        if recipe is None or waits is None or book is None or book.position <= self._position:
            return
        self._position = book.position
        if order_at(book, book.position - 1) == recipe.steps[waits].order:
            self._done += 1
            self._run(waits + 1)
        else:
            self.easel.said.emit(
                tr("That is kept, but it is no step of {0}. {1}", recipe.name, asks_for(recipe, waits)), False
            )
