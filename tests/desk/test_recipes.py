# SPDX-License-Identifier: GPL-3.0-or-later
"""Recipes in the window: kept from the history, done by button and key, changed step by step, waiting for the hand."""

from collections.abc import Callable
from pathlib import Path

import pytest
from PyQt6.QtGui import QKeySequence
from PyQt6.QtWidgets import QComboBox, QFileDialog, QLabel, QLineEdit, QPushButton, QWidget

from drip_pot.book import verbs
from drip_pot.book.recipes import Recipe, RecipeStep
from drip_pot.book.values import FLATS, PASSES
from drip_pot.book.where import Scope
from drip_pot.desk.dialogs.history import HistoryDialog
from drip_pot.desk.dialogs.recipes import RecipesDialog
from tests.desk.conftest import Driver

Answer = Callable[[Callable[[object], None]], None]


def words_on(strip: QWidget) -> str:
    return " ".join(one.text() for one in strip.findChildren(QLabel) if one.isVisible())


def press(strip: QWidget, words: str) -> None:
    (one,) = (b for b in strip.findChildren(QPushButton) if b.isVisible() and b.text().startswith(words))
    one.click()


def kept_night(demo: Driver, answer: Answer) -> None:
    """A recipe of the step that was done last, kept from the history."""
    part = next(n for n, one in demo.book.parts().items() if one.name == "Kites")
    demo.easel.do(lambda book, page: verbs.add_pass(book, page, "Night", "#203060", scope=Scope(parts=(part,))))
    history = HistoryDialog(demo.window, demo.easel)
    history.kept.connect(demo.window.books.recipes.keep_new)
    history.list.setCurrentRow(history.list.count() - 1)
    answer(lambda dialog: dialog.findChild(QLineEdit).setText("Night"))
    history._keep()
    history.close()


def last_pass(demo: Driver) -> str:
    return list(demo.book.sources(demo.easel.page)[PASSES].values())[-1].name


def test_a_recipe_is_a_button_and_a_key_that_do_it_on_another_page(
    demo: Driver, tmp_path: Path, monkeypatch: pytest.MonkeyPatch, answer: Answer
) -> None:
    kept_night(demo, answer)
    recipes, strip = demo.window.books.recipes, demo.window.cooking_strip
    dialog = RecipesDialog(demo.window, recipes, demo.window.books.taken_keys)
    dialog.key.setKeySequence(QKeySequence("Ctrl+E"))
    dialog.give_key()
    assert "belongs to Export" in dialog.told.text()
    dialog.key.setKeySequence(QKeySequence("Ctrl+Alt+N"))
    dialog.give_key()
    assert "Ctrl+Alt+N" in dialog.list.item(0).text()
    other = next(n for n in demo.book.pages() if n != demo.easel.page)
    demo.easel.show_page(other)
    demo.settle()
    press(strip, "Night")
    demo.worked_out()
    assert "1 step done" in demo.said()
    assert last_pass(demo) == "Night"
    demo.easel.undo()
    assert last_pass(demo) != "Night"
    demo.keys("Ctrl+Alt+N")
    demo.worked_out()
    assert last_pass(demo) == "Night"
    place = tmp_path / "night.json"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(place), ""))
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_: (str(place), ""))
    dialog._write()
    dialog._take_in()
    assert recipes.folder.names() == ["Night", "Night 2"], "what is there is never written over"
    place.write_text("{}")
    dialog._take_in()
    assert "is not a recipe" in dialog.told.text()
    recipes.remove("Night")
    assert recipes.keys() == {"Night 2": ""}


