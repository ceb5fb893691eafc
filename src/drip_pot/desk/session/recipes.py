# SPDX-License-Identifier: GPL-3.0-or-later
"""Recipes kept and done on the page that is shown; steps that need a place wait for the hand. Knows the easel."""

from collections.abc import Callable, Sequence

import msgspec
from PyQt6.QtCore import QObject, QSettings, pyqtSignal

from drip_pot.book import Book
from drip_pot.book.hand import Hand
from drip_pot.book.recipe_changes import Named, add_strangers, strangers, with_names
from drip_pot.book.recipes import Ran, Recipe, RecipeStep, asks_for, order_at, run_recipe, spoken_name
from drip_pot.desk.memory import recipes_folder
from drip_pot.desk.parts.text import counted
from drip_pot.desk.session.easel import Easel
from drip_pot.files import RecipeFolder
from drip_pot.words import tr

_WITH = {
    "erase-speck": ("Inks", "Speck"), "draw-ink": ("Inks", "Pen"), "draw-line": ("Inks", "Pen"),
    "mirror-ink": ("Inks", "Mirror"), "crop-page": ("Inks", "Crop"), "square-sheet": ("Inks", "Square"),
    "stand-prop": ("Inks", "Prop"), "move-prop": ("Inks", "Prop"), "pour": ("Flats", "Pour"), "fill": ("Flats", "Pour"),
    "mix-pour": ("Flats", "Pour"), "corral": ("Flats", "Corral"), "sweep": ("Flats", "Sweep"), "sow": ("Flats", "Seed"),
    "brush": ("Flats", "Leash"), "cut-out": ("Flats", "Cut-out"), "silhouette": ("Flats", "Silhouette"),
    "pour-panel": ("Flats", "Panel"), "draw-panel": ("Flats", "Panel"), "remove-panel": ("Flats", "Panel"),
    "own-pot": ("Flats", "Pick"), "to-part": ("Flats", "Pick"), "shift-colors": ("Flats", "Pick"),
    "join": ("Flats", "Pick"), "join-regions": ("Flats", "Pick"), "split": ("Flats", "Pick"),
    "absorb": ("Flats", "Pour"), "choose-bridge": ("Flats", "Bridge"), "draw-bridge": ("Flats", "Bridge"),
    "set-dam": ("Flats", "Dam"), "set-door": ("Flats", "Door"), "cut-shade": ("Shade", "Cut shade"),
    "draw-border": ("Shade", "Divide"), "fill-pass": ("Shade", "Fill"), "mist-pass": ("Shade", "Mist"),
    "streak-pass": ("Shade", "Streak"), "brush-hold": ("Holds", "Brush hold"), "fade-hold": ("Holds", "Fade"),
    "pick-line": ("Holds", "Hold"), "let-go": ("Holds", "Hold"), "rub-plates": ("Press", "Rub out"),
    "rub-wear": ("Press", "Rub out"),
}  # fmt: skip
"""The stage and the tool that do an order by hand."""


def tool_for(step: RecipeStep) -> tuple[str, str]:
    """Return the stage and the tool that do a step by hand; two empty texts where there is none."""
    stage, tool = _WITH.get(step.order, ("", "")) if step.has_place else ("", "")
    if step.order == "cut-shade" and step.given.get("light"):
        tool = "Cut light"
    elif step.order == "draw-ink" and step.given.get("away"):
        tool = "Scraper"
    elif step.order == "mist-pass" and step.given.get("color"):
        tool = "Crayon"
    return stage, tool


class Cooking(QObject):
    """The recipe that is being done.

    Attributes
    ----------
    recipe : Recipe or None
        None where there is none.
    waits : int or None
        The step that waits for a hand.

    Signals
    -------
    changed()
        Another recipe or step, or none.
    """

    changed = pyqtSignal()

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

    def asks(self) -> str:
        """Say what is waited for; empty where nothing is."""
        if self.recipe is None or self.waits is None:
            return ""
        return asks_for(self.recipe, self.waits, tr(tool_for(self.recipe.steps[self.waits])[1]))

    def at_pause(self) -> bool:
        """Whether it waits for nothing but a look."""
        return self.recipe is not None and self.waits is not None and self.recipe.steps[self.waits].is_pause

    def leave_out(self) -> None:
        """Go on after a pause, or without the step that waits."""
        if self.recipe is None or self.waits is None:
            self.easel.said.emit("No recipe waits for anything.", False)
        else:
            self._done += self.at_pause()
            self._run(self.waits + 1)

    def end(self) -> None:
        """Give up the rest of the recipe; what was done stays."""
        if self.recipe is not None:
            self.easel.said.emit(tr("{0} was ended; {1} done.", self.recipe.name, counted(self._done, "step")), False)
        self._forget()

    def _forget(self) -> None:
        if self.easel.page != self._page or self.waits is not None:
            self.recipe, self.waits = None, None
            self.changed.emit()

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
            self._take_up(recipe, recipe.steps[ran.waits])
        self.changed.emit()

    def _take_up(self, recipe: Recipe, step: RecipeStep) -> None:
        """Go to the stage of a step, and take up its tool, and its pot where this book has one of that name."""
        stage, tool = tool_for(step)
        if stage:
            self.easel.choose_stage(stage)
            self.easel.choose_tool(tool)
        number = step.given.get("pot")
        name = spoken_name(recipe, step, "pot", number) if isinstance(number, int) else ""
        pots = {} if self.easel.book is None else self.easel.book.pots()
        pot = next((n for n, one in pots.items() if one.name == name), None)
        if stage and pot is not None:
            self.easel.choose_pot(pot)

    def _go_on_after_hand(self) -> None:
        """Go on once what the recipe waits for was done by hand; anything else is no step of it."""
        book, recipe, waits = self.easel.book, self.recipe, self.waits
        if recipe is None or waits is None or book is None or book.position <= self._position or self.at_pause():
            return
        self._position = book.position
        if order_at(book, book.position - 1) == recipe.steps[waits].order:
            self._done += 1
            self._run(waits + 1)
        else:
            self.easel.said.emit(tr("That is kept, but it is no step of {0}. {1}", recipe.name, self.asks()), False)


