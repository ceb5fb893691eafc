"""Every word in the window comes through the one door, whatever stage is shown."""

import gettext
import re
from collections.abc import Iterator
from pathlib import Path

import pytest
from PyQt6.QtGui import QAction
from PyQt6.QtWidgets import QAbstractButton, QLabel, QLineEdit, QWidget

from drip_pot import words
from drip_pot.core.errors import BadInput
from drip_pot.desk.stages import STAGES

from .conftest import Driver


class _Marked(gettext.NullTranslations):
    """A language in which every text is its own in brackets."""

    def gettext(self, message: str) -> str:
        return message if "⟦" in message else f"⟦{message}⟧"

    def ngettext(self, msgid1: str, msgid2: str, n: int) -> str:
        return self.gettext(msgid1 if n == 1 else msgid2)


@pytest.fixture
def marked(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(words, "_said", _Marked())


def _shown(window: QWidget) -> Iterator[tuple[str, str]]:
    for one in window.findChildren(QWidget):
        yield "name", one.accessibleName()
        yield "tip", one.toolTip()
        if isinstance(one, QLabel | QAbstractButton):
            yield "text", one.text()
        if isinstance(one, QLineEdit):
            yield "hint", one.placeholderText()
    for action in window.findChildren(QAction):
        yield "action", action.text()


def test_every_word_in_the_window_can_be_translated(marked: None, window: Driver, demo_book: Path) -> None:
    window.easel.opening.open(demo_book)
    window.settle()
    book = window.book
    own = {book.info.title, *(p.name for p in book.pots().values()), *(p.name for p in book.parts().values())}
    missed = set()
    for stage in STAGES:
        window.easel.choose_stage(stage)
        window.settle()
        for kind, text in _shown(window.window):
            if re.search("[A-Za-z]{2}", text) and "⟦" not in text and text not in own:
                missed.add((kind, text))
    print(*sorted(missed), sep="\n")
    assert not missed


def test_a_catalogue_is_found_by_its_language_and_keeps_the_values(tmp_path: Path) -> None:
    from babel.messages import Catalog, mofile

    catalog = Catalog(locale="de")
    catalog.add("{0} holds {1} pictures", "{1} Bilder in {0}")
    catalog.add("Line weight goes from -4 to 4 px, not {0:g}.", "Strichstärke geht von -4 bis 4 px, nicht {0:g}.")
    catalog.add("{0} left to look at", "noch {3} anzusehen")
    place = tmp_path / "de/LC_MESSAGES"
    place.mkdir(parents=True)
    with (place / "drip-pot.mo").open("wb") as file:
        mofile.write_mo(file, catalog)
    try:
        assert words.speak(["de"], [tmp_path]) == "de"
        assert words.tr("{0} holds {1} pictures", "a.tif", 3) == "3 Bilder in a.tif"
        assert str(BadInput("Line weight goes from -4 to 4 px, not {0:g}.", 5.0)).startswith("Strichstärke")
        assert words.tr("Unknown {0}", 1) == "Unknown 1"
        assert words.tr("{0} left to look at", 2) == "2 left to look at", "a faulty translation breaks nothing"
        (place / "drip-pot.mo").write_bytes(b"\xde\x12\x04\x95 torn")
        gettext._translations.clear()
        assert words.speak(["de"], [tmp_path]) == "", "nor does a damaged catalogue"
    finally:
        assert words.speak(["xx"], [tmp_path]) == ""
    assert words.tr("{0} holds {1} pictures", "a.tif", 3) == "a.tif holds 3 pictures"


def test_names_are_listed_as_they_are_said() -> None:
    said = [words.listed(names) for names in ([], ["Coat"], ["Coat", "Sky"], ["Coat", "Sky", "Hair"])]
    assert said == ["", "Coat", "Coat and Sky", "Coat, Sky and Hair"]


@pytest.mark.parametrize("rule", ["n/0", "n*1000000000000", "(n==1)?0:7", "n%0"])
def test_a_catalogue_with_a_hostile_rule_or_places_falls_back_to_our_words(
    monkeypatch: pytest.MonkeyPatch, rule: str
) -> None:
    class Hostile(gettext.NullTranslations):
        plural = staticmethod(eval(f"lambda n: {rule.replace('?', ' and ').replace(':', ' or ')}"))

        def gettext(self, message: str) -> str:
            return "{0:999999999} {0.__class__} {9}"

        def ngettext(self, msgid1: str, msgid2: str, n: int) -> str:
            return ("eins", "viele")[self.plural(n)]

    monkeypatch.setattr(words, "_said", Hostile())
    assert words.tr("{0} pots", 3) == "3 pots"
    assert words.tr_many("one pot", "{0} pots", 3, 3) in ("3 pots", "eins", "viele")