def test_steps_are_told_in_words_and_values_steps_and_pauses_are_changed(demo: Driver, answer: Answer) -> None:
    kept_night(demo, answer)
    recipes = demo.window.books.recipes
    dialog = RecipesDialog(demo.window, recipes, demo.window.books.taken_keys)
    assert dialog.steps.item(0).text() == "1. Add the pass Night"
    name = next(w for w in dialog.form.findChildren(QLineEdit) if w.text() == "Night")
    name.setText("Dusk")
    name.editingFinished.emit()
    answer(lambda asking: asking.findChild(QLineEdit).setText("Is the kite dark?"))
    dialog.steps.setCurrentRow(0)
    dialog._pause()
    assert [dialog.steps.item(k).text() for k in range(2)] == [
        "1. Pause: Is the kite dark?",
        "2. Lay a pass over all others",
    ]
    recipes.do("Night")
    demo.worked_out()
    demo.settle()
    assert "Is the kite dark?" in words_on(demo.window.cooking_strip)
    demo.easel.do(lambda book, page: verbs.set_gap(book, page, 9.0))
    assert recipes.cooking.at_pause(), "a pause goes on when it is told to"
    press(demo.window.cooking_strip, "Go on")
    demo.worked_out()
    assert last_pass(demo) == "Dusk"
    dialog.steps.setCurrentRow(0)
    dialog._take_out()
    dialog._take_out()
    assert "has this step alone" in dialog.told.text()


def test_in_a_book_with_other_parts_a_recipe_asks_what_they_are(demo: Driver, answer: Answer) -> None:
    kept_night(demo, answer)
    recipe = demo.window.books.recipes.folder.recipe("Night")
    part = next(n for n, one in demo.book.parts().items() if one.name == "Kites")
    demo.easel.do(lambda book, _: verbs.rename_part(book, part, "Dragons"))
    answer(lambda asking: asking.findChild(QComboBox).setCurrentText("Dragons"))
    demo.window.books.recipes.do("Night")
    demo.worked_out()
    night = list(demo.book.sources(demo.easel.page)[PASSES].values())[-1]
    assert (night.name, night.scope.parts) == ("Night", (part,))
    answer(lambda asking: asking.findChild(QComboBox).setCurrentIndex(0))
    demo.window.books.recipes.do("Night")
    demo.worked_out()
    night = list(demo.book.sources(demo.easel.page)[PASSES].values())[-1]
    assert [demo.book.parts()[n].name for n in night.scope.parts] == ["Kites"], "it was added"
    assert recipe == demo.window.books.recipes.folder.recipe("Night")


def test_a_recipe_waits_for_a_step_by_hand_and_goes_on(demo: Driver) -> None:
    cooking, page = demo.window.books.recipes.cooking, demo.easel.page
    demo.easel.choose_stage("Shade")
    loop = RecipeStep("corral", {"points": [[1, 1], [9, 9], [1, 9]], "pot": 1}, {"pot 1": "Cobalt"})
    cooking.start(
        Recipe(
            "Outside", (RecipeStep("set-gap", {"gap_px": 9.0}), loop, RecipeStep("set-least", {"least_px": 40}), loop)
        )
    )
    demo.worked_out()
    demo.settle()
    assert demo.book.sources(page)[FLATS].gap_px == 9.0
    strip = demo.window.cooking_strip
    assert "Step 2 of 4, with Corral: Pour a pot into every region" in words_on(strip)
    taken = demo.easel.stage, demo.easel.tool, demo.book.pots()[demo.easel.pot].name
    assert taken == ("Flats", "Corral", "Cobalt"), "it takes up what it asks for"
    assert demo.book.sources(page)[FLATS].least_px is None
    demo.easel.choose_pot(demo.pot("Ember"))
    demo.easel.choose_tool("Pour")
    demo.click(*demo.middle("Air"))
    demo.worked_out()
    demo.settle()
    assert demo.book.sources(page)[FLATS].least_px is None, "another gesture is no step of it"
    assert "it is no step of Outside. Step 2 of 4, with Corral" in demo.said()
    whole = [(1.0, 1.0), (1.0, 600.0), (900.0, 600.0), (900.0, 1.0)]
    demo.easel.hands.start(lambda hand: verbs.corral(hand, whole, 1))
    demo.worked_out()
    demo.settle()
    assert demo.book.sources(page)[FLATS].least_px == 40, "it went on"
    assert "Step 4 of 4" in words_on(strip)
    press(strip, "Leave it out")
    demo.worked_out()
    assert cooking.recipe is None
    assert "3 steps done" in demo.said()
    cooking.leave_out()
    assert "No recipe waits" in demo.said()