class Recipes(QObject):
    """The recipes that are kept, with the keys they have.

    Attributes
    ----------
    ask : callable
        Asks what the parts and pots that a book does not have are called there: '' is to be added, None called off.

    Signals
    -------
    changed()
        Others are kept, or have other names or keys.
    """

    changed = pyqtSignal()

    def __init__(self, easel: Easel, settings: QSettings) -> None:
        super().__init__(easel)
        self.easel, self._settings = easel, settings
        self.ask: Callable[[Book, Recipe, Sequence[Named]], dict[Named, str] | None] = lambda *_: None
        self.cooking = Cooking(easel)
        self.folder = RecipeFolder(recipes_folder())
        try:
            self._keys = msgspec.json.decode(str(settings.value("recipe-keys", "{}")), type=dict[str, str])
        except msgspec.MsgspecError:
            self._keys = {}

    def keys(self) -> dict[str, str]:
        """Return the key of every recipe, by name; empty where it has none."""
        return {name: self._keys.get(name, "") for name in self.folder.names()}

    def as_buttons(self) -> bool:
        """Whether recipes are buttons above the page."""
        return bool(self._settings.value("recipe-buttons", True, bool))

    def set_as_buttons(self, wanted: bool) -> None:
        """Show recipes as buttons, or not."""
        self._settings.setValue("recipe-buttons", wanted)
        self.changed.emit()

    def set_key(self, name: str, key: str) -> None:
        """Give a recipe a key, or none."""
        self._write_keys({**self.keys(), name: key})

    def _write_keys(self, keys: dict[str, str]) -> None:
        self._keys = {name: key for name, key in keys.items() if key}
        self._settings.setValue("recipe-keys", msgspec.json.encode(self._keys).decode())
        self.changed.emit()

    def keep(self, recipe: Recipe) -> bool:
        """Keep a recipe; what stands in the way is said."""
        if not self.easel.trying(lambda: self.folder.keep(recipe)):
            return False
        self.changed.emit()
        return True

    def keep_new(self, recipe: Recipe) -> None:
        """Keep a recipe beside those that are there, under another name where its own is taken."""
        one = msgspec.structs.replace(recipe, name=self.folder.free_name(recipe.name))
        if self.keep(one):
            self.easel.said.emit(tr("Kept as the recipe {0}. It has a button above the page now.", one.name), False)

    def rename(self, name: str, new: str) -> None:
        """Give a recipe another name, which no other has."""
        if new == name:
            return
        key = self.keys()[name]
        one = msgspec.structs.replace(self.folder.recipe(name), name=self.folder.free_name(new))
        if self.keep(one) and self.easel.trying(lambda: self.folder.remove(name)):
            self._write_keys({**self.keys(), one.name: key})

    def remove(self, name: str) -> None:
        """Forget a recipe."""
        if self.easel.trying(lambda: self.folder.remove(name)):
            self.changed.emit()

    def do(self, name: str) -> None:
        """Do a recipe on the page that is shown; asks what in this book its parts and pots are, where it has others."""
        book, page = self.easel.book, self.easel.page
        if book is None or not page:
            self.easel.said.emit("A recipe is done on a page. Open one first.", False)
            return
        recipe = self.folder.recipe(name)
        unknown = strangers(book, recipe)
        names = self.ask(book, recipe, unknown) if unknown else {}
        if names is not None:
            self._add(recipe, [one for one in unknown if not names[one]])
            self.cooking.start(with_names(recipe, {one: other for one, other in names.items() if other}))

    def _add(self, recipe: Recipe, wanted: list[Named]) -> None:
        """Add the parts and pots that are to be new here, as one gesture."""
        if wanted and self.easel.do(lambda book, _: add_strangers(book, recipe, wanted)):
            self.easel.edited.emit()
